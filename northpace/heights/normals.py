"""How steep a faceted surface is at every corner of its facets, as if it were the smooth surface
the facets stand for.

The normal turns across a facet from one corner to the next; that turning is the surface's curvature
along its steepest direction (dn_z/dz = κ), so that what is built on these normals contains it.
"""

from __future__ import annotations

import numba
import numpy as np

#: Two facets that meet at a sharper angle are an edge of the part, not tessellation.
CREASE = np.cos(np.radians(30.0))
#: Facets whose arc would stand further than this (mm) off its chord are meant to be plane: no file
#: is tessellated so coarsely.
SAGITTA = 0.2


def facets_of(
    vertices: np.ndarray, faces: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Of triangles (F, 3) over vertices (V, 3) mm: unit normals (F, 3), areas (F,) in mm², angles
    at the corners (F, 3) in radians, and how wide each is across its longest edge (F,) in mm.
    """
    return _facets(np.ascontiguousarray(vertices, np.float64), np.ascontiguousarray(faces))


@numba.njit(cache=True, nogil=True)
def _facets(vertices, faces):  # type: ignore[no-untyped-def]
    count = len(faces)
    normals, angles = np.empty((count, 3)), np.empty((count, 3))
    areas, sizes = np.empty(count), np.empty(count)
    for f in range(count):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ux, uy, uz = (
            vertices[b, 0] - vertices[a, 0],
            vertices[b, 1] - vertices[a, 1],
            vertices[b, 2] - vertices[a, 2],
        )
        vx, vy, vz = (
            vertices[c, 0] - vertices[a, 0],
            vertices[c, 1] - vertices[a, 1],
            vertices[c, 2] - vertices[a, 2],
        )
        nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        double = np.sqrt(nx * nx + ny * ny + nz * nz)
        scale = 1.0 / max(double, 1e-300)
        normals[f, 0], normals[f, 1], normals[f, 2] = nx * scale, ny * scale, nz * scale
        areas[f] = 0.5 * double
        uu, vv = ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz
        uv = ux * vx + uy * vy + uz * vz
        # the angle at a, at b, and what is left of half a turn
        angles[f, 0] = np.arctan2(double, uv)
        angles[f, 1] = np.arctan2(double, uu - uv)
        angles[f, 2] = max(np.pi - angles[f, 0] - angles[f, 1], 0.0)
        sizes[f] = double / max(np.sqrt(max(uu, vv, uu + vv - 2.0 * uv)), 1e-12)
    return normals, areas, angles, sizes


def corner_slopes(
    faces: np.ndarray, count: int, normals: np.ndarray, angles: np.ndarray, sizes: np.ndarray
) -> np.ndarray:
    """(F, 3) vertical part n_z of the smooth normal at each corner of each facet.

    The mean over the facets around the corner, weighted by their angle there (Thürmer and Wüthrich,
    "Computing vertex normals from polygonal facets", 1998), leaving out facets across a crease. The
    vertical part alone is averaged: turning the whole normal and making it a unit again would call
    the tip of a cone, which is equally steep all round, less steep. As the corners of a facet
    differ by the shape operator times the way between them, this carries the curvature of
    Rusinkiewicz, "Estimating curvatures and their derivatives on triangle meshes", 2004. ``count``
    is the number of vertices; the rest comes from `facets_of`.
    """
    return _slopes(np.ascontiguousarray(faces), count, normals, angles, sizes)


@numba.njit(cache=True, nogil=True)
def _slopes(faces, count, normals, angles, sizes):  # type: ignore[no-untyped-def]
    # the corners around each vertex, by counting
    start = np.zeros(count + 1, np.int64)
    for f in range(len(faces)):
        for k in range(3):
            start[faces[f, k] + 1] += 1
    for v in range(count):
        start[v + 1] += start[v]
    order, put = np.empty(3 * len(faces), np.int64), start[:-1].copy()
    for f in range(len(faces)):
        for k in range(3):
            order[put[faces[f, k]]] = 3 * f + k
            put[faces[f, k]] += 1
    out = np.empty((len(faces), 3))
    for f in range(len(faces)):
        nx, ny, nz, own = normals[f, 0], normals[f, 1], normals[f, 2], sizes[f]
        for k in range(3):
            vertex = faces[f, k]
            whole, mean = 0.0, 0.0
            for at in range(start[vertex], start[vertex + 1]):
                corner = order[at]
                g = corner // 3
                cosine = nx * normals[g, 0] + ny * normals[g, 1] + nz * normals[g, 2]
                if cosine < CREASE:
                    continue
                # the arc over a facet of this size that turns by this angle: sagitta = size · angle
                # / 8, angle² = 2 (1 - cos)
                reach = max(own, sizes[g]) / 8.0
                if g != f and 2.0 * (1.0 - cosine) * reach * reach > SAGITTA * SAGITTA:
                    continue
                weight = angles[g, corner - 3 * g]
                whole += weight
                mean += weight * normals[g, 2]
            out[f, k] = mean / whole if whole > 1e-12 else nz
    return out
