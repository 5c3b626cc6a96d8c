"""Findings about the bed: what stands on it, how well it holds, what does not fit."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.finding import Finding, minutes
from northpace.moves import FOOTING, Moves
from northpace.outlines.sections import Outlines
from northpace.part.solid import Placed, misfits
from northpace.paths.build import Built
from northpace.paths.footing import lift_of, reach
from northpace.spec import PlanSpec

#: Height over the root of the contact area: from the first on a part wants a wider foot, from the
#: second on it will fall.
SLENDER, FALLS = 6.0, 14.0
#: Corners of a flat foot lift when both sides are at least this long (mm) and the corner is not
#: blunter than this (degrees).
LONG_SIDE, SHARP = 35.0, 115.0


def slenderness(outlines: Outlines, on_bed: float) -> float:
    """Height of the part over the root of the area (mm²) it stands on."""
    return float(outlines.tops[-1] / np.sqrt(max(on_bed, 1e-6)))


def lifting_corners(foot: shapely.Geometry) -> np.ndarray:
    """(C, 2) corners of a first layer that are likely to lift as the part cools: sharp ones between
    two long sides.
    """
    hull = shapely.simplify(shapely.convex_hull(foot), 0.5)
    if shapely.get_type_id(hull) != 3:
        return np.empty((0, 2))
    points = shapely.get_coordinates(hull)[:-1]
    before, after = np.roll(points, 1, axis=0) - points, np.roll(points, -1, axis=0) - points
    a, b = np.hypot(*before.T), np.hypot(*after.T)
    angle = np.degrees(
        np.arccos(np.clip((before * after).sum(1) / np.maximum(a * b, 1e-12), -1, 1))
    )
    return points[(a >= LONG_SIDE) & (b >= LONG_SIDE) & (angle <= SHARP)]


def _brim_for(foot: shapely.Geometry, wanted: float) -> float:
    """Reach in mm of a brim with which a foot covers an area (mm²): what lies within r of it is A +
    P r + π r², and a little less where it has bays.
    """
    short = wanted - float(shapely.area(foot))
    around = float(shapely.length(shapely.convex_hull(foot)))
    return float((np.sqrt(around**2 + 4 * np.pi * max(short, 0.0)) - around) / (2 * np.pi))


def bed_findings(
    outlines: Outlines, built: Built, moves: Moves, placed: Placed, spec: PlanSpec
) -> list[Finding]:
    """Contact, corners, whether the footing is needed and what it costs, and whether the
    part fits.
    """
    found = [
        Finding(code, "stop", sentence, help=help)
        for code, sentence, help in misfits(
            placed, spec.machine, reach(spec.footing), lift_of(spec.footing, spec.machine)
        )
    ]
    foot, contact = outlines.areas[0], float(shapely.area(outlines.areas[0]))
    if contact <= 0:
        return found
    z = float(outlines.tops[0])
    spot = shapely.point_on_surface(foot)
    at = (float(spot.x), float(spot.y), z)
    bare, wide = (
        slenderness(outlines, contact),
        slenderness(outlines, max(built.foot.area, contact)),
    )
    corners = lifting_corners(foot)
    holding = spec.footing.raft_layers > 0 or spec.footing.brim_reach > 0
    if wide > SLENDER:
        need = _brim_for(foot, (outlines.tops[-1] / SLENDER) ** 2) + spec.footing.skirt_width
        need = int(np.ceil(max(need, 3.0)))
        found.append(
            Finding(
                "small-contact",
                "look",
                f"The part stands {outlines.tops[-1]:.0f} mm tall on {contact:.1f} mm²"
                f"{' and its footing' if holding else ''}: it may "
                f"{'fall over' if wide > FALLS else 'come loose'}.",
                z,
                at,
                f"A brim of {need} mm holds it.",
                change={"footing.brim_reach": float(min(need, 100))},
            )
        )
    if len(corners) and not holding:
        places = tuple((float(x), float(y), z) for x, y in np.round(corners, 3))
        found.append(
            Finding(
                "lifting-corners",
                "look",
                f"{len(corners)} wide flat corners are likely to lift as they cool.",
                z,
                places[0],
                "A brim of 5 mm holds them down; rounder corners do too.",
                places,
                {"footing.brim_reach": 5.0},
            )
        )
    if holding and bare <= SLENDER / 2 and not len(corners):
        mine = moves.feature == FOOTING
        seconds, grams = (
            float(moves.seconds[mine].sum()),
            float(moves.filament[mine].sum()) * np.pi * spec.material.diameter**2 / 4e3,
        )
        found.append(
            Finding(
                "needless-footing",
                "note",
                "The part stands firmly without "
                f"{'a raft' if spec.footing.raft_layers else 'a brim'}; the footing costs "
                f"{minutes(seconds)} and {grams * spec.material.density:.1f} g.",
                z,
                at,
                "Leave it out, or keep it where the bed holds badly.",
                change={"footing.raft_layers": 0}
                if spec.footing.raft_layers
                else {"footing.brim_reach": 0.0},
            )
        )
    return found
