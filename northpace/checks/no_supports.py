"""Supports that are on where nothing needs them."""

from __future__ import annotations

import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.checks.holding import support_change


@check(
    "leaning",
    "stands",
    codes=("no-supports",),
    reads=("supports",),
)
def no_supports(facts: Facts) -> list[Finding]:
    supports = facts.spec.supports
    if not supports.enabled or len(facts.stands.at):
        return []
    left = float(shapely.area(facts.leaning.worth(supports.least_area)).sum())
    if left > 0:
        bed = supports.origin == "bed"
        why = "all of it above the part, not the bed" if bed else "where none can stand"
        return [
            Finding(
                "no-supports",
                "look",
                f"Supports are on, but there is none: {left:.0f} mm² lean out beyond "
                f"{supports.angle:g}°, {why}.",
                help="Let them stand anywhere." if bed else "Stand the part differently.",
                change=support_change(facts.spec),
            )
        ]
    return [
        Finding(
            "no-supports",
            "note",
            f"Supports are on, but nothing leans out beyond {supports.angle:g}° as far as counts.",
            help="Turn them off, or lower the angle.",
            change={"supports.enabled": False},
        )
    ]
