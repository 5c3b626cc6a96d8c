"""The plate of a machine and the places on it where nothing may stand, as polygons in mm from the
middle of the bed.
"""

from __future__ import annotations

import numpy as np
import shapely

from northpace.spec import Machine


def plate(machine: Machine) -> shapely.Polygon:
    """The bed's outline."""
    half_x, half_y = machine.size_x / 2, machine.size_y / 2
    if machine.bed == "round":
        return shapely.Point(0, 0).buffer(half_x, quad_segs=64)
    if machine.bed == "polygon" and len(machine.bed_points) >= 3:
        return shapely.Polygon(machine.bed_points)
    return shapely.box(-half_x, -half_y, half_x, half_y)


def keep_out(machine: Machine) -> list[tuple[str, shapely.Polygon]]:
    """Names and outlines of the places where nothing may stand."""
    out = []
    for place in machine.keep_out:
        half = np.array([place.size_x, place.size_y]) / 2
        box = shapely.box(
            place.x - half[0], place.y - half[1], place.x + half[0], place.y + half[1]
        )
        if place.shape == "round":
            disc = shapely.Point(0, 0).buffer(1.0, quad_segs=32)
            box = shapely.transform(disc, lambda p, h=half, at=place: p * h + (at.x, at.y))
        out.append((place.name, box))
    return out


def standing_up(machine: Machine) -> list[tuple[str, shapely.Polygon, float]]:
    """Names, outlines and heights in mm of the keep-out places that are not flat. No move may cross
    them below their height.
    """
    named = zip(keep_out(machine), machine.keep_out, strict=True)
    return [(name, area, place.height) for (name, area), place in named if place.height > 0]


def park(machine: Machine) -> tuple[float, float]:
    """Where the head waits in a pause, from the middle of the bed."""
    low_x, _, _, high_y = plate(machine).bounds
    return (
        low_x if machine.park_x is None else machine.park_x,
        high_y if machine.park_y is None else machine.park_y,
    )
