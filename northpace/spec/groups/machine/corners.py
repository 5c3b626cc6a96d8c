"""Outlines that are typed corner by corner."""

from __future__ import annotations

import numpy as np
import shapely

#: Most corners of an outline, and the furthest one in mm.
MOST_CORNERS, FURTHEST = 200, 5000.0


def wrong_corners(points: tuple[tuple[float, float], ...]) -> str:
    """What is wrong with an outline (C, 2) in mm, in a few words; "" for nothing."""
    if len(points) < 3:
        return "needs at least three corners"
    if len(points) > MOST_CORNERS:
        return f"has {len(points)} corners; at most {MOST_CORNERS} are allowed"
    corners = np.array(points)
    if not (np.abs(corners) <= FURTHEST).all():  # what is no number is no less than this either
        return f"has a corner beyond -{FURTHEST:g} to {FURTHEST:g} mm"
    area = shapely.Polygon(points)
    if not area.is_valid:
        return "crosses itself; type its corners one after the other around it"
    if area.area < 1:
        return "encloses no area"
    return ""
