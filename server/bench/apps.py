from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "bench"

    def ready(self) -> None:
        from .kinds import register_kinds

        register_kinds()
