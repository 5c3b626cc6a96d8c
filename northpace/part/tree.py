"""Triangles in a tree of boxes: how far a point is from them, and which cross each other."""

from __future__ import annotations

from functools import partial
from typing import NamedTuple

import numba
import numpy as np

from northpace.geometry.polygons import threaded

#: Triangles in a leaf of the tree.
LEAF = 4
#: Ends of an edge and of a triangle, as a share of them, where touching is no crossing.
ASIDE = 1e-7
#: An edge that rises less over a plane than this share of its place lies in it, as far as numbers
#: say.
FLAT = 1e-14
#: Steps of a way down the tree that may wait, two a level.
WAITING = 128


class Tree(NamedTuple):
    """Triangles in the order of a curve that stays close to itself, with the boxes of ever larger
    runs of them.
    """

    #: (F, 3, 3) corners in mm, and the number (F,) each triangle had
    corners: np.ndarray
    number: np.ndarray
    #: (2 L − 1, 6) least and greatest corners: the whole first, children of k at 2 k + 1 and
    #: 2 k + 2, the last L of them leaves
    boxes: np.ndarray
    leaves: int


def tree_of(corners: np.ndarray) -> Tree:
    """The tree of triangles (F, 3, 3) in mm."""
    corners = np.ascontiguousarray(corners, np.float64)
    middle = corners.mean(axis=1)
    low = middle.min(axis=0)
    extent = max(float((middle.max(axis=0) - low).max()), 1e-12)
    cells = ((middle - low) / extent * ((1 << 21) - 1)).astype(np.uint64)
    order = np.argsort(_along_curve(cells), kind="stable")
    leaves = 1
    while leaves * LEAF < len(corners):
        leaves *= 2
    corners = np.ascontiguousarray(corners[order])
    return Tree(corners, order, _boxes(corners, leaves), leaves)


def distances(tree: Tree, points: np.ndarray) -> np.ndarray:
    """(N,) distance in mm of points (N, 3) from the nearest triangle."""
    return threaded(partial(_distances, tree), np.ascontiguousarray(points, np.float64))


def nearest(corners: np.ndarray, point: np.ndarray) -> int:
    """The triangle (F, 3, 3) nearest to a point (3,); the first of those that are as near."""
    return int(_nearest(np.ascontiguousarray(corners, np.float64), point))


def crossings(tree: Tree, most: int = 200_000) -> np.ndarray:
    """(P, 2) numbers of triangles that run through each other; at most so many pairs."""
    return np.asarray(tree.number[_crossings(tree, most)])


@numba.njit(cache=True, nogil=True)
def _along_curve(cells):  # type: ignore[no-untyped-def]
    """The place of cells (N, 3) on a curve through all of them: their bits in turn (Morton, "A
    computer oriented geodetic data base", IBM, 1966).
    """
    out = np.empty(len(cells), np.uint64)
    for n in range(len(cells)):
        code = np.uint64(0)
        for bit in range(21):
            for k in range(3):
                code |= ((cells[n, k] >> np.uint64(bit)) & np.uint64(1)) << np.uint64(3 * bit + k)
        out[n] = code
    return out


@numba.njit(cache=True, nogil=True)
def _boxes(corners, leaves):  # type: ignore[no-untyped-def]
    boxes = np.empty((2 * leaves - 1, 6))
    for node in range(2 * leaves - 2, -1, -1):
        for k in range(3):
            low, high = np.inf, -np.inf
            if node >= leaves - 1:
                first = (node - leaves + 1) * LEAF
                for f in range(first, min(first + LEAF, len(corners))):
                    for n in range(3):
                        low, high = min(low, corners[f, n, k]), max(high, corners[f, n, k])
            else:
                low = min(boxes[2 * node + 1, k], boxes[2 * node + 2, k])
                high = max(boxes[2 * node + 1, 3 + k], boxes[2 * node + 2, 3 + k])
            boxes[node, k], boxes[node, 3 + k] = low, high
    return boxes


@numba.njit(cache=True, nogil=True)
def _share(part, whole):  # type: ignore[no-untyped-def]
    """A share of a triangle's side; a side without a length has its begin."""
    return part / whole if whole > 0.0 else 0.0


@numba.njit(cache=True, nogil=True)
def _to_triangle(corners, f, p):  # type: ignore[no-untyped-def]
    """Squared distance of a point from a triangle.

    After Ericson, "Real-time collision detection", 2004, section 5.1.5.
    """
    d1 = d2 = d3 = d4 = d5 = d6 = 0.0
    for k in range(3):
        ab, ac = corners[f, 1, k] - corners[f, 0, k], corners[f, 2, k] - corners[f, 0, k]
        ap, bp, cp = p[k] - corners[f, 0, k], p[k] - corners[f, 1, k], p[k] - corners[f, 2, k]
        d1, d2, d3, d4 = d1 + ab * ap, d2 + ac * ap, d3 + ab * bp, d4 + ac * bp
        d5, d6 = d5 + ab * cp, d6 + ac * cp
    v = w = 0.0
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    if d1 <= 0 and d2 <= 0:
        v, w = 0.0, 0.0
    elif d3 >= 0 and d4 <= d3:
        v, w = 1.0, 0.0
    elif d6 >= 0 and d5 <= d6:
        v, w = 0.0, 1.0
    elif vc <= 0 and d1 >= 0 and d3 <= 0:
        v, w = _share(d1, d1 - d3), 0.0
    elif vb <= 0 and d2 >= 0 and d6 <= 0:
        v, w = 0.0, _share(d2, d2 - d6)
    elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
        w = _share(d4 - d3, (d4 - d3) + (d5 - d6))
        v = 1.0 - w
    else:
        whole = va + vb + vc
        v, w = _share(vb, whole), _share(vc, whole)
    out = 0.0
    for k in range(3):
        a = corners[f, 0, k]
        out += (a + v * (corners[f, 1, k] - a) + w * (corners[f, 2, k] - a) - p[k]) ** 2
    return out


@numba.njit(cache=True, nogil=True)
def _nearest(corners, p):  # type: ignore[no-untyped-def]
    best, which = np.inf, 0
    for f in range(len(corners)):
        away = _to_triangle(corners, f, p)
        if away < best:
            best, which = away, f
    return which


@numba.njit(cache=True, nogil=True)
def _to_box(boxes, node, p):  # type: ignore[no-untyped-def]
    """Squared distance of a point from a box."""
    out = 0.0
    for k in range(3):
        away = max(boxes[node, k] - p[k], p[k] - boxes[node, 3 + k], 0.0)
        out += away * away
    return out


@numba.njit(cache=True, nogil=True)
def _distances(tree, points):  # type: ignore[no-untyped-def]
    out = np.empty(len(points))
    waiting, far = np.empty(WAITING, np.int64), np.empty(WAITING)
    corners, boxes, leaves = tree.corners, tree.boxes, tree.leaves
    last = 0
    for n in range(len(points)):
        p = points[n]
        # the triangle nearest to the point before is seldom far
        best = _to_triangle(corners, last, p)
        waiting[0], far[0], depth = 0, 0.0, 0
        while depth >= 0:
            node, away = waiting[depth], far[depth]
            depth -= 1
            if away >= best:
                continue
            if node >= leaves - 1:
                first = (node - leaves + 1) * LEAF
                for f in range(first, min(first + LEAF, len(corners))):
                    away = _to_triangle(corners, f, p)
                    if away < best:
                        best, last = away, f
                continue
            one, two = 2 * node + 1, 2 * node + 2
            to_one, to_two = _to_box(boxes, one, p), _to_box(boxes, two, p)
            if to_one < to_two:
                one, two, to_one, to_two = two, one, to_two, to_one
            if to_one < best:
                depth += 1
                waiting[depth], far[depth] = one, to_one
            if to_two < best:
                depth += 1
                waiting[depth], far[depth] = two, to_two
        out[n] = np.sqrt(best)
    return out


@numba.njit(cache=True, nogil=True)
def _plane_of(corners, f):  # type: ignore[no-untyped-def]
    """The unit normal of a triangle, and how far its plane is from zero."""
    ax, ay, az = corners[f, 0, 0], corners[f, 0, 1], corners[f, 0, 2]
    ux, uy, uz = corners[f, 1, 0] - ax, corners[f, 1, 1] - ay, corners[f, 1, 2] - az
    vx, vy, vz = corners[f, 2, 0] - ax, corners[f, 2, 1] - ay, corners[f, 2, 2] - az
    x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    length = np.sqrt(x * x + y * y + z * z)
    if length > 0.0:
        x, y, z = x / length, y / length, z / length
    return x, y, z, x * ax + y * ay + z * az


@numba.njit(cache=True, nogil=True)
def _pierces(corners, f, a, b):  # type: ignore[no-untyped-def]
    """Whether the edge from a to b goes through the inside of a triangle."""
    det = u = v = t = span = 0.0
    for k in range(3):
        i, j = (k + 1) % 3, (k + 2) % 3
        ui, uj = corners[f, 1, i] - corners[f, 0, i], corners[f, 1, j] - corners[f, 0, j]
        vi, vj = corners[f, 2, i] - corners[f, 0, i], corners[f, 2, j] - corners[f, 0, j]
        normal = ui * vj - uj * vi
        di, dj = b[i] - a[i], b[j] - a[j]
        ri, rj = a[i] - corners[f, 0, i], a[j] - corners[f, 0, j]
        det += normal * (b[k] - a[k])
        span += abs(normal) * (abs(a[k]) + abs(b[k]) + abs(corners[f, 0, k]))
        t += normal * (a[k] - corners[f, 0, k])
        cross = ri * dj - rj * di
        u += (corners[f, 2, k] - corners[f, 0, k]) * cross
        v -= (corners[f, 1, k] - corners[f, 0, k]) * cross
    if abs(det) <= FLAT * span:
        return False
    t, u, v = -t / det, -u / det, -v / det
    return ASIDE < t < 1 - ASIDE and u > ASIDE and v > ASIDE and u + v < 1 - ASIDE


@numba.njit(cache=True, nogil=True)
def _one_side(corners, f, g):  # type: ignore[no-untyped-def]
    """Whether a triangle lies on one side of the plane of another, or touches it."""
    x, y, z, far = _plane_of(corners, f)
    low, high = np.inf, -np.inf
    for n in range(3):
        away = x * corners[g, n, 0] + y * corners[g, n, 1] + z * corners[g, n, 2] - far
        low, high = min(low, away), max(high, away)
    return low >= -1e-12 or high <= 1e-12


@numba.njit(cache=True, nogil=True)
def _cross(corners, f, g):  # type: ignore[no-untyped-def]
    if _one_side(corners, f, g) or _one_side(corners, g, f):
        return False
    for k in range(3):
        n = (k + 1) % 3
        if _pierces(corners, f, corners[g, k], corners[g, n]):
            return True
        if _pierces(corners, g, corners[f, k], corners[f, n]):
            return True
    return False


@numba.njit(cache=True, nogil=True)
def _crossings(tree, most):  # type: ignore[no-untyped-def]
    found, n = np.empty((most, 2), np.int64), 0
    waiting = np.empty(WAITING, np.int64)
    corners, boxes, leaves = tree.corners, tree.boxes, tree.leaves
    own = np.empty(6)
    for f in range(len(corners)):
        for k in range(3):
            a, b, c = corners[f, 0, k], corners[f, 1, k], corners[f, 2, k]
            own[k], own[3 + k] = min(a, b, c), max(a, b, c)
        waiting[0], depth = 0, 0
        while depth >= 0:
            node = waiting[depth]
            depth -= 1
            apart = False
            for k in range(3):
                if own[k] > boxes[node, 3 + k] or own[3 + k] < boxes[node, k]:
                    apart = True
                    break
            if apart:
                continue
            if node < leaves - 1:
                waiting[depth + 1], waiting[depth + 2] = 2 * node + 1, 2 * node + 2
                depth += 2
                continue
            first = (node - leaves + 1) * LEAF
            for g in range(max(first, f + 1), min(first + LEAF, len(corners))):
                if not _cross(corners, f, g):
                    continue
                found[n, 0], found[n, 1] = f, g
                n += 1
                if n == most:
                    return found
    return found[:n]
