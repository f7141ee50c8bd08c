from django.apps import AppConfig


class DispatchConfig(AppConfig):
    name = "dispatch"
