"""Every error of the API says what, where and what would be allowed, in one shape: ``{"detail",
"where"}``.
"""

from __future__ import annotations

import logging
import sys
from typing import Any

from django.db import DataError, IntegrityError, InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from rest_framework.exceptions import ValidationError
from rest_framework.response import Response
from rest_framework.views import exception_handler

from northpace.errors import InputError
from service.files import StoreAway
from service.hands import Busy
from service.plans.rules.merging import Clash

log = logging.getLogger(__name__)
#: What a request meets whose database is away, and what it is told then.
AWAY = (OperationalError, InterfaceError)
DATABASE_AWAY = {
    "detail": "the database does not answer; nothing was lost, try again in a moment",
    "where": "",
}
FAULT = {
    "detail": "a fault of the program, not of what was sent; nothing was lost, and the log of the "
    "service has the details under the number that this answer states",
    "where": "",
}


def fault(request: HttpRequest) -> HttpResponse:
    """The answer to what was raised outside of a view, such as where it is looked who asks, and to
    what nobody expected.
    """
    if isinstance(sys.exc_info()[1], AWAY):
        return JsonResponse(DATABASE_AWAY, status=503)
    return JsonResponse(FAULT, status=500)


def handle(error: Exception, context: dict[str, Any]) -> Response | None:
    """The handler REST framework calls for an exception in a view."""
    if isinstance(error, InputError):
        status = 409 if isinstance(error, Clash) else 422
        return Response({"detail": str(error), "where": error.where}, status=status)
    if isinstance(error, AWAY):
        return Response(DATABASE_AWAY, status=503)
    if isinstance(error, StoreAway):
        log.error("%s", error)
        return Response(
            {
                "detail": "the place where files are kept does not answer or is full; nothing was "
                "lost, try again in a moment, or see Workshop › State",
                "where": "",
            },
            status=503,
        )
    if isinstance(error, Busy):
        return Response(
            {
                "detail": "so much is being worked out already that this has to wait; ask again "
                "in a moment",
                "where": "",
            },
            status=503,
            headers={"Retry-After": "3"},
        )
    if isinstance(error, RecursionError | DataError | UnicodeError):
        return Response(
            {
                "detail": "what was sent cannot be kept: it is nested too deep, too long, or holds "
                "characters that are no text",
                "where": "",
            },
            status=400,
        )
    if isinstance(error, IntegrityError):
        return Response(
            {
                "detail": "this clashes with what is there already, such as a name that is taken",
                "where": "",
            },
            status=409,
        )
    if isinstance(error, ValidationError):
        return Response({"detail": _sentence(error.detail), "where": ""}, status=400)
    response = exception_handler(error, context)
    if response is not None and isinstance(response.data, dict):
        response.data.setdefault("where", "")
    return response


def _sentence(detail: Any, where: str = "") -> str:
    if isinstance(detail, dict):
        return "; ".join(_sentence(value, key) for key, value in detail.items())
    if isinstance(detail, list):
        return "; ".join(_sentence(value, where) for value in detail)
    return f"{where}: {detail}" if where and where != "non_field_errors" else str(detail)
