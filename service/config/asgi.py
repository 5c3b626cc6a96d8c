"""The ASGI entry: Django, served by uvicorn."""

import os
import threading
import warnings
from typing import Any

from django.conf import settings
from django.core.asgi import get_asgi_application
from uvicorn.middleware.proxy_headers import ProxyHeadersMiddleware

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "service.config.settings")
# Built files and the one page are small and read in one go; that they come from plain iterators
# costs nothing.
warnings.filterwarnings(
    "ignore", message="StreamingHttpResponse must consume synchronous iterators"
)
django_application = get_asgi_application()

# these need the settings
from service.config.uploads import Bounded  # noqa: E402
from service.hands import wake  # noqa: E402

application: Any = Bounded(django_application)
if settings.PROXIES:
    application = ProxyHeadersMiddleware(application, settings.PROXIES)

threading.Thread(target=wake, args=("quick",), daemon=True).start()
