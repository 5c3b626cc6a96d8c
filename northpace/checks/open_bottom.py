"""Bottoms over open air with nothing for a bridge to hold on to."""

from __future__ import annotations

import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, at_places, some
from northpace.checks.holding import ask_for_support, support_change


@check(
    "outlines",
    "skins",
    codes=("open-bottom",),
    reads=("supports.enabled", "supports.origin"),
)
def open_bottom(facts: Facts) -> list[Finding]:
    owner, tops = facts.outlines.islands.owner, facts.outlines.tops
    bottoms = facts.skins.open_below
    if len(bottoms) == 0:
        return []
    size = shapely.area(bottoms.polygons)
    return [
        at_places(
            "open-bottom",
            "look",
            f"{some(len(bottoms), 'bottom', 'bottoms')} over open air, {size.sum():.0f} mm² "
            "in all, with nothing for a bridge to hold on to at two sides.",
            bottoms.polygons,
            tops[owner[bottoms.owner]],
            size,
            f"{ask_for_support(facts.spec)}, or let the part begin there with a slope.",
            support_change(facts.spec),
        )
    ]
