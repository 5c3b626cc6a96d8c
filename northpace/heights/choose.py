"""Choosing the layer heights of a plan: from the spec, the part profile and the surface table to a
stack.
"""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np

from northpace.errors import InputError
from northpace.estimate.lengths import level_of
from northpace.estimate.quick import fixed_seconds, layer_seconds
from northpace.estimate.rates import Correction
from northpace.figures import ByHand, CalmFigures, LayerChoices
from northpace.heights.calm import ERROR, Bounds, Calm, calm_of, calmed
from northpace.heights.conflict import explain
from northpace.heights.decide import decide
from northpace.heights.even import even_heights
from northpace.heights.fit import (
    Fit,
    HeightTask,
    adaptive,
    best_surface,
    first_alone,
    least_time,
    prepared,
)
from northpace.heights.rules import check_stack_settings, finest, rules_of, speaking
from northpace.heights.solve import passes, solve
from northpace.heights.stack import Stack
from northpace.heights.strokes import stroked
from northpace.heights.surface import SurfaceTable
from northpace.outlines.profile import Profile
from northpace.spec import PlanSpec, Surface


def height_task(
    profile: Profile, table: SurfaceTable, spec: PlanSpec, correction: Correction | None = None
) -> HeightTask:
    """What heights are chosen by; raises `InputError` for pins and bands beyond the part.

    Layers end at the edges of bands; where a band's own height does not divide it, its edge layers
    may reach over.
    """
    surface, machine = spec.surface, spec.machine
    check_stack_settings(surface, machine, table.height)
    rules = rules_of(table, surface, machine, spec.body.outer_width)
    if speaking(surface) and not passes(rules):
        rules = rules_of(table, surface, machine, spec.body.outer_width, free_edges=True)
    heights = rules.heights * table.z_step
    by_level = layer_seconds(profile, spec, heights, correction)
    middle = (np.arange(table.steps)[:, None] + rules.heights / 2) * table.z_step
    seconds = by_level[level_of(profile, middle), np.arange(len(heights))]
    return prepared(
        table,
        rules,
        seconds,
        fixed_seconds(profile, spec, min(surface.first_layer_height, table.height), correction),
    )


#: By how much quick times may be above a time cap that exact ones keep.
NEAR = 1.05


class Picked(NamedTuple):
    """A stack (n,) in z steps, how far from what nothing can beat, whether what was asked for is
    kept, and what was given for calm: the seconds, and how calm the stack was before.
    """

    stack: np.ndarray
    gap: float = 0.0
    reached: bool = True
    calm_s: float = 0.0
    before: Calm | None = None

    @property
    def nbytes(self) -> int:
        return self.stack.nbytes


def choose(task: HeightTask, spec: PlanSpec) -> Stack:
    """The stack a spec asks for. Raises `InputError` with the height and the rules where there is
    none.
    """
    return described(task, spec, pick(task, spec))


def given(task: HeightTask, heights: tuple[float, ...]) -> Picked:
    """A stack of given heights in mm."""
    return Picked(np.round(np.array(heights) / task.table.z_step).astype(np.int64))


def described(task: HeightTask, spec: PlanSpec, picked: Picked, by_hand: bool = True) -> Stack:
    """A stack that was picked, with the strokes of a hand over it, and what it comes to."""
    surface, q = spec.surface, task.table.z_step
    stack, gap, reached = picked.stack, picked.gap, picked.reached
    touched = np.zeros(len(stack), bool)
    hand: ByHand | None = None
    # heights that were given one by one are as they were given
    if by_hand and surface.strokes and not surface.stack:
        stack, touched = stroked(task, surface.strokes, picked.stack)
        hand = _difference(task, picked.stack, stack)
    error = task.error(stack)
    if surface.kind == "best-fit" and surface.time_cap_min is None:
        reached = error.of(surface.measure) <= surface.target_um / 1000 + 1e-9
    decided = decide(task, surface, stack, touched)
    target = surface.target_um / 1000
    layers: LayerChoices = {
        "error_um": _plain(1000 * error.layer_max, 2),
        "mean_error_um": _plain(1000 * error.layer_mean, 2),
        "rule": decided.rule,
        "coarser_s": _plain(decided.coarser_s, 2),
        "coarser_um": _plain(decided.coarser_um, 2),
        "finer_s": _plain(decided.finer_s, 2),
        "finer_um": _plain(decided.finer_um, 2),
    }
    return Stack(
        stack * q,
        task.time(stack),
        error,
        gap,
        reached,
        _stretches(task, target) if surface.has_target else np.empty((0, 2)),
        layers,
        _calm_figures(stack, picked),
        hand,
    )


def _calm_figures(stack: np.ndarray, picked: Picked) -> CalmFigures:
    now = calm_of(stack)
    before = picked.before or now
    return {
        "changes": now.changes,
        "turns": now.turns,
        "changes_before": before.changes,
        "turns_before": before.turns,
        "cost_s": picked.calm_s,
    }


def _difference(task: HeightTask, before: np.ndarray, after: np.ndarray) -> ByHand:
    """What strokes made of a stack."""
    was, now = task.error(before), task.error(after)
    return {
        "seconds": task.time(after) - task.time(before),
        "mean_um": 1000 * (now.mean - was.mean),
        "p95_um": 1000 * (now.p95 - was.p95),
        "max_um": 1000 * (now.max - was.max),
    }


def pick(task: HeightTask, spec: PlanSpec) -> Picked:
    """The stack a spec asks for, before anything is shaped by hand."""
    surface = spec.surface
    if surface.stack:
        return Picked(_given(task, spec))
    if surface.kind == "even":
        return Picked(_even(task, spec))
    found = _fitted(task, spec)
    if found is None:
        raise explain(task, spec)
    before = calm_of(found.stack)
    calm = found
    if surface.calm > 0:
        calm = _no_slower(task, surface, calmed(task, found, _bounds(task, found, surface)))
    return Picked(calm.stack, calm.gap, calm.reached, calm.seconds - found.seconds, before)


def _even(task: HeightTask, spec: PlanSpec) -> np.ndarray:
    """Even heights in z steps, as far as pins and bands let them be."""
    surface, q = spec.surface, task.table.z_step
    if _only_strokes(surface):
        return np.round(even_heights(task.table.height, surface, spec.machine) / q).astype(np.int64)
    even = _even_anyway(task, spec)
    if even is not None:
        return even
    away = np.abs(task.rules.heights - surface.layer_height / q) * task.rules.heights
    stack = solve(task.rules, np.tile(away, (task.table.steps, 1)), task.seconds, 0.0)
    if not len(stack):
        raise explain(task, spec)
    return stack


def _fitted(task: HeightTask, spec: PlanSpec) -> Fit | None:
    """The stack of a target or a time cap; None where the rules leave none."""
    surface, q = spec.surface, task.table.z_step
    target = surface.target_um / 1000
    if surface.kind == "adaptive":
        return adaptive(task, target)
    if surface.time_cap_min is None:
        return least_time(task, surface.measure, target)
    found = best_surface(task, surface.measure, surface.time_cap_min * 60)
    # quick times are a little off: what is near is left to the exact ones
    if found is not None and found.seconds > NEAR * surface.time_cap_min * 60:
        raise InputError(
            f"the time cap of {surface.time_cap_min:g} min is below the fastest stack that "
            f"layers of at most {task.rules.heights[-1] * q:g} mm and the other rules allow: "
            f"≈ {found.seconds / 60:.1f} min with heating",
            "surface.time_cap_min",
        )
    return found


def _bounds(task: HeightTask, found: Fit, surface: Surface) -> Bounds:
    """What a calmer stack than the one found may come to. Where the target is kept it stays kept,
    also if the first layer, or the finest layer allowed, misses it elsewhere.
    """
    seconds, target = found.seconds * (1 + surface.calm / 100), surface.target_um / 1000
    if surface.kind == "adaptive":
        return Bounds(seconds, "max", max(target, found.error.max), hard=target)
    measure, error = surface.measure, found.error.of(surface.measure)
    if surface.time_cap_min is not None:
        seconds = max(min(seconds, surface.time_cap_min * 60), found.seconds)
        if first_alone(task, measure, 0.95 * error):
            # the first layer decides this measure alone, so the mean is what calm may change
            measure, error = "mean", found.error.mean
        most = error * (1 + ERROR)
        return Bounds(seconds, measure, most, True, most if measure == "max" else None)
    most = max(target, error) if found.reached else error
    rest = target if found.reached and first_alone(task, measure, target) else None
    return Bounds(seconds, measure, most, False, target if measure == "max" else None, rest)


def _no_slower(task: HeightTask, surface: Surface, calm: Fit) -> Fit:
    """A calm best fit for a target, or the calm adaptive stack, which keeps the target too, where
    calm costs that one less.
    """
    if surface.kind != "best-fit" or surface.time_cap_min is not None or not calm.reached:
        return calm
    bounded = adaptive(task, surface.target_um / 1000)
    # calm only ever costs time
    if bounded is None or not bounded.reached or calm.seconds <= bounded.seconds:
        return calm
    bounds = _bounds(task, bounded, surface.model_copy(update={"kind": "adaptive"}))
    other = calmed(task, bounded, bounds)
    return replace(other, gap=calm.gap) if other.seconds < calm.seconds else calm


def _only_strokes(surface: Surface) -> bool:
    """Whether an even plan would be plain without the strokes of a hand."""
    return plainly_even(surface.model_copy(update={"strokes": ()}))


def plainly_even(surface: Surface) -> bool:
    """Whether every layer has the same height, and nothing else has to be known to say which."""
    return (
        surface.kind == "even"
        and not surface.pins
        and not surface.strokes
        and not speaking(surface)
        and not surface.stack
    )


def _even_anyway(task: HeightTask, spec: PlanSpec) -> np.ndarray | None:
    """The even stack in z steps, where pins set nothing and every band that leaves the heights
    alone begins and ends at one of its layers.
    """
    surface, q = spec.surface, task.table.z_step
    bands = speaking(surface)
    if surface.pins or any(band.sets_heights for band in bands):
        return None
    try:
        stack = np.round(even_heights(task.table.height, surface, spec.machine) / q).astype(
            np.int64
        )
    except InputError:
        return None  # the edges may be what makes the top reachable
    edges = np.array([round(edge / q) for band in bands for edge in (band.from_mm, band.to_mm)])
    inner = edges[(edges > stack[0]) & (edges < stack.sum())]
    return stack if np.isin(inner, np.cumsum(stack)).all() else None


def _given(task: HeightTask, spec: PlanSpec) -> np.ndarray:
    stack = np.round(np.array(spec.surface.stack) / task.table.z_step).astype(np.int64)
    if stack.sum() != task.table.steps:
        raise InputError(
            f"the heights one by one add up to {stack.sum() * task.table.z_step:.2f} mm; the part "
            f"is {task.table.height:.2f} mm tall",
            "surface.stack",
        )
    return stack


def _stretches(task: HeightTask, target: float) -> np.ndarray:
    """(k, 2) stretches in mm where even the finest layer allowed has an error above the target."""
    rules, q = task.rules, task.table.z_step
    over = task.table.steepest * rules.heights[finest(rules.broken)] * q > target + 1e-9
    over[: rules.first] = False
    edges = np.flatnonzero(np.diff(np.r_[False, over, False].astype(np.int8)))
    return edges.reshape(-1, 2) * q


def _plain(values: np.ndarray, digits: int) -> list[float]:
    return [round(float(v), digits) for v in values]
