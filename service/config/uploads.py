"""What is sent is bounded before it is taken in.

Django writes a request to disk before it looks who asks. Here, in front of it, who sends more than
a little has to be signed in; nobody sends more than is allowed, and few send much at once.
"""

from __future__ import annotations

import json
from collections.abc import Awaitable, Callable, MutableMapping
from http.cookies import CookieError, SimpleCookie
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore

from northpace.part.body import MOST_BYTES

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[..., Awaitable[None]]

#: Bytes that are taken from anybody; more only from who is signed in.
LITTLE = 64_000
#: Most bytes of a form: the largest file, and what the form adds to it; and of anything else.
MOST, MOST_PLAIN = MOST_BYTES + 1_000_000, 20_000_000
#: Requests of this many bytes are held in memory while they are looked at: so many at once.
MUCH, MOST_AT_ONCE = 50_000_000, 2


class Bounded:
    """An ASGI application in front of another one."""

    def __init__(self, app: App) -> None:
        self.app = app
        self._much = 0

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS"):
            await self.app(scope, receive, send)
            return
        length = _length(scope)
        most = MOST if _header(scope, b"content-type").startswith("multipart/") else MOST_PLAIN
        if length is not None and length > most:
            await _refuse(send, 413, f"at most {most / 1e6:.0f} MB are taken in here")
        elif (length is None or length > LITTLE) and not await _signed_in(scope):
            await _refuse(send, 401, "sign in first")
        elif length is None or length <= MUCH:
            await self._with_bound(scope, receive, send, length or MOST_PLAIN)
        elif self._much >= MOST_AT_ONCE:
            await _refuse(send, 503, "other large files are being taken in; try again in a moment")
        else:
            self._much += 1
            try:
                await self.app(scope, receive, send)
            finally:
                self._much -= 1

    async def _with_bound(self, scope: Message, receive: Receive, send: Send, most: int) -> None:
        """Hand over a request, and not more than ``most`` bytes of it: it may send more than it
        says, or not say how much.
        """
        taken, over = 0, False

        async def counted() -> Message:
            nonlocal taken, over
            message = await receive()
            taken += len(message.get("body", b""))
            if taken <= most:
                return message
            over = True
            await _refuse(send, 413, "say how much is sent, in Content-Length")
            return {"type": "http.disconnect"}

        async def unless_over(message: Message) -> None:
            if not over:
                await send(message)

        await self.app(scope, counted, unless_over)


def _header(scope: Message, name: bytes) -> str:
    return next((value.decode("latin-1") for key, value in scope["headers"] if key == name), "")


def _length(scope: Message) -> int | None:
    said = _header(scope, b"content-length")
    return int(said) if said.isdecimal() else None


async def _signed_in(scope: Message) -> bool:
    """Whether a request comes with a session of somebody who is signed in."""
    try:
        cookies = SimpleCookie(_header(scope, b"cookie"))
    except CookieError:
        return False
    key = cookies.get(settings.SESSION_COOKIE_NAME)
    return key is not None and await sync_to_async(_known)(key.value)


def _known(key: str) -> bool:
    return SESSION_KEY in SessionStore(session_key=key).load()


async def _refuse(send: Send, status: int, detail: str) -> None:
    body = json.dumps({"detail": detail, "where": ""}).encode()
    headers = [(b"content-type", b"application/json"), (b"connection", b"close")]
    if status == 503:
        headers.append((b"retry-after", b"5"))
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
