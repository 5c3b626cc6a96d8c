"""Beads that can be looked at while the rest of a version is computed."""

from __future__ import annotations

import time

from django.db.models import QuerySet

from northpace.moves import browser_bytes
from northpace.plan.laying import Laid
from service.computed import from_any_thread
from service.files import discard, keep
from service.plans.models import PlanVersion

#: Nothing is shown of what takes less than this, and nothing more often (s).
EVERY = 0.8


class Shown:
    """Keeps what is laid of the version that is computed, now and then; called with what is laid.

    What keeping it takes counts as well, so that it takes no more than half of the time.
    """

    def __init__(self, mine: QuerySet[PlanVersion]) -> None:
        self._mine = mine
        self._key = ""
        self._next = time.monotonic() + EVERY

    def __call__(self, laid: Laid) -> None:
        begun = time.monotonic()
        if begun < self._next:
            return
        key = keep(browser_bytes(laid.moves(), laid.outlines.tops), ".arrow")
        from_any_thread(lambda: self._mine.update(laid_key=key, laid_words=laid.words))
        self._remove(key)
        now = time.monotonic()
        self._next = now + max(EVERY, now - begun)

    def put_away(self, whose: QuerySet[PlanVersion]) -> None:
        """What is computed, or given up, has nothing of the kind any more."""
        if self._key:
            whose.update(laid_key="", laid_words="")
            self._remove("")

    def _remove(self, instead: str) -> None:
        if self._key and self._key != instead:
            discard(self._key)
        self._key = instead
