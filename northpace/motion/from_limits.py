"""Speeds and accelerations that follow from stated limits instead of being typed one by one.

Three limits make a speed: its flow is at most a share of what can be melted; between features that
follow each other the flow changes by at most a stated step; and nothing is asked for that the head
could not reach on the runs the feature usually has at the acceleration the frame stands calmly. The
rest (least layer time, axes) holds for every plan anyway.
"""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple

import numpy as np

from northpace.motion.speeds import safe_flow
from northpace.paths.bead import area
from northpace.spec import PlanSpec

#: Runs in mm that a feature usually has between two corners.
RUNS = {
    "outer_wall_speed": 12.0,
    "inner_wall_speed": 12.0,
    "solid_speed": 8.0,
    "top_speed": 8.0,
    "gap_speed": 4.0,
    "infill_speed": 10.0,
    "bridge_speed": 8.0,
    "support_speed": 8.0,
}
#: What shows: its share of the flow is stated apart, its acceleration is half.
SHOWN = ("outer_wall_speed", "top_speed")
#: What lies behind it, and is never slower.
HIDDEN = ("inner_wall_speed", "infill_speed")
#: Features that follow each other within a layer.
NEIGHBOURS = (
    ("outer_wall_speed", "inner_wall_speed"),
    ("inner_wall_speed", "gap_speed"),
    ("inner_wall_speed", "solid_speed"),
    ("inner_wall_speed", "infill_speed"),
    ("solid_speed", "infill_speed"),
    ("top_speed", "inner_wall_speed"),
)
#: A bridge hangs free while it sets: it is never laid quicker.
BRIDGE_MOST = 40.0
#: The first layer takes hold while it is laid.
FIRST_MOST = 25.0
#: Speeds that can be derived, and accelerations with their share of the calm one.
PUSHES = {
    "acceleration": 1.0,
    "outer_wall_acceleration": 0.5,
    "top_acceleration": 0.5,
    "first_layer_acceleration": 0.3,
    "travel_acceleration": 1.3,
}


#: What `sections` and `reference_height` read, beside machine and material.
SECTION_SETTINGS = (
    "surface.kind",
    "surface.stack",
    "surface.layer_height",
    "surface.least_height",
    "surface.greatest_height",
    "body.outer_width",
    "body.inner_width",
    "body.solid_width",
    "body.top_width",
    "body.infill_width",
    "body.bridge_width",
    "supports.width",
)


def reference_height(spec: PlanSpec) -> float:
    """The layer height in mm that speeds are derived for: the plan's, or with changing heights the
    middle of what is allowed; taller layers are held by the flow itself.
    """
    surface = spec.surface
    if surface.kind == "even" and not surface.stack:
        return surface.layer_height
    low = spec.machine.least_height if surface.least_height is None else surface.least_height
    high = spec.machine.h_max if surface.greatest_height is None else surface.greatest_height
    return (low + high) / 2


def sections(spec: PlanSpec, height: float) -> dict[str, float]:
    """Section in mm² of the bead of every derived speed at a layer height in mm, flow correction
    included.
    """
    body = spec.body
    widths = {
        "outer_wall_speed": body.outer_width,
        "inner_wall_speed": body.inner_width,
        "solid_speed": body.solid_width,
        "top_speed": body.top_width or body.solid_width,
        "gap_speed": body.solid_width,
        "infill_speed": body.infill_width,
        "support_speed": spec.supports.width,
    }
    out = {name: float(area(width, min(height, 0.95 * width))) for name, width in widths.items()}
    out["bridge_speed"] = np.pi / 4 * (body.bridge_width or spec.machine.nozzle) ** 2
    return {name: value * spec.material.flow / 100 for name, value in out.items()}


class Aim(NamedTuple):
    """How much of the limits is asked for, all in %: of the safe flow by the feature that needs
    most and by what shows; how much more flow may follow less; of the calm acceleration.
    """

    flow_share: float
    outer_share: float
    flow_step: float
    calm_share: float


def aim_of(spec: PlanSpec) -> Aim:
    """What a plan asks for."""
    return Aim(*(getattr(spec.pace, name) for name in Aim._fields))


def from_limits(spec: PlanSpec, aim: Aim, by_hand: Collection[str] = ()) -> dict[str, float]:
    """Every speed (mm/s) and acceleration (mm/s²) as limits say, but for those set by hand."""
    pace, machine = spec.pace, spec.machine
    section = sections(spec, reference_height(spec))
    calm = machine.calm_acceleration * aim.calm_share / 100
    safe = safe_flow(spec)
    flow = {}
    for name, run in RUNS.items():
        if name in by_hand:
            continue
        # on a run of this length, half of it speeding up and half braking, no more than this is
        # reached
        reach = float(np.sqrt(calm * (0.5 if name in SHOWN else 1.0) * run))
        share = aim.outer_share if name in SHOWN else aim.flow_share
        top = min(reach, BRIDGE_MOST if name == "bridge_speed" else np.inf, machine.max_speed_xy)
        flow[name] = min(share / 100 * safe, top * section[name])
    step = 1 + aim.flow_step / 100
    fixed = {name: getattr(pace, name) * section[name] for name in RUNS if name in by_hand}
    for _ in NEIGHBOURS:  # the lower flow wins and spreads over at most so many neighbours
        for one, two in NEIGHBOURS:
            for name, other in ((one, two), (two, one)):
                if name in flow:
                    flow[name] = min(flow[name], step * flow.get(other, fixed.get(other, np.inf)))
    values: dict[str, float] = {name: tidy(value / section[name]) for name, value in flow.items()}
    values |= {
        name: float(np.clip(round(calm * share / 50) * 50, 10, 50000))
        for name, share in PUSHES.items()
        if name not in by_hand
    }
    return in_order(spec, values)


def in_order(spec: PlanSpec, values: dict[str, float]) -> dict[str, float]:
    """Speeds of which those that show are never above what lies hidden behind them, and the first
    layer is no quicker than the outer wall; those left out of ``values`` stand in the plan.
    """

    def speed(name: str) -> float:
        return float(values.get(name, getattr(spec.pace, name)))

    hidden = min(speed(name) for name in HIDDEN)
    held = {name: min(values[name], hidden) for name in SHOWN if name in values}
    values = {**values, **held}
    if "first_layer_speed" not in spec.pace.by_hand:
        values["first_layer_speed"] = min(FIRST_MOST, speed("outer_wall_speed"))
    return values


def tidy(speed: float) -> float:
    """Rounded down to half a millimetre a second, so that no limit is passed by rounding; at least
    1.
    """
    return float(max(np.floor(2 * speed + 1e-9) / 2, 1.0))
