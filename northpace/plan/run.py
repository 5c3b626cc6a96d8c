"""The stages of one request: what each result's key is, and computing what is not kept."""

from __future__ import annotations

import threading
import time
from collections import defaultdict
from collections.abc import Callable, Iterator
from typing import Any, TypeVar

from northpace.plan.cache import StageCache
from northpace.plan.frozen import freeze
from northpace.plan.room import LONG, give_back
from northpace.plan.stage import Before, Input, Needed, Now, Request, Stage
from northpace.spec import PlanSpec, digest
from northpace.spec.portion import contents, portion

T = TypeVar("T")


#: Told of a stage, of what it is computed to, and whether that is all of it.
Told = Callable[[Stage[Any], Any, bool], None]


class Cancelled(Exception):
    """The caller asked to stop; nothing is half kept."""


class Run:
    """Results of stages for one request, from the cache or computed. Safe to share between threads.

    ``cancelled`` is asked before every stage that is computed, and between the parts of one.
    """

    def __init__(
        self,
        cache: StageCache,
        request: Request,
        cancelled: Callable[[], bool] | None = None,
    ) -> None:
        self.cache, self.request = cache, request
        #: told what came of each stage, and of each of its parts
        self.told: Told | None = None
        #: seconds by phase, of what was computed by the thread that made the run
        self.elapsed: defaultdict[str, float] = defaultdict(float)
        self._cancelled = cancelled
        #: what each stage is handed of the spec, and its own key; keys of what is known by itself
        self._asked: dict[Stage[Any], tuple[PlanSpec, str]] = {}
        self._known: dict[Stage[Any], str] = {}
        self._thread = threading.get_ident()

    def __call__(self, node: Input[T] | Stage[T]) -> T:
        """The result of a stage. Raises what the stage raises, and `Cancelled`."""
        if isinstance(node, Input):
            return node.value(self.request)
        part, key = self._asked_of(node)
        return self.cache.get(node.name, key, lambda: self._compute(node, part), node.kept)

    def key(self, node: Stage[Any]) -> str:
        """What tells the result of a stage from others, for whatever builds on it."""
        if node.known_by is None:
            return self._asked_of(node)[1]
        if node not in self._known:
            self._known[node] = digest(node.name, node.known_by(self(node)))
        return self._known[node]

    def check(self) -> None:
        """Raises `Cancelled` when the caller wants to stop."""
        if self._cancelled and self._cancelled():
            raise Cancelled

    def _asked_of(self, node: Stage[Any]) -> tuple[PlanSpec, str]:
        """What a stage is handed of the spec, and its own key. Stages are asked for many times."""
        if node not in self._asked:
            spec = self.request.spec
            part = portion(spec, node.names(spec), node.local)
            self._asked[node] = part, self._own_key(node, part)
        return self._asked[node]

    def _own_key(self, node: Stage[Any], part: PlanSpec) -> str:
        upon: list[Any] = []
        for entry in node.on:
            if isinstance(entry, Input):
                upon.append(entry.key(self.request))
            elif isinstance(entry, Needed):
                upon.append(self.key(entry.stage) if entry.needed(part) else None)
            else:
                upon.append(self.key(entry))
        return digest(node.name, node.extra, upon, contents(part))

    def _compute(self, node: Stage[T], part: PlanSpec) -> T:
        values = [
            (self(entry.stage) if entry.needed(part) else entry.instead)
            if isinstance(entry, Needed)
            else self(entry)
            for entry in node.on
        ]
        self.check()
        begun = time.perf_counter()
        found = self._again(node, part, tuple(values))
        if found is None:
            found = node.run(part, *values)
            if node.joined is not None:
                found = node.joined(list(self._part_by_part(node, found)))
        freeze(found)
        self._remember(node, part, tuple(values), found)
        if self.told:
            self.told(node, found, True)
        took = time.perf_counter() - begun
        if threading.get_ident() == self._thread:
            self.elapsed[node.phase] += took
        if took > LONG:
            give_back()
        return found

    def _again(self, node: Stage[T], part: PlanSpec, values: tuple[Any, ...]) -> T | None:
        """The result by what the stage came to before, where it can go on from that."""
        if node.again is None:
            return None
        before = self.cache.before(self._place(node))
        return node.again(before, Now(node, part, values, self.check)) if before else None

    def _remember(self, node: Stage[T], part: PlanSpec, values: tuple[Any, ...], found: T) -> None:
        if node.again is not None:
            self.cache.remember(self._place(node), Before(part, values, found))

    def _place(self, node: Stage[Any]) -> str:
        """What has to be the same for a stage to go on from what it came to before."""
        first = node.on[0]
        assert isinstance(first, Stage)
        return digest(node.name, self.key(first))

    def _part_by_part(self, node: Stage[T], parts: Any) -> Iterator[T]:
        for part in parts:
            self.check()
            if self.told:
                self.told(node, part, False)
            yield part
