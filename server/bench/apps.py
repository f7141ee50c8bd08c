from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "bench"

    def ready(self) -> None:
        from materials.signals import standard_changed

        from .judging_anew import judge_anew_soon
        from .kinds import register_kinds

        register_kinds()
        standard_changed.connect(judge_anew_soon)
