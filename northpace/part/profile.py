"""The part profile: what the quick estimate needs to know of a part and orientation, computed once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.outlines.sections import sections
from northpace.part.solid import Placed

MOST_LEVELS = 500


@dataclass(frozen=True)
class Profile:
    """At levels (L,) mm above the plate: area (mm²), perimeter (mm), islands, rings, box (L, 4: x low, y low, x high, y high).

    ``edges`` (L + 1,) are the borders of the stretch each level stands for.
    """

    edges: np.ndarray
    levels: np.ndarray
    area: np.ndarray
    perimeter: np.ndarray
    islands: np.ndarray
    rings: np.ndarray
    box: np.ndarray
    first_hull_length: float

    @property
    def nbytes(self) -> int:
        return 12 * self.levels.nbytes


def profile(placed: Placed, z_step: float) -> Profile:
    """Sections at every z step, or at `MOST_LEVELS` evenly spaced levels where there are more steps than that."""
    count = int(np.clip(np.ceil(placed.height / z_step), 1, MOST_LEVELS))
    edges = np.linspace(0.0, placed.height, count + 1)
    levels = (edges[:-1] + edges[1:]) / 2
    areas = sections(placed, levels)
    rings = np.array([sum(len(p.interiors) + 1 for p in shapely.get_parts(a)) for a in areas])
    return Profile(edges, levels, shapely.area(areas), shapely.length(areas), shapely.get_num_geometries(areas), rings,
                   np.nan_to_num(shapely.bounds(areas)), float(shapely.length(shapely.convex_hull(areas[0]))))
