"""The part profile: what the quick estimate needs to know of a part and orientation, computed once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.outlines.polygons import offset
from northpace.outlines.sections import sections
from northpace.part.solid import Placed

MOST_LEVELS = 500
#: How thick the part is behind its outline: looked at on this many levels, at these depths (mm).
DEPTH_LEVELS = 64
DEPTHS = np.arange(0.0, 4.01, 0.2)
DEPTH_DETAIL = 0.03


@dataclass(frozen=True)
class Profile:
    """At levels (L,) mm above the plate: area (mm²), perimeter (mm), islands, rings, box (L, 4: x low, y low, x high, y high).

    ``edges`` (L + 1,) are the borders of the stretch each level stands for. ``depth_area`` and ``depth_length`` (L, D) are the
    shares of area and perimeter left at the `DEPTHS` behind the outline.
    """

    edges: np.ndarray
    levels: np.ndarray
    area: np.ndarray
    perimeter: np.ndarray
    islands: np.ndarray
    rings: np.ndarray
    box: np.ndarray
    first_hull_length: float
    depth_area: np.ndarray
    depth_length: np.ndarray

    @property
    def nbytes(self) -> int:
        return 12 * self.levels.nbytes + 2 * self.depth_area.nbytes


def profile(placed: Placed, z_step: float) -> Profile:
    """Sections at every z step, or at `MOST_LEVELS` evenly spaced levels where there are more steps than that."""
    count = int(np.clip(np.ceil(placed.height / z_step), 1, MOST_LEVELS))
    edges = np.linspace(0.0, placed.height, count + 1)
    levels = (edges[:-1] + edges[1:]) / 2
    areas = sections(placed, levels)
    rings = np.array([sum(len(p.interiors) + 1 for p in shapely.get_parts(a)) for a in areas])
    area, length = shapely.area(areas), shapely.length(areas)
    chosen = np.unique(np.linspace(0, count - 1, DEPTH_LEVELS).astype(np.int64))
    deep = offset(np.repeat(shapely.simplify(areas[chosen], DEPTH_DETAIL), len(DEPTHS)), -np.tile(DEPTHS, len(chosen)))
    nearest = np.abs(np.arange(count)[:, None] - chosen).argmin(axis=1)
    shape = (len(chosen), len(DEPTHS))
    with np.errstate(divide="ignore", invalid="ignore"):
        share_area = np.nan_to_num(shapely.area(deep).reshape(shape) / shapely.area(areas[chosen])[:, None])
        share_length = np.nan_to_num(shapely.length(deep).reshape(shape) / shapely.length(areas[chosen])[:, None])
    return Profile(edges, levels, area, length, shapely.get_num_geometries(areas), rings, np.nan_to_num(shapely.bounds(areas)),
                   float(shapely.length(shapely.convex_hull(areas[0]))), share_area[nearest], share_length[nearest])
