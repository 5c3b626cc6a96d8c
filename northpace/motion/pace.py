"""Speeds, filament and seconds of every row: feature speeds under the flow limit, slowed where a
layer is too short."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from northpace.motion.asked import asked
from northpace.motion.heat import heat_by_layer
from northpace.motion.kinematics import Course, limits_of, pushed, run
from northpace.motion.slowing import Short, layer_starts, least_times, slow_layers
from northpace.motion.speeds import safe_flows, start_seconds
from northpace.moves import OUTER, START, Moves
from northpace.paths.travel.rows import Rows
from northpace.spec import ByLayer, PlanSpec


@dataclass(frozen=True)
class Timed:
    """The move table, and for every layer (N,) how long it takes and the factor it was slowed by
    (1: not at all).
    """

    moves: Moves
    layer_seconds: np.ndarray
    slowed: np.ndarray
    flow_limited: np.ndarray

    @property
    def nbytes(self) -> int:
        return self.moves.nbytes + 3 * self.layer_seconds.nbytes


@dataclass(frozen=True)
class Paced:
    """Rows with what is asked of each (M,), under the flow limit and before any layer is slowed."""

    rows: Rows
    #: speed as the file says it, and the acceleration that is really reached
    course: Course
    #: mm/s² as the file says it
    acceleration: np.ndarray
    #: mm² of the bead
    section: np.ndarray
    #: whether the flow limit holds its speed
    limited: np.ndarray

    def moves(self, seconds: np.ndarray) -> Moves:
        """The move table with the speeds of the course and seconds (M,)."""
        rows, course = self.rows, self.course
        return Moves(
            rows.layer,
            rows.feature,
            rows.x,
            rows.y,
            rows.z,
            rows.width,
            rows.height,
            course.speed,
            self.acceleration,
            (self.section * course.speed).astype(np.float32),
            seconds,
            course.e,
            rows.cause,
        )


def time_rows(rows: Rows, spec: PlanSpec, tops: np.ndarray, heights: np.ndarray) -> Timed:
    """Give every row of layers (N,) its speed, acceleration, filament and seconds, as the plan, its
    bands and its regions say.
    """
    layers, local = len(tops), ByLayer(spec, tops, heights)
    paced = asked_of(rows, spec, tops, heights)
    slowed = _slowed(paced.course, rows, spec, local)
    seconds = np.zeros(len(rows.layer))
    run(paced.course, limits_of(spec.machine), 0, len(seconds), seconds)
    seconds[rows.feature == START] = start_seconds(spec)
    seconds[layer_starts(rows.layer)] += spec.machine.layer_overhead
    # what comes before the first layer is counted apart
    per_layer = np.bincount(rows.layer + 1, seconds, minlength=layers + 1)[1:]
    limited = np.bincount(rows.layer[paced.limited], minlength=layers) > 0
    return Timed(paced.moves(seconds), per_layer, slowed, limited)


def asked_of(rows: Rows, spec: PlanSpec, tops: np.ndarray, heights: np.ndarray) -> Paced:
    """What is asked of every row of layers (N,), as the plan, its bands and its regions say."""
    flows = safe_flows(spec, heat_by_layer(spec, tops, heights).nozzle)
    found = asked(rows, spec, ByLayer(spec, tops, heights), flows)
    push = pushed(spec.machine, found.acceleration)
    course = Course(rows.x, rows.y, rows.z, found.filament, found.speed, push)
    return Paced(rows, course, found.acceleration, found.section, found.limited)


def _slowed(course: Course, rows: Rows, spec: PlanSpec, local: ByLayer) -> np.ndarray:
    """(N,) share of the speeds that slowing for the least layer times leaves; changes them."""
    slowed, least = np.ones(local.count), least_times(spec, local)
    if least.max(initial=0.0) > 0:
        bounds = np.searchsorted(rows.layer, np.arange(local.count + 1))
        floor = local.numbers("pace.floor_speed", spec.material.floor_speed)
        short = Short(bounds, rows.width > 0, rows.feature == OUTER, least, floor)
        slow_layers(course, limits_of(spec.machine), short, slowed)
    return slowed
