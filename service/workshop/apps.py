from django.apps import AppConfig


class WorkshopConfig(AppConfig):
    name = "service.workshop"
    default_auto_field = "django.db.models.BigAutoField"
