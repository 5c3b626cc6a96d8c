"""Thinning: what is allowed is never exceeded, measured by other means; solids stay solids."""

import unittest

import manifold3d as m3
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.part.solid import load_part
from northpace.part.thin import thinned, thinned_out
from northpace.part.tree import crossings, distances, tree_of
from northpace.spec import Mesh, PlanSpec
from tests.core.shapes import PIPELINE, arrays, source, stl
from tests.intake.shapes import M, apart, distance_of


class Tree(unittest.TestCase):
    @settings(max_examples=15)
    @given(st.integers(0, 10_000), st.integers(1, 60))
    def test_distances_are_those_found_one_by_one(self, seed, count):
        rng = np.random.default_rng(seed)
        corners = rng.normal(size=(count, 3, 3)) * rng.choice([0.01, 1.0, 30.0], (count, 1, 1))
        points = rng.normal(size=(40, 3)) * 20
        np.testing.assert_allclose(
            distances(tree_of(corners), points), distance_of(points, corners), atol=1e-9
        )

    def test_a_triangle_without_an_area_has_its_side(self):
        line = np.array([[[0, 0, 0], [10, 0, 0], [10, 0, 0]]], float)
        found = distances(tree_of(line), np.array([[5, 3, 0], [12, 0, 0]]))
        np.testing.assert_allclose(found, [3, 2])

    def test_crossings_of_two_triangles(self):
        flat = [[0, 0, 0], [10, 0, 0], [0, 10, 0]]
        through = [[2, 2, -1], [2, 2, 1], [3, 2, 1]]
        beside = [[8, 8, -1], [8, 8, 1], [9, 8, 1]]
        touching = [[0, 0, 0], [10, 0, 0], [0, 0, 10]]
        for other, count in ((through, 1), (beside, 0), (touching, 0)):
            pair = np.array([flat, other], float)
            self.assertEqual(len(crossings(tree_of(pair))), count)


class Thinning(unittest.TestCase):
    def check(self, solid, most):
        small, moved = thinned(solid, most)
        self.assertEqual(small.status(), m3.Error.NoError)
        self.assertLessEqual(moved, most)
        self.assertLessEqual(apart(arrays(solid), arrays(small)), most + 1e-9)
        return small

    def test_a_ball(self):
        for most, triangles in ((0.02, 1152), (0.6, 300), (1.0, 260)):
            small = self.check(M.sphere(20.0, 48), most)
            self.assertLessEqual(small.num_tri(), triangles)

    def test_flat_sides_need_no_more_than_their_corners(self):
        self.assertEqual(self.check(M.cube((30, 20, 10)).refine(5), 0.01).num_tri(), 12)

    @settings(max_examples=8)
    @given(st.floats(0.005, 0.6), st.integers(0, 1000))
    def test_turned_shapes_with_holes(self, most, seed):
        rng = np.random.default_rng(seed)
        solid = M.cube((20, 20, 8), True).rotate(tuple(rng.uniform(0, 90, 3))).refine(3)
        solid = solid - M.cylinder(30, 3, 3, 24, True).translate(tuple(rng.uniform(-4, 4, 3)))
        self.check(solid, most)

    def test_a_narrow_slit_is_not_closed(self):
        slit = M.cube((20, 20, 10), True) - M.cube((30, 0.04, 8), True).translate((0, 0, 3))
        self.check(slit.refine(3), 0.1)

    def test_in_a_plan(self):
        file = source(M.sphere(20.0, 96))
        spec = PlanSpec(mesh=Mesh(thin=100))
        part = PIPELINE.part(file, spec)
        self.assertEqual(part.merged, 4608 - part.triangles)
        self.assertLessEqual(part.moved, 0.1)
        self.assertLess(PIPELINE.placed(file, spec).solid.num_tri(), 2800)
        # never on by itself
        self.assertEqual(PIPELINE.part(file).merged, 0)

    def test_many_bodies(self):
        part = load_part(
            stl(M.compose([M.sphere(4, 32).translate((10 * k, 0, 0)) for k in range(4)])), "a.stl"
        )
        small = thinned_out(part, 0.05)
        self.assertEqual(len(small.bodies), 4)
        self.assertLess(small.triangles, part.triangles)
