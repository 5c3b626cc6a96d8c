"""Rays through a standing part, and what supports they say it needs."""

import unittest

import manifold3d as m3
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.estimate.rays import rays
from northpace.estimate.support import needed
from northpace.heights.surface import facets
from northpace.part.place import place
from northpace.part.solid import load_part
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import cube, stl, torus


def standing(solid, *pairs):
    spec = with_settings(PlanSpec(), ["supports.enabled=true", *pairs])
    placed = place(load_part(stl(solid), "part.stl"), spec.place)
    mesh = facets(placed, spec.surface, spec.machine.z_step)
    cut = rays(mesh.vertices, mesh.faces)
    edges = np.linspace(0, placed.height, 101)
    return cut, needed(cut, mesh, edges, spec), mesh


TABLE = m3.Manifold.cube((40, 20, 4)).translate((0, 0, 20)) + m3.Manifold.cube((10, 20, 20))


class Rays(unittest.TestCase):
    def test_they_enter_and_leave_as_often_and_fill_the_volume(self):
        for solid in (cube(), torus(), TABLE, cube(20) - cube(10).translate((5, 5, 5))):
            cut, _, _ = standing(solid)
            each = np.diff(cut.starts)
            self.assertFalse((each % 2).any())
            thick = -(cut.z * cut.enters).sum() * cut.cell**2
            self.assertAlmostEqual(thick, solid.volume(), delta=0.02 * solid.volume())

    @settings(max_examples=30)
    @given(st.tuples(*[st.floats(-180, 180)] * 3))
    def test_turned_any_way(self, turn):
        solid = (cube(14) - m3.Manifold.cylinder(30, 3, 3, 24, True)).rotate(turn)
        cut, found, _ = standing(solid)
        self.assertFalse((np.diff(cut.starts) % 2).any())
        entries = cut.entries()
        self.assertTrue((entries.below <= entries.z + 1e-9).all())
        self.assertGreaterEqual(found.volume, 0)
        self.assertAlmostEqual(found.weighted, found.scar, delta=1e-6 * max(found.scar, 1))


class Needed(unittest.TestCase):
    def test_under_a_table_top(self):
        # 30 × 20 mm of ceiling, 20 mm up, less the clearance; stands are a little wider
        _, found, _ = standing(TABLE)
        self.assertAlmostEqual(found.scar, 600, delta=15)
        self.assertGreater(found.volume, 600 * 19.8)
        self.assertLess(found.volume, 640 * 19.8)
        self.assertEqual(found.bridges, 0)

    def test_a_short_span_held_at_both_ends_is_bridged(self):
        gate = TABLE + m3.Manifold.cube((22, 20, 20)).translate((18, 0, 0))
        _, found, _ = standing(gate)
        self.assertEqual((found.bridges, found.volume), (1, 0))
        _, found, _ = standing(gate, "supports.spare_bridges=5")
        self.assertEqual(found.bridges, 0)
        self.assertAlmostEqual(found.scar, 8 * 20, delta=8)

    def test_a_short_ledge_is_not_bridged(self):
        ledge = m3.Manifold.cube((10, 20, 20)) + m3.Manifold.cube((6, 20, 4)).translate((10, 0, 16))
        _, found, _ = standing(ledge)
        self.assertEqual(found.bridges, 0)
        self.assertAlmostEqual(found.scar, 6 * 20, delta=8)

    def test_what_leans_out_less_than_the_angle_needs_none(self):
        cone = m3.Manifold.cylinder(20, 10, 25, 96)  # 36.9° from upright
        self.assertEqual(standing(cone)[1].volume, 0)
        self.assertGreater(standing(cone, "supports.angle=30")[1].volume, 1000)

    def test_a_stand_on_the_part_scars_it_twice(self):
        fork = m3.Manifold.cube((30, 20, 5)) + m3.Manifold.cube((5, 20, 30))
        fork += m3.Manifold.cube((30, 20, 5)).translate((0, 0, 25))
        _, both, _ = standing(fork)
        self.assertAlmostEqual(both.scar, 2 * 25 * 20, delta=30)
        _, none, _ = standing(fork, "supports.origin=bed")
        self.assertEqual(none.volume, 0)
        self.assertAlmostEqual(none.hanging, 25 * 20, delta=15)

    def test_seen_faces_are_told_apart(self):
        mark = 'surface.marks=[{"x": 30, "y": 10, "z": 20, "attention": "seen"}]'
        _, found, _ = standing(TABLE, mark)
        self.assertAlmostEqual(found.seen, found.scar)
        self.assertAlmostEqual(found.weighted, 4 * found.scar, places=3)


if __name__ == "__main__":
    unittest.main()
