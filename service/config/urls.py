"""All addresses: the API under /api/, its browsable description, and the front end for everything
else.
"""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse
from django.urls import include, path, re_path
from drf_spectacular.views import SpectacularAPIView
from rest_framework.permissions import IsAuthenticated

from service.config import typed  # noqa: F401  (what it declares describes the API)
from service.config.docs import api_docs
from service.config.health import alive, ready
from service.config.metrics import metrics


def front_end(request: HttpRequest, rest: str = "") -> HttpResponse | FileResponse:
    """The one page of the front end, which finds its own way."""
    page = settings.WEB_DIST / "index.html"
    if not page.exists():
        return HttpResponse(
            "The front end is not built; ./start builds it.", status=503, content_type="text/plain"
        )
    return FileResponse(page.open("rb"), content_type="text/html")


handler400 = "service.config.errors.unread"
handler404 = "service.config.errors.gone"
handler500 = "service.config.errors.fault"
urlpatterns = [
    path("api/", include("service.accounts.api.urls")),
    path("api/", include("service.workshop.api.urls")),
    path("api/", include("service.parts.api.urls")),
    path("api/", include("service.plans.api.urls")),
    path("api/", include("service.beds.api.urls")),
    path("api/", include("service.jobs.api.urls")),
    path("api/", include("service.orders.api.urls")),
    path(
        "api/schema",
        SpectacularAPIView.as_view(permission_classes=[IsAuthenticated]),
        name="schema",
    ),
    path("api/docs", api_docs),
    path("api/health", ready),
    path("api/alive", alive),
    path("api/metrics", metrics),
    re_path(r"^(?!api/|assets/)(?P<rest>.*)$", front_end),
]
