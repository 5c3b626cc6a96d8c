"""Layers that are slowed so that they can set."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some
from northpace.spec import resolve_heat


@check(
    "outlines",
    "timed",
    codes=("slowed",),
    reads=(
        "pace.least_layer_time",
        "pace.floor_speed",
        "air",
        "material",
    ),
)
def slowed(facts: Facts) -> list[Finding]:
    outlines, timed = facts.outlines, facts.timed
    slowed = np.flatnonzero(timed.slowed < 0.995)
    if len(slowed) == 0:
        return []
    z, least = float(outlines.tops[slowed[0]]), resolve_heat(facts.spec)["least_layer_time"]
    return [
        Finding(
            "slowed",
            "note",
            f"{some(len(slowed), 'layer', 'layers')} slowed to last {least:g} s, from {z:.2f} mm "
            f"on; the most to {100 * timed.slowed.min():.0f} % of the speed asked for.",
            z,
            help="Accept a shorter layer time with more fan.",
        )
    ]
