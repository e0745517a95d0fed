from importlib import import_module

from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "practice"

    def ready(self) -> None:
        """Sessions follow a guest into an account."""
        import_module("practice.moving")
