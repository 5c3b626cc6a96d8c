"""What mending did to a surface, triangle by triangle."""

from __future__ import annotations

from typing import NamedTuple

import manifold3d as m3
import numpy as np

from northpace.part.body import Body
from northpace.part.solid import Part
from northpace.part.tree import distances, tree_of
from northpace.part.triangles import face_numbers, runs_forward, welded_exactly

#: What became of a triangle.
KEPT, ADDED, DROPPED, TURNED = range(4)
#: Corners nearer than this share of the part are the same.
SAME = 1e-7


class Differences(NamedTuple):
    """The triangles of a file and of what was made of it, each once."""

    #: (T, 3, 3) corners in mm, in the file
    corners: np.ndarray
    #: (T,) `KEPT`, `ADDED`, `DROPPED` or `TURNED`
    state: np.ndarray

    @property
    def nbytes(self) -> int:
        return int(self.corners.nbytes + self.state.nbytes)

    def area(self, state: int) -> float:
        """Area in mm² of the triangles of a state."""
        of = self.corners[self.state == state]
        return float(
            np.linalg.norm(np.cross(of[:, 1] - of[:, 0], of[:, 2] - of[:, 0]), axis=1).sum() / 2
        )


def differences(bodies: list[Body], part: Part) -> Differences:
    """What is in the file and in the solids, what in one of them alone. A surface that was only
    divided otherwise is kept.
    """
    before = np.concatenate([body.vertices[body.faces] for body in bodies])
    after = np.concatenate([_corners(solid) for solid in part.bodies])
    grid = max(float(np.ptp(before.reshape(-1, 3), axis=0).max()), 1e-9) * SAME
    every = np.concatenate([before, after]).reshape(-1, 3)
    _, faces = welded_exactly(np.round(every / grid), np.arange(len(every)).reshape(-1, 3))
    _, number = np.unique(face_numbers(faces), return_inverse=True)
    one, two = np.split(number.reshape(-1), [len(before)])
    old_way, new_way = np.split(runs_forward(faces), [len(before)])
    there = np.isin(two, one)
    state = np.where(there, KEPT, ADDED)
    # the same corners the other way round
    ways = np.zeros(int(number.max()) + 1, bool)
    ways[one] = old_way
    state[there & (ways[two] != new_way)] = TURNED
    gone = np.flatnonzero(~np.isin(one, two))
    _forgive(state, after, before[gone], 10 * grid)
    gone = gone[_apart(before[gone], after, 10 * grid)]
    return Differences(
        np.concatenate([after, before[gone]]),
        np.concatenate([state, np.full(len(gone), DROPPED)]),
    )


def _forgive(state: np.ndarray, after: np.ndarray, gone: np.ndarray, near: float) -> None:
    """Added triangles that lie on what went are only divided otherwise."""
    added = np.flatnonzero(state == ADDED)
    if len(added) and len(gone):
        state[added[~_apart(after[added], gone, near)]] = KEPT


def _apart(triangles: np.ndarray, surface: np.ndarray, near: float) -> np.ndarray:
    """(T,) whether triangles (T, 3, 3) leave a surface (S, 3, 3) by more than so many mm, by their
    middles and corners.
    """
    if not len(triangles) or not len(surface):
        return np.ones(len(triangles), bool)
    tree = tree_of(surface)
    out = distances(tree, triangles.mean(axis=1)) > near
    for corner in range(3):
        out |= distances(tree, triangles[:, corner]) > near
    return out


def _corners(solid: m3.Manifold) -> np.ndarray:
    mesh = solid.to_mesh64()
    return np.asarray(mesh.vert_properties, np.float64)[:, :3][np.asarray(mesh.tri_verts)]
