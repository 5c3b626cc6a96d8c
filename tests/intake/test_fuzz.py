"""Meshes nobody would draw go through load, mend, thin, move and cut: with a solid or with one
clear line, never with anything else.
"""

import unittest

import manifold3d as m3
import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from northpace.errors import InputError
from northpace.part.bodies import with_bodies
from northpace.part.cut import cut
from northpace.part.differences import differences
from northpace.part.faults import faults_of
from northpace.part.solid import load_part
from northpace.part.thin import thinned_out
from northpace.spec import BodyChange, Mesh
from tests.core.shapes import arrays
from tests.intake.shapes import M, bodies_of, both, stl_of

CHOICES = st.builds(
    Mesh,
    openings=st.sampled_from(["close", "drop"]),
    cavities=st.sampled_from(["hollow", "solid"]),
    meeting=st.sampled_from(["one", "apart"]),
    splinters=st.sampled_from(["keep", "drop"]),
)


def spoilt(seed):
    """Boxes, balls and splinters anywhere, some triangles gone, turned, doubled or moved."""
    rng = np.random.default_rng(seed)
    shapes = []
    for _ in range(rng.integers(1, 5)):
        size = float(rng.choice([0.05, 3.0, 12.0]))
        solid = (
            M.sphere(size, 12)
            if rng.random() < 0.5
            else M.cube(tuple(rng.uniform(0.2, 1, 3) * size))
        )
        shapes.append(
            arrays(solid.rotate(tuple(rng.uniform(0, 90, 3))).translate(rng.uniform(-9, 9, 3)))
        )
    vertices, faces = both(*shapes)
    kept = rng.random(len(faces)) > rng.choice([0.0, 0.05, 0.4])
    faces = faces[kept] if kept.sum() > 3 else faces
    turned = rng.random(len(faces)) < rng.choice([0.0, 0.1])
    faces[turned] = faces[turned][:, ::-1]
    faces = np.r_[faces, faces[rng.random(len(faces)) < rng.choice([0.0, 0.1])]]
    vertices = vertices + rng.normal(size=vertices.shape) * rng.choice([0.0, 1e-4, 0.3])
    return vertices, faces


def enclosed(solid, slices=4000):
    """Volume of a solid by its sections, in which nothing counts twice."""
    low, high = solid.bounding_box()[2::3]
    middles = low + (np.arange(slices) + 0.5) / slices * (high - low)
    return sum(solid.slice(float(z)).area() for z in middles) * (high - low) / slices


class Fuzz(unittest.TestCase):
    @settings(max_examples=40)
    @example(86360, Mesh(), 0.5)
    @example(15381, Mesh(), 0.5)
    @given(st.integers(0, 100_000), CHOICES, st.floats(0.001, 2))
    def test_from_load_to_cut(self, seed, choices, most):
        mesh = spoilt(seed)
        for fault in faults_of(bodies_of(mesh)):
            self.assertTrue(np.isfinite(fault["places"]).all())
        try:
            part = load_part(stl_of(mesh), "a.stl", choices)
        except InputError as error:
            self.assertGreater(len(str(error)), 20)
            return
        self.assertGreater(part.volume, 0)
        found = differences(bodies_of(mesh), part)
        self.assertEqual(len(found.state), len(found.corners))
        small = thinned_out(part, most)
        self.assertLessEqual(small.triangles, part.triangles)
        self.assertLessEqual(small.moved, most)
        moved = with_bodies(small, (BodyChange(name=small.names[0], mirror="x", turn_y=30),))
        self.assertAlmostEqual(moved.volume / small.volume, 1, 6)
        whole = m3.Manifold.batch_boolean(list(moved.bodies), m3.OpType.Add)
        try:
            lower, upper = cut(whole, np.array([0.3, 0.2, 1.0]), 0.5)
        except InputError:
            return
        off = abs((lower.volume() + upper.volume()) / whole.volume() - 1)
        if off >= 0.0005:
            # a torn surface that was closed may pass through itself, and what it encloses twice or
            # the wrong way round counts once in a half: no more than sections find of that, or
            # half a per cent where the plane runs through such a place
            self.assertLess(off, max(abs(enclosed(whole) / whole.volume() - 1), 0.005))
