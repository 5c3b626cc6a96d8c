"""Where in an island another number of walls is asked for than in the rest of its layer."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    Pieces,
    Rings,
    explode,
    intersection,
    union,
    within,
)
from northpace.paths.apart import Apart, equal

#: A wall cut at a border counts from this length on (mm).
LEAST = 0.05


class Zones(NamedTuple):
    """Islands (I,) in which the number of walls differs from place to place."""

    varied: np.ndarray
    #: (I,) area of the islands where so many walls are asked for, by their number
    areas: dict[int, np.ndarray]

    @staticmethod
    def none(count: int) -> Zones:
        """Those of so many islands where every layer has one number of walls."""
        return Zones(np.zeros(count, bool), {})

    @property
    def most(self) -> int:
        """Most walls anywhere in them."""
        return max(self.areas, default=0)

    def within(self, first: int, end: int) -> Zones:
        """Those of the islands from a number on to an end."""
        areas = {count: area[first:end] for count, area in self.areas.items()}
        return Zones(self.varied[first:end], areas)

    def differs(self, other: Zones, apart: Apart) -> np.ndarray:
        """(N,) whether they differ in a layer."""
        none = np.full(len(self.varied), EMPTY, object)
        out = self.varied != other.varied
        for count in self.areas.keys() | other.areas.keys():
            out = out | ~equal(self.areas.get(count, none), other.areas.get(count, none))
        return np.bincount(apart.owner, out, apart.count) > 0

    def only(self, layers: np.ndarray, apart: Apart) -> Zones:
        """Those of the layers (N,) that are wanted."""
        areas = {count: apart.only_islands(area, layers) for count, area in self.areas.items()}
        return Zones(self.varied & layers[apart.owner], areas)

    def beyond(self, count: int) -> np.ndarray:
        """(I,) areas where more walls than these are asked for."""
        out = np.full(len(self.varied), EMPTY, object)
        for own, area in self.areas.items():
            if own > count:
                out = union(out, area)
        return out


class Lines(NamedTuple):
    """Lines one after the other."""

    #: (P, 2) mm, and (L + 1,) where each line begins
    points: np.ndarray
    starts: np.ndarray
    #: (L,) island, and whether it ends where it began
    island: np.ndarray
    closed: np.ndarray

    def some(self, mine: np.ndarray) -> Lines:
        """Those (L,) that are chosen."""
        size = np.diff(self.starts)
        return Lines(
            self.points[np.repeat(mine, size)],
            np.r_[0, np.cumsum(size[mine])],
            self.island[mine],
            self.closed[mine],
        )

    @staticmethod
    def joined(one: Lines, two: Lines) -> Lines:
        """Both, one after the other."""
        return Lines(
            np.concatenate([one.points, two.points]),
            np.r_[one.starts, one.starts[-1] + two.starts[1:]],
            np.r_[one.island, two.island],
            np.r_[one.closed, two.closed],
        )


def clipped(rings: Rings, area: np.ndarray) -> Lines:
    """What of rings lies in areas (I,), by the number that owns each ring."""
    points, of = _closed(rings)
    lines = shapely.linestrings(points, indices=of)
    found = within(lines, area[rings.owner])
    parts, ring = shapely.get_parts(shapely.line_merge(found), return_index=True)
    kept = (shapely.get_type_id(parts) == 1) & (shapely.length(parts) > LEAST)
    parts, island = parts[kept], rings.owner[ring[kept]]
    count, closed = shapely.get_num_coordinates(parts), shapely.is_closed(parts)
    # a closed line does not name its first point again
    keep = np.ones(int(count.sum()), bool)
    keep[np.cumsum(count)[closed] - 1] = False
    starts = np.r_[0, np.cumsum(count - closed)]
    return Lines(shapely.get_coordinates(parts)[keep], starts, island, closed)


def _closed(rings: Rings) -> tuple[np.ndarray, np.ndarray]:
    """Points (K, 2) of rings with the first of each again at its end, and the ring (K,) of each."""
    size = np.diff(rings.starts)
    of = np.repeat(np.arange(len(size)), size + 1)
    within_ring = np.arange(len(of)) - np.repeat(np.cumsum(size + 1) - size - 1, size + 1)
    index = rings.starts[of] + within_ring % size[of]
    return rings.points[index], of


def kept_in(pieces: Pieces, area: np.ndarray, varied: np.ndarray) -> Pieces:
    """Pieces as they are, those of varied islands (I,) only within areas (I,)."""
    mine = varied[pieces.owner]
    if not mine.any():
        return pieces
    some = np.flatnonzero(mine)
    cut = explode(intersection(pieces.polygons[some], area[pieces.owner[some]]), 0.01)
    return Pieces(
        np.concatenate([pieces.polygons[~mine], cut.polygons]),
        np.concatenate([pieces.owner[~mine], pieces.owner[some][cut.owner]]),
    )
