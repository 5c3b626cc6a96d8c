"""Why a patch is solid: which open face causes it, and how far it is carried
(`docs/computations.md` §5).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.geometry.polygons import EMPTY, Pieces
from northpace.geometry.stacks import stacked
from northpace.outlines.sections import Outlines
from northpace.paths.fill.areas import FillAreas, SkinRules, layers_within

KINDS = ("top", "bottom", "floor", "full", "narrow")
TOP_FACE, BOTTOM_FACE, FLOOR, FULL, NARROW = range(5)
#: Patches told apart in a report; the rest is small.
MOST = 200


@dataclass(frozen=True)
class Why:
    """Why solid pieces are solid, and the patches they belong to."""

    #: (C,) patch, kind (into `KINDS`) and z in mm of the face of every cause
    patch: np.ndarray
    kind: np.ndarray
    z: np.ndarray
    #: (S,) cause of every solid piece
    of: np.ndarray
    #: (Q, 3) a point in every patch, in mm
    at: np.ndarray
    #: (Q,) lowest and highest z in mm
    low: np.ndarray
    high: np.ndarray
    #: (Q,) largest area in a layer in mm²
    area: np.ndarray
    #: (Q,) whether it is solid; below the least area it is infill
    solid: np.ndarray

    @property
    def nbytes(self) -> int:
        return self.of.nbytes + self.patch.nbytes * 3 + 6 * self.low.nbytes


def reasons(areas: FillAreas, outlines: Outlines, rules: SkinRules, empty: np.ndarray) -> Why:
    """Causes of all solid pieces, and the patches they belong to; ``empty`` (N,) is room inside the
    walls that a layer leaves empty.
    """
    solid, small = areas.solid, areas.small
    layer = outlines.islands.owner[solid.owner]
    spot = (
        shapely.get_coordinates(shapely.point_on_surface(solid.polygons))
        if len(solid)
        else np.empty((0, 2))
    )
    kind, z = _causes(spot, layer, outlines, rules)
    _over_voids(kind, z, spot, layer, outlines, rules, empty)
    count, label = stacked(solid.polygons, layer)
    few, other = stacked(small.polygons, outlines.islands.owner[small.owner])
    key = np.stack([label, kind, np.round(1000 * z).astype(np.int64)], axis=1)
    distinct, of = (
        np.unique(key, axis=0, return_inverse=True)
        if len(key)
        else (np.empty((0, 3), np.int64), np.empty(0, np.int64))
    )
    first = _patches(solid, label, count, outlines)
    second = _patches(small, other, few, outlines)
    at, low, high, size = (np.concatenate(pair) for pair in zip(first, second, strict=True))
    return Why(
        distinct[:, 0],
        distinct[:, 1],
        distinct[:, 2] / 1000.0,
        of.reshape(-1),
        at,
        low,
        high,
        size,
        np.r_[np.ones(count, bool), np.zeros(few, bool)],
    )


def _causes(
    spot: np.ndarray, layer: np.ndarray, outlines: Outlines, rules: SkinRules
) -> tuple[np.ndarray, np.ndarray]:
    """Kind and z of the nearest open face above or below each spot (S, 2) in its layer (S,)."""
    tops, heights = outlines.tops, outlines.heights
    kind, z = np.where(rules.full[layer], FULL, NARROW), tops[layer] if len(layer) else np.empty(0)
    nearest = np.full(len(layer), np.inf)
    kind = np.where(rules.floors[layer], FLOOR, kind)
    areas = np.r_[outlines.coarse, EMPTY]
    shapely.prepare(areas)
    for upward, thickness, least in (
        (True, rules.top, rules.top_least),
        (False, rules.bottom, rules.bottom_least),
    ):
        count = layers_within(tops, heights, thickness, least, upward)[layer]
        open_yet = np.ones(len(layer), bool)
        for step in range(int(count.max(initial=0))):
            index = np.flatnonzero(open_yet & (count > step))
            if len(index) == 0:
                break
            other = layer[index] + (step + 1 if upward else -step - 1)
            face = np.where(other >= 0, np.minimum(other, len(tops)), len(tops))
            inside = shapely.contains_xy(areas[face], spot[index, 0], spot[index, 1])
            hit = index[~inside]
            open_yet[hit] = False
            level = (
                tops[np.minimum(layer[hit] + step, len(tops) - 1)]
                if upward
                else (tops - heights)[np.maximum(layer[hit] - step, 0)]
            )
            carried = np.abs(level - tops[layer[hit]])
            better = hit[carried < nearest[hit]]
            nearest[better] = carried[carried < nearest[hit]]
            kind[better] = TOP_FACE if upward else BOTTOM_FACE
            z[better] = level[np.isin(hit, better)]
    return kind, z


def _over_voids(
    kind: np.ndarray,
    z: np.ndarray,
    spot: np.ndarray,
    layer: np.ndarray,
    outlines: Outlines,
    rules: SkinRules,
    empty: np.ndarray,
) -> None:
    """Where no open face is the cause, a void below is: what lies over it is a bottom."""
    if shapely.is_empty(empty).all():
        return
    tops, heights = outlines.tops, outlines.heights
    below = np.maximum(rules.bottom_least, 1)
    count = layers_within(tops, heights, rules.bottom, below, False)[layer]
    areas = empty.copy()
    shapely.prepare(areas)
    left = kind == NARROW
    for step in range(int(count.max(initial=0))):
        index = np.flatnonzero(left & (count > step) & (layer > step))
        under = areas[layer[index] - step - 1]
        hit = index[shapely.contains_xy(under, spot[index, 0], spot[index, 1])]
        kind[hit], z[hit] = BOTTOM_FACE, (tops - heights)[layer[hit] - step]
        left[hit] = False


def _patches(
    pieces: Pieces, label: np.ndarray, count: int, outlines: Outlines
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    layer = outlines.islands.owner[pieces.owner]
    size = shapely.area(pieces.polygons)
    low, high, largest = np.full(count, np.inf), np.zeros(count), np.zeros(count)
    np.minimum.at(low, label, (outlines.tops - outlines.heights)[layer])
    np.maximum.at(high, label, outlines.tops[layer])
    np.maximum.at(largest, label, size)
    order = np.lexsort((size, label))
    best = (
        order[np.searchsorted(label[order], np.arange(count), "right") - 1]
        if count
        else np.empty(0, np.int64)
    )
    spot = (
        shapely.get_coordinates(shapely.point_on_surface(pieces.polygons[best]))
        if count
        else np.empty((0, 2))
    )
    middle = (outlines.tops - outlines.heights / 2)[layer[best]]
    return np.column_stack([spot, middle]), low, high, largest
