from django.apps import AppConfig


class PartsConfig(AppConfig):
    name = "service.parts"
    default_auto_field = "django.db.models.BigAutoField"
