"""Measuring narrow places."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.geometry.polygons import Pieces

#: Most pieces whose width is measured.
MEASURED = 60
#: Gaps of less than this area (mm²) in a layer are the grain of corners.
LEAST = 0.05


def widest(polygons: np.ndarray) -> np.ndarray:
    """(P,) greatest width of areas in mm: the diameter of the largest circle inside."""
    return 2 * shapely.length(shapely.maximum_inscribed_circle(polygons, 0.004))


def worth_measuring(pieces: Pieces) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Area (P,) of every piece in mm², the index of those that count, and of those the largest, one
    of each size: of equal pieces, as in every layer of an upright slot, one is measured.
    """
    size = shapely.area(pieces.polygons)
    big = np.flatnonzero(size > LEAST)
    key, place = np.unique(np.round(size[big], 4), return_index=True)
    return size, big, big[place[np.argsort(-key)[:MEASURED]]]
