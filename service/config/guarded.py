"""What the browser is allowed to do with our pages: nothing that does not come from here."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from asgiref.sync import iscoroutinefunction
from django.http import HttpRequest, HttpResponse
from django.utils.decorators import sync_and_async_middleware

#: Scripts come from our files alone, never from the page. Styles may stand in it: parts of the
#: interface (scroll locks, menus) place themselves so. Drawings of parts are images in the page.
POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "worker-src 'self' blob:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)


@sync_and_async_middleware
def content_policy(answer: Callable[[HttpRequest], Any]) -> Callable[[HttpRequest], Any]:
    """Middleware that adds the content security policy to every answer."""
    if iscoroutinefunction(answer):

        async def later(request: HttpRequest) -> HttpResponse:
            return _with(await answer(request))

        return later
    return lambda request: _with(answer(request))


def _with(response: HttpResponse) -> HttpResponse:
    response["Content-Security-Policy"] = POLICY
    return response
