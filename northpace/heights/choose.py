"""Choosing the layer heights of a plan: from the spec, the part profile and the surface table to a
stack.
"""

from __future__ import annotations

import numpy as np

from northpace.errors import InputError
from northpace.estimate.lengths import level_of
from northpace.estimate.quick import fixed_seconds, layer_seconds
from northpace.estimate.rates import Correction
from northpace.figures import LayerChoices
from northpace.heights.conflict import explain
from northpace.heights.decide import decide
from northpace.heights.even import even_heights
from northpace.heights.fit import Fit, HeightTask, adaptive, best_surface, least_time, prepared
from northpace.heights.rules import check_stack_settings, finest, rules_of, speaking
from northpace.heights.solve import passes, solve
from northpace.heights.stack import Stack
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


def choose(task: HeightTask, spec: PlanSpec, given: tuple[float, ...] | None = None) -> Stack:
    """The stack a spec asks for, or one of ``given`` heights in mm. Raises `InputError` with the
    height and the rules where there is none.
    """
    surface, q = spec.surface, task.table.z_step
    if given is None:
        stack, gap, reached = _pick(task, spec)
    else:
        stack, gap, reached = np.round(np.array(given) / q).astype(np.int64), 0.0, True
    error = task.error(stack)
    if surface.kind == "best-fit" and surface.time_cap_min is None:
        reached = error.of(surface.measure) <= surface.target_um / 1000 + 1e-9
    decided = decide(task, surface, stack)
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
    )


def _pick(task: HeightTask, spec: PlanSpec) -> tuple[np.ndarray, float, bool]:
    """Stack in z steps, gap, and whether what was asked for is kept."""
    surface, q = spec.surface, task.table.z_step
    if surface.stack:
        return _given(task, spec), 0.0, True
    target = surface.target_um / 1000
    if surface.kind == "even":
        if plainly_even(surface):
            return (
                np.round(even_heights(task.table.height, surface, spec.machine) / q).astype(
                    np.int64
                ),
                0.0,
                True,
            )
        even = _even_anyway(task, spec)
        if even is not None:
            return even, 0.0, True
        away = np.abs(task.rules.heights - surface.layer_height / q) * task.rules.heights
        stack = solve(task.rules, np.tile(away, (task.table.steps, 1)), task.seconds, 0.0)
        if not len(stack):
            raise explain(task, spec)
        return stack, 0.0, True
    found: Fit | None
    if surface.kind == "adaptive":
        found = adaptive(task, target)
    elif surface.time_cap_min is None:
        found = least_time(task, surface.measure, target)
    else:
        found = best_surface(task, surface.measure, surface.time_cap_min * 60)
        # quick times are a little off: what is near is left to the exact ones
        if found is not None and found.seconds > NEAR * surface.time_cap_min * 60:
            raise InputError(
                f"the time cap of {surface.time_cap_min:g} min is below the fastest stack that "
                f"layers of at most {task.rules.heights[-1] * q:g} mm and the other rules allow: "
                f"≈ {found.seconds / 60:.1f} min with heating",
                "surface.time_cap_min",
            )
    if found is None:
        raise explain(task, spec)
    return found.stack, found.gap, found.reached


def plainly_even(surface: Surface) -> bool:
    """Whether every layer has the same height, and nothing else has to be known to say which."""
    return (
        surface.kind == "even" and not surface.pins and not speaking(surface) and not surface.stack
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
