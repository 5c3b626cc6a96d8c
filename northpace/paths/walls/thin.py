"""Beads of fitting width along the middle of what is too narrow for two beads
(`docs/computations.md` §6).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely

from northpace.geometry.polygons import (
    Pieces,
    by_owner,
    difference,
    explode,
    joined,
    offset,
    rounded,
    united,
)
from northpace.geometry.skeleton import medial_lines
from northpace.outlines.sections import Outlines
from northpace.paths.bead import area, width_for
from northpace.paths.table import PathTable, path_table

#: Narrowest and widest bead in nominal widths.
NARROWEST, WIDEST = 0.6, 1.85
#: How far the width of a bead along a line may be changed so that the whole holds its area.
BALANCE = (0.9, 1.03)
#: Pieces with less than this left over (mm², and share of the piece) count as filled.
LEAST_LEFT, SHARE_LEFT = 0.02, 0.03


@dataclass(frozen=True)
class Thin:
    """Paths along narrow pieces, and what they could not reach (owner as in the pieces, ``left_of``
    the piece it is of).
    """

    paths: PathTable
    left: Pieces
    left_of: np.ndarray


def narrowest(width: np.ndarray, height: np.ndarray) -> np.ndarray:
    """The narrowest lane in mm that a bead of this nominal width fits into."""
    return np.maximum(NARROWEST * width - height * (1 - np.pi / 4), 0.04)


def thin_paths(
    pieces: Pieces,
    outlines: Outlines,
    width: float,
    rank: int,
    feature: int,
    fits: bool = True,
    cause: np.ndarray | None = None,
) -> Thin:
    """One bead along the middle of every narrow piece, as wide as the piece is there.

    ``pieces`` are areas inside edges that are shared with neighbours, islands as owners: a bead in
    a lane of t mm is as much wider than t as its round sides need. ``fits`` False leaves everything
    over. ``cause`` (P,) of the pieces goes with their paths.
    """
    if len(pieces) == 0 or not fits:
        return Thin(PathTable.joined([]), pieces, np.arange(len(pieces)))
    layer = outlines.islands.owner[pieces.owner]
    height = outlines.heights[layer]
    side = height * (1 - np.pi / 4)
    lines = medial_lines(
        pieces.polygons,
        0.3 * width,
        narrowest(np.full(len(pieces), width), height) / 2,
        (WIDEST * width - side) / 2,
    )
    of = np.repeat(lines.owner, np.diff(lines.starts))
    bead = width_for(2 * lines.radius, height[of])
    paths = path_table(
        lines.points,
        lines.starts,
        layer=layer[lines.owner],
        island=pieces.owner[lines.owner],
        rank=rank,
        feature=feature,
        closed=lines.closed,
        width=bead,
        height=height[lines.owner],
    )
    left = _left_over(pieces, paths, lines.owner, side)
    scale = _balance(pieces, left, lines.owner, paths, height)
    paths = replace(
        paths,
        width=np.asarray(width_for(2 * lines.radius * scale[of], height[of])),
        cause=paths.cause if cause is None else cause[lines.owner].astype(np.int32),
    )
    return Thin(paths, Pieces(left.polygons, pieces.owner[left.owner]), left.owner)


def _balance(
    pieces: Pieces, left: Pieces, owner: np.ndarray, paths: PathTable, height: np.ndarray
) -> np.ndarray:
    """(P,) by how much wider lanes must be for a piece to hold its area: what ends and forks leave
    over or lay twice goes into the width. ``owner`` (L,) is the piece of every path.
    """
    wanted = shapely.area(pieces.polygons)
    if len(left):
        wanted = wanted - np.bincount(left.owner, shapely.area(left.polygons), len(pieces))
    laid = np.bincount(owner, _volumes(paths), len(pieces)) / height
    share = np.divide(wanted, laid, out=np.ones(len(pieces)), where=laid > 0)
    return np.asarray(np.clip(share, *BALANCE))


def _volumes(paths: PathTable) -> np.ndarray:
    """(P,) laid volume of every path in mm³, each piece of the way with the mean width of
    its ends.
    """
    height = np.repeat(paths.height, np.diff(paths.starts))
    before = np.arange(len(paths.points)) - 1
    before[paths.starts[:-1]] = paths.starts[1:] - 1
    step = np.hypot(*(paths.points - paths.points[before]).T) * area(
        (paths.width + paths.width[before]) / 2, height
    )
    begin = paths.starts[:-1]
    step[begin] = np.where(paths.closed, step[begin], 0.0)
    return _sums(step, paths.starts)


def _sums(values: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """(P,) sums over the points (K,) of paths that begin at ``starts`` (P + 1,)."""
    return np.add.reduceat(values, starts[:-1]) if len(starts) > 1 else np.zeros(0)


def _left_over(pieces: Pieces, paths: PathTable, owner: np.ndarray, side: np.ndarray) -> Pieces:
    """What beads do not cover of pieces of which they leave much; the owner is the index of the
    piece.
    """
    lane = paths.width - np.repeat(paths.height, np.diff(paths.starts)) * (1 - np.pi / 4)
    mean = _sums(lane, paths.starts) / np.diff(paths.starts)
    covered = np.bincount(owner, paths.lengths() * mean, len(pieces))
    size = shapely.area(pieces.polygons)
    much = size - covered > np.maximum(LEAST_LEFT, SHARE_LEFT * size)
    along = np.isin(np.arange(len(pieces)), owner)
    bare, index = np.flatnonzero(much & ~along), np.flatnonzero(much & along)
    whole = Pieces(pieces.polygons[bare], bare)
    if len(index) == 0:
        return whole
    chosen = np.isin(owner, index)
    lines = _as_lines(paths)[chosen]
    # a little wider than the bead: what is left is a place of its own, not the grain beside a line
    swept = rounded(lines, mean[chosen] / 2 * 1.05 + 0.02, 4)
    laid = united(Pieces(swept, owner[chosen]), len(pieces))
    rest = difference(pieces.polygons[index], laid[index])
    thin = np.minimum(0.04, 0.1 * side[index] + 0.02)
    found = explode(offset(offset(rest, -thin), thin), LEAST_LEFT)
    return by_owner(joined([whole, Pieces(found.polygons, index[found.owner])]))


def _as_lines(paths: PathTable) -> np.ndarray:
    """(P,) paths as lines, loops closed."""
    count = np.diff(paths.starts)
    of = np.repeat(np.arange(len(paths)), count + 1)
    index = np.arange(len(of)) - of
    ends = np.cumsum(count + 1) - 1
    index[ends] = np.where(paths.closed, paths.starts[:-1], paths.starts[1:] - 1)
    return np.asarray(shapely.linestrings(paths.points[index], indices=of))
