"""Sign-ins that fail: how many may, and how many passwords are looked at at the same time.

A try counts before its password is looked at, so that those made at the same time count, too. A
browser in which somebody signed in before is known by a cookie, and has tries of its own: nobody is
locked out of where they work by what others try elsewhere.
"""

from __future__ import annotations

import contextlib
import secrets
import threading
from collections.abc import Iterator
from datetime import timedelta

from django.core import signing
from django.utils import timezone

from service.accounts.models import FailedSignIn, SignedIn
from service.hands import Busy

#: Sign-ins that may fail for a name, and from an address, within the time.
WITHIN = timedelta(minutes=15)
MOST_BY_NAME, MOST_BY_ADDRESS = 10, 60
#: The cookie of a browser in which somebody signed in before, and how long it is known (s).
COOKIE, KNOWN_FOR = "northpace_browser", 365 * 24 * 3600
_SALT = "browser"
#: How many passwords wait to be looked at before the next one is told to come back. They are
#: looked at one by one, because each takes a good part of a second, which others shall not notice.
MOST_WAITING = 12
_looking, _waiting = threading.Lock(), threading.BoundedSemaphore(MOST_WAITING)


class TooMany(Exception):
    """Too many sign-ins failed; ``wait`` is how long to wait (s)."""

    def __init__(self, wait: float) -> None:
        super().__init__(wait)
        self.wait = wait


@contextlib.contextmanager
def looking_at_a_password() -> Iterator[None]:
    """Hold the place in which a password is looked at or kept. Raises `Busy` where many wait."""
    if not _waiting.acquire(blocking=False):
        raise Busy
    try:
        with _looking:
            yield
    finally:
        _waiting.release()


def begin(name: str, address: str | None, browser: str) -> FailedSignIn:
    """Count a try, which is taken back by deleting it once it has succeeded. ``browser`` is that of
    `browser_of`. Raises `TooMany` where too many failed lately.
    """
    now = timezone.now()
    FailedSignIn.objects.filter(at__lt=now - WITHIN).delete()
    mine = FailedSignIn.objects.create(name=name.lower()[:150], address=address, browser=browser)
    lately = FailedSignIn.objects.filter(at__gt=now - WITHIN)
    by_name = lately.filter(name=mine.name, browser=browser)
    counted = [(by_name, MOST_BY_NAME)]
    if not browser:
        if SignedIn.objects.filter(user__username=name, address=address).exists():
            by_name = by_name.filter(address=address)
        counted = [
            (by_name, MOST_BY_NAME),
            (lately.filter(address=address, browser=""), MOST_BY_ADDRESS),
        ]
    for rows, most in counted:
        before = list(rows.exclude(pk=mine.pk).order_by("-at").values_list("at", flat=True)[:most])
        if len(before) == most:
            mine.delete()
            raise TooMany((before[-1] + WITHIN - now).total_seconds())
    return mine


def browser_of(cookie: str | None, name: str) -> str:
    """What tells a browser from others in which somebody of a name signed in before; "" where they
    did not.
    """
    try:
        known = signing.loads(cookie or "", salt=_SALT, max_age=KNOWN_FOR)
    except signing.BadSignature:
        return ""
    fits = isinstance(known, list) and len(known) == 2 and known[0] == name.lower()
    return str(known[1]) if fits else ""


def cookie_for(name: str, browser: str) -> str:
    """The cookie by which a browser is known the next time; ``browser`` is what it was known by."""
    return signing.dumps([name.lower(), browser or secrets.token_hex(12)], salt=_SALT)
