"""One stack of layers for all plans of a bed: a best fit over all they show and take."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from northpace.errors import InputError
from northpace.heights.fit import HeightTask, least_time, prepared
from northpace.heights.measure import combined
from northpace.heights.rules import StackRules
from northpace.heights.surface import SurfaceTable
from northpace.motion.speeds import start_seconds
from northpace.spec import PlanSpec

#: What a target may be missed by (mm) and still count as the surface that was there before.
AS_GOOD = 1e-6


@dataclass(frozen=True)
class OneStack:
    """A stack for all plans, beside their own; errors are those of the measure, in mm."""

    #: (N,) heights in mm of the tallest; the others end at one of its boundaries
    heights: np.ndarray
    #: (n,) how many of its layers each plan has
    layers: tuple[int, ...]
    measure: str
    #: over all plans together: what was aimed at, and what came out
    target: float
    reached: float
    #: (n,) of each plan, with this stack and with its own
    errors: tuple[float, ...]
    own_errors: tuple[float, ...]
    #: layers at different heights with stacks of their own, and quick seconds of both
    own_passes: int
    seconds: float
    own_seconds: float

    @property
    def passes(self) -> int:
        """How often the nozzle rises."""
        return len(self.heights)


def one_stack(
    tasks: Sequence[HeightTask],
    specs: Sequence[PlanSpec],
    own: Sequence[np.ndarray],
    counts: Sequence[int],
    measure: str,
    target: float | None = None,
) -> OneStack:
    """The stack with the least time over all copies of plans (n,) whose step error over all their
    surfaces together is at most ``target`` mm; left open, as good as with ``own`` heights (mm).

    ``tasks`` have all the same first layer. Raises `InputError` where no stack keeps the rules of
    all of them.
    """
    _alike(tasks)
    q = tasks[0].rules.z_step
    stacks = [np.round(heights / q).astype(np.int64) for heights in own]
    before = [task.error(stack) for task, stack in zip(tasks, stacks, strict=True)]
    if target is None:
        target = combined(before, counts).of(measure) + AS_GOOD
    whole = _whole(tasks, counts)
    found = least_time(whole, measure, target)
    if found is None:
        raise InputError(
            "no stack of layers keeps the rules of all plans on this bed (bands, pins, limits and "
            "their tops); lay them with heights of their own, or drop one of these rules",
            "heights",
        )
    tops = np.cumsum(found.stack)
    layers = [int(np.searchsorted(tops, task.table.steps)) + 1 for task in tasks]
    if any(tops[n - 1] != task.table.steps for n, task in zip(layers, tasks, strict=True)):
        raise InputError(
            f"a plan on this bed is lower than the first layer of {tops[0] * q:g} mm, so it cannot "
            "share a stack with the others; lay them with heights of their own",
            "heights",
        )
    after = [task.error(found.stack[:count]) for task, count in zip(tasks, layers, strict=True)]
    heat = max(start_seconds(spec) for spec in specs)
    heats = [start_seconds(spec) for spec in specs]
    seconds, own_seconds = (
        heat
        + sum(
            count * (task.time(stack) - start)
            for task, stack, count, start in zip(tasks, laid, counts, heats, strict=True)
        )
        for laid in ([found.stack[:count] for count in layers], stacks)
    )
    return OneStack(
        found.stack * q,
        tuple(layers),
        measure,
        target,
        combined(after, counts).of(measure),
        tuple(error.of(measure) for error in after),
        tuple(error.of(measure) for error in before),
        len(np.unique(np.concatenate([np.cumsum(stack) for stack in stacks]))),
        seconds,
        own_seconds,
    )


def common_first(specs: Sequence[PlanSpec]) -> float:
    """Height in mm of the first layer of all: the tallest, which forgives an uneven bed."""
    return max(spec.surface.first_layer_height for spec in specs)


def with_first(spec: PlanSpec, first: float) -> PlanSpec:
    """A plan with this height of its first layer, in mm."""
    surface = spec.surface.model_copy(update={"first_layer_height": first})
    return spec.model_copy(update={"surface": surface})


def with_stack(spec: PlanSpec, heights: np.ndarray, first: float) -> PlanSpec:
    """A plan with these heights (N,) in mm one by one."""
    stack = tuple(np.round(heights, 6).tolist())
    surface = spec.surface.model_copy(update={"stack": stack, "first_layer_height": first})
    return spec.model_copy(update={"surface": surface})


def _alike(tasks: Sequence[HeightTask]) -> None:
    kinds = {(task.rules.z_step, task.rules.low, task.rules.broken.shape[1]) for task in tasks}
    if len(kinds) > 1:
        raise InputError(
            "the plans on this bed were made for other limits of layer height of the machine; "
            "plan them again before they share a stack",
            "heights",
        )


def _whole(tasks: Sequence[HeightTask], counts: Sequence[int]) -> HeightTask:
    """What a stack for all is chosen by: rules of all, sums of seconds and surface."""
    steps = max(task.table.steps for task in tasks)
    each = [task.rules for task in tasks]
    broken = np.zeros((steps, each[0].broken.shape[1]), np.uint8)
    seconds = np.zeros(broken.shape)
    for task, count in zip(tasks, counts, strict=True):
        # a layer that begins in a part and reaches beyond its top is forbidden there already
        broken[: task.table.steps] |= task.rules.broken
        seconds[: task.table.steps] += count * task.seconds
    rules = StackRules(
        each[0].z_step,
        steps,
        each[0].first,
        each[0].low,
        broken,
        np.max([rules.least for rules in each], axis=0),
        np.min([rules.most for rules in each], axis=0),
    )
    fixed = sum(count * task.fixed for task, count in zip(tasks, counts, strict=True))
    return prepared(_summed([task.table for task in tasks], counts), rules, seconds, fixed)


def _summed(tables: Sequence[SurfaceTable], counts: Sequence[int]) -> SurfaceTable:
    """The surface of all copies by z step."""
    steps, classes = max(t.steps for t in tables), min(t.classes for t in tables)
    above = np.zeros((classes + 1, steps + 1))
    slope, steepest, leaning = np.zeros(steps + 1), np.zeros(steps), np.zeros(steps)
    for table, count in zip(tables, counts, strict=True):
        end = table.steps + 1
        own = _in_classes(table.above, classes)
        above[:, :end] += count * own
        above[:, end:] += count * own[:, -1:]
        slope[:end] += count * table.slope
        slope[end:] += count * table.slope[-1]
        np.maximum(steepest[: table.steps], table.steepest, out=steepest[: table.steps])
        np.maximum(leaning[: table.steps], table.leaning, out=leaning[: table.steps])
    return SurfaceTable(
        tables[0].z_step,
        max(table.height for table in tables),
        above,
        np.ascontiguousarray(above.T),
        slope,
        steepest,
        leaning,
        np.concatenate([table.flat_z for table in tables]),
        np.concatenate([c * table.flat_area for table, c in zip(tables, counts, strict=True)]),
        *(
            float(sum(c * getattr(table, name) for table, c in zip(tables, counts, strict=True)))
            for name in ("total", "seen", "hidden")
        ),
    )


def _in_classes(above: np.ndarray, classes: int) -> np.ndarray:
    """(classes + 1, N + 1) area whose class is at least k, in fewer classes of steepness."""
    own = len(above) - 1
    if own == classes:
        return above
    at = np.linspace(0, own, classes + 1)
    low = np.minimum(at.astype(np.int64), own - 1)
    share = (at - low)[:, None]
    return np.asarray((1 - share) * above[low] + share * above[low + 1])
