"""Speeds, filament and seconds of every row: feature speeds under the flow limit, slowed where a
layer is too short.
"""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np

from northpace.motion.heat import heat_by_layer
from northpace.motion.kinematics import limits_of, run
from northpace.moves import (
    BRIDGE,
    FOOTING,
    GAP,
    INFILL,
    INNER,
    OUTER,
    RETRACTION,
    ROOF,
    SOLID,
    START,
    SUPPORT,
    TOP,
    TRAVEL,
    Moves,
)
from northpace.paths.bead import area
from northpace.paths.lay import Rows
from northpace.spec import ByLayer, PlanSpec, resolve_heat

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


#: The setting of `Pace` that each feature's speed comes from.
SPEEDS = {
    TRAVEL: "travel_speed",
    RETRACTION: "retraction_speed",
    FOOTING: "footing_speed",
    OUTER: "outer_wall_speed",
    INNER: "inner_wall_speed",
    SOLID: "solid_speed",
    INFILL: "infill_speed",
    GAP: "gap_speed",
    TOP: "top_speed",
    BRIDGE: "bridge_speed",
    SUPPORT: "support_speed",
    ROOF: "support_speed",
}
#: The setting of `Pace` that each feature's acceleration comes from; left open, it is that of
#: everything laid.
ACCELERATIONS = {
    TRAVEL: "travel_acceleration",
    OUTER: "outer_wall_acceleration",
    FOOTING: "first_layer_acceleration",
    INNER: "inner_wall_acceleration",
    SOLID: "solid_acceleration",
    TOP: "top_acceleration",
    INFILL: "infill_acceleration",
    BRIDGE: "bridge_acceleration",
    SUPPORT: "support_acceleration",
    ROOF: "support_acceleration",
}


def speed_of(spec: PlanSpec, feature: int) -> float:
    """Speed asked for a feature in mm/s, before any limit."""
    return float(getattr(spec.pace, SPEEDS[feature]))


def start_seconds(spec: PlanSpec) -> float:
    """Homing and heating from 20 °C to the first layer's temperatures, bed and nozzle one after the
    other, in s.
    """
    heat = resolve_heat(spec)
    return (
        spec.machine.homing_time
        + max(heat["first_bed_temp"] - 20.0, 0.0) / spec.machine.bed_heating
        + max(heat["first_nozzle_temp"] - 20.0, 0.0) / spec.machine.nozzle_heating
    )


def acceleration_of(spec: PlanSpec, feature: int) -> float:
    """Acceleration asked for a feature in mm/s², above the first layer."""
    own = getattr(spec.pace, ACCELERATIONS[feature]) if feature in ACCELERATIONS else None
    return float(spec.pace.acceleration if own is None else own)


def safe_flow(spec: PlanSpec, temp: float | None = None) -> float:
    """The flow in mm³/s that is not exceeded: the safe share of what nozzle and material melt, the
    lesser of the two; of the material at a nozzle temperature in °C, that above the first layer
    when none is given.
    """
    at = resolve_heat(spec)["nozzle_temp"] if temp is None else temp
    return (
        spec.pace.safe_flow
        / 100.0
        * min(spec.machine.nozzle_flow, float(spec.material.flow_at(at)))
    )


def safe_flows(spec: PlanSpec, nozzle: np.ndarray) -> np.ndarray:
    """(N,) the same for every layer with its nozzle temperature (N,) in °C."""
    return np.asarray(
        spec.pace.safe_flow
        / 100.0
        * np.minimum(spec.machine.nozzle_flow, spec.material.flow_at(nozzle))
    )


def time_rows(rows: Rows, spec: PlanSpec, tops: np.ndarray, heights: np.ndarray) -> Timed:
    """Give every row of layers (N,) its speed, acceleration, filament and seconds, as the plan, its
    bands and its regions say.
    """
    pace, material, layers = spec.pace, spec.material, len(tops)
    local = ByLayer(spec, tops, heights)
    feature, first = rows.feature, rows.layer == 0
    here = np.maximum(rows.layer, 0)
    speed = _by_feature(
        rows, here, {code: local.numbers(f"pace.{name}", 0.0) for code, name in SPEEDS.items()}
    )
    acceleration = _by_feature(rows, here, {code: _accelerations(local, code) for code in SPEEDS})
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
        _slow_layers(
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


def short_loops(
    feature: np.ndarray, laid: np.ndarray, x: np.ndarray, y: np.ndarray, longest: float
) -> np.ndarray:
    """(M,) whether a row belongs to a wall loop of at most ``longest`` mm: a run of laid rows of
    one wall feature without anything between.
    """
    out = np.zeros(len(feature), bool)
    wall = laid & ((feature == OUTER) | (feature == INNER))
    if longest <= 0 or not wall.any():
        return out
    length = np.hypot(np.diff(x, prepend=x[:1]), np.diff(y, prepend=y[:1]))
    begins = np.flatnonzero(wall & np.r_[True, ~wall[:-1] | (feature[1:] != feature[:-1])])
    number = np.cumsum(np.bincount(begins, minlength=len(feature)))[wall] - 1
    total = np.bincount(number, length[wall], len(begins))
    out[wall] = (total <= longest)[number]
    return out


def layer_starts(layer: np.ndarray) -> np.ndarray:
    """Indices of the first row of every layer, of rows (M,) with their layer."""
    return np.flatnonzero((np.diff(layer, prepend=-1) > 0) & (layer >= 0))


def _accelerations(local: ByLayer, code: int) -> np.ndarray:
    """(N,) acceleration asked for a feature in mm/s²."""
    if code == RETRACTION:
        return np.full(local.count, local.spec.machine.max_acceleration_e)
    return local.numbers(
        f"pace.{ACCELERATIONS.get(code, 'acceleration')}", local.numbers("pace.acceleration", 0.0)
    )


def least_times(spec: PlanSpec, local: ByLayer) -> np.ndarray:
    """(N,) least time of each layer in s: the plan's or the material's, or more where a list says
    so.
    """
    least = local.numbers("pace.least_layer_time", spec.material.least_layer_time)
    own = np.array(spec.pace.layer_seconds[: local.count])
    least[: len(own)] = np.maximum(least[: len(own)], own)
    return least


def _by_feature(rows: Rows, layer: np.ndarray, values: dict[int, np.ndarray]) -> np.ndarray:
    """(M,) the value (N,) of every row's feature in its layer (M,)."""
    out = np.full(len(rows.feature), 100.0)
    for code, value in values.items():
        mine = rows.feature == code
        out[mine] = value[layer[mine]]
    return out


@numba.njit(cache=True)
def _layer_time(x, y, z, e, speed, acceleration, limits, first, last, scratch):  # type: ignore[no-untyped-def]
    if first == 0:
        return run(x, y, z, e, speed, acceleration, limits, first, last, 0.0, 0.0, 0.0, scratch)
    return run(
        x,
        y,
        z,
        e,
        speed,
        acceleration,
        limits,
        first,
        last,
        x[first - 1],
        y[first - 1],
        z[first - 1],
        scratch,
    )


@numba.njit(cache=True)
def _slow_layers(  # type: ignore[no-untyped-def]
    x, y, z, e, speed, acceleration, limits, bounds, laid, outer, least, floor, slowed
):
    """Slow short layers until they last their ``least`` (N,) s, the outer walls only when slowing
    the rest did not suffice.

    The factor is solved against the motion model by halving intervals, because halving the speed of
    short moves, which never reach it, changes nothing.
    """
    scratch = np.empty(len(x))
    for n in range(len(bounds) - 1):
        first, last = bounds[n], bounds[n + 1]
        if last <= first:
            continue
        if _layer_time(x, y, z, e, speed, acceleration, limits, first, last, scratch) >= least[n]:
            continue
        asked = speed[first:last].copy()
        for group in range(2):
            low, high, reached = 0.0, 1.0, False
            for step in range(14):
                factor = 0.5 * (low + high) if step else 0.0
                for k in range(first, last):
                    if laid[k] and (outer[k] if group else not outer[k]):
                        v = asked[k - first]
                        speed[k] = (
                            np.floor(max(v * factor, min(floor[n], v)) * 60000.0 + 1e-6) / 60000.0
                        )
                time = _layer_time(x, y, z, e, speed, acceleration, limits, first, last, scratch)
                if step == 0:
                    if time < least[n]:
                        break  # even at the floor speed not long enough: the next group has to help
                    reached = True
                elif time >= least[n]:
                    low = factor
                else:
                    high = factor
            if reached:
                for k in range(first, last):
                    if laid[k] and (outer[k] if group else not outer[k]):
                        v = asked[k - first]
                        speed[k] = (
                            np.floor(max(v * low, min(floor[n], v)) * 60000.0 + 1e-6) / 60000.0
                        )
                break
        wanted, given = 0.0, 0.0
        for k in range(first, last):
            if laid[k]:
                wanted += asked[k - first]
                given += speed[k]
        slowed[n] = given / wanted if wanted > 0 else 1.0
