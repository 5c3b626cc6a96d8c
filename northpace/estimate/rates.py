"""How long lengths take at the speeds of a plan, or of many at once."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from northpace.motion.speeds import acceleration_of, safe_flow
from northpace.moves import INFILL, INNER, SOLID, SUPPORT
from northpace.paths.bead import area, filament_length
from northpace.spec import PlanSpec, resolve_heat

#: Typical straight run in mm between slow points; corrected by the first exact plan.
TYPICAL = {
    "outer-wall": 6.0,
    "inner-wall": 6.0,
    "gap": 6.0,
    "solid": 8.0,
    "infill": 10.0,
    "support": 10.0,
}
TRAVEL_SHARE = 0.08
#: Settings that `resolve_heat` reads.
HEAT_READ = (
    *("air.nozzle_temp", "air.first_nozzle_temp", "air.bed_temp", "air.first_bed_temp", "air.fan"),
    *("air.bridge_fan", "material.nozzle_temp", "material.first_nozzle_temp", "material.bed_temp"),
    *("material.first_bed_temp", "material.fan", "material.floor_speed"),
    *("material.least_layer_time", "pace.floor_speed", "pace.least_layer_time"),
)
#: Settings that `timed` and `lasting` read of the plan they are handed.
SHARED_READ = (
    *HEAT_READ,
    *("material.flow", "material.diameter"),
    *("machine.acceleration_reached", "machine.layer_overhead"),
)
#: Ratios exact / quick: {"seconds" | "filament": {feature: ratio}}.
Correction = dict[str, dict[str, float]]


def lasting(spec: PlanSpec, per_layer: np.ndarray) -> np.ndarray:
    """Seconds of layers that are slowed to their least time, as far as the floor speed lets them.
    ``per_layer`` (N,) are the seconds they would take.
    """
    return np.maximum(per_layer, np.minimum(resolve_heat(spec)["least_layer_time"], per_layer * 8))


@dataclass(frozen=True)
class Rates:
    """Speeds (mm/s), accelerations (mm/s²) and safe flows (mm³/s) of a plan; of several plans at
    once as columns (C, 1).
    """

    speed: dict[str, Any]
    push: dict[str, Any]
    first_speed: Any
    first_push: Any
    safe: Any
    first_safe: Any
    travel: Any


def rates_of(spec: PlanSpec) -> Rates:
    """What a plan asks of every feature the quick figures tell apart."""
    pace = spec.pace
    speed = {
        "outer-wall": pace.outer_wall_speed,
        "inner-wall": pace.inner_wall_speed,
        "gap": pace.gap_speed,
        "solid": pace.solid_speed,
        "infill": pace.infill_speed,
        "support": pace.support_speed,
    }
    push = {
        "outer-wall": pace.outer_wall_acceleration,
        "inner-wall": acceleration_of(spec, INNER),
        "gap": pace.acceleration,
        "solid": acceleration_of(spec, SOLID),
        "infill": acceleration_of(spec, INFILL),
        "support": acceleration_of(spec, SUPPORT),
    }
    return Rates(
        speed,
        push,
        pace.first_layer_speed,
        pace.first_layer_acceleration,
        safe_flow(spec),
        safe_flow(spec, resolve_heat(spec)["first_nozzle_temp"]),
        pace.travel_speed,
    )


def stacked(rates: list[Rates]) -> Rates:
    """Rates of several plans as columns."""

    def column(values: list[float]) -> np.ndarray:
        return np.array(values)[:, None]

    first = rates[0]
    return Rates(
        {name: column([one.speed[name] for one in rates]) for name in first.speed},
        {name: column([one.push[name] for one in rates]) for name in first.push},
        *(
            column([getattr(one, name) for one in rates])
            for name in ("first_speed", "first_push", "safe", "first_safe", "travel")
        ),
    )


def timed(
    rates: Rates,
    spec: PlanSpec,
    lengths: dict[str, np.ndarray],
    widths: dict[str, Any],
    runs: dict[str, Any],
    heights: np.ndarray,
    first: np.ndarray,
    correction: Correction | None,
) -> tuple[dict[str, np.ndarray], dict[str, np.ndarray]]:
    """Seconds and filament (mm) by feature of layers (n,) with lengths (mm) at rates; of several
    plans at once (C, n) where lengths and rates are of several. Material and machine are those of
    ``spec``.
    """
    factor = correction or {"seconds": {}, "filament": {}}
    seconds: dict[str, np.ndarray] = {}
    filament: dict[str, np.ndarray] = {}
    flow = np.where(first, rates.first_safe, rates.safe)
    for name, run in lengths.items():
        section = (
            area(np.broadcast_to(np.asarray(widths[name], np.float64), run.shape), heights)
            * spec.material.flow
            / 100
        )
        v = np.minimum(
            np.where(first, np.minimum(rates.speed[name], rates.first_speed), rates.speed[name]),
            flow / section,
        )
        a = np.where(first, rates.first_push, rates.push[name]) * (
            spec.machine.acceleration_reached / 100
        )
        # on a typical run the head is braked to a stop and brought up to speed once: v/a longer
        # than cruising
        straight = runs.get(name, TYPICAL[name])
        seconds[name] = run * (1 / v + v / a / straight / 2) * factor["seconds"].get(name, 1.0)
        filament[name] = filament_length(run * section, spec.material.diameter) * factor[
            "filament"
        ].get(name, 1.0)
    laid = np.sum(list(lengths.values()), axis=0)
    seconds["travel"] = (
        TRAVEL_SHARE * laid / rates.travel + 0.15 + spec.machine.layer_overhead
    ) * factor["seconds"].get("travel", 1.0)
    return seconds, filament
