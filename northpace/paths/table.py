"""Paths as ragged arrays: what every strategy returns and the ordering takes."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import Any, Required

import numpy as np
from typing_extensions import TypedDict, Unpack


@dataclass(frozen=True)
class PathTable:
    """P paths over K points."""

    #: (K, 2) in mm from the middle of the bed
    points: np.ndarray
    #: (P + 1,) first point of every path
    starts: np.ndarray
    #: (P,) from the bed up
    layer: np.ndarray
    #: (P,) index into the outlines' islands; −1 for footing and supports
    island: np.ndarray
    #: (P,) order inside an island
    rank: np.ndarray
    #: (P,) code into `northpace.moves.FEATURES`
    feature: np.ndarray
    #: (P,) whether it ends where it begins
    closed: np.ndarray
    #: (K,) of the bead at every point in mm
    width: np.ndarray
    #: (P,) of the bead in mm
    height: np.ndarray
    #: (P,) top of the bead in mm where that is not the top of its layer, else NaN
    z: np.ndarray
    #: (P,) whether it has to be laid from its first point to its last
    fixed: np.ndarray
    #: (P,) number of the reason why it is there (`northpace.paths.fill.why`), −1 for none
    cause: np.ndarray
    #: (K,) whether the bead between the point before and this one shows as a top, whatever its path
    #: is laid for
    top: np.ndarray

    def __len__(self) -> int:
        return len(self.layer)

    @property
    def nbytes(self) -> int:
        return sum(getattr(self, item.name).nbytes for item in fields(self))

    @staticmethod
    def joined(tables: list[PathTable]) -> PathTable:
        """All paths of several tables, in that order."""
        if not tables:
            return path_table(
                np.empty((0, 2)), np.zeros(1), layer=0, rank=0, feature=0, width=0.0, height=0.0
            )
        shift = np.cumsum([0] + [len(table.points) for table in tables])
        starts = np.concatenate(
            [[0], *(table.starts[1:] + by for table, by in zip(tables, shift[:-1], strict=True))]
        )
        rest = {
            item.name: np.concatenate([getattr(table, item.name) for table in tables])
            for item in fields(PathTable)
            if item.name != "starts"
        }
        return PathTable(starts=starts.astype(np.int64), **rest)

    def counted_from(self, first: int) -> PathTable:
        """The same paths, their islands counted from another number."""
        return replace(self, island=np.where(self.island >= 0, self.island + first, -1))

    def lengths(self) -> np.ndarray:
        """(P,) length of every path in mm, the closing piece of a loop included."""
        if len(self) == 0:
            return np.zeros(0)
        step = np.hypot(*np.diff(self.points, axis=0, append=self.points[:1]).T)
        last = self.starts[1:] - 1
        step[last] = np.where(
            self.closed, np.hypot(*(self.points[last] - self.points[self.starts[:-1]]).T), 0.0
        )
        return np.add.reduceat(step, self.starts[:-1])


class Columns(TypedDict, total=False):
    """Columns of paths: one value for all, or one a path; ``width`` also one a point."""

    layer: Required[Any]
    #: index of the island, −1 for none
    island: Any
    #: place in the order of an island
    rank: Required[Any]
    feature: Required[Any]
    closed: Any
    #: bead width and height in mm
    width: Required[Any]
    height: Required[Any]
    #: top of the bead in mm where that is not the top of its layer
    z: Any
    #: whether it has to be laid from its first point to its last
    fixed: Any
    #: number of the reason why it is there
    cause: Any


def path_table(points: np.ndarray, starts: np.ndarray, **columns: Unpack[Columns]) -> PathTable:
    """A table of paths with ``points`` (K, 2) in mm, path p from ``starts[p]`` to the next."""
    count = len(starts) - 1
    starts = np.asarray(starts, np.int64)
    wide = np.asarray(columns["width"], np.float64)
    if wide.ndim and len(wide) == count and count != len(points):
        wide = np.repeat(wide, np.diff(starts))

    def column(value: Any, dtype: type) -> np.ndarray:
        return np.ascontiguousarray(np.broadcast_to(np.asarray(value, dtype), (count,)))

    return PathTable(
        np.ascontiguousarray(points, np.float64).reshape(-1, 2),
        starts,
        column(columns["layer"], np.int64),
        column(columns.get("island", -1), np.int64),
        column(columns["rank"], np.int64),
        column(columns["feature"], np.uint8),
        column(columns.get("closed", False), np.bool_),
        np.ascontiguousarray(np.broadcast_to(wide, (len(points),))),
        column(columns["height"], np.float64),
        column(columns.get("z", np.nan), np.float64),
        column(columns.get("fixed", False), np.bool_),
        column(columns.get("cause", -1), np.int32),
        np.zeros(len(points), np.bool_),
    )
