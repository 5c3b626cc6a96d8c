"""Outlines that start in mid-air."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, at_places, some
from northpace.outlines.sections import Outlines


@check(
    "outlines",
    "stands",
    codes=("starts-in-air",),
    reads=("supports.enabled",),
)
def starts_in_air(facts: Facts) -> list[Finding]:
    islands, tops = facts.outlines.islands, facts.outlines.tops
    k = np.flatnonzero(floating(facts.outlines, facts.stands.held))
    if len(k) == 0:
        return []
    return [
        at_places(
            "starts-in-air",
            "stop",
            f"{some(len(k), 'outline starts', 'outlines start')} in mid-air, "
            f"the first at {tops[islands.owner[k[0]]]:.2f} mm.",
            islands.polygons[k],
            tops[islands.owner[k]],
            help="Turn on supports, stand the part differently, or change it.",
            change={} if facts.spec.supports.enabled else {"supports.enabled": True},
        )
    ]


def floating(outlines: Outlines, held: np.ndarray) -> np.ndarray:
    """(I,) whether an island lies on nothing: neither on the layer below nor on what supports hold
    (N,).
    """
    islands = outlines.islands
    out = np.zeros(len(islands), bool)
    above = np.flatnonzero(islands.owner > 0)
    if len(above):
        under = outlines.areas[islands.owner[above] - 1]
        out[above] = ~shapely.intersects(islands.polygons[above], under) & ~shapely.intersects(
            islands.polygons[above], held[islands.owner[above]]
        )
    return out
