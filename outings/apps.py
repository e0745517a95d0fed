from importlib import import_module

from django.apps import AppConfig


class OutingsConfig(AppConfig):
    name = "outings"

    def ready(self) -> None:
        """Outings follow a guest into an account, and the sample account gets its own."""
        import_module("outings.moving")
        import_module("outings.sample")
