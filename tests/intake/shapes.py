"""Faulty meshes of our own, and what the tests measure them with."""

import manifold3d as m3
import numpy as np

from northpace.part.body import Body
from northpace.part.load import load_bodies
from northpace.part.stl import binary_stl
from northpace.plan.source import Source
from tests.core.shapes import arrays, cube

M = m3.Manifold


def both(*meshes):
    """Meshes side by side as one."""
    vertices, faces, shift = [], [], 0
    for v, f in meshes:
        vertices.append(v)
        faces.append(f + shift)
        shift += len(v)
    return np.concatenate(vertices), np.concatenate(faces)


def body(vertices, faces):
    return Body(np.asarray(vertices, float), np.asarray(faces), "")


def stl_of(mesh):
    return binary_stl(*mesh)


def file_of(mesh):
    """A mesh as the file a plan is made from."""
    return Source.of(stl_of(mesh), "a.stl")


def bodies_of(mesh):
    return load_bodies(stl_of(mesh), "a.stl")


def open_box(size=20):
    """A cube without its lid."""
    v, f = arrays(cube(size))
    return v, f[~(v[f][:, :, 2] == size).all(axis=1)]


def moved(mesh, *by):
    return mesh[0] + np.array(by, float), mesh[1]


def turned_in(mesh):
    return mesh[0], mesh[1][:, ::-1]


def apart(one, two, count=2500, seed=3):
    """How far two surfaces are apart at most, by points scattered over both and distances worked
    out triangle by triangle, without any tree.
    """
    rng = np.random.default_rng(seed)
    return max(_farthest(rng, one, two, count), _farthest(rng, two, one, count))


def _farthest(rng, one, two, count):
    corners = one[0][one[1]]
    area = np.linalg.norm(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
    )
    which = rng.choice(len(corners), count, p=area / area.sum())
    u, v = rng.random((2, count))
    over = u + v > 1
    u[over], v[over] = 1 - u[over], 1 - v[over]
    a, b, c = corners[which].transpose(1, 0, 2)
    points = np.concatenate([a + u[:, None] * (b - a) + v[:, None] * (c - a), one[0][:count]])
    return float(distance_of(points, two[0][two[1]]).max())


def distance_of(points, corners):
    """(N,) distances of points (N, 3) from triangles (F, 3, 3): from the plane where the foot lies
    inside, else from the nearest side.
    """
    best = np.full(len(points), np.inf)
    for a, b, c in corners:
        normal = np.cross(b - a, c - a)
        if not normal.any():
            continue
        normal = normal / np.linalg.norm(normal)
        above = (points - a) @ normal
        foot = points - above[:, None] * normal
        inside = np.ones(len(points), bool)
        for begin, end in ((a, b), (b, c), (c, a)):
            side = np.cross(normal, end - begin)
            inside &= (foot - begin) @ side >= 0
            along = np.clip(
                ((points - begin) @ (end - begin)) / ((end - begin) @ (end - begin)), 0, 1
            )
            away = np.linalg.norm(begin + along[:, None] * (end - begin) - points, axis=1)
            best = np.minimum(best, away)
        best = np.where(inside, np.minimum(best, np.abs(above)), best)
    return best
