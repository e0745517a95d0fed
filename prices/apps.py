from django.apps import AppConfig


class PricesConfig(AppConfig):
    """What cards cost, where and when, and what currencies are worth."""

    name = "prices"
