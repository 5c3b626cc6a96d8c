"""What people change is put on record, by the table of rules."""

from __future__ import annotations

import json
import logging
from collections.abc import Callable, Mapping
from typing import Any

from asgiref.sync import iscoroutinefunction, sync_to_async
from django.db import Error
from django.http import HttpRequest, HttpResponse
from django.utils.decorators import sync_and_async_middleware

from service.accounts.models import Record
from service.accounts.rules.roles import SAFE, rule_of

log = logging.getLogger(__name__)
#: Fields that are never kept, and how much of what was sent is (characters).
SECRET = {"password", "old", "new", "secret", "key"}
MOST_SENT = 2000
#: What an answer calls what it is about.
NAMES = ("name", "label", "shown_name", "number", "note")


@sync_and_async_middleware
def keep_record(answer: Callable[[HttpRequest], Any]) -> Callable[[HttpRequest], Any]:
    """Middleware that puts on record what the rules say of an address, once it was done."""
    if iscoroutinefunction(answer):

        async def later(request: HttpRequest) -> HttpResponse:
            response = await answer(request)
            if _is_kept(request, response):
                await sync_to_async(_keep)(request, response)
            return response

        return later

    def now(request: HttpRequest) -> HttpResponse:
        response = answer(request)
        if _is_kept(request, response):
            _keep(request, response)
        return response

    return now


def _is_kept(request: HttpRequest, response: HttpResponse) -> bool:
    if request.method in SAFE or response.status_code >= 400 or request.resolver_match is None:
        return False
    rule = rule_of(request.resolver_match.route, str(request.method))
    return rule is not None and bool(rule.record) and hasattr(response, "renderer_context")


def _keep(request: HttpRequest, response: Any) -> None:
    match = request.resolver_match
    assert match is not None
    rule = rule_of(match.route, str(request.method))
    asked = response.renderer_context["request"]
    member = getattr(asked.user, "member", None)
    if rule is None or member is None:
        return
    try:
        Record.objects.create(
            workshop_id=member.workshop_id,
            who=f"{member} ({asked.user.get_username()})",
            what=rule.record,
            about=_about(getattr(response, "data", None), match.kwargs),
            sent=_sent(asked.data),
        )
    except Error:
        log.exception("%s by %s is not on record", rule.record, member)


def _about(data: Any, kwargs: Mapping[str, Any]) -> str:
    if isinstance(data, Mapping):
        for name in NAMES:
            if data.get(name) not in (None, ""):
                return str(data[name])[:160]
    return f"number {kwargs['pk']}" if "pk" in kwargs else ""


def _sent(data: Any) -> dict[str, Any]:
    """What was sent, without secrets; of much only what it was about."""
    if not isinstance(data, Mapping):
        return {}
    kept = {str(key): value for key, value in data.items() if key not in SECRET}
    try:
        short = len(json.dumps(kept)) <= MOST_SENT
    except TypeError:
        short = False  # a file
    return kept if short else dict.fromkeys(kept, "…")
