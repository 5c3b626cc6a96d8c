"""Slivers between walls that no bead fits into: taken up by the walls on both sides, which become
as much wider there.

Without this, parts a little thicker than a whole number of beads would stay open inside. The edge
of a bead towards the outline stays where it is, so the measures of the part do too.
"""

from __future__ import annotations

from dataclasses import fields

import numpy as np
import shapely
from scipy.spatial import cKDTree

from northpace.geometry.polygons import Pieces
from northpace.geometry.skeleton import DETAIL, medial_lines, thinned
from northpace.paths.bead import spacing, width_for
from northpace.paths.table import PathTable, path_table

#: Loops get a corner at least every so many mm beside a sliver.
STEP = 0.3
#: Islands are told apart in the search by this much in a third direction (mm).
APART = 1e4
#: Widest half of a sliver in widths of a bead that is taken up.
MOST = 0.45


def widen(paths: PathTable, slivers: Pieces, width: float) -> tuple[PathTable, Pieces]:
    """Walls with their beads widened beside slivers (islands as owners), and the slivers that are
    too wide for it.
    """
    if len(slivers) == 0:
        return paths, slivers
    count = len(slivers)
    lines = medial_lines(
        slivers.polygons, STEP, np.full(count, 0.005), np.full(count, MOST * width)
    )
    reached = (
        np.bincount(lines.owner, lines.lengths(), count) > 0
        if len(lines.owner)
        else np.zeros(count, bool)
    )
    rest = Pieces(slivers.polygons[~reached], slivers.owner[~reached])
    affected = np.flatnonzero(paths.closed & np.isin(paths.island, slivers.owner[reached]))
    if len(lines.owner) == 0 or len(affected) == 0:
        return paths, rest
    spots, radius, island = _spots(
        lines.points, lines.radius, lines.starts, slivers.owner[lines.owner]
    )
    points, of = _loops(paths, affected)
    path = affected[of]
    lane = spacing(paths.width[paths.starts[path]], paths.height[path])
    away, near = _nearest(
        np.column_stack([spots, APART * island]),
        np.column_stack([points, APART * paths.island[path]]),
        float(lane.max() / 2 + radius.max()) + 0.06,
    )
    half = radius[near]
    beside = away <= lane / 2 + half + 0.05
    way = (spots[near] - points) / np.maximum(away, 1e-9)[:, None]
    moved = np.where(beside[:, None], points + way * (half / 2)[:, None], points)
    wide = np.where(
        beside, width_for(lane + half, paths.height[path]), width_for(lane, paths.height[path])
    )
    starts = np.r_[0, np.cumsum(np.bincount(of, minlength=len(affected)))]
    # corners put in beside a sliver that is as wide all along are not needed after all
    chosen, starts, _ = thinned(
        moved, wide, np.arange(len(moved)), starts, np.ones(len(affected), bool), DETAIL
    )
    moved, wide = moved[chosen], wide[chosen]
    table = path_table(
        moved,
        starts,
        layer=paths.layer[affected],
        island=paths.island[affected],
        rank=paths.rank[affected],
        feature=paths.feature[affected],
        closed=True,
        width=wide,
        height=paths.height[affected],
    )
    return PathTable.joined([_without(paths, affected), table]), rest


def _nearest(spots: np.ndarray, points: np.ndarray, within: float) -> tuple[np.ndarray, np.ndarray]:
    """How far the nearest of spots (S, 3) is from points (K, 3), up to some mm, and which it is.

    Of two as near, as in parts that are the same on both sides, it is the one further left or
    below, whatever other layers hold.
    """
    away, near = cKDTree(spots).query(points, k=2, distance_upper_bound=within, workers=2)
    near = np.minimum(near, len(spots) - 1)
    even = np.flatnonzero(away[:, 1] <= away[:, 0] + 1e-9)
    one, two = (spots[near[even, k], :2].round(6) for k in (0, 1))
    swapped = (two[:, 0] < one[:, 0]) | ((two[:, 0] == one[:, 0]) & (two[:, 1] < one[:, 1]))
    near[even[swapped], 0] = near[even[swapped], 1]
    return away[:, 0], near[:, 0]


def _spots(
    points: np.ndarray, radius: np.ndarray, starts: np.ndarray, owner: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points every fifth of a millimetre along lines, with their radius and owner."""
    first = np.setdiff1d(np.arange(len(points)), starts[1:] - 1)
    length = np.hypot(*(points[first + 1] - points[first]).T)
    pieces = np.maximum(np.ceil(length / 0.2).astype(np.int64), 1)
    of = np.repeat(first, pieces)
    share = (np.arange(len(of)) - np.repeat(np.cumsum(pieces) - pieces, pieces)) / np.repeat(
        pieces, pieces
    )
    ends = starts[1:] - 1
    spots = np.concatenate(
        [points[of] + share[:, None] * (points[of + 1] - points[of]), points[ends]]
    )
    line = np.repeat(np.arange(len(starts) - 1), np.diff(starts))
    return (
        spots,
        np.concatenate([radius[of] + share * (radius[of + 1] - radius[of]), radius[ends]]),
        owner[np.r_[line[of], line[ends]]],
    )


def _loops(paths: PathTable, chosen: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Points of closed paths with a corner at least every `STEP` mm, and the number of the path
    among the chosen.
    """
    count = np.diff(paths.starts)[chosen]
    of = np.repeat(np.arange(len(chosen)), count + 1)
    index = (
        np.arange(len(of))
        - np.repeat(np.cumsum(count + 1) - count - 1, count + 1)
        + np.repeat(paths.starts[:-1][chosen], count + 1)
    )
    ends = np.cumsum(count + 1) - 1
    index[ends] = paths.starts[:-1][chosen]
    rings = shapely.segmentize(shapely.linestrings(paths.points[index], indices=of), STEP)
    points, ring = shapely.get_coordinates(rings, return_index=True)
    last = np.r_[np.flatnonzero(np.diff(ring)), len(ring) - 1]
    keep = np.ones(len(points), bool)
    keep[last] = False
    return points[keep], ring[keep]


def _without(paths: PathTable, gone: np.ndarray) -> PathTable:
    """The table without some of its paths."""
    stays = np.ones(len(paths), bool)
    stays[gone] = False
    count = np.diff(paths.starts)
    kept = np.repeat(stays, count)
    columns = {
        item.name: getattr(paths, item.name)
        for item in fields(PathTable)
        if item.name not in ("points", "width", "top", "starts")
    }
    return PathTable(
        points=paths.points[kept],
        width=paths.width[kept],
        top=paths.top[kept],
        starts=np.r_[0, np.cumsum(count[stays])],
        **{name: value[stays] for name, value in columns.items()},
    )
