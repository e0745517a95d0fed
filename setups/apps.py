from django.apps import AppConfig


class SetupsConfig(AppConfig):
    name = "setups"
