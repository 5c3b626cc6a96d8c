"""The moves with their speeds and seconds, and what they come to."""

from __future__ import annotations

import numpy as np

from northpace.figures import Pace
from northpace.material import amounts as costs
from northpace.material.amounts import Amounts
from northpace.material.strength import Strength
from northpace.material.strength import strength as strength_of
from northpace.motion.from_limits import SECTION_SETTINGS
from northpace.motion.pace import Timed, time_rows
from northpace.motion.table import pace_rows
from northpace.outlines.sections import Outlines
from northpace.paths.resting import Resting
from northpace.paths.resting import resting as what_rests
from northpace.paths.travel.rows import Rows
from northpace.plan.stage import Before, Now, stage
from northpace.plan.stages.heights import heights, outlines
from northpace.plan.stages.order import rows
from northpace.spec import PlanSpec, local_settings

#: Settings of pace, heat and air that bands may change.
PACE = tuple(name for name in local_settings() if name.split(".")[0] in ("pace", "air", "material"))


@stage(
    rows,
    outlines,
    heights,
    phase="motion",
    reads=("pace", "air", "material", "machine"),
    local=PACE,
)
def timed(spec: PlanSpec, rows: Rows, outlines: Outlines, heights: np.ndarray) -> Timed:
    """Every move with its speed, acceleration, filament and seconds. ``heights`` (N,) are those of
    the layers, in mm.
    """
    return time_rows(rows, spec, outlines.tops, heights)


@stage(timed, phase="checks", reads=(*SECTION_SETTINGS, "pace", "air", "material", "machine"))
def paces(spec: PlanSpec, timed: Timed) -> Pace:
    """Speeds asked for, and what of them is reached."""
    return pace_rows(spec, timed)


def _rests_again(before: Before, now: Now) -> Resting:
    """What rests on what, with what is known of layers whose beads are the same."""
    supports = now.part.supports
    return what_rests(now.values[1], supports.gap_top, supports.gap_bottom, before.result.known)


@stage(
    outlines,
    rows,
    phase="checks",
    reads=("supports.gap_top", "supports.gap_bottom"),
    again=_rests_again,
)
def resting(spec: PlanSpec, outlines: Outlines, rows: Rows) -> Resting:
    """What every bead rests on."""
    return what_rests(rows, spec.supports.gap_top, spec.supports.gap_bottom)


@stage(rows, outlines, heights, phase="checks")
def strength(spec: PlanSpec, rows: Rows, outlines: Outlines, heights: np.ndarray) -> Strength:
    """How solid and how stiff every layer is. ``heights`` is (N,), in mm."""
    return strength_of(outlines.areas, rows, heights)


@stage(timed, phase="checks", reads=("material", "machine"))
def amounts(spec: PlanSpec, timed: Timed) -> Amounts:
    """Filament and money of the plan."""
    moves = timed.moves
    length = float(moves.filament[moves.width > 0].sum())
    return costs.amounts(length, float(moves.seconds.sum()), spec.material, spec.machine)
