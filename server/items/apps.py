from django.apps import AppConfig


class ItemsConfig(AppConfig):
    name = "items"

    def ready(self) -> None:
        from work.blobs import register_paths

        from .paths import paths

        register_paths(paths)
