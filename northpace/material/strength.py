"""Strength proxies (`docs/computations.md` §11): how much of each section is solid, and its
stiffness in bending. Not a simulation.
"""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np
import shapely

from northpace.moves import FOOTING, ROOF, SUPPORT, Moves
from northpace.paths import bead
from northpace.paths.travel.rows import Rows

_spacing = numba.njit(bead.spacing)


@dataclass(frozen=True)
class Strength:
    """Solid share (N,) and bending stiffness about the weakest axis (N,) of every layer, relative
    to a solid part.
    """

    solid: np.ndarray
    stiffness: np.ndarray


def strength(
    areas: np.ndarray, moves: Moves | Rows, heights: np.ndarray, smooth: int = 8
) -> Strength:
    """Proxies from outlines (N,) and the move table. Layers of a few neighbours are taken together,
    as a pattern that turns from layer to layer only holds over several.
    """
    count = len(areas)
    smooth = min(smooth, count)
    mass, lx, ly, lxx, lyy, lxy = _smoothed(
        _laid_moments(
            *(moves.x, moves.y, moves.layer, moves.feature, moves.width, moves.height),
            np.asarray(heights, np.float64),
        ),
        smooth,
    )
    mx, my = lx / np.maximum(mass, 1e-12), ly / np.maximum(mass, 1e-12)
    weakest = _weakest(lxx - mass * mx * mx, lyy - mass * my * my, lxy - mass * mx * my)
    area, sx, sy, axx, ayy, axy = _smoothed(_moments(areas), smooth)
    cx, cy = sx / np.maximum(area, 1e-12), sy / np.maximum(area, 1e-12)
    full = _weakest(axx - area * cx * cx, ayy - area * cy * cy, axy - area * cx * cy)
    return Strength(
        np.minimum(mass / np.maximum(area, 1e-9), 1.0),
        np.minimum(weakest / np.maximum(full, 1e-9), 1.0),
    )


def _smoothed(columns: np.ndarray, smooth: int) -> np.ndarray:
    """(6, N) columns, each layer with some of its neighbours."""
    return np.stack([np.convolve(column, np.ones(smooth), "same") for column in columns])


@numba.njit(cache=True, nogil=True)
def _laid_moments(x, y, layer, feature, width, height, heights):  # type: ignore[no-untyped-def]
    """(6, N) area, first and second moments of the beads of each layer about the origin, without
    footing and stands; a bead counts with the lane it holds.
    """
    out = np.zeros((6, len(heights)))
    for k in range(1, len(x)):
        n, f = layer[k], feature[k]
        if width[k] <= 0 or n < 0 or f in (FOOTING, SUPPORT, ROOF):
            continue
        mx, my = (x[k - 1] + x[k]) / 2, (y[k - 1] + y[k]) / 2
        dx, dy = x[k] - x[k - 1], y[k] - y[k - 1]
        area = np.hypot(dx, dy) * _spacing(width[k], height[k]) * height[k] / heights[n]
        out[0, n] += area
        out[1, n] += area * mx
        out[2, n] += area * my
        out[3, n] += area * (mx * mx + dx * dx / 12)
        out[4, n] += area * (my * my + dy * dy / 12)
        out[5, n] += area * (mx * my + dx * dy / 12)
    return out


def _weakest(xx: np.ndarray, yy: np.ndarray, xy: np.ndarray) -> np.ndarray:
    """Least principal second moment."""
    middle, half = (xx + yy) / 2, np.hypot((xx - yy) / 2, xy)
    return np.asarray(middle - half)


def _moments(areas: np.ndarray) -> np.ndarray:
    """(6, N) area, first and second moments of polygons with holes about the origin, by Green's
    theorem.
    """
    parts, owner = shapely.get_parts(areas, return_index=True)
    rings, ring_part = shapely.get_rings(shapely.orient_polygons(parts), return_index=True)
    points, ring = shapely.get_coordinates(rings, return_index=True)
    same = np.flatnonzero(ring[1:] == ring[:-1])
    a, b = points[same], points[same + 1]
    of = owner[ring_part[ring[same]]]
    cross = a[:, 0] * b[:, 1] - b[:, 0] * a[:, 1]
    (ax, ay), (bx, by) = a.T, b.T
    terms = [
        cross / 2,
        cross * (ax + bx) / 6,
        cross * (ay + by) / 6,
        cross * (ax * ax + ax * bx + bx * bx) / 12,
        cross * (ay * ay + ay * by + by * by) / 12,
        cross * (2 * ax * ay + ax * by + bx * ay + 2 * bx * by) / 24,
    ]
    return np.stack([np.bincount(of, term, len(areas)) for term in terms])
