"""A bed laid out in time: merged moves with their seconds over the one motion model."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from northpace.beds.bedplan import BedPlan
from northpace.beds.cooling import slow
from northpace.beds.merge import Crossings, Merged, different, merge
from northpace.beds.passes import Passes
from northpace.beds.spec import Placing
from northpace.motion.kinematics import Course, limits_of, pushed, run
from northpace.motion.slowing import layer_starts
from northpace.motion.speeds import start_seconds
from northpace.moves import PAUSE, START, Moves
from northpace.paths.travel.rows import Rows


@dataclass(frozen=True)
class Laid:
    """The moves (M,) of a bed; their layer is the pass."""

    #: the move table; its layer is the pass
    moves: Moves
    #: placing of each, −1 for the start, the loops around all and the ways between placings; row
    #: of its plan, −1 for none
    placing: np.ndarray
    source: np.ndarray
    #: seconds without slowing for least layer times
    quick: np.ndarray
    merged: Merged
    order: Passes
    plans: tuple[BedPlan, ...]
    placings: tuple[Placing, ...]
    #: how long a pause takes
    pause_seconds: float
    #: how many are placings; plans beyond those are the bed's own, its loops
    own: int

    @property
    def seconds(self) -> float:
        """How long the bed takes."""
        return float(self.moves.seconds.sum())

    @property
    def grams(self) -> np.ndarray:
        """(M,) g of filament that each move lays."""
        per = np.array([plan.spec.material.grams_per_mm for plan in self.plans])
        drawn = self.moves.width > 0
        return np.where(drawn, self.moves.filament * self.of_plan(per), 0.0)

    def of_plan(self, value: np.ndarray) -> np.ndarray:
        """(M,) for every move the figure of its plan, of which there are (n,). Moves between pieces
        get the figure of the first plan.
        """
        return np.asarray(value[np.maximum(self.placing, 0)])


def lay(
    plans: Sequence[BedPlan],
    placings: Sequence[Placing],
    order: Passes,
    ways: Crossings,
    pause_seconds: float,
    own: int,
) -> Laid:
    """Time the moves of all pieces in the given order. ``plans[i]`` belongs to ``placings[i]``;
    entries from ``own`` on are the bed's own loops.
    """
    merged = merge(plans, placings, order, ways)
    spec, count = plans[0].spec, len(merged.source)
    width = _gathered(plans, merged, lambda rows: rows.width)
    laid = width > 0
    push = pushed(spec.machine, merged.acceleration)
    course = Course(merged.x, merged.y, merged.z, merged.filament, merged.speed.copy(), push)
    limits = limits_of(spec.machine)
    number = np.where(merged.visit < 0, -1, order.number[np.maximum(merged.visit, 0)])
    number = number.astype(np.int32)
    extra = np.zeros(count)
    extra[merged.feature == START] = start_seconds(plans[order.placing[0]].spec)
    extra[merged.feature == PAUSE] = pause_seconds
    extra[layer_starts(number)] += spec.machine.layer_overhead
    quick, seconds = np.zeros(count), np.zeros(count)
    run(course, limits, 0, count, quick)
    slow(course, limits, laid, merged, order, plans)
    run(course, limits, 0, count, seconds)
    mine = np.maximum(merged.source, 0)
    section = np.concatenate([plan.paced.section for plan in different(plans)])[mine]
    section[merged.source < 0] = 0.0
    moves = Moves(
        number,
        merged.feature,
        merged.x,
        merged.y,
        merged.z,
        width,
        _gathered(plans, merged, lambda rows: rows.height),
        course.speed,
        merged.acceleration.astype(np.float32),
        (section * course.speed).astype(np.float32),
        seconds + extra,
        merged.filament,
        np.where(merged.source < 0, -1, _gathered(plans, merged, lambda rows: rows.cause)),
    )
    placing = np.where(merged.source < 0, -1, order.placing[np.maximum(merged.visit, 0)])
    placing[placing >= own] = -1
    return Laid(
        moves,
        placing,
        _own_rows(plans, order, merged),
        quick + extra,
        merged,
        order,
        tuple(plans),
        tuple(placings),
        pause_seconds,
        own,
    )


def _own_rows(plans: Sequence[BedPlan], order: Passes, merged: Merged) -> np.ndarray:
    """(M,) the row of its own plan that every move is; −1 for none."""
    kinds = different(plans)
    count = [len(plan.paced.rows.layer) for plan in kinds]
    begin = dict(zip(map(id, kinds), np.cumsum([0, *count[:-1]]), strict=True))
    first = np.array([begin[id(plan)] for plan in plans])
    own = merged.source - first[order.placing[np.maximum(merged.visit, 0)]]
    return np.where(merged.source < 0, -1, own)


def _gathered(
    plans: Sequence[BedPlan], merged: Merged, column: Callable[[Rows], np.ndarray]
) -> np.ndarray:
    """(M,) a column of the plans' rows; 0 on the ways between placings."""
    values = np.concatenate([column(plan.paced.rows) for plan in different(plans)])
    out = values[np.maximum(merged.source, 0)]
    out[merged.source < 0] = 0
    return out
