"""Wide flat corners that lift as the part cools."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some

#: Corners of a flat foot lift when both sides are at least this long (mm) and the corner is not
#: blunter than this (degrees).
LONG_SIDE, SHARP = 35.0, 115.0


@check(
    "outlines",
    codes=("lifting-corners",),
    reads=(
        "footing.raft_layers",
        "footing.brim_reach",
    ),
)
def lifting_corners_check(facts: Facts) -> list[Finding]:
    outlines, footing = facts.outlines, facts.spec.footing
    foot = outlines.areas[0]
    contact = float(shapely.area(foot))
    if contact <= 0:
        return []
    holding = footing.raft_layers > 0 or footing.brim_reach > 0
    corners = lifting_corners(foot)
    if holding or not len(corners):
        return []
    z = float(outlines.tops[0])
    places = tuple((float(x), float(y), z) for x, y in np.round(corners, 3))
    return [
        Finding(
            "lifting-corners",
            "look",
            f"{some(len(corners), 'wide flat corner is', 'wide flat corners are')} likely to lift "
            f"as {'it cools' if len(corners) == 1 else 'they cool'}.",
            z,
            places[0],
            f"A brim of 5 mm holds {'it' if len(corners) == 1 else 'them'} down; so do rounder "
            "corners.",
            places,
            {"footing.brim_reach": 5.0},
        )
    ]


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
