from django.apps import AppConfig


class OutingsConfig(AppConfig):
    name = "outings"
