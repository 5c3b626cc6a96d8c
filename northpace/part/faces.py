"""Faces of a part: from a point on one over every edge that turns only a little."""

from __future__ import annotations

from typing import Protocol

import numba
import numpy as np

from northpace.part.tree import nearest


class OnFace(Protocol):
    """A point in the file's coordinates and how far its face spreads, in degrees."""

    @property
    def x(self) -> float: ...
    @property
    def y(self) -> float: ...
    @property
    def z(self) -> float: ...
    @property
    def spread(self) -> float: ...


def marked_face(
    corners: np.ndarray, normals: np.ndarray, beside: np.ndarray, affine: np.ndarray, mark: OnFace
) -> np.ndarray:
    """(F,) mask of the facets a mark means: from the facet at its point over every edge that turns
    by no more than its spread.
    """
    point = affine[:, :3] @ np.array([mark.x, mark.y, mark.z]) + affine[:, 3]
    start = nearest(corners, point)
    return _spread(normals, beside, start, np.cos(np.radians(mark.spread)) - 1e-9)


def neighbours(faces: np.ndarray) -> np.ndarray:
    """(F, 3) the facet across each edge (k to k + 1), -1 where there is none."""
    a = faces.ravel()
    b = np.roll(faces, -1, axis=1).ravel()
    key = np.minimum(a, b) * (faces.max() + 1) + np.maximum(a, b)
    order = np.argsort(key, kind="stable")
    out = np.full(len(key), -1, np.int64)
    same = np.flatnonzero(key[order][1:] == key[order][:-1])
    first, second = order[same], order[same + 1]
    out[first], out[second] = second // 3, first // 3
    return out.reshape(-1, 3)


@numba.njit(cache=True, nogil=True)
def _spread(normals, beside, start, least):  # type: ignore[no-untyped-def]
    inside = np.zeros(len(normals), np.bool_)
    queue = np.empty(len(normals), np.int64)
    queue[0], head, tail = start, 0, 1
    inside[start] = True
    while head < tail:
        f = queue[head]
        head += 1
        for k in range(3):
            g = beside[f, k]
            if g < 0 or inside[g]:
                continue
            if (
                normals[f, 0] * normals[g, 0]
                + normals[f, 1] * normals[g, 1]
                + normals[f, 2] * normals[g, 2]
                >= least
            ):
                inside[g] = True
                queue[tail] = g
                tail += 1
    return inside
