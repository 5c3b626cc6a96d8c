"""Measuring narrow places."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.figures import Severity
from northpace.geometry.polygons import Pieces, offset
from northpace.outlines.sections import Outlines

#: Most pieces whose width is measured.
MEASURED = 60
#: Gaps of less than this area (mm²) in a layer are the grain of corners.
LEAST = 0.05
#: What is missing shows if it is at least this share of the part, or so many mm³ in one place.
SHOWS, LARGE = 0.0005, 0.5
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


def whole_of(outlines: Outlines) -> float:
    """Volume in mm³ of all layers of a part."""
    return float((shapely.area(outlines.areas) * outlines.heights).sum())


def missing_matters(volume: np.ndarray, outlines: Outlines) -> Severity:
    """Severity of places that stay empty although the part has material there. ``volume`` (P,) is
    that of each place in mm³.
    """
    large = volume.max(initial=0.0) >= LARGE
    return "look" if large or volume.sum() >= SHOWS * whole_of(outlines) else "note"
