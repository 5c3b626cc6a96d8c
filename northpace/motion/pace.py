"""Speeds, filament and seconds of every row: feature speeds under the flow limit, slowed where a
layer is too short."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from northpace.motion.heat import heat_by_layer
from northpace.motion.kinematics import limits_of, run
from northpace.motion.slowing import layer_starts, least_times, slow_layers
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
from northpace.paths.travel.lay import Rows
from northpace.spec import ByLayer, PlanSpec

LIFT_SPEED = 1000.0  # a layer change asks for more than any z axis has: its own limit decides


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


def time_rows(rows: Rows, spec: PlanSpec, tops: np.ndarray, heights: np.ndarray) -> Timed:
    """Give every row of layers (N,) its speed, acceleration, filament and seconds, as the plan, its
    bands and its regions say.
    """
    pace, material, layers = spec.pace, spec.material, len(tops)
    local = ByLayer(spec, tops, heights)
    feature, first = rows.feature, rows.layer == 0
    here = np.maximum(rows.layer, 0)
    speed = by_feature(
        rows, here, {code: local.numbers(f"pace.{name}", 0.0) for code, name in SPEEDS.items()}
    )
    acceleration = by_feature(rows, here, {code: accelerations(local, code) for code in SPEEDS})
    flow = local.numbers("material.flow", 100.0)[here]
    for number, changes in enumerate(rows.cases):
        inside = rows.region == number
        for code, name in SPEEDS.items():
            if f"pace.{name}" in changes:
                speed[inside & (feature == code)] = changes[f"pace.{name}"]
            own = ACCELERATIONS.get(code, "acceleration")
            # a feature that leaves its acceleration open follows the one of everything laid, also
            # where a region changes that
            push = changes.get(
                f"pace.{own}",
                changes.get("pace.acceleration") if getattr(pace, own) is None else None,
            )
            if push is not None and code != RETRACTION:
                acceleration[inside & (feature == code)] = push
        flow[inside] = changes.get("material.flow", flow[inside])
    laid = rows.width > 0
    loops = short_loops(rows.feature, laid, rows.x, rows.y, pace.short_loop)
    speed[loops] = np.minimum(speed[loops], pace.short_loop_speed)
    speed[first & laid] = np.minimum(speed[first & laid], pace.first_layer_speed)
    acceleration[first & laid] = pace.first_layer_acceleration
    dx, dy, dz = (np.diff(column, prepend=column[:1]) for column in (rows.x, rows.y, rows.z))
    speed[(dz != 0) & (feature == TRAVEL)] = LIFT_SPEED if pace.z_speed is None else pace.z_speed
    length = np.sqrt(dx * dx + dy * dy + dz * dz)
    section = (
        np.where(laid, area(rows.width.astype(np.float64), rows.height.astype(np.float64)), 0.0)
        * flow
        / 100.0
    )
    filament = np.round(section * length / (np.pi * material.diameter**2 / 4.0), 5)
    pull = rows.pull[feature == RETRACTION]
    drawn, extra = (
        local.numbers(f"pace.{name}", 0.0)[here][feature == RETRACTION]
        for name in ("retraction_length", "restart_extra")
    )
    # what is given back is what was taken, also where a band begins in between
    drawn = np.where(pull > 0, np.r_[0.0, drawn[:-1]], drawn)
    filament[feature == RETRACTION] = np.round(np.where(pull > 0, drawn + extra, -drawn), 5)
    flows = safe_flows(spec, heat_by_layer(spec, tops, heights).nozzle)
    with np.errstate(divide="ignore"):
        most = np.where(laid, flows[here] / section, np.inf)
    limited = laid & (speed > most + 1e-9)
    speed = np.minimum(speed, most)
    # the file says millimetres a minute with three decimals; the table says what the file says
    speed = np.floor(speed * 60000.0) / 60000.0
    limits = limits_of(spec.machine)
    pushed = acceleration * (spec.machine.acceleration_reached / 100.0)
    bounds = np.searchsorted(rows.layer, np.arange(layers + 1))
    least = least_times(spec, local)
    slowest = local.numbers("pace.floor_speed", spec.material.floor_speed)
    slowed = np.ones(layers)
    if least.max(initial=0.0) > 0:
        slow_layers(
            rows.x,
            rows.y,
            rows.z,
            filament,
            speed,
            pushed,
            limits,
            bounds,
            laid,
            feature == OUTER,
            least,
            slowest,
            slowed,
        )
    seconds = np.zeros(len(speed))
    run(
        rows.x,
        rows.y,
        rows.z,
        filament,
        speed,
        pushed,
        limits,
        0,
        len(speed),
        0.0,
        0.0,
        0.0,
        seconds,
    )
    seconds[feature == START] = start_seconds(spec)
    seconds[layer_starts(rows.layer)] += spec.machine.layer_overhead
    moves = Moves(
        rows.layer,
        feature,
        rows.x,
        rows.y,
        rows.z,
        rows.width,
        rows.height,
        speed,
        acceleration.astype(np.float32),
        (section * speed).astype(np.float32),
        seconds,
        filament,
        rows.cause,
    )
    per_layer = np.bincount(rows.layer[rows.layer >= 0], seconds[rows.layer >= 0], minlength=layers)
    capped = (
        np.bincount(rows.layer[limited], minlength=layers) > 0
        if limited.any()
        else np.zeros(layers, bool)
    )
    return Timed(moves, per_layer, slowed, capped)
