"""Fewer triangles, as long as the surface moves by no more than is allowed."""

from __future__ import annotations

from dataclasses import replace

import fast_simplification
import manifold3d as m3
import numpy as np

from northpace.part.mend import to_solid
from northpace.part.solid import Part
from northpace.part.tree import crossings, distances, tree_of

#: Halvings of the range of triangle counts that are tried, and how far below the first it begins.
STEPS, FEWEST = 5, 40
#: Shares of what is allowed that plain merging is tried with: it promises more than it keeps.
SHARES = (1.0, 0.7, 0.5, 0.3, 0.15, 0.05)
#: Points along the side of a triangle at which its distance is measured. With half as many, a part
#: was said to have moved by 40 µm of which 120,000 points at random had moved by up to 58.
ALONG = 8
#: One point of so many is measured first.
SAMPLE = 40
#: From so many triangles on they are small.
MANY = 100_000


def thinned_out(part: Part, most: float) -> Part:
    """The part with its triangles merged as long as no surface moves by more than ``most`` mm, and
    how far it did.
    """
    before = part.triangles
    found = [thinned(body, most) for body in part.bodies]
    after = replace(part, bodies=tuple(solid for solid, _ in found))
    return replace(
        after,
        moved=max((moved for _, moved in found), default=0.0),
        merged=before - after.triangles,
    )


def thinned(solid: m3.Manifold, most: float) -> tuple[m3.Manifold, float]:
    """A body with fewer triangles, and how far its surface moved (mm), there and back, as measured
    at corners and points within triangles: between them it may have moved a little further.

    Edges are merged by the least sum of squared distances from the planes around them (Garland &
    Heckbert, "Surface simplification using quadric error metrics", SIGGRAPH 1997), which knows no
    bound: the least number of triangles that keeps it is searched for, and measured.
    """
    original = Measured(*_arrays(solid))
    allowed = original.crossings
    best, moved = solid, 0.0

    def holds(tried: m3.Manifold | None) -> bool:
        nonlocal best, moved
        if tried is None or tried.is_empty() or tried.num_tri() >= best.num_tri():
            return False
        surface = _arrays(tried)
        apart = original.deviation(*surface, most)
        if apart > most or _crossings(*surface, allowed + 1) > allowed:
            return False
        best, moved = tried, apart
        return True

    for share in SHARES:
        if holds(solid.simplify(share * most)):
            break
    begin = _arrays(best)
    high, low = best.num_tri(), max(best.num_tri() // FEWEST, 4)
    for _ in range(STEPS):
        middle = int(np.sqrt(high * low))
        if middle >= high or middle <= low:
            break
        if holds(_merged(begin, middle)):
            high = best.num_tri()
        else:
            low = middle
    return best, moved


class Measured:
    """A surface others are measured against: vertices (V, 3) in mm and faces (F, 3)."""

    def __init__(self, vertices: np.ndarray, faces: np.ndarray) -> None:
        self._tree = tree_of(vertices[faces])
        self.crossings = len(crossings(self._tree))
        # corners of small triangles lie close enough to each other
        self._points = vertices if len(faces) >= MANY else _points(vertices, faces)

    def deviation(self, vertices: np.ndarray, faces: np.ndarray, most: float) -> float:
        """How far another surface is from this one at most (mm), each measured from the corners of
        the other and from points within its triangles; once it is more than ``most`` no further.
        ``vertices`` is (V, 3), ``faces`` (F, 3).
        """
        other, points = tree_of(vertices[faces]), _points(vertices, faces)
        out = 0.0
        for every in (SAMPLE, 1):
            out = max(out, float(distances(other, self._points[::every]).max()))
            out = max(out, float(distances(self._tree, points[::every]).max()))
            if out > most:
                break
        return out


def _points(vertices: np.ndarray, faces: np.ndarray) -> np.ndarray:
    """(P, 3) corners and points within triangles; many small triangles need no more than their
    middles.
    """
    along = ALONG if len(faces) < MANY else 1
    steps = (
        np.array([(i, j) for i in range(along + 1) for j in range(along + 1 - i)], float) / along
        if along > 1
        else np.array([[1 / 3, 1 / 3]])
    )
    corners = vertices[faces]
    u, v = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    inner = corners[:, None, 0] + steps[:, :1] * u[:, None] + steps[:, 1:] * v[:, None]
    return np.concatenate([vertices, inner.reshape(-1, 3)])


def merged(vertices: np.ndarray, faces: np.ndarray, count: int) -> tuple[np.ndarray, np.ndarray]:
    """Vertices (V, 3) in mm and faces (F, 3) of a surface with about so many triangles, fewer than
    it has; how far it moves is not looked at.
    """
    # the library works in single precision: near zero it has the most of it
    middle = vertices.mean(axis=0)
    points, triangles = fast_simplification.simplify(
        (vertices - middle).astype("f4"), faces.astype("i4"), target_count=count
    )
    return points.astype(np.float64) + middle, triangles.astype(np.int64)


def _merged(mesh: tuple[np.ndarray, np.ndarray], count: int) -> m3.Manifold | None:
    """The body with about so many triangles, or None where that is no closed surface."""
    vertices, faces = mesh
    if count >= len(faces):
        return None
    points, triangles = merged(vertices, faces, count)
    if len(triangles) < 4:
        return None
    solid = to_solid(points, triangles)
    return solid if solid is not None and solid.volume() > 0 else None


def _crossings(vertices: np.ndarray, faces: np.ndarray, most: int) -> int:
    return len(crossings(tree_of(vertices[faces]), most))


def _arrays(solid: m3.Manifold) -> tuple[np.ndarray, np.ndarray]:
    mesh = solid.to_mesh64()
    return (
        np.array(mesh.vert_properties, np.float64)[:, :3],
        np.asarray(mesh.tri_verts).astype(np.int64),
    )
