"""Rows of samples over polygons: what wavy patterns are drawn along."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely


@dataclass(frozen=True)
class Lattice:
    """Curves (C,) of samples (K,): of (C,) polygon of a curve, row (C,) its number across, starts
    (C + 1,); for every sample its number along, its curve, and cosine and sine of its polygon's
    direction.
    """

    of: np.ndarray
    row: np.ndarray
    starts: np.ndarray
    along: np.ndarray
    curve: np.ndarray
    cosine: np.ndarray
    sine: np.ndarray

    def points(self, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        """(K, 2) coordinates of samples at u along and v across the direction, in mm."""
        return np.stack([u * self.cosine - v * self.sine, v * self.cosine + u * self.sine], axis=1)


def lattice(
    polygons: np.ndarray, angle: np.ndarray, pitch: float, step: float, margin: float
) -> Lattice:
    """Rows every ``pitch`` mm across the direction ``angle`` (P,) in degrees with a sample every
    ``step`` mm, ``margin`` beyond the box.
    """
    points, of_polygon = shapely.get_coordinates(polygons, return_index=True)
    turn = np.radians(angle)
    cosine, sine = np.cos(turn), np.sin(turn)
    u = points[:, 0] * cosine[of_polygon] + points[:, 1] * sine[of_polygon]
    v = points[:, 1] * cosine[of_polygon] - points[:, 0] * sine[of_polygon]
    at = np.searchsorted(of_polygon, np.arange(len(polygons)))

    def span(values: np.ndarray, unit: float) -> tuple[np.ndarray, np.ndarray]:
        low = np.floor((np.minimum.reduceat(values, at) - margin) / unit).astype(np.int64)
        high = np.ceil((np.maximum.reduceat(values, at) + margin) / unit).astype(np.int64)
        return low, high - low + 1

    first_row, rows = span(v, pitch)
    first, samples = span(u, step)
    of = np.repeat(np.arange(len(polygons)), rows)
    row = first_row[of] + _counting(rows)
    count = samples[of]
    curve = np.repeat(np.arange(len(of)), count)
    along = first[of][curve] + _counting(count)
    return Lattice(
        of, row, np.r_[0, np.cumsum(count)], along, curve, cosine[of][curve], sine[of][curve]
    )


def _counting(counts: np.ndarray) -> np.ndarray:
    """0 … n−1 for every n, one after the other."""
    ends = np.cumsum(counts)
    return np.arange(ends[-1] if len(ends) else 0) - np.repeat(ends - counts, counts)
