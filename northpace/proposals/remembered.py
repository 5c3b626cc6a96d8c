"""Results that are kept while many changes of a plan are compared."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from operator import attrgetter
from typing import Any, Generic, TypeVar

from northpace.spec import PlanSpec
from northpace.spec.portion import portion

T = TypeVar("T")


class Remembered(Generic[T]):
    """A function of a spec whose results are kept.

    It is handed the settings it ``reads`` and nothing else, and the same settings tell one result
    from another. So a result cannot depend on a setting that its key does not know: reading
    another one raises `Undeclared`.
    """

    def __init__(self, reads: Iterable[str], run: Callable[[PlanSpec], T]) -> None:
        self._reads, self._run = tuple(reads), run
        self._key = attrgetter(*self._reads)
        self._found: dict[Any, T] = {}

    def __call__(self, spec: PlanSpec) -> T:
        key = self._key(spec)
        if key not in self._found:
            self._found[key] = self._run(portion(spec, self._reads))
        return self._found[key]
