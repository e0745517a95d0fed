from django.apps import AppConfig


class DeskConfig(AppConfig):
    name = "desk"
