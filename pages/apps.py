from django.apps import AppConfig


class PagesConfig(AppConfig):
    """What every screen shares; no models."""

    name = "pages"
