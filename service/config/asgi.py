"""The ASGI entry: Django, served by uvicorn."""

import os
import threading
import warnings

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "service.config.settings")
# Built files and the one page are small and read in one go; that they come from plain iterators
# costs nothing.
warnings.filterwarnings(
    "ignore", message="StreamingHttpResponse must consume synchronous iterators"
)
application = get_asgi_application()

# it needs the settings
from service.hands import wake  # noqa: E402

threading.Thread(target=wake, args=("quick",), daemon=True).start()
