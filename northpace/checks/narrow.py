"""Measuring narrow places."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.geometry.polygons import Pieces, offset

#: Most pieces whose width is measured.
MEASURED = 60
#: Gaps of less than this area (mm²) in a layer are the grain of corners.
LEAST = 0.05
#: How exactly a width is measured (mm).
EXACT = 0.004


def widest(polygons: np.ndarray) -> np.ndarray:
    """(P,) greatest width of areas in mm, to `EXACT`: the diameter of the largest circle inside.

    Found by halving what the areas can be shrunk by until nothing is left, which costs a kernel a
    fortieth of looking for the circle.
    """
    # no circle is smaller than area over length (it bounds what shrinking takes away), none larger
    # than the area
    low = shapely.area(polygons) / np.maximum(shapely.length(polygons), 1e-9)
    high = np.sqrt(shapely.area(polygons) / np.pi)
    while (high - low).max(initial=0.0) > EXACT / 2:
        half = (low + high) / 2
        gone = shapely.is_empty(offset(polygons, -half))
        low, high = np.where(gone, low, half), np.where(gone, half, high)
    return np.asarray(low + high)


def worth_measuring(pieces: Pieces) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Area (P,) of every piece in mm², the index of those that count, and of those the largest, one
    of each size: of equal pieces, as in every layer of an upright slot, one is measured.
    """
    size = shapely.area(pieces.polygons)
    big = np.flatnonzero(size > LEAST)
    key, place = np.unique(np.round(size[big], 4), return_index=True)
    return size, big, big[place[np.argsort(-key)[:MEASURED]]]
