"""The frontier: the least time for every surface that a part, a machine and the rules allow, beside
the even stacks.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from northpace.errors import InputError
from northpace.heights.even import even_heights
from northpace.heights.fit import Fit, HeightTask, adaptive, least_time
from northpace.heights.measure import MEASURES
from northpace.heights.rules import within_step_limit
from northpace.heights.solve import solve, total
from northpace.spec import PlanSpec

#: Points of each measure.
POINTS = 28


@dataclass(frozen=True)
class Point:
    """A stack in z steps with its seconds and errors (mean, p95, max) in mm; ``on``: the measures
    whose frontier it lies on; ``breaks``: rules it does not keep, which only an even stack can.
    """

    stack: np.ndarray
    seconds: float
    errors: tuple[float, float, float]
    on: tuple[str, ...] = ()
    breaks: tuple[str, ...] = ()

    def as_dict(self, q: float, heights: bool) -> dict[str, Any]:
        out: dict[str, Any] = {
            "time_s": self.seconds,
            "mean_um": 1000 * self.errors[0],
            "p95_um": 1000 * self.errors[1],
            "max_um": 1000 * self.errors[2],
            "layers": len(self.stack),
            "on": list(self.on),
            "breaks": list(self.breaks),
        }
        if heights:
            out["heights_mm"] = [round(float(h) * q, 6) for h in self.stack]
        return out


@dataclass(frozen=True)
class Frontier:
    """Points by rising time, and the even stacks by falling height (mm) with the same figures."""

    points: list[Point]
    even: list[tuple[float, Point]]
    z_step: float

    @property
    def nbytes(self) -> int:
        return sum(point.stack.nbytes + 200 for point in self.points) + sum(
            point.stack.nbytes for _, point in self.even
        )

    def as_dict(self, heights: bool = True) -> dict[str, Any]:
        return {
            "points": [point.as_dict(self.z_step, heights) for point in self.points],
            "even": [
                {"layer_height": height, **point.as_dict(self.z_step, heights)}
                for height, point in self.even
            ],
        }


def frontier(
    task: HeightTask, spec: PlanSpec, measures: tuple[str, ...] = MEASURES, points: int = POINTS
) -> Frontier:
    """Stacks on the frontier of each measure.

    Even stacks are candidates too: where one of them is on the frontier it is listed among the
    points, with the rules it breaks.
    """
    if not len(task.fastest):
        raise InputError(
            "no stack of layers keeps all rules; the plan says which contradict", "surface.bands"
        )
    even = even_points(task, spec)
    pool: list[Point] = [_point(task, stack) for stack in (task.fastest, task.smoothest)]
    for name in measures:
        pool += _sweep(task, name, points)
    pool += [point for _, point in even]
    return Frontier(_best(pool, measures), even, task.table.z_step)


def _sweep(task: HeightTask, name: str, points: int) -> list[Point]:
    """Stacks along the frontier of one measure."""
    if name == "mean":
        return _hull(task, points)
    slow, fast = task.error(task.smoothest), task.error(task.fastest)
    out, multiplier = [], 0.0
    for target in np.linspace(slow.of(name), fast.of(name), points):
        found = (
            adaptive(task, float(target))
            if name == "max"
            else least_time(task, name, float(target), multiplier)
        )
        if found is not None:
            multiplier = found.multiplier
            out.append(_of(found))
    return out


def _hull(task: HeightTask, points: int) -> list[Point]:
    """Corners of the convex hull of time against mean error, the widest stretch first."""
    low = task.rules.low

    def corner(weight: float) -> tuple[float, float, np.ndarray]:
        stack = solve(task.rules, task.seconds, task.mean, weight)
        return total(stack, low, task.mean), total(stack, low, task.seconds), stack

    slow = task.smoothest
    known = [corner(0.0), (total(slow, low, task.mean), total(slow, low, task.seconds), slow)]
    known.sort(key=lambda entry: entry[0])
    closed: set[tuple[float, float]] = set()
    for _ in range(2 * points):
        wide = [
            (b[0] - a[0], n)
            for n, (a, b) in enumerate(zip(known, known[1:], strict=False))
            if (a[0], b[0]) not in closed
        ]
        if not wide or len(known) >= points:
            break
        width, n = max(wide)
        a, b = known[n], known[n + 1]
        if width < 1e-12:
            break
        found = corner((a[1] - b[1]) / width)
        if not a[0] + 1e-12 < found[0] < b[0] - 1e-12:
            closed.add((a[0], b[0]))
            continue
        known.insert(n + 1, found)
    return [_point(task, stack) for _, _, stack in known]


def even_points(task: HeightTask, spec: PlanSpec) -> list[tuple[float, Point]]:
    """Every even stack the machine can lay, tallest first."""
    out = []
    q = task.table.z_step
    for h in task.rules.heights[::-1]:
        surface = spec.surface.model_copy(update={"layer_height": float(h * q)})
        try:
            stack = np.round(even_heights(task.table.height, surface, spec.machine) / q).astype(
                np.int64
            )
        except InputError:
            continue
        out.append((round(float(h * q), 6), _point(task, stack, _broken(task, spec, stack))))
    return out


def _broken(task: HeightTask, spec: PlanSpec, stack: np.ndarray) -> tuple[str, ...]:
    names = ("limit", "pin", "band", "band", "flat", "overhang", "worst")
    bits = np.bitwise_or.reduce(
        task.rules.broken[np.cumsum(stack)[:-1], stack[1:] - task.rules.low], initial=0
    )
    found = {name for k, name in enumerate(names) if bits & (1 << k)}
    if (
        len(stack) > 2
        and not within_step_limit(stack[1:-1], stack[2:], spec.surface.step_limit).all()
    ):
        found.add("step-limit")
    return tuple(sorted(found))


def kept_below_top(task: HeightTask, spec: PlanSpec, even: Point) -> bool:
    """Whether an even stack keeps all rules below its last layers, which differ from the others so
    that the stack reaches the top.
    """
    if not even.breaks:
        return True
    each = even.stack[1] if len(even.stack) > 1 else even.stack[0]
    regular = int(np.flatnonzero(even.stack == each)[-1]) + 1
    return not _broken(task, spec, even.stack[: max(regular, 1)])


def _point(task: HeightTask, stack: np.ndarray, breaks: tuple[str, ...] = ()) -> Point:
    error = task.error(stack)
    return Point(stack, task.time(stack), (error.mean, error.p95, error.max), (), breaks)


def _of(found: Fit) -> Point:
    return Point(found.stack, found.seconds, (found.error.mean, found.error.p95, found.error.max))


def _best(pool: list[Point], measures: tuple[str, ...]) -> list[Point]:
    """Points that no other beats in time and one of the measures, by rising time."""
    out: dict[bytes, Point] = {}
    for name in measures:
        k = MEASURES.index(name)
        least = np.inf
        for point in sorted(pool, key=lambda entry: (entry.seconds, entry.errors[k])):
            if point.errors[k] < least - 1e-9:
                least = point.errors[k]
                key = point.stack.tobytes()
                old = out.get(key, point)
                out[key] = Point(
                    point.stack, point.seconds, point.errors, (*old.on, name), point.breaks
                )
    return sorted(out.values(), key=lambda entry: entry.seconds)
