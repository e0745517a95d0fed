from importlib import import_module

from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "bench"

    def ready(self) -> None:
        """Runs follow bodies that move."""
        import_module("bench.moving")
