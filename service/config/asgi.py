"""The ASGI entry: Django, served by uvicorn."""

import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "service.config.settings")
application = get_asgi_application()
