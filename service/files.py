"""Content-addressed files over Django's storage: the same bytes are kept once, and never change."""

from __future__ import annotations

import hashlib

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.http import HttpResponse

from northpace.errors import InputError

PHOTOS = {b"\x89PNG\r\n": ".png", b"\xff\xd8\xff": ".jpg"}
MOST_PHOTO = 10_000_000


def keep(data: bytes, suffix: str) -> str:
    """Store bytes; returns their key, which contains their SHA-256."""
    name = hashlib.sha256(data).hexdigest()
    key = f"{name[:2]}/{name}{suffix}"
    if not default_storage.exists(key):
        return str(default_storage.save(key, ContentFile(data)))
    return key


def keep_picture(data: bytes) -> str:
    """Store a photo; raises `InputError` for what is no PNG or JPEG, or too large."""
    if len(data) > MOST_PHOTO:
        raise InputError(
            f"the photo has {len(data) / 1e6:.1f} MB; at most {MOST_PHOTO / 1e6:.0f} MB are kept",
            "photo",
        )
    kind = next((suffix for sign, suffix in PHOTOS.items() if data.startswith(sign)), None)
    if kind is None:
        raise InputError("the file is neither a PNG nor a JPEG picture", "photo")
    return keep(data, kind)


def fetch(key: str) -> bytes:
    """The bytes of a key."""
    with default_storage.open(key, "rb") as stream:
        return bytes(stream.read())


def download(
    data: bytes, name: str, content_type: str = "application/octet-stream"
) -> HttpResponse:
    """An answer the browser saves under ``name``."""
    answer = HttpResponse(data, content_type=content_type)
    plain = name.encode("ascii", "ignore").decode().replace('"', "")
    answer["Content-Disposition"] = f'attachment; filename="{plain}"'
    return answer
