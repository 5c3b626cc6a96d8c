"""Ways a part may stand: as it does, on faces of its hull, and along evenly spread directions."""

from __future__ import annotations

import itertools
from typing import NamedTuple

import manifold3d as m3
import numpy as np
import shapely

from northpace.geometry.polygons import rounded
from northpace.part.place import placement_matrix, rotation_between, scales
from northpace.part.solid import Part
from northpace.part.stl import mesh_arrays
from northpace.spec import Placement
from northpace.ways.figures import Kind

#: Directions nearer to each other than this (°) are one.
SAME = 3.0
#: How far the centre of mass has to lie inside the edge of the face it stands on (mm).
INSIDE = 2.0
#: Most faces of the hull that are looked at.
MOST_FACES = 24
DOWN = np.array([0.0, 0.0, -1.0])


class Candidate(NamedTuple):
    """A way to stand."""

    kind: Kind
    #: (3,) what points down, in the file
    down: np.ndarray
    placement: Placement


def candidates(part: Part, now: Placement) -> list[Candidate]:
    """As it stands, then faces it can stand on, the largest first, then the 26 directions to the
    faces, edges and corners of a cube.
    """
    scale = scales(now)
    own = laid_down(now)
    found = [Candidate("now", own * scale, now)]
    taken = [own]
    kinds: list[tuple[Kind, list[np.ndarray]]] = [
        ("face", stable_faces(part, scale)),
        ("direction", _spread()),
    ]
    for kind, normals in kinds:
        for normal in normals:
            if any(normal @ other > np.cos(np.radians(SAME)) for other in taken):
                continue
            taken.append(normal)
            # a normal of the scaled part, as one of the file
            down = normal * scale
            down = down / np.abs(down).max() if np.abs(down).max() > 1 else down
            found.append(Candidate(kind, down, standing_on(now, down)))
    return found


def laid_down(now: Placement) -> np.ndarray:
    """(3,) what a placement lays down, as a normal of the part in its size."""
    return np.asarray((placement_matrix(now) / scales(now)).T @ DOWN)


def standing_on(now: Placement, down: np.ndarray, turn_z: float = 0.0) -> Placement:
    """The placement with another face (3,) of the file down; what was cut off goes with the way it
    was cut.
    """
    x, y, z = (round(float(v), 6) for v in down)
    return now.model_copy(
        update={
            **{"down_x": x, "down_y": y, "down_z": z, "turn_x": 0.0, "turn_y": 0.0},
            **{"turn_z": turn_z, "sink": 0.0, "trim_top": 0.0},
        }
    )


def stable_faces(part: Part, scale: np.ndarray) -> list[np.ndarray]:
    """Outward normals (3,) of the faces of the convex hull of the scaled part on which it stands by
    itself, those within `SAME` as one, the largest first.
    """
    bodies = [body.scale(tuple(scale)) for body in part.bodies]
    hull = m3.Manifold.batch_hull(bodies) if len(bodies) > 1 else bodies[0].hull()
    mesh = hull.to_mesh64()
    corners = np.asarray(mesh.vert_properties)[:, :3][np.asarray(mesh.tri_verts)]
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    double = np.linalg.norm(cross, axis=1)
    kept = double > 1e-9 * double.sum()
    corners, normals, area = corners[kept], cross[kept] / double[kept, None], double[kept] / 2
    middle = centre_of_mass(bodies)
    found: list[tuple[float, np.ndarray]] = []
    left = np.ones(len(area), bool)
    least = np.cos(np.radians(SAME))
    for k in np.argsort(-area):
        if not left[k]:
            continue
        same = left & (normals @ normals[k] > least)
        left &= ~same
        normal = (normals[same] * area[same, None]).sum(axis=0)
        normal /= np.linalg.norm(normal)
        flat = corners[same].reshape(-1, 3) @ rotation_between(normal, DOWN).T
        # facets at the border of a round side are further up: they do not carry
        base = flat[flat[:, 2] < flat[:, 2].min() + 0.05]
        foot = shapely.convex_hull(shapely.multipoints(base[:, :2]))
        point = shapely.Point((rotation_between(normal, DOWN) @ middle)[:2])
        if shapely.covers(rounded(foot, -INSIDE), point):
            found.append((float(area[same].sum()), normal))
    found.sort(key=lambda one: -one[0])
    return [normal for _, normal in found[:MOST_FACES]]


def centre_of_mass(bodies: list[m3.Manifold]) -> np.ndarray:
    """(3,) of closed bodies, each filled alike; their tetrahedra with the origin add up."""
    vertices, faces, _ = mesh_arrays(tuple(bodies))
    a, b, c = np.asarray(vertices, np.float64)[faces].transpose(1, 0, 2)
    volume = (a * np.cross(b, c)).sum(axis=1)
    whole = volume.sum()
    if abs(whole) < 1e-12:
        return np.asarray(vertices.mean(axis=0))
    return np.asarray(((a + b + c) * volume[:, None]).sum(axis=0) / (4 * whole))


def _spread() -> list[np.ndarray]:
    """The 26 directions (3,) to the faces, edges and corners of a cube, faces first."""
    all_ = [np.array(d, float) for d in itertools.product((-1, 0, 1), repeat=3) if any(d)]
    return [d / np.linalg.norm(d) for d in sorted(all_, key=lambda d: float(np.abs(d).sum()))]
