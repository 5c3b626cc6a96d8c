"""Faces a maker wants held, or never touched."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    difference,
    intersection,
    only_areas,
    rounded,
    together,
    union,
)
from northpace.outlines.sections import Outlines
from northpace.part.faces import marked_face, neighbours
from northpace.part.place import Placed
from northpace.part.stl import mesh_arrays
from northpace.spec import Supports


def with_marks(want: np.ndarray, outlines: Outlines, placed: Placed, rules: Supports) -> np.ndarray:
    """Demands with those of marked faces added and those of forbidden faces taken away. ``want``
    (N,) are the areas that need a stand under each layer.
    """
    if not rules.marks:
        return want
    vertices, faces, _ = mesh_arrays((placed.solid,))
    corners = np.asarray(vertices[faces], np.float64)
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-30)
    beside = neighbours(faces)
    want = want.copy()
    low, high = corners[:, :, 2].min(axis=1), corners[:, :, 2].max(axis=1)
    leaning = normals[:, 2] < -1e-3
    for mark in rules.marks:
        chosen = marked_face(corners, normals, beside, placed.affine, mark) & leaning
        if mark.radius > 0:
            spot = placed.affine[:, :3] @ np.array([mark.x, mark.y, mark.z]) + placed.affine[:, 3]
            chosen &= np.linalg.norm(corners.mean(axis=1) - spot, axis=1) <= mark.radius
        shadows = shapely.polygons(corners[chosen][:, :, :2])
        for k in range(1, len(outlines.tops)):
            here = (low[chosen] <= outlines.tops[k] + 1e-6) & (
                high[chosen] >= outlines.tops[k] - outlines.heights[k] - 1e-6
            )
            if not here.any():
                continue
            face = rounded(together(rounded(shadows[here], 1e-3)), 0.01)
            if mark.want:
                over = intersection(difference(outlines.areas[k], outlines.areas[k - 1]), face)
                want[k] = union(want[k], over)
            else:
                want[k] = only_areas(
                    np.array(
                        [difference(want[k], rounded(face, outlines.heights[k]))],
                        object,
                    )
                )[0]
    return want


def asked_and_forbidden(
    want: np.ndarray, areas: np.ndarray, ask: np.ndarray | None, forbid: np.ndarray | None
) -> np.ndarray:
    """Demands (N,) for support with those of regions added, where the part (N,) hangs over its
    layer below, and taken away.
    """
    want = want.copy()
    if ask is not None:
        over = np.full(len(areas), EMPTY, object)
        over[1:] = intersection(difference(areas[1:], areas[:-1]), ask[1:])
        want = union(want, only_areas(over))
    return want if forbid is None else difference(want, forbid)
