"""A cache of stage results keyed by content, bounded by bytes; the least recently used go first."""

from __future__ import annotations

import threading
from collections import Counter, OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

from northpace.plan.stage import Before

T = TypeVar("T")
DEFAULT_BYTES = 1_000_000_000
#: What a name takes, beside its result.
ENTRY = 1024
#: Places in which the last result of a stage is remembered: those of two parts.
PLACES = 14


class StageCache:
    """Results by key. ``runs`` counts how often each stage was really computed, for tests and for
    the curious. What two threads ask for at the same time is computed once.
    """

    def __init__(self, most_bytes: int = DEFAULT_BYTES) -> None:
        self.most_bytes = most_bytes
        self.runs: Counter[str] = Counter()
        self._kept: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        #: how many names each kept result has, by its identity: it takes its room once
        self._names: Counter[int] = Counter()
        self._bytes = 0
        self._lock = threading.Lock()
        self._computing: dict[str, threading.RLock] = {}
        self._before: OrderedDict[str, Before] = OrderedDict()

    def get(self, stage: str, key: str, compute: Callable[[], T], keep: bool = True) -> T:
        """The kept result of a stage for this key, or a new one, which is kept if ``keep``."""
        name = f"{stage}:{key}"
        with self._lock:
            if name in self._kept:
                return self._found(name)
            mine = self._computing.setdefault(name, threading.RLock())
        with mine:
            with self._lock:
                if name in self._kept:
                    return self._found(name)
            try:
                result = compute()
            finally:
                with self._lock:
                    self._computing.pop(name, None)
            self._keep(stage, name, result, keep)
        return result

    def before(self, place: str) -> Before | None:
        """What was remembered last in a place."""
        with self._lock:
            return self._before.get(place)

    def remember(self, place: str, before: Before) -> None:
        """Keep what a stage came to, for it to go on from: the last in so many places."""
        with self._lock:
            self._before[place] = before
            self._before.move_to_end(place)
            while len(self._before) > PLACES:
                self._before.popitem(last=False)

    def _found(self, name: str) -> Any:
        self._kept.move_to_end(name)
        return self._kept[name][0]

    def _keep(self, stage: str, name: str, result: Any, keep: bool) -> None:
        size = int(getattr(result, "nbytes", 0))
        with self._lock:
            self.runs[stage] += 1
            if not keep or name in self._kept or size > self.most_bytes:
                return
            self._kept[name] = (result, size)
            self._names[id(result)] += 1
            self._bytes += ENTRY + (size if self._names[id(result)] == 1 else 0)
            while self._bytes > self.most_bytes:
                _, (gone, size) = self._kept.popitem(last=False)
                self._names[id(gone)] -= 1
                self._bytes -= ENTRY + (0 if self._names[id(gone)] else size)
                if not self._names[id(gone)]:
                    del self._names[id(gone)]
