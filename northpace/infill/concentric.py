"""Concentric: loops that follow the outline inwards."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.geometry.polygons import offset, rings_of
from northpace.geometry.scanline import Chains
from northpace.infill.patches import Patches
from northpace.infill.pattern import Pattern


def concentric(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """A loop every ``pitch`` mm, the first half of it behind the border: each stands for the strip
    around it. The angle has no meaning.
    """
    found, area = [], patches.polygons
    depth = max(pitch / 2, inset)
    while len(area):
        area = offset(area, -depth)
        if shapely.is_empty(area).all():
            break
        found.append(loops(area))
        depth = pitch
    return found


def loops(areas: np.ndarray) -> Chains:
    """The rings of areas (P,) as chains that end where they began."""
    rings = rings_of(areas)
    count = np.diff(rings.starts)
    index = np.arange(len(rings.points) + len(count)) - np.repeat(np.arange(len(count)), count + 1)
    ends = np.cumsum(count + 1) - 1
    index[ends] = rings.starts[:-1]
    points = rings.points[index]
    step = np.hypot(*np.diff(points, axis=0, prepend=points[:1]).T)
    starts = np.r_[0, ends + 1]
    step[starts[:-1]] = 0.0
    each = np.add.reduceat(step, starts[:-1]) if len(count) else np.empty(0)
    return Chains(
        points,
        starts,
        rings.owner,
        np.zeros(len(areas)),
        np.bincount(rings.owner, each, len(areas)),
    )


CONCENTRIC = Pattern("concentric", "follows the outline, bends", concentric, straight=(0.0, 22.0))
