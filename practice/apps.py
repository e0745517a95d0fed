from importlib import import_module

from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "practice"

    def ready(self) -> None:
        """Sessions follow a guest into an account, and the sample account gets its own."""
        import_module("practice.moving")
        import_module("practice.sample")
