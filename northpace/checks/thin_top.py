"""Tops too thin for what they span."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, at_places
from northpace.geometry.polygons import intersection, offset
from northpace.geometry.stacks import touching
from northpace.infill import PATTERNS
from northpace.paths.bead import spacing

#: A top holds over infill lines as far apart as this many times its thickness.
HOLDS = 8.0


@check(
    "outlines",
    "areas",
    codes=("thin-top",),
    reads=(
        "body.build",
        "body.infill_density",
        "body.infill_pattern",
        "body.infill_width",
        "body.top_thickness",
        "body.top_layers",
    ),
)
def thin_top(facts: Facts) -> list[Finding]:
    outlines, body = facts.outlines, facts.spec.body.as_laid()
    thickness = max(body.top_thickness, body.top_layers * float(np.median(outlines.heights)))
    solid, sparse = facts.areas.solid, facts.areas.sparse
    if thickness <= 0 or body.infill_density >= 100 or len(solid) == 0 or len(sparse) == 0:
        return []
    lane = float(spacing(body.infill_width, float(np.median(outlines.heights))))
    directions = PATTERNS[body.infill_pattern].directions
    apart = directions * lane / max(body.infill_density / 100, 1e-3)
    if apart <= HOLDS * thickness:
        return []
    owner = outlines.islands.owner
    low, high = touching(sparse.polygons, owner[sparse.owner], solid.polygons, owner[solid.owner])
    over = intersection(sparse.polygons[low], solid.polygons[high])
    # only where the roof is wider than the distance of the lines
    wide = ~shapely.is_empty(offset(over, -apart / 3)) & (shapely.area(over) > 20.0)
    if not wide.any():
        return []
    z = outlines.tops[owner[solid.owner[high[wide]]]]
    enough = int(np.ceil(100 * directions * lane / (HOLDS * thickness)))
    text = "nothing" if body.infill_density <= 0 else f"infill lines {apart:.1f} mm apart"
    return [
        at_places(
            "thin-top",
            "look",
            f"A top of {thickness:.2f} mm lies over {text}: it will sag or show them.",
            over[wide],
            z,
            shapely.area(over[wide]),
            f"{enough} % infill, or a top of {apart / HOLDS:.1f} mm, holds it.",
            {"body.infill_density": float(enough)}
            if body.infill_density > 0 and enough < 100
            else {},
        )
    ]
