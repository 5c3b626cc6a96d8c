"""Layers without an outline below others that have one."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some


@check(
    "outlines",
    codes=("empty-layer",),
)
def empty_layer(facts: Facts) -> list[Finding]:
    outlines = facts.outlines
    empty = np.flatnonzero(shapely.is_empty(outlines.areas))
    if len(empty) == 0:
        return []
    z = float(outlines.tops[empty[0]])
    return [
        Finding(
            "empty-layer",
            "stop",
            f"{some(len(empty), 'layer has', 'layers have')} no outline, the first at "
            f"{z:.2f} mm: what lies above starts on nothing.",
            z,
            help="Turn the part, or bring its bodies together.",
        )
    ]
