from django.apps import AppConfig


class KitConfig(AppConfig):
    name = "kit"
    default_auto_field = "django.db.models.BigAutoField"
