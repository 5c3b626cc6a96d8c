"""Meshes the tests are made of: exact solids, and ways to spoil them."""

from __future__ import annotations

import manifold3d as m3
import numpy as np

from northpace.part.stl import binary_stl
from northpace.plan.pipeline import Pipeline
from northpace.plan.source import Source

#: One for all tests that only want a plan: what several of them plan, above all the sample parts,
#: is computed once.
PIPELINE = Pipeline()


def arrays(solid: m3.Manifold) -> tuple[np.ndarray, np.ndarray]:
    mesh = solid.to_mesh()
    return np.asarray(mesh.vert_properties)[:, :3].astype(np.float64), np.asarray(
        mesh.tri_verts
    ).astype(np.int64)


def stl(solid: m3.Manifold) -> bytes:
    return binary_stl(*arrays(solid))


def cube(size: float = 20.0) -> m3.Manifold:
    return m3.Manifold.cube((size, size, size))


def torus(ring: float = 20.0, tube: float = 8.0) -> m3.Manifold:
    circle = m3.CrossSection.circle(tube, 96).translate((ring, 0.0))
    return m3.Manifold.revolve(circle, 128)


def organic(segments: int = 88, height: float = 100.0) -> m3.Manifold:
    """A closed lobed body; 88 segments give about 3,900 triangles, 1270 give 800,000."""

    def warp(v: np.ndarray) -> np.ndarray:
        x, y, z = v[:, 0], v[:, 1], v[:, 2]
        k = 30 * (1 + 0.15 * np.sin(5 * np.arctan2(y, x) + 3 * z) + 0.1 * np.cos(4 * z))
        return np.stack([x * k, y * k, (z + 1) * height / 2], 1)

    return m3.Manifold.sphere(1.0, segments).warp_batch(warp)


def knob(radius: float = 8.0, foot: float = 4.0) -> m3.Manifold:
    """A half ball on a drum: vertical below, level at the top, and small enough to be computed in a
    moment.
    """
    ball = (
        m3.Manifold.sphere(radius, 96).translate((0, 0, foot)).trim_by_plane((0.0, 0.0, 1.0), foot)
    )
    return ball + m3.Manifold.cylinder(foot + 0.01, radius, radius, 96)


def source(solid: m3.Manifold) -> Source:
    """A solid as the file a plan is made from."""
    return Source.of(stl(solid), "a.stl")
