"""The best surface within a time, kept by exact times.

Heights are chosen by quick times, which are a few per cent off. So what was chosen is computed
exactly, and chosen again with the difference, until the cap is kept and hardly any of it is left.
Even stacks stand beside: one that keeps the cap and shows less is taken instead.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np

from northpace.errors import InputError
from northpace.estimate.rates import Correction
from northpace.heights.fit import Errors, HeightTask, compared
from northpace.heights.frontier import Point, even_points, kept_below_top
from northpace.heights.measure import MEASURES
from northpace.spec import PlanSpec

#: Exact plans tried for the best fit, and for even stacks beside it.
ROUNDS, EVENS = 7, 8
#: Share of the cap that may stay unused.
UNUSED = 0.003
#: Even stacks that quick times put over the cap by less than this share are looked at exactly: at
#: first, and once it is known how far quick times are off for such a stack.
CLOSE, CLOSER = 0.1, 0.08
#: By which shares the cap is moved to come to another stack.
STEPS = (0.0, 0.002, 0.005, 0.01, 0.02, 0.05)
#: Figures of exact plans (mm, s) that differ by less are the same.
EXACTLY = 1e-6
R = TypeVar("R")


@dataclass(frozen=True)
class Tried(Generic[R]):
    """An exact plan that was tried."""

    #: (N,) heights in mm, seconds of the plan, its step error in mm: by the measure asked for, then
    #: mean and max
    heights: np.ndarray
    seconds: float
    errors: Errors
    #: quick times made those of this plan
    correction: Correction
    #: what the pipeline made of it
    result: R


class Trials(Generic[R]):
    """Exact plans of a best fit with a time cap.

    ``compute(correction, heights)`` makes the exact plan with heights (N,) in mm, or with those
    that quick times with the correction choose; ``choose(correction, cap)`` says which those are
    for another cap in minutes, ``task(correction)`` what they are chosen by.
    """

    def __init__(
        self,
        spec: PlanSpec,
        compute: Callable[[Correction | None, np.ndarray | None], Tried[R]],
        choose: Callable[[Correction | None, float], np.ndarray],
        task: Callable[[Correction | None], HeightTask],
    ) -> None:
        assert spec.surface.time_cap_min is not None
        self.spec, self.cap = spec, spec.surface.time_cap_min * 60.0
        self.compute, self.choose, self.task = compute, choose, task
        self.known: dict[bytes, Tried[R]] = {}
        self.best: Tried[R] | None = None

    def run(self, correction: Correction | None) -> Tried[R]:
        """The best plan within the cap. Raises `InputError` where even the fastest is over it."""
        last = self._first(correction)
        for _ in range(ROUNDS - 1):
            if 0 <= self.cap - last.seconds <= UNUSED * self.cap:
                break
            following = self._next(last)
            if following is None:
                break
            last = self._try(last.correction, following)
        self._evens(last.correction)
        if self.best is None:
            task = self.task(last.correction)
            self._try(last.correction, task.fastest * task.table.z_step)
        if self.best is None:
            raise self._refusal(min(self.known.values(), key=lambda one: one.seconds))
        return self.best

    def _next(self, last: Tried[R]) -> np.ndarray | None:
        """Heights that were not tried yet, for what is left of the cap or over it by the times of
        the last plan; None where there are none.
        """
        over = last.seconds > self.cap
        for step in STEPS:
            # by its own times the same stack is chosen again: then the cap is moved a little
            aimed = self.cap * (1.0 - step if over else 1.0 + step)
            try:
                heights = self.choose(last.correction, aimed / 60.0)
            except InputError:
                return None  # even the fastest is over it by these times
            if _key(heights) not in self.known:
                return heights
        return None

    def _first(self, correction: Correction | None) -> Tried[R]:
        """What quick times choose, or the fastest where they say that nothing keeps the cap."""
        task = self.task(correction)
        if len(task.fastest) and task.time(task.fastest) > self.cap:
            return self._try(correction, task.fastest * task.table.z_step)
        return self._try(correction, None)

    def _try(self, correction: Correction | None, heights: np.ndarray | None) -> Tried[R]:
        if heights is not None and _key(heights) in self.known:
            return self.known[_key(heights)]
        found = self.compute(correction, heights)
        self.known[_key(found.heights)] = found
        better = self._better(found.errors, found.seconds, self.best)
        if found.seconds <= self.cap + 1e-6 and better:
            self.best = found
        return found

    def _evens(self, correction: Correction) -> None:
        """Try even stacks that keep the rules and show less, the least first, of those that keep
        the cap or come near it by quick times; what each takes exactly says how far these are off.
        Where nothing keeps the cap yet, the quickest is tried rather than none.
        """
        task, off, close = self.task(correction), 1.0, CLOSE
        waiting = [
            even
            for _, even in even_points(task, self.spec)
            if kept_below_top(task, self.spec, even)
        ]
        for _ in range(EVENS):
            able = [
                k
                for k, even in enumerate(waiting)
                if self._better(self._errors(even), np.inf, self.best)
                and off * even.seconds <= (1.0 + close) * self.cap
            ]
            if able:
                chosen = min(able, key=lambda k: (self._errors(waiting[k]), k))
            elif self.best is None and waiting:
                chosen = min(range(len(waiting)), key=lambda k: waiting[k].seconds)
            else:
                return
            even = waiting.pop(chosen)
            found = self._try(correction, even.stack * task.table.z_step)
            off, close = found.seconds / even.seconds, CLOSER

    def _errors(self, point: Point) -> Errors:
        asked = point.errors[MEASURES.index(self.spec.surface.measure)]
        return asked, point.errors[MEASURES.index("mean")], point.errors[MEASURES.index("max")]

    def _better(self, one: Errors, seconds: float, best: Tried[R] | None) -> bool:
        """Whether a plan shows less than the best so far, or as much in less time."""
        if best is None:
            return True
        measure = self.spec.surface.measure
        sign = compared(self.task(best.correction), measure, one, best.errors, EXACTLY)
        return sign < 0 or (sign == 0 and seconds < best.seconds - EXACTLY)

    def _refusal(self, fastest: Tried[R]) -> InputError:
        return InputError(
            f"the time cap of {self.cap / 60:g} min is below the fastest stack that layers of at "
            f"most {self.spec.machine.h_max:g} mm and the other rules allow: "
            f"{fastest.seconds / 60:.1f} min with heating",
            "surface.time_cap_min",
        )


def _key(heights: np.ndarray) -> bytes:
    return np.round(1e4 * np.asarray(heights)).astype(np.int64).tobytes()
