from django.apps import AppConfig


class DispatchConfig(AppConfig):
    name = "dispatch"

    def ready(self) -> None:
        from .release import register_kinds

        register_kinds()
