"""Which speed, acceleration and flow hold for a feature."""

from __future__ import annotations

import numba
import numpy as np

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
    SUPPORT,
    TOP,
    TRAVEL,
)
from northpace.paths.bead import Number
from northpace.spec import ByLayer, PlanSpec, resolve_heat

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


def sayable(speed: Number) -> Number:
    """Speeds as the file says them: millimetres a minute with three decimals."""
    return np.floor(speed * 60000.0) / 60000.0


def rising_speed(spec: PlanSpec) -> float:
    """What moves that only rise or fall are asked for, in mm/s: the file says what is reached."""
    own, most = spec.pace.z_speed, spec.machine.max_speed_z
    return most if own is None else min(own, most)


@numba.njit(cache=True, nogil=True)
def short_loops(feature, laid, x, y, longest):  # type: ignore[no-untyped-def]
    """(M,) whether a row belongs to a wall loop of at most ``longest`` mm: a run of laid rows of
    one wall feature without anything between.
    """
    out = np.zeros(len(feature), np.bool_)
    if longest <= 0.0:
        return out
    first, length = 0, 0.0
    for m in range(len(feature)):
        if not laid[m] or (feature[m] != OUTER and feature[m] != INNER):
            first, length = m + 1, 0.0
            continue
        if m > 0 and feature[m] != feature[m - 1]:
            first, length = m, 0.0
        if m > 0:
            length += np.hypot(x[m] - x[m - 1], y[m] - y[m - 1])
        ends = m + 1 == len(feature) or not laid[m + 1] or feature[m + 1] != feature[m]
        if ends and length <= longest:
            out[first : m + 1] = True
    return out


def accelerations(local: ByLayer, code: int) -> np.ndarray:
    """(N,) acceleration asked for a feature in mm/s²."""
    if code == RETRACTION:
        return np.full(local.count, local.spec.machine.max_acceleration_e)
    return local.numbers(
        f"pace.{ACCELERATIONS.get(code, 'acceleration')}", local.numbers("pace.acceleration", 0.0)
    )
