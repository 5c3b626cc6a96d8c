"""Travels across open air, which may leave strings, and over walls."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some
from northpace.checks.travelled import listed, segments_of
from northpace.geometry.crossing import within_edges
from northpace.spec import PlanSpec

#: A travel strings when it runs further through open air than this (mm).
STRING = 3.0


@check(
    "outlines",
    "rows",
    codes=(
        "strings",
        "crossings",
    ),
    reads=(
        "pace.retraction_length",
        "pace.longest_detour",
        "machine",
    ),
)
def strings(facts: Facts) -> list[Finding]:
    outlines, rows, spec = facts.outlines, facts.rows, facts.spec
    index = np.flatnonzero(rows.crossed & (rows.layer > 0))
    if len(index) == 0:
        return []
    segments = segments_of(rows, index, spec)
    layer = rows.layer[index]
    length = np.hypot(*(segments[:, 1] - segments[:, 0]).T)
    free = length - within_edges(*outlines.edges, layer, segments)
    bad = free > STRING
    found = _crossings(segments[~bad], outlines.tops[layer[~bad]], spec)
    if not bad.any():
        return found
    pulled = spec.pace.retraction_length > 0
    places = listed(segments[bad], outlines.tops[layer[bad]], free[bad])
    return [
        *found,
        Finding(
            "strings",
            "note" if pulled else "look",
            f"{some(int(bad.sum()), 'travel crosses', 'travels cross')} open air, "
            f"{free[bad].sum() / 1000:.1f} m in all"
            + (
                ", with the filament pulled back"
                if pulled
                else " without pulling the filament back"
            )
            + ": "
            "strings may show inside.",
            places[0][2],
            places[0],
            "A longer detour keeps the head inside the part; more retraction pulls harder."
            if pulled
            else "A retraction pulls the filament back before them.",
            places,
            {} if pulled else {"pace.retraction_length": 0.8},
            int(bad.sum()),
        ),
    ]


def _crossings(segments: np.ndarray, z: np.ndarray, spec: PlanSpec) -> list[Finding]:
    """Travels over a wall that leave no long string: across a slot, a thin place, or along
    an edge.
    """
    if len(segments) == 0:
        return []
    length = np.hypot(*(segments[:, 1] - segments[:, 0]).T)
    places = listed(segments, z, length)
    return [
        Finding(
            "crossings",
            "note",
            f"{some(len(segments), 'travel crosses', 'travels cross')} a wall: within "
            f"{spec.pace.longest_detour:g} mm of detour there is no way around.",
            places[0][2],
            places[0],
            "A longer detour finds one where the part is in one piece.",
            places,
            count=len(segments),
        )
    ]
