"""Every error of the API says what, where and what would be allowed, in one shape: ``{"detail",
"where"}``.
"""

from __future__ import annotations

import logging
import sys
from typing import Any

from django.conf import settings
from django.core.exceptions import RequestDataTooBig
from django.db import DataError, IntegrityError
from django.http import HttpRequest, HttpResponse, JsonResponse
from rest_framework.exceptions import ValidationError
from rest_framework.response import Response
from rest_framework.views import exception_handler

from northpace.errors import InputError
from service.files import StoreAway
from service.hands import Busy
from service.plans.rules.merging import Clash
from service.queue import NO_DATABASE

log = logging.getLogger(__name__)
#: What is answered to what is raised: the state, and why with what to do.
KNOWN: tuple[tuple[tuple[type[Exception], ...], int, str], ...] = (
    (NO_DATABASE, 503, "the database does not answer; nothing was lost, try again in a moment"),
    (
        (StoreAway,),
        503,
        "the place where files are kept does not answer or is full; nothing was lost, try again in "
        "a moment, or see Workshop › State",
    ),
    (
        (Busy,),
        503,
        "so much is being worked out already that this has to wait; ask again in a moment",
    ),
    (
        (RecursionError, DataError, UnicodeError),
        400,
        "what was sent cannot be kept: it is nested too deep, too long, or holds characters that "
        "are no text",
    ),
    (
        (IntegrityError,),
        409,
        "this clashes with what is there already, such as a name that is taken",
    ),
)
FAULT = (
    "a fault of the program, not of what was sent; the log of the service has the details under "
    "the number in X-Request-ID"
)


def fault(request: HttpRequest) -> HttpResponse:
    """The answer to what was raised outside of a view, such as where it is looked who asks, and to
    what nobody expected.
    """
    known = _known(sys.exc_info()[1])
    status, detail = known or (500, FAULT)
    return JsonResponse({"detail": detail, "where": ""}, status=status)


def gone(request: HttpRequest, exception: Exception) -> HttpResponse:
    """The answer to an address that there is not."""
    return JsonResponse({"detail": "there is nothing at this address", "where": ""}, status=404)


def unread(request: HttpRequest, exception: Exception) -> HttpResponse:
    """The answer to what is refused before a view looks at it."""
    if isinstance(exception, RequestDataTooBig):
        detail = f"at most {settings.DATA_UPLOAD_MAX_MEMORY_SIZE / 1e6:.0f} MB are taken in here"
        return JsonResponse({"detail": detail, "where": ""}, status=413)
    detail = "what was sent is no request that can be read"
    return JsonResponse({"detail": detail, "where": ""}, status=400)


def forged(request: HttpRequest, reason: str = "") -> HttpResponse:
    """The answer to a change that does not come from one of our own pages."""
    detail = "this page does not belong to the present session any more; load it again"
    return JsonResponse({"detail": detail, "where": ""}, status=403)


def handle(error: Exception, context: dict[str, Any]) -> Response | None:
    """The handler REST framework calls for an exception in a view."""
    if isinstance(error, InputError):
        status = 409 if isinstance(error, Clash) else 422
        return Response({"detail": str(error), "where": error.where}, status=status)
    if isinstance(error, ValidationError):
        return Response({"detail": _sentence(error.detail), "where": ""}, status=400)
    known = _known(error)
    if known:
        if isinstance(error, StoreAway):
            log.error("%s", error)
        headers = {"Retry-After": "3"} if isinstance(error, Busy) else None
        return Response({"detail": known[1], "where": ""}, status=known[0], headers=headers)
    response = exception_handler(error, context)
    if response is not None and isinstance(response.data, dict):
        response.data.setdefault("where", "")
    return response


def _known(error: BaseException | None) -> tuple[int, str] | None:
    """State and words for an error that is expected."""
    return next(
        ((status, words) for kinds, status, words in KNOWN if isinstance(error, kinds)), None
    )


def _sentence(detail: Any, where: str = "") -> str:
    if isinstance(detail, dict):
        return "; ".join(_sentence(value, key) for key, value in detail.items())
    if isinstance(detail, list):
        return "; ".join(_sentence(value, where) for value in detail)
    return f"{where}: {detail}" if where and where != "non_field_errors" else str(detail)
