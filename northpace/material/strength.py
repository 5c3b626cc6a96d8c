"""Strength proxies (`docs/computations.md` §11): how much of each section is solid, and its
stiffness in bending. Not a simulation.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.moves import FOOTING, ROOF, SUPPORT, Moves
from northpace.paths.travel.rows import Rows


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
    laid = np.flatnonzero(
        (moves.width > 0) & ~np.isin(moves.feature, (FOOTING, SUPPORT, ROOF)) & (moves.layer >= 0)
    )
    x, y = (moves.x[laid - 1] + moves.x[laid]) / 2, (moves.y[laid - 1] + moves.y[laid]) / 2
    dx, dy = moves.x[laid] - moves.x[laid - 1], moves.y[laid] - moves.y[laid - 1]
    layer = moves.layer[laid]
    # area of each bead in the plan, as the lane it holds
    wide = moves.width[laid] - moves.height[laid] * (1 - np.pi / 4)
    weight = np.hypot(dx, dy) * wide * moves.height[laid] / heights[layer]

    def total(values: np.ndarray) -> np.ndarray:
        out = np.bincount(layer, weight * values, count)
        return np.convolve(out, np.ones(smooth), "same")

    mass = total(np.ones(len(laid)))
    mx, my = total(x) / np.maximum(mass, 1e-12), total(y) / np.maximum(mass, 1e-12)
    xx, yy, xy = (
        total(x * x + dx * dx / 12),
        total(y * y + dy * dy / 12),
        total(x * y + dx * dy / 12),
    )
    weakest = _weakest(xx - mass * mx * mx, yy - mass * my * my, xy - mass * mx * my)
    whole = np.stack([np.convolve(column, np.ones(smooth), "same") for column in _moments(areas)])
    area, sx, sy, axx, ayy, axy = whole
    cx, cy = sx / np.maximum(area, 1e-12), sy / np.maximum(area, 1e-12)
    full = _weakest(axx - area * cx * cx, ayy - area * cy * cy, axy - area * cx * cy)
    return Strength(
        np.minimum(mass / np.maximum(area, 1e-9), 1.0),
        np.minimum(weakest / np.maximum(full, 1e-9), 1.0),
    )


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
