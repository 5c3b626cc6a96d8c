"""Answers that are files: what they are, as the API's description says it and as they are sent."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpResponse
from drf_spectacular.types import OpenApiTypes

from service.files import fetch

#: Media types: columns of numbers, any bytes, drawings, photos.
ARROW, BYTES = "application/vnd.apache.arrow.stream", "application/octet-stream"
SVG = "image/svg+xml"
PHOTO = ("image/png", "image/jpeg")


def files(*kinds: str) -> dict[tuple[int, str], Any]:
    """How an operation that answers with a file of one of these media types is described."""
    return {(200, kind): OpenApiTypes.BINARY for kind in kinds}


def columns(data: bytes) -> HttpResponse:
    """Columns of numbers that never change at their address."""
    return for_ever(HttpResponse(data, content_type=ARROW))


def drawing(svg: str) -> HttpResponse:
    """A drawing that never changes at its address."""
    return for_ever(HttpResponse(svg, content_type=SVG))


def for_ever(answer: HttpResponse) -> HttpResponse:
    """An answer that a browser may keep: what is at its address never changes."""
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer


def photo(key: str) -> HttpResponse:
    """A stored photo; raises `Http404` where there is none."""
    if not key:
        raise Http404("there is no photo")
    png, jpeg = PHOTO
    return HttpResponse(fetch(key), content_type=png if key.endswith(".png") else jpeg)
