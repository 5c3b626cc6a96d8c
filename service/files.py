"""Content-addressed files over Django's storage: the same bytes are kept once, and never change."""

from __future__ import annotations

import contextlib
import hashlib
import os
from collections.abc import Iterator
from contextlib import contextmanager

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.http import HttpResponse
from django.utils.http import content_disposition_header

from northpace.errors import InputError

PHOTOS = {b"\x89PNG\r\n": ".png", b"\xff\xd8\xff": ".jpg"}
MOST_PHOTO = 10_000_000


class Damaged(InputError):
    """A stored file holds other bytes than were put there, or is gone."""


class StoreAway(OSError):
    """Where files are kept does not answer, or takes nothing more."""


@contextmanager
def store() -> Iterator[None]:
    """What a backend of files raises, each has errors of its own, is one kind to who asks. A file
    that is not there stays what it is.
    """
    try:
        yield
    except FileNotFoundError:
        raise
    except Exception as error:
        raise StoreAway(f"files cannot be kept or read: {error}") from error


def keep(data: bytes, suffix: str) -> str:
    """Store bytes; returns their key, which contains their SHA-256. Raises `StoreAway`."""
    name = hashlib.sha256(data).hexdigest()
    key = f"{name[:2]}/{name}{suffix}"
    with store():
        if default_storage.exists(key):
            if _is_whole(key):
                _renew(key)
                return key
            default_storage.delete(key)  # half of it was written, or the disk lost some
        return str(default_storage.save(key, ContentFile(data)))


def _renew(key: str) -> None:
    """Make a file as new as one that was just written, so that it is not removed before the row
    that points to it is there.
    """
    with contextlib.suppress(NotImplementedError, FileNotFoundError):  # no file of this machine
        os.utime(default_storage.path(key))


def _is_whole(key: str) -> bool:
    """Whether the bytes of a key are those it is named after."""
    with default_storage.open(key, "rb") as stream:
        found = hashlib.sha256()
        for piece in iter(lambda: stream.read(1 << 20), b""):
            found.update(piece)
    return key.split("/")[-1].startswith(found.hexdigest())


def discard(key: str) -> None:
    """Remove what is kept under a key, where it is. Raises `StoreAway`."""
    with store():
        default_storage.delete(key)


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
    """The bytes of a key. Raises `Damaged` where they are not those it is named after, `StoreAway`
    where nobody can say.
    """
    try:
        with store(), default_storage.open(key, "rb") as stream:
            data = bytes(stream.read())
    except FileNotFoundError:
        data = b""
    if not key.split("/")[-1].startswith(hashlib.sha256(data).hexdigest()):
        raise Damaged("a stored file is damaged or gone; bring it in again", key)
    return data


def download(
    data: bytes, name: str, content_type: str = "application/octet-stream"
) -> HttpResponse:
    """An answer the browser saves under ``name``."""
    answer = HttpResponse(data, content_type=content_type)
    # a header has one line
    found = content_disposition_header(True, " ".join(name.split()).replace('"', ""))
    answer["Content-Disposition"] = found or "attachment"
    return answer
