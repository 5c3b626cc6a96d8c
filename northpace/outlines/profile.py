"""The part profile: what the quick estimate needs to know of a part and orientation,
computed once.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.geometry.polygons import distinct, offset
from northpace.geometry.sheets import common_area, sheets_of, without
from northpace.geometry.thinning import thinned
from northpace.outlines.sections import sections
from northpace.part.place import Placed

MOST_LEVELS = 500
#: How thick the part is behind its outline: looked at on this many levels, at these depths (mm).
DEPTH_LEVELS = 48
DEPTHS = np.r_[np.arange(0.0, 2.01, 0.2), np.arange(2.5, 4.01, 0.5)]
DEPTH_DETAIL = 0.03
#: A jump of the area is more than this share of the largest; most of them that are looked at, and
#: how far from one it is looked (mm).
JUMP, MOST_JUMPS = 0.04, 12
NEAR_JUMPS = np.array([0.0, 0.5, 0.9, 1.4])
#: What lies open to above and below is looked at this far (mm) up and down, inside walls of these
#: depths (mm).
REACHES = np.array([0.0, 0.4, 0.8, 1.2, 2.4])
WALL_DEPTHS = np.array([0.4, 1.2, 2.0])


@dataclass(frozen=True)
class Profile:
    """A placed part along its height, at L levels."""

    #: (L + 1,) borders in mm of the stretch each level stands for
    edges: np.ndarray
    #: (L,) heights in mm above the plate
    levels: np.ndarray
    #: (L,) area in mm², perimeter in mm, numbers of islands and of rings
    area: np.ndarray
    perimeter: np.ndarray
    islands: np.ndarray
    rings: np.ndarray
    #: mm around the hull of the first layer
    first_hull_length: float
    #: (L, D) shares of area and perimeter left at the `DEPTHS` behind the outline
    depth_area: np.ndarray
    depth_length: np.ndarray
    #: (L, R, W) share of the area inside walls of the `WALL_DEPTHS` that nothing covers at the
    #: `REACHES` above, and below
    open_up: np.ndarray
    open_down: np.ndarray
    #: (L,) area in mm² that stands take at each level, where that is known
    stand: np.ndarray | None = None
    #: factor by which lines of those stands take longer than usual ones, since they are short
    stand_slow: float = 1.0

    @property
    def nbytes(self) -> int:
        return 12 * self.levels.nbytes + 2 * self.depth_area.nbytes + 2 * self.open_up.nbytes


def profile(
    placed: Placed, z_step: float, most: int = MOST_LEVELS, depths: int = DEPTH_LEVELS
) -> Profile:
    """Sections at every z step, or at ``most`` evenly spaced levels where there are more steps than
    that; ``depths`` of them are looked at behind the outline.
    """
    count = int(np.clip(np.ceil(placed.height / z_step), 1, most))
    edges = np.linspace(0.0, placed.height, count + 1)
    levels = (edges[:-1] + edges[1:]) / 2
    areas = sections(placed.solid, levels)
    parts, owner = shapely.get_parts(areas, return_index=True)
    rings = np.bincount(owner, 1 + shapely.get_num_interior_rings(parts), count)
    area, length = shapely.area(areas), shapely.length(areas)
    chosen = _chosen(area, edges, depths)
    thin = thinned(areas, DEPTH_DETAIL)
    deep = _behind(thin[chosen]).ravel()
    nearest = np.abs(np.arange(count)[:, None] - chosen).argmin(axis=1)
    shape = (len(chosen), len(DEPTHS))
    with np.errstate(divide="ignore", invalid="ignore"):
        share_area = np.nan_to_num(
            shapely.area(deep).reshape(shape) / shapely.area(areas[chosen])[:, None]
        )
        share_length = np.nan_to_num(
            shapely.length(deep).reshape(shape) / shapely.length(areas[chosen])[:, None]
        )
    inside = deep.reshape(shape)[:, np.searchsorted(DEPTHS, WALL_DEPTHS - 1e-9)]
    above, below = (_uncovered(inside, thin, levels, chosen, sign) for sign in (1, -1))
    return Profile(
        edges,
        levels,
        area,
        length,
        shapely.get_num_geometries(areas),
        rings,
        float(shapely.length(shapely.convex_hull(areas[0]))),
        share_area[nearest],
        share_length[nearest],
        above[nearest],
        below[nearest],
    )


def _chosen(area: np.ndarray, edges: np.ndarray, depths: int) -> np.ndarray:
    """Levels (C,) that are looked at behind the outline: ``depths`` evenly spread, and more where
    the area (L,) in mm² jumps and at both ends, as what is solid there is thinner than their pitch.
    """
    count = len(area)
    even = np.linspace(0, count - 1, depths)
    step = np.abs(np.diff(area))
    most = np.argsort(-step)[:MOST_JUMPS]
    jumps = most[step[most] > JUMP * area.max(initial=0.0)]
    at = np.r_[0, jumps + 1, count]
    near = np.r_[at[:, None] + NEAR_JUMPS / edges[1], at[:, None] - 1 - NEAR_JUMPS / edges[1]]
    return np.unique(np.clip(np.r_[even, near.ravel()], 0, count - 1).astype(np.int64))


def _behind(areas: np.ndarray) -> np.ndarray:
    """(C, D) what is left of areas (C,) at the `DEPTHS` behind their outlines, each found from the
    one before it: small steps cost little.
    """
    out = np.empty((len(areas), len(DEPTHS)), object)
    out[:, 0] = areas
    for k in range(1, len(DEPTHS)):
        out[:, k] = offset(out[:, k - 1], DEPTHS[k - 1] - DEPTHS[k])
    return out


def _uncovered(
    inside: np.ndarray, areas: np.ndarray, levels: np.ndarray, chosen: np.ndarray, sign: int
) -> np.ndarray:
    """(C, R, W) share of the areas inside the walls (C, W) that the outlines at the `REACHES` above
    (or below) leave open.
    """
    z = levels[chosen][:, None] + sign * REACHES
    pitch = levels[1] - levels[0] if len(levels) > 1 else 1.0
    at = np.clip(np.round((z - levels[0]) / pitch).astype(np.int64), 0, len(levels) - 1)
    beyond = (z < levels[0] - pitch / 2) | (z > levels[-1] + pitch / 2)
    # each level covers itself, and so does one with the same outline: nothing is cut there
    first, place = distinct(areas)
    asked = (place[at] != place[chosen][:, None]) & ~beyond
    level, reach = np.nonzero(asked)
    whole = shapely.area(inside)[:, None, :]
    left = np.where(beyond[:, :, None], whole, 0.0)
    open_ = without(_sheets(inside[:, 0], level), _sheets(areas, first[place[at[asked]]]))
    # what is open inside deeper walls is what is open inside the outermost, as far as they reach
    some = np.flatnonzero([not sheet.is_empty() for sheet in open_])
    level, reach, open_ = level[some], reach[some], open_[some]
    for wall in range(len(WALL_DEPTHS)):
        left[level, reach, wall] = common_area(_sheets(inside[:, wall], level), open_)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.nan_to_num(left / whole)
    share[:, 0] = 0.0
    return np.where(whole > 0, share, 1.0)


def _sheets(areas: np.ndarray, which: np.ndarray) -> np.ndarray:
    """(K,) sheets of areas (N,) by number (K,), each made once."""
    asked, place = np.unique(which, return_inverse=True)
    return np.asarray(sheets_of(areas[asked])[place])
