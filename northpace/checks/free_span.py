"""Beads that span open air without being bridges, and beads that nothing holds."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some
from northpace.checks.holding import ask_for_support, infill, over_voids, support_change
from northpace.checks.travelled import listed, segments_of
from northpace.moves import FOOTING, INFILL, ROOF, SOLID, SUPPORT, TOP

#: What lies inside walls; a wall in the air is a bridge or leans out, which is said elsewhere.
INSIDE = (SOLID, TOP, INFILL)
#: Beads that carry the part.
CARRIES = (SUPPORT, ROOF, FOOTING)
#: Longest stretch (mm) an ordinary bead spans from hold to hold, and one that ends in the air.
HELD, LOOSE = 15.0, 8.0
#: The same for beads that carry the part.
CARRIES_HELD, CARRIES_LOOSE = 35.0, 5.0


@check(
    "outlines",
    "rows",
    "resting",
    "voids",
    codes=("free-span",),
    reads=(
        *("body.infill_density", "body.build", "machine"),
        *("supports.enabled", "supports.origin"),
    ),
)
def free_span(facts: Facts) -> list[Finding]:
    rows, found = facts.rows, facts.resting
    inside = np.isin(rows.feature[found.runs], INSIDE)
    long = inside & found.held & (found.length > HELD)
    loose = inside & ~found.held & (found.length > LOOSE)
    loose[loose] = over_voids(facts, found.runs[loose])
    carries = np.isin(rows.feature[found.runs], CARRIES)
    long |= carries & found.held & (found.length > CARRIES_HELD)
    # the drooping end of a support carries less, but spoils nothing
    long |= carries & ~found.held & (found.length > CARRIES_LOOSE)
    bad = np.flatnonzero(loose | long)
    if len(bad) == 0:
        return []
    order = bad[np.argsort(-found.length[bad], kind="stable")]
    row = found.runs[order]
    if over_voids(facts, row).any():
        help, change = infill(facts.spec)
    else:
        help = f"{ask_for_support(facts.spec)}, stand the part differently, or change it."
        change = support_change(facts.spec)
    places = listed(
        segments_of(rows, row, facts.spec),
        facts.outlines.tops[rows.layer[row]],
        found.length[order],
    )
    return [
        Finding(
            "free-span",
            "stop" if loose.any() else "look",
            f"{some(len(bad), 'stretch is', 'stretches are')} laid over open air, "
            f"{found.length[bad].sum() / 1000:.2f} m in all, the longest "
            f"{found.length[order[0]]:.0f} mm at {places[0][2]:.2f} mm"
            + (": nothing holds an end of some." if loose.any() else ", held at both ends."),
            places[0][2],
            places[0],
            help,
            places,
            change,
            len(bad),
        )
    ]
