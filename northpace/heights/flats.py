"""Flats: level faces, which leave no steps but lie beside the nearest layer boundary."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

#: A facet this close to level can belong to a flat; a mere 0.999 would call millimetres of a
#: shallow dome flat.
LEVEL = 1 - 1e-6
#: Smaller flats (mm²) do not show.
LEAST_AREA = 0.5


def find_flats(
    z: np.ndarray, faces: np.ndarray, normals: np.ndarray, areas: np.ndarray, z_step: float
) -> tuple[np.ndarray, np.ndarray]:
    """Which flat each facet belongs to (F,), -1 for none, and the height (M,) in mm of each flat.

    A flat is a connected set of level facets that spans less than half a z step and is larger than
    `LEAST_AREA`. ``z`` (F, 3) are the heights of the corners.
    """
    out = np.full(len(faces), -1, np.int64)
    level = np.flatnonzero((np.abs(normals[:, 2]) > LEVEL) & (np.ptp(z, axis=1) < z_step / 2))
    if not len(level):
        return out, np.empty(0)
    corners, local = np.unique(faces[level], return_inverse=True)
    local = local.reshape(-1, 3)
    links = coo_array(
        (
            np.ones(2 * len(local)),
            (np.r_[local[:, 0], local[:, 1]], np.r_[local[:, 1], local[:, 2]]),
        ),
        shape=(len(corners), len(corners)),
    )
    _, group = connected_components(links, directed=False)
    # sheets that touch in a point but look up and down are two
    _, group = np.unique(group[local[:, 0]] * 2 + (normals[level, 2] > 0), return_inverse=True)
    group = group.reshape(-1)
    area = np.bincount(group, areas[level])
    low, high = np.full(len(area), np.inf), np.full(len(area), -np.inf)
    np.minimum.at(low, group, z[level].min(axis=1))
    np.maximum.at(high, group, z[level].max(axis=1))
    height = np.bincount(group, areas[level] * z[level].mean(axis=1)) / np.maximum(area, 1e-300)
    kept = (high - low < z_step / 2) & (area >= LEAST_AREA)
    number = np.where(kept, np.cumsum(kept) - 1, -1)
    out[level] = number[group]
    return out, height[kept]
