"""Rows that are computed in the queue: where one stands, how it is computed within limits, and what
is kept of it.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import replace
from typing import Any, TypeVar

from django.db import connection, models
from django.utils import timezone

from northpace import VERSION
from northpace.errors import InputError
from northpace.plan.pipeline import Cancelled
from service.files import Damaged, fetch
from service.hands import TooLong, TooMuch, Unwanted, apart
from service.limits import Limit
from service.queue import AWAY, MOST_SMALL, NO_DATABASE

T = TypeVar("T")
V = TypeVar("V", bound="Computed")
log = logging.getLogger(__name__)


class Computing(models.Model):
    """Something that is computed in the queue."""

    class State(models.TextChoices):
        QUEUED = "queued"
        COMPUTING = "computing"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"
        SUPERSEDED = "superseded"

    OPEN = (State.QUEUED, State.COMPUTING)

    state = models.CharField(max_length=12, choices=State.choices, default=State.QUEUED)
    stage = models.CharField(max_length=20, blank=True)
    share = models.FloatField(default=0)
    message = models.TextField(blank=True)
    core_version = models.CharField(max_length=20, blank=True)
    task = models.BigIntegerField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    computed = models.DateTimeField(null=True)
    took_s = models.FloatField(null=True, help_text="seconds the exact plan took")

    class Meta:
        abstract = True


class Computed(Computing):
    """A version of something: numbered, computed once. What undoing returns to stands with each
    kind, because a key to its own kind has no type here.
    """

    number = models.PositiveIntegerField()
    report = models.JSONField(null=True)
    moves_key = models.CharField(max_length=120, blank=True)
    gcode_key = models.CharField(max_length=120, blank=True)
    by = models.CharField(max_length=80, blank=True, help_text="who made it")

    class Meta:
        abstract = True


def newest(versions: models.QuerySet[V], whose: str) -> V:
    """The version being worked on. What has versions is made with its first one and loses them just
    before it goes: raises `InputError` where somebody removes it at this moment.
    """
    version = versions.order_by("-number").first()
    if version is None:
        raise InputError(f"{whose} is gone: it was removed just now")
    return version


def within_limits(
    open_: models.QuerySet[Any],
    function: Callable[[int], None],
    limit: Limit,
    near: str,
    in_large: Callable[[], None] | None,
) -> None:
    """Compute the one row of ``open_`` by ``function(key)`` in a process of its own, until it is no
    longer open. ``in_large`` queues it anew where this is a worker of small work and it takes
    longer; what is too much at all says so.
    """
    key = open_.values_list("pk", flat=True).get()
    if in_large is not None:
        limit = replace(limit, seconds=MOST_SMALL, lasts=MOST_SMALL)
    try:
        apart("work", function, (key,), limit, near, open_.exists)
    except Unwanted:
        return
    except TooMuch as error:
        if in_large is not None and isinstance(error, TooLong):
            in_large()
            return
        _failed(open_, error.message)


def told(mine: models.QuerySet[Any]) -> Callable[[str, float], None]:
    """Notes at which stage the one row of ``mine`` is, and how far."""

    def tell(stage: str, share: float) -> None:
        from_any_thread(lambda: mine.update(stage=stage, share=share))

    return tell


def unwanted(mine: models.QuerySet[Any]) -> Callable[[], bool]:
    """Says whether there is nothing to compute in ``mine`` any more."""
    return lambda: not from_any_thread(mine.exists)


def from_any_thread(ask: Callable[[], T]) -> T:
    """Ask the database something in a thread of the core, which has a connection of its own, and
    nobody who looks whether it broke since it was last used: then once more on a new one.
    """
    try:
        return ask()
    except NO_DATABASE:
        if connection.in_atomic_block:
            raise
        connection.close()
        return ask()


def whole_file(
    key: str, subject: Any, newest: bool, instead: str, again: Callable[[], Any]
) -> bytes:
    """A stored file of a version. One that is damaged is computed anew, and the `InputError` says
    so; for a version that is not the newest it says what to do ``instead``.
    """
    try:
        return fetch(key)
    except Damaged as damaged:
        if not newest:
            raise InputError(
                f"what was computed of this version is damaged on disk; {instead}", str(subject)
            ) from damaged
        again()
        raise InputError(
            "what was computed is damaged on disk; nothing of yours is lost, it is computed anew",
            str(subject),
        ) from damaged


def keep_result(mine: models.QuerySet[Any], compute: Callable[[], dict[str, Any]]) -> None:
    """Compute the one row of ``mine`` and keep the fields that come of it, or why nothing did."""
    try:
        found = compute()
    except Cancelled:
        return
    except InputError as error:
        _failed(mine, str(error))
    except (*AWAY, MemoryError):
        raise  # said or tried again by who asked
    except Exception:
        log.exception("%s could not be computed", mine.first())
        _failed(
            mine,
            "a fault of the program, not of your settings; the log of the worker has the details",
        )
    else:
        mine.update(
            **found,
            state=Computed.State.DONE,
            share=1,
            stage="",
            message="",
            core_version=VERSION,
            computed=timezone.now(),
        )


def _failed(rows: models.QuerySet[Any], message: str) -> None:
    rows.update(state=Computed.State.FAILED, message=message, computed=timezone.now())
