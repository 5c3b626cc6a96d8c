"""What a machine and its nozzles may be."""

from __future__ import annotations

from typing import Any

from northpace.errors import InputError
from northpace.gcode.template import check, check_heat
from northpace.spec import spec_from
from northpace.spec.widths import suggested

#: Hot and warm enough for anything, so that a machine or a material is judged by itself.
ANY_MATERIAL = {
    "nozzle_temp": 0.0,
    "first_nozzle_temp": 0.0,
    "bed_temp": 0.0,
    "first_bed_temp": 0.0,
}


#: Figures of a machine that belong to its nozzles, its name or its jobs.
NOT_ITS_OWN = {
    "name",
    "nozzle",
    "nozzle_flow",
    "nozzle_hard",
    "least_height",
    "greatest_height",
    "acceleration_reached",
    "layer_overhead",
    "estimate_spread",
}


def check_figures(figures: dict[str, Any], nozzle: dict[str, Any] | None = None) -> dict[str, Any]:
    """Figures of a machine that differ from the defaults, as they are, checked with a nozzle;
    raises `InputError` with what is allowed.
    """
    strange = NOT_ITS_OWN & set(figures)
    if strange:
        raise InputError(
            f"'{min(strange)}' is a figure of the nozzle, the name or the jobs, not of the machine",
            "figures",
        )
    spec = spec_from(
        {
            "machine": {**figures, "name": "machine", **(nozzle or {})},
            "material": ANY_MATERIAL,
            **_fitting(nozzle),
        }
    ).machine
    for name in ("start_gcode", "end_gcode"):
        text, where = getattr(spec, name), f"machine.{name}"
        check(text, where)
        check_heat(text, spec.hottest_nozzle, spec.hottest_bed, where)
    return figures


def _fitting(nozzle: dict[str, Any] | None) -> dict[str, Any]:
    """Layer heights and beads that go with a nozzle, so that it is not judged by those of another
    one.
    """
    if nozzle is None:
        return {}
    greatest = nozzle.get("greatest_height")
    return suggested(
        float(nozzle["nozzle"]),
        float(nozzle.get("least_height", 0.0)),
        float(greatest) if greatest else None,
    )
