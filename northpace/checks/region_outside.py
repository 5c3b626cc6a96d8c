"""Regions that do not reach into the part."""

from __future__ import annotations

import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding


@check(
    "outlines",
    "regions",
    codes=("region-outside",),
    reads=("body.regions",),
)
def region_outside(facts: Facts) -> list[Finding]:
    places = facts.regions.among(facts.spec.body.regions)
    outside = [
        region.title
        for region, areas in zip(places.regions, places.sections, strict=True)
        if not shapely.intersects(areas, facts.outlines.areas).any()
    ]
    if outside:
        lies, changes = ("lies", "changes") if len(outside) == 1 else ("lie", "change")
        return [
            Finding(
                "region-outside",
                "look",
                f"{'; '.join(outside)} {lies} outside the part and {changes} nothing.",
                help="Move it, or choose its face again; the stage shows where it is.",
            )
        ]
    return []
