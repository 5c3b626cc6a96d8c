from django.apps import AppConfig


class PlansConfig(AppConfig):
    name = "service.plans"
    default_auto_field = "django.db.models.BigAutoField"
