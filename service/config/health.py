"""Whether the service is alive, and whether it is ready: for the page, a proxy, a supervisor."""

from __future__ import annotations

from django.db import Error, connection
from django.http import HttpRequest, JsonResponse


def alive(request: HttpRequest) -> JsonResponse:
    """This process answers."""
    return JsonResponse({"alive": True})


def ready(request: HttpRequest) -> JsonResponse:
    """This process answers, and the database does."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("select 1")
    except Error:
        return JsonResponse({"ready": False, "away": "database"}, status=503)
    return JsonResponse({"ready": True})
