from django.apps import AppConfig


class OrdersConfig(AppConfig):
    name = "service.orders"
    default_auto_field = "django.db.models.BigAutoField"
