"""How results fall apart by layers: in which layers two of them differ, one of some layers alone,
and one put together from two.

Only results over the same outlines are compared, so that layers and islands have the same numbers.
Within a layer the order of paths and pieces counts, across layers it does not. What falls apart by
layers says in which it ``differs`` from another, what ``only`` some of them hold, and what comes of
it ``merged`` with what is new in some.
"""

from __future__ import annotations

import operator
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from northpace.geometry.polygons import EMPTY, Pieces, joined
from northpace.outlines.sections import Outlines
from northpace.paths.table import PathTable

#: Pieces, with islands as owners, and columns (P,) that go with them.
Columns = tuple[Pieces, tuple[np.ndarray, ...]]
#: Columns of paths by point; all others but ``starts`` are by path.
_POINTS = ("points", "width", "top")


@dataclass(frozen=True)
class Apart:
    """What tells the layer of everything in results over the same outlines."""

    #: (I,) layer of every island
    owner: np.ndarray
    #: number of layers
    count: int

    @staticmethod
    def of(outlines: Outlines) -> Apart:
        return Apart(outlines.islands.owner, len(outlines.tops))

    def only_islands(self, areas: np.ndarray, layers: np.ndarray) -> np.ndarray:
        """Areas (I,), nothing where a layer (N,) is not wanted."""
        return np.where(layers[self.owner], areas, EMPTY)

    def only(self, pieces: Pieces, layers: np.ndarray) -> Pieces:
        """The pieces, with islands as owners, of the layers (N,) that are wanted."""
        return pieces.some(layers[self.owner[pieces.owner]])

    def merged(self, old: Pieces, new: Pieces, layers: np.ndarray) -> Pieces:
        """New pieces in the layers (N,), old ones elsewhere."""
        return self.merged_columns((old, ()), (new, ()), layers)[0]

    def columns(self, one: Columns, two: Columns) -> np.ndarray:
        """(N,) whether pieces, or what goes with them, differ."""
        if one[0] is two[0]:
            return np.zeros(self.count, bool)
        (a, layer), (b, _), out = self._aligned(self.owner[one[0].owner], self.owner[two[0].owner])
        same = one[0].owner[a] == two[0].owner[b]
        for old, new in zip((one[0].polygons, *one[1]), (two[0].polygons, *two[1]), strict=True):
            some = np.flatnonzero(same)
            values = old[a[some]], new[b[some]]
            same[some] = equal(*values) if old.dtype == object else values[0] == values[1]
        return out | self._marked(layer[~same])

    def only_columns(self, some: Columns, layers: np.ndarray) -> Columns:
        """The pieces of the layers (N,) that are wanted, with what goes with them."""
        chosen = layers[self.owner[some[0].owner]]
        return some[0].some(chosen), tuple(column[chosen] for column in some[1])

    def merged_columns(self, old: Columns, new: Columns, layers: np.ndarray) -> Columns:
        """New pieces in the layers (N,), old ones elsewhere, with what goes with them."""
        kept, columns = self.only_columns(old, ~layers)
        found = joined([kept, new[0]])
        order = np.argsort(self.owner[found.owner], kind="stable")
        both = zip(columns, new[1], strict=True)
        return found.some(order), tuple(np.concatenate(pair)[order] for pair in both)

    def islands(self, one: np.ndarray, two: np.ndarray) -> np.ndarray:
        """(N,) whether areas (I,) differ."""
        return self._marked(self.owner[~equal(one, two)])

    def pieces(self, one: Pieces, two: Pieces) -> np.ndarray:
        """(N,) whether pieces differ that have islands as owners."""
        return self.columns((one, ()), (two, ()))

    def paths(self, one: PathTable, two: PathTable, by_stand: bool = False) -> np.ndarray:
        """(N,) whether paths differ. Why they are there is looked at ``by_stand`` alone, where it
        says which stand they belong to.
        """
        if one is two:
            return np.zeros(self.count, bool)
        (a, first), (b, _), out = self._aligned(one.layer, two.layer)
        sizes = [np.diff(table.starts)[rows] for table, rows in ((one, a), (two, b))]
        same = sizes[0] == sizes[1]
        for name in ("island", "rank", "feature", "closed", "height", "z", "fixed"):
            same &= _alike(getattr(one, name)[a], getattr(two, name)[b])
        if by_stand:
            same &= (one.cause[a] == two.cause[b]) | (one.island[a] >= 0)
        rows = np.flatnonzero(same)
        here, there = (
            points_of(table.starts, index[rows]) for table, index in ((one, a), (two, b))
        )
        of = np.repeat(rows, sizes[0][rows])
        for name in _POINTS:
            equals = _alike(getattr(one, name)[here], getattr(two, name)[there])
            same[of[~(equals.all(axis=1) if equals.ndim > 1 else equals)]] = False
        return out | self._marked(first[~same])

    def _aligned(
        self, one: np.ndarray, two: np.ndarray
    ) -> tuple[tuple[np.ndarray, np.ndarray], tuple[np.ndarray, np.ndarray], np.ndarray]:
        """Rows of two tables, with their layers, layer by layer where both have as many; and in
        which layers (N,) they do not.
        """
        other = np.bincount(one, minlength=self.count) != np.bincount(two, minlength=self.count)
        rows = []
        for layer in (one, two):
            index = np.argsort(layer, kind="stable")
            index = index[~other[layer[index]]]
            rows.append((index, layer[index]))
        return rows[0], rows[1], other

    def _marked(self, layers: np.ndarray) -> np.ndarray:
        out = np.zeros(self.count, bool)
        out[layers] = True
        return out


def equal(one: np.ndarray, two: np.ndarray) -> np.ndarray:
    """(K,) whether areas (K,) are equal corner by corner; mostly they are the very same."""
    out = np.fromiter(map(operator.is_, one, two), bool, len(one))
    out[~out] = shapely.equals_exact(one[~out], two[~out], 0.0)
    return out


def _alike(one: np.ndarray, two: np.ndarray) -> np.ndarray:
    """(K, ...) whether values are equal, those that are no numbers among them."""
    same = one == two
    return np.asarray(same if same.all() else same | ((one != one) & (two != two)))


def points_of(starts: np.ndarray, paths: np.ndarray) -> np.ndarray:
    """Rows of the points of some paths (P,), path by path."""
    size = np.diff(starts)[paths]
    return np.arange(size.sum()) + np.repeat(starts[paths] - np.cumsum(size) + size, size)


def some_paths(table: PathTable, paths: np.ndarray) -> PathTable:
    """Some paths of a table by their numbers (P,)."""
    points = points_of(table.starts, paths)
    columns: dict[str, Any] = {
        name: value[points if name in _POINTS else paths]
        for name, value in table.__dict__.items()
        if name != "starts"
    }
    return PathTable(starts=np.r_[0, np.cumsum(np.diff(table.starts)[paths])], **columns)


def only_paths(table: PathTable, layers: np.ndarray) -> PathTable:
    """The paths of the layers (N,) that are wanted."""
    return some_paths(table, np.flatnonzero(layers[table.layer]))


def merged_paths(old: PathTable, new: PathTable, layers: np.ndarray) -> PathTable:
    """New paths in the layers (N,), old ones elsewhere."""
    return PathTable.joined([only_paths(old, ~layers), new])
