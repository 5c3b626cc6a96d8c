"""Walls: closed beads along every outline, and the border the fill starts at (computations §6)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.moves import INNER, OUTER
from northpace.outlines.polygons import EMPTY, Pieces, difference, explode, offset, only_areas, rings_of
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing
from northpace.paths.table import PathTable, path_table

#: Inner walls are laid where two of them fit side by side with at most this share of overlap taken away.
LEAST_FIT = 0.85
#: What is left between walls counts from this share of a spacing on; thinner slivers are the rounding of corners.
SLIVER = 0.15


@dataclass(frozen=True)
class Walls:
    """Wall paths; per island (I,) the area inside the last wall; and what inner walls could not reach."""

    paths: PathTable
    border: np.ndarray
    leftover: Pieces

    @property
    def nbytes(self) -> int:
        return self.paths.nbytes + 48 * int(shapely.get_num_coordinates(self.border).sum())


def walls(outlines: Outlines, count: int, outer_width: float, inner_width: float, outside_first: bool) -> Walls:
    """Lay ``count`` walls in every island.

    The centre line of wall 0 lies half its width inside the outline, each next one (s_k + s_{k+1})/2 further, s being the
    spacing of a wall's own width; the border of the fill lies half a spacing inside the last centre line. An inner wall is
    left out where two sides of it would share a lane; that leftover is reported for the fill.
    """
    islands = outlines.islands
    layer = islands.owner
    height = outlines.heights[layer]
    edge = (outer_width - spacing(outer_width, height)) / 2
    free = islands.polygons
    tables, leftovers = [], []
    if count:
        free = offset(free, -edge)
    for k in range(count):
        lane = spacing(outer_width if k == 0 else inner_width, height)
        if k:
            fitting, left = _where_it_fits(free, lane)
            leftovers.append(left)
        else:
            fitting = free
        centre = offset(fitting, -lane / 2)
        rings = rings_of(centre)
        tables.append(path_table(
            rings.points, rings.starts, layer=layer[rings.owner], island=rings.owner,
            rank=k if outside_first else count - 1 - k, feature=OUTER if k == 0 else INNER, closed=True,
            width=outer_width if k == 0 else inner_width, height=height[rings.owner]))
        free = only_areas(offset(fitting, -lane))
    left = Pieces(np.concatenate([p.polygons for p in leftovers]), np.concatenate([p.owner for p in leftovers])) \
        if leftovers else Pieces(np.empty(0, object), np.empty(0, np.int64))
    return Walls(PathTable.joined(tables), free, left)


def _where_it_fits(free: np.ndarray, lane: np.ndarray) -> tuple[np.ndarray, Pieces]:
    """The part of each area wide enough for a wall on both sides, and what is left of it."""
    reach = LEAST_FIT * lane
    inner = offset(free, -reach)
    # Grown back, the inner area covers at least itself and its length times the way (more at outer corners): where that is
    # all there was, nothing is narrow and nothing has to be grown.
    narrow = shapely.area(free) - shapely.area(inner) - reach * shapely.length(inner) > 0.02
    fitting = free.copy()
    fitting[narrow & shapely.is_empty(inner)] = EMPTY
    some = narrow & ~shapely.is_empty(inner)
    # a hair more outward than inward, so that rounding leaves no slivers
    fitting[some] = offset(inner[some], reach[some] + 1e-4)
    # what is narrow is rare: only where the opening lost area is the exact difference worth its time
    lost = shapely.area(free) - shapely.area(fitting) > 0.02
    index = np.flatnonzero(lost)
    left = Pieces(np.empty(0, object), np.empty(0, np.int64))
    if len(index):
        rest = difference(free[index], fitting[index])
        thin = SLIVER * lane[index] / 2
        rest = only_areas(offset(offset(rest, -thin), thin))
        found = explode(rest, 0.01)
        left = Pieces(found.polygons, index[found.owner])
    fitting[~lost] = free[~lost]
    return fitting, left
