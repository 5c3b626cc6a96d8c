"""Gaps in the outline so narrow that the beads on both sides fuse."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, at_places, some
from northpace.checks.narrow import LEAST, widest
from northpace.figures import Severity
from northpace.geometry.growing import short_of
from northpace.geometry.polygons import Pieces, difference, explode, offset
from northpace.geometry.stacks import stacked

#: Beads closer to each other than this share of a bead's width fuse.
FUSE = 0.5
#: Slots are looked for this far (mm) beside the outline.
HAIR = 0.02
#: Area (mm²) by which growing may differ from its formula where nothing met: the grain of numbers.
GRAIN = 0.002


@check(
    "outlines",
    codes=(
        "fuses",
        "narrow-slot",
    ),
    reads=(
        "body.build",
        "body.outer_width",
    ),
)
def narrow_slot(facts: Facts) -> list[Finding]:
    outlines, spec = facts.outlines, facts.spec
    if spec.body.build == "spiral":
        return []
    tolerance = FUSE * spec.body.outer_width
    islands, tops = outlines.islands, outlines.tops
    wide = offset(outlines.coarse, tolerance / 2)
    # where growing met itself, by however little, something may have closed
    index = np.flatnonzero(np.abs(short_of(wide, outlines.coarse, tolerance / 2)) > GRAIN)
    closed = offset(wide[index], -tolerance / 2)
    fused = shapely.area(closed) - shapely.area(outlines.coarse[index]) > LEAST
    index, closed = index[fused], closed[fused]
    if len(index) == 0:
        return []
    # a hair off the outline, where that is all the same: edges that all but meet take time to cut
    beside = difference(closed, offset(outlines.areas[index], HAIR))
    slots = explode(offset(beside, HAIR), LEAST)
    slots = Pieces(slots.polygons, index[slots.owner])
    if len(slots) == 0:
        return []
    moving = _between_bodies(slots, islands)
    found = []
    kinds: tuple[tuple[np.ndarray, str, Severity, str, str], ...] = (
        (
            moving,
            "fuses",
            "look",
            "between bodies that are apart",
            "Leave more room between them, or take it off with a negative outline offset.",
        ),
        (
            ~moving,
            "narrow-slot",
            "note",
            "in the outline",
            "They close while printing; widen them, or fill them in the part.",
        ),
    )
    for chosen, code, severity, what, help in kinds:
        if not chosen.any():
            continue
        width = widest(slots.polygons[chosen][:200])
        found.append(
            at_places(
                code,
                severity,
                f"Gaps {what} are narrower than {tolerance:.2f} mm, down to {width.min():.2f} mm, "
                f"in {some(len(np.unique(slots.owner[chosen])), 'layer', 'layers')}: beads on "
                "both sides fuse.",
                slots.polygons[chosen],
                tops[slots.owner[chosen]],
                None,
                help,
            )
        )
    return found


def _between_bodies(slots: Pieces, islands: Pieces) -> np.ndarray:
    """(S,) whether slots touch more than one body: then something was meant to move there."""
    _, body = stacked(islands.polygons, islands.owner)
    out = np.zeros(len(slots), bool)
    near = offset(slots.polygons, 0.05)
    for k in np.unique(slots.owner):
        mine, here = np.flatnonzero(slots.owner == k), np.flatnonzero(islands.owner == k)
        for m in mine:
            touched = here[shapely.intersects(islands.polygons[here], near[m])]
            out[m] = len(np.unique(body[touched])) > 1
    return out
