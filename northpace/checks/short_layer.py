"""Layers that stay too short to set even at the floor speed."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some
from northpace.figures import Severity
from northpace.paths.beads import by_layer
from northpace.spec import resolve_heat

#: Short layers want a look if a stack of them is at least this tall (mm). A lower one is a small
#: tip, which sets before it matters.
SHOWS = 1.0


@check(
    "outlines",
    "rows",
    "timed",
    codes=("short-layer",),
    reads=(
        "pace.least_layer_time",
        "pace.floor_speed",
        "air",
        "material",
    ),
)
def short_layer(facts: Facts) -> list[Finding]:
    outlines, timed = facts.outlines, facts.timed
    least = resolve_heat(facts.spec)["least_layer_time"]
    # a layer that lays nothing cools nothing; that it is empty is said elsewhere
    at = np.searchsorted(facts.rows.layer, np.arange(len(outlines.tops) + 1))
    laid = by_layer(np.maximum, facts.rows.width, at, 0.0) > 0
    short = np.flatnonzero(laid & (timed.layer_seconds < 0.97 * least))
    if len(short) == 0:
        return []
    k = int(short[np.argmin(timed.layer_seconds[short])])
    edges = np.r_[0, np.flatnonzero(np.diff(short) > 1) + 1, len(short)]
    tallest = max(outlines.heights[short[a:b]].sum() for a, b in pairwise(edges))
    severity: Severity = "look" if tallest >= SHOWS - 1e-6 else "note"
    return [
        Finding(
            "short-layer",
            severity,
            f"{some(len(short), 'layer stays', 'layers stay')} under {least:g} s even at the floor "
            f"speed; the shortest lasts {timed.layer_seconds[k]:.1f} s at {outlines.tops[k]:.2f} "
            "mm.",
            float(outlines.tops[k]),
            help="Lower the floor speed, or give it more fan and a shorter least time.",
        )
    ]
