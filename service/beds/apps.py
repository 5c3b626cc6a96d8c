from django.apps import AppConfig


class BedsConfig(AppConfig):
    name = "service.beds"
    default_auto_field = "django.db.models.BigAutoField"
