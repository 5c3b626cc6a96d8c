"""What holds under a spec: every setting, and what the maker leaves open as the core takes it."""

from __future__ import annotations

from northpace.figures import Now, Resolved
from northpace.motion.speeds import safe_flow
from northpace.spec import PlanSpec, resolve_heat


def resolved(spec: PlanSpec) -> Resolved:
    """The values a spec leaves to its machine and material."""
    heat = resolve_heat(spec)
    return {
        "least_height": spec.machine.least_height,
        "greatest_height": spec.machine.h_max,
        "safe_flow": safe_flow(spec),
        "least_layer_time": heat["least_layer_time"],
        "nozzle_temp": heat["nozzle_temp"],
        "first_nozzle_temp": heat["first_nozzle_temp"],
        "bed_temp": heat["bed_temp"],
        "first_bed_temp": heat["first_bed_temp"],
        "floor_speed": heat["floor_speed"],
        "fan": heat["fan"],
        "bridge_fan": heat["bridge_fan"],
        "origin": list(spec.machine.origin),
    }


def now(spec: PlanSpec) -> Now:
    """A spec as what is on the screen is said of: its settings and what they leave open."""
    return {"spec": spec.model_dump(mode="json"), "resolved": resolved(spec)}
