"""Findings about solid layers: small patches and what they cost, tops over too little infill, faces
left open.
"""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.finding import MOST_PLACES, Finding, at_places, minutes, some
from northpace.outlines.sections import Outlines
from northpace.outlines.stacks import touching
from northpace.paths.bead import spacing
from northpace.paths.build import Built
from northpace.spec import PlanSpec

#: Solid patches below this area (mm²) seldom serve anything.
TINY = 12.0
#: A top holds over infill lines as far apart as this many times its thickness.
HOLDS = 8.0
#: Lines of infill in one direction are this many times further apart than those of plain lines.
DIRECTIONS = {"grid": 2.0, "triangles": 3.0, "cubic": 3.0, "vault": 2.0}


def solid_findings(
    outlines: Outlines, built: Built, seconds: np.ndarray, total: float, spec: PlanSpec
) -> list[Finding]:
    """``seconds`` (Q,) of every patch of `Built.why`, ``total`` those of the plan."""
    return [*_tiny(built, seconds, total, spec), *_tops(outlines, built, spec), *_open(spec)]


def _tiny(built: Built, seconds: np.ndarray, total: float, spec: PlanSpec) -> list[Finding]:
    why = built.why
    few = np.flatnonzero(
        why.solid & (why.area < TINY) & (why.area > spec.body.least_solid_area) & (seconds > 0)
    )
    cost = float(seconds[few].sum())
    if len(few) == 0 or cost < max(20.0, 0.01 * total):
        return []
    order = few[np.argsort(-seconds[few])][:MOST_PLACES]
    places = tuple((float(x), float(y), float(z)) for x, y, z in np.round(why.at[order], 3))
    return [
        Finding(
            "tiny-solid",
            "note",
            f"{some(len(few), 'solid patch', 'solid patches')} of less than {TINY:g} mm² take "
            f"{minutes(cost)}.",
            places[0][2],
            places[0],
            f"A 'Least solid area' of {TINY:g} mm² makes infill of them; or drop them one by one.",
            places,
            {"body.least_solid_area": TINY},
        )
    ]


def _tops(outlines: Outlines, built: Built, spec: PlanSpec) -> list[Finding]:
    body = spec.body
    thickness = max(body.top_thickness, body.top_layers * float(np.median(outlines.heights)))
    solid, sparse = built.areas.solid, built.areas.sparse
    if thickness <= 0 or body.infill_density >= 100 or len(solid) == 0 or len(sparse) == 0:
        return []
    lane = float(spacing(body.infill_width, float(np.median(outlines.heights))))
    apart = DIRECTIONS.get(body.infill_pattern, 1.0) * lane / max(body.infill_density / 100, 1e-3)
    if apart <= HOLDS * thickness:
        return []
    owner = outlines.islands.owner
    low, high = touching(sparse.polygons, owner[sparse.owner], solid.polygons, owner[solid.owner])
    over = shapely.intersection(sparse.polygons[low], solid.polygons[high])
    # only where the roof is wider than the distance of the lines
    wide = ~shapely.is_empty(shapely.buffer(over, -apart / 3)) & (shapely.area(over) > 20.0)
    if not wide.any():
        return []
    z = outlines.tops[owner[solid.owner[high[wide]]]]
    enough = int(
        np.ceil(100 * DIRECTIONS.get(body.infill_pattern, 1.0) * lane / (HOLDS * thickness))
    )
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


def _open(spec: PlanSpec) -> list[Finding]:
    body, found = spec.body, []
    if body.infill_density < 100:
        sides = [
            name
            for name, thick, least in (
                ("top", body.top_thickness, body.top_layers),
                ("bottom", body.bottom_thickness, body.bottom_layers),
            )
            if thick <= 0 and least <= 0
        ]
        if sides:
            found.append(
                Finding(
                    "open-by-design",
                    "note",
                    f"The part stays open at the {' and the '.join(sides)}: no solid layers "
                    "are asked for there.",
                    help="Give it a thickness if that is not meant.",
                )
            )
    return found
