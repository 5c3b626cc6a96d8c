"""Solid lines that go on from below a surface onto it: which of their beads show as a top."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import within
from northpace.moves import TOP
from northpace.paths.table import PathTable

#: Nearer than this to an end of a move (mm), a border goes through that end.
AT_END = 0.02


class Reach(NamedTuple):
    """Stretches (E,) of moves that lie on a top: the point each move begins at, and from where to
    where on it, 0 to 1.
    """

    point: np.ndarray
    first: np.ndarray
    last: np.ndarray


def shown(paths: PathTable, tops: np.ndarray, least: float) -> PathTable:
    """Open paths whose beads over ``tops``, areas (I,) by island, are told from the others; moves
    that cross a border are cut there. A stretch shorter than ``least`` mm stays what the rest is.
    """
    mine = np.flatnonzero(~shapely.is_empty(tops)[paths.island])
    if not len(mine):
        return paths
    begins = _moves_of(paths, mine)
    island = np.repeat(paths.island, np.diff(paths.starts))[begins]
    moves = np.stack([paths.points[begins], paths.points[begins + 1]], axis=1)
    lines = shapely.linestrings(moves)
    shapely.prepare(tops)
    whole = shapely.covers(tops[island], lines)
    some = np.flatnonzero(~whole & shapely.intersects(tops[island], lines))
    reach = _reach(begins[some], moves[some], within(lines[some], tops[island[some]]), least)
    ends = np.zeros(len(paths.points), bool)
    ends[begins[whole] + 1] = True
    return _all_tops(_cut(paths, reach, ends))


def _moves_of(paths: PathTable, mine: np.ndarray) -> np.ndarray:
    """The points that moves of some paths begin at."""
    chosen = np.zeros(len(paths), bool)
    chosen[mine] = True
    begins = np.repeat(chosen, np.diff(paths.starts))
    begins[paths.starts[1:] - 1] = False
    return np.flatnonzero(begins)


def _reach(begins: np.ndarray, moves: np.ndarray, inside: np.ndarray, least: float) -> Reach:
    """Where moves (E, 2, 2) lie ``inside`` (E,), from what of their lines does."""
    parts, of = shapely.get_parts(inside, return_index=True)
    straight = (shapely.get_type_id(parts) == 1) & ~shapely.is_empty(parts)
    parts, of = parts[straight], of[straight]
    ends = np.stack(
        [shapely.get_coordinates(shapely.get_point(parts, k)) for k in (0, -1)], axis=1
    ).reshape(-1, 2, 2)
    start, way = moves[of, 0], moves[of, 1] - moves[of, 0]
    length = np.hypot(*way.T)
    at = ((ends - start[:, None]) * way[:, None]).sum(axis=2) / np.maximum(length, 1e-9)[:, None]
    first, last = at.min(axis=1), at.max(axis=1)
    long = last - first >= np.minimum(least, length)
    first = np.where(first < AT_END, 0.0, first / np.maximum(length, 1e-9))
    last = np.where(last > length - AT_END, 1.0, last / np.maximum(length, 1e-9))
    return Reach(begins[of][long], first[long], last[long])


def _cut(paths: PathTable, reach: Reach, ends: np.ndarray) -> PathTable:
    """Paths with points where a stretch begins and ends; ``ends`` (K,) are points that are reached
    on a top.
    """
    ends[reach.point[reach.last == 1.0] + 1] = True
    enters, leaves = reach.first > 0.0, reach.last < 1.0
    point = np.r_[reach.point[enters], reach.point[leaves]]
    share = np.r_[reach.first[enters], reach.last[leaves]]
    on_top = np.r_[np.zeros(enters.sum(), bool), np.ones(leaves.sum(), bool)]

    def between(values: np.ndarray) -> np.ndarray:
        weight = share if values.ndim == 1 else share[:, None]
        return values[point] + weight * (values[point + 1] - values[point])

    order = np.argsort(np.r_[np.arange(len(paths.points)), point + share], kind="stable")
    more = np.searchsorted(np.sort(point), paths.starts)
    return replace(
        paths,
        points=np.concatenate([paths.points, between(paths.points)])[order],
        starts=paths.starts + more,
        width=np.r_[paths.width, between(paths.width)][order],
        top=np.r_[ends, on_top][order],
    )


def _all_tops(paths: PathTable) -> PathTable:
    """Paths of which every move shows are tops as a whole."""
    moves = np.ones(len(paths.points), bool)
    moves[paths.starts[:-1]] = False
    count = np.add.reduceat((paths.top & moves).astype(np.int64), paths.starts[:-1])
    every = (count == np.diff(paths.starts) - 1) & (count > 0)
    return replace(paths, feature=np.where(every, TOP, paths.feature).astype(np.uint8))
