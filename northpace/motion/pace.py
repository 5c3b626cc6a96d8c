"""Speeds, filament and seconds of every row: feature speeds under the flow limit, slowed where a
layer is too short."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np

from northpace.motion.heat import heat_by_layer
from northpace.motion.kinematics import Course, limits_of, run
from northpace.motion.slowing import Short, layer_starts, least_times, slow_layers
from northpace.motion.speeds import (
    ACCELERATIONS,
    SPEEDS,
    accelerations,
    by_feature,
    safe_flows,
    short_loops,
    start_seconds,
)
from northpace.moves import (
    OUTER,
    RETRACTION,
    START,
    TRAVEL,
    Moves,
)
from northpace.paths.bead import area
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
    above = rows.layer >= 0
    per_layer = np.bincount(rows.layer[above], seconds[above], minlength=layers)
    limited = np.bincount(rows.layer[paced.limited], minlength=layers) > 0
    return Timed(paced.moves(seconds), per_layer, slowed, limited)


def asked_of(rows: Rows, spec: PlanSpec, tops: np.ndarray, heights: np.ndarray) -> Paced:
    """What is asked of every row of layers (N,), as the plan, its bands and its regions say."""
    local = ByLayer(spec, tops, heights)
    here, laid = np.maximum(rows.layer, 0), rows.width > 0
    asked = _asked(rows, spec, local)
    dx, dy, dz = (np.diff(column, prepend=column[:1]) for column in (rows.x, rows.y, rows.z))
    # what only rises or falls is asked for as fast as it goes: the file says what is reached
    rises = (dz != 0) & (dx == 0) & (dy == 0) & (rows.feature == TRAVEL)
    asked.speed[rises] = rising_speed(spec)
    length = np.sqrt(dx * dx + dy * dy + dz * dz)
    bead = area(rows.width.astype(np.float64), rows.height.astype(np.float64))
    section = np.where(laid, bead, 0.0) * asked.flow / 100.0
    filament = _filament(rows, section * length, spec, local)
    flows = safe_flows(spec, heat_by_layer(spec, tops, heights).nozzle)
    with np.errstate(divide="ignore"):
        most = np.where(laid, flows[here] / section, np.inf)
    limited = laid & (asked.speed > most + 1e-9)
    speed = sayable(np.minimum(asked.speed, most))
    pushed = asked.acceleration * (spec.machine.acceleration_reached / 100.0)
    course = Course(rows.x, rows.y, rows.z, filament, speed, pushed)
    return Paced(rows, course, asked.acceleration.astype(np.float32), section, limited)


def sayable(speed: np.ndarray) -> np.ndarray:
    """Speeds (M,) as the file says them: millimetres a minute with three decimals."""
    return np.asarray(np.floor(speed * 60000.0) / 60000.0)


def rising_speed(spec: PlanSpec) -> float:
    """What moves that only rise or fall are asked for, in mm/s."""
    own, most = spec.pace.z_speed, spec.machine.max_speed_z
    return most if own is None else min(own, most)


class Asked(NamedTuple):
    """What is asked of every row (M,): mm/s, mm/s², and flow correction in %."""

    speed: np.ndarray
    acceleration: np.ndarray
    flow: np.ndarray


def _asked(rows: Rows, spec: PlanSpec, local: ByLayer) -> Asked:
    """What features, bands, regions, short loops and the first layer ask for."""
    pace, feature, laid = spec.pace, rows.feature, rows.width > 0
    here = np.maximum(rows.layer, 0)
    found = Asked(
        by_feature(rows, here, {k: local.numbers(f"pace.{v}", 0.0) for k, v in SPEEDS.items()}),
        by_feature(rows, here, {code: accelerations(local, code) for code in SPEEDS}),
        local.numbers("material.flow", 100.0)[here],
    )
    for number, changes in enumerate(rows.cases):
        _change(found, rows.region == number, feature, changes, spec)
    loops = short_loops(feature, laid, rows.x, rows.y, pace.short_loop)
    found.speed[loops] = np.minimum(found.speed[loops], pace.short_loop_speed)
    first = (rows.layer == 0) & laid
    found.speed[first] = np.minimum(found.speed[first], pace.first_layer_speed)
    found.acceleration[first] = pace.first_layer_acceleration
    return found


def _change(
    found: Asked, inside: np.ndarray, feature: np.ndarray, changes: dict[str, Any], spec: PlanSpec
) -> None:
    """What regions change for the rows inside them."""
    for code, name in SPEEDS.items():
        mine = inside & (feature == code)
        if f"pace.{name}" in changes:
            found.speed[mine] = changes[f"pace.{name}"]
        own = ACCELERATIONS.get(code, "acceleration")
        # a feature that leaves its acceleration open follows the one of everything laid, also where
        # a region changes that
        follows = getattr(spec.pace, own) is None
        push = changes.get(f"pace.{own}", changes.get("pace.acceleration") if follows else None)
        if push is not None and code != RETRACTION:
            found.acceleration[mine] = push
    found.flow[inside] = changes.get("material.flow", found.flow[inside])


def _filament(rows: Rows, volume: np.ndarray, spec: PlanSpec, local: ByLayer) -> np.ndarray:
    """(M,) filament in mm for volumes (M,) in mm³; pulled back and given back where rows say so."""
    filament = np.round(volume / spec.material.section, 5)
    pulls = rows.feature == RETRACTION
    pull, here = rows.pull[pulls], np.maximum(rows.layer, 0)
    drawn = local.numbers("pace.retraction_length", 0.0)[here][pulls]
    extra = local.numbers("pace.restart_extra", 0.0)[here][pulls]
    # what is given back is what was taken, also where a band begins in between
    drawn = np.where(pull > 0, np.r_[0.0, drawn[:-1]], drawn)
    filament[pulls] = np.round(np.where(pull > 0, drawn + extra, -drawn), 5)
    return filament


def _slowed(course: Course, rows: Rows, spec: PlanSpec, local: ByLayer) -> np.ndarray:
    """(N,) share of the speeds that slowing for the least layer times leaves; changes them."""
    slowed, least = np.ones(local.count), least_times(spec, local)
    if least.max(initial=0.0) > 0:
        bounds = np.searchsorted(rows.layer, np.arange(local.count + 1))
        floor = local.numbers("pace.floor_speed", spec.material.floor_speed)
        short = Short(bounds, rows.width > 0, rows.feature == OUTER, least, floor)
        slow_layers(course, limits_of(spec.machine), short, slowed)
    return slowed
