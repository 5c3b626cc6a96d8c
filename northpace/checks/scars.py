"""Stands that touch faces marked as seen."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some


@check(
    "stands",
    codes=("scars",),
)
def scars(facts: Facts) -> list[Finding]:
    held = facts.stands
    scars = np.flatnonzero(held.seen > 0.5)
    if len(scars) == 0:
        return []
    at = tuple((float(x), float(y), float(z)) for x, y, z in np.round(held.at[scars], 3))
    return [
        Finding(
            "scars",
            "look",
            f"{some(len(scars), 'stand touches', 'stands touch')} faces marked as seen, "
            f"{held.seen[scars].sum():.0f} mm²: scars will show.",
            at[0][2],
            at[0],
            "Stand the part differently, or forbid support there.",
            at,
        )
    ]
