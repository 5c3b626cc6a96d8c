"""The heights of the layers, and what they were chosen by."""

from __future__ import annotations

import numpy as np

from northpace.estimate.rates import Correction
from northpace.heights import frontier as frontiers
from northpace.heights.choose import (
    Picked,
    described,
    given,
    height_task,
    pick,
    plainly_even,
)
from northpace.heights.even import even_heights
from northpace.heights.fit import HeightTask
from northpace.heights.frontier import Frontier
from northpace.heights.stack import Stack
from northpace.heights.surface import SurfaceTable
from northpace.outlines import sections
from northpace.outlines.profile import Profile
from northpace.outlines.sections import Outlines
from northpace.part.place import Placed
from northpace.plan.stage import CORRECTION, HEIGHTS, Stage, stage
from northpace.plan.stages.shape import placed, profile, surface
from northpace.spec import Body, PlanSpec, Surface

#: What only says which of the possible stacks is wanted, or what is done with it afterwards.
WISHES = {
    "kind",
    "measure",
    "target_um",
    "time_cap_min",
    "layer_height",
    "seam",
    "seam_bearing",
    "seam_marks",
    "first_layer_offset",
    "stack",
    "strokes",
    "calm",
    "marks",
    "seen_weight",
    "hidden_weight",
}
#: The quick estimate leaves these to the correction by the exact plan.
EXACT_ONLY = {"regions", "patches"}


def _rules(spec: PlanSpec) -> tuple[str, ...]:
    bounded = spec.surface.is_bounded
    return (
        *(f"surface.{name}" for name in Surface.model_fields if name not in WISHES),
        *(("surface.kind",) if bounded else ()),
        *(f"body.{name}" for name in Body.model_fields if name not in EXACT_ONLY),
        *("pace", "air", "footing", "supports", "machine", "material"),
    )


@stage(profile, surface, CORRECTION, phase="layers", reads=_rules)
def task(
    spec: PlanSpec, profile: Profile, surface: SurfaceTable, correction: Correction | None
) -> HeightTask:
    """Rules, seconds and errors that heights are chosen by; the same for every target and cap."""
    return height_task(profile, surface, spec, correction)


def _but_strokes(_: PlanSpec) -> tuple[str, ...]:
    return (
        *(f"surface.{name}" for name in Surface.model_fields if name != "strokes"),
        "machine",
    )


@stage(task, HEIGHTS, phase="layers", reads=_but_strokes)
def picked(spec: PlanSpec, task: HeightTask, heights: tuple[float, ...] | None) -> Picked:
    """The heights a spec asks for, or those given, before anything is shaped by hand."""
    return given(task, heights) if heights is not None else pick(task, spec)


@stage(task, picked, HEIGHTS, phase="layers", reads=("surface", "machine"))
def stack(
    spec: PlanSpec, task: HeightTask, picked: Picked, heights: tuple[float, ...] | None
) -> Stack:
    """The heights of a plan with what they do to the surface; given ones stay as they are."""
    return described(task, spec, picked, by_hand=heights is None)


@stage(
    placed,
    stack.where(lambda spec: not plainly_even(spec.surface), None),
    phase="layers",
    reads=("surface", "machine"),
    known_by=lambda heights: heights.tobytes().hex(),
)
def heights(spec: PlanSpec, placed: Placed, stack: Stack | None) -> np.ndarray:
    """(N,) layer heights in mm from the bed up; those of a plain even stack are known at once."""
    if stack is None:
        return even_heights(placed.height, spec.surface, spec.machine)
    return stack.heights


@stage(
    placed,
    heights,
    phase="outlines",
    reads=("surface.outline_offset", "surface.first_layer_offset"),
)
def outlines(spec: PlanSpec, placed: Placed, heights: np.ndarray) -> Outlines:
    """The part cut at the middle of every layer. ``heights`` is (N,), in mm."""
    return sections.cut(
        placed, heights, spec.surface.outline_offset, spec.surface.first_layer_offset
    )


def frontier(measures: tuple[str, ...], points: int) -> Stage[Frontier]:
    """The stage that finds the least time for so many values of each of these measures."""

    def run(spec: PlanSpec, task: HeightTask) -> Frontier:
        return frontiers.frontier(task, spec, measures, points)

    # what only says which stack is wanted, a hand's strokes among it, changes none of it
    reads = (*(f"surface.{n}" for n in Surface.model_fields if n not in WISHES), "machine")
    return Stage("frontier", "layers", run, (task,), reads, extra=(measures, points))
