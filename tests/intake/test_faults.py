"""Faults of a mesh: each kind made by hand is found, with its place, and nothing else."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.part.differences import ADDED, DROPPED, TURNED, differences
from northpace.part.faults import faults_of
from northpace.part.solid import load_part
from tests.core.shapes import arrays, cube
from tests.intake.shapes import M, bodies_of, both, moved, open_box, stl_of, turned_in

BALL = arrays(M.sphere(20.0, 32))


def found(mesh):
    """Faults by kind."""
    return {fault["kind"]: fault for fault in faults_of(bodies_of(mesh))}


class Faults(unittest.TestCase):
    def test_a_good_mesh_has_none(self):
        self.assertEqual(found(BALL), {})
        self.assertEqual(found(both(arrays(cube()), moved(BALL, 100, 0, 0))), {})

    def test_an_opening(self):
        faults = found(open_box())
        self.assertEqual(list(faults), ["open"])
        self.assertAlmostEqual(faults["open"]["size_mm"], 20 * np.sqrt(2), 3)
        self.assertEqual(faults["open"]["places"], [[10, 10, 20]])
        self.assertIn("in 1 place, the widest 28.28 mm", faults["open"]["words"])

    def test_two_openings_are_two_places_the_wider_first(self):
        faults = found(both(open_box(), moved(open_box(8), 50, 0, 0)))
        self.assertEqual(faults["open"]["places"], [[10, 10, 20], [54, 4, 8]])

    def test_turned_double_flat_and_crowded(self):
        v, f = arrays(cube())
        f = f.copy()
        f[3] = f[3, ::-1]
        self.assertEqual(found((v, f))["turned"]["count"], 1)
        double = found((v, np.r_[f, f[:1]]))
        self.assertEqual((double["double"]["count"], double["crowded"]["count"]), (1, 3))
        flat = found((np.r_[v, (v[:1] + v[1:2]) / 2], np.r_[f, [[0, 1, len(v)]]]))
        self.assertEqual(flat["flat"]["count"], 1)

    def test_a_surface_through_itself(self):
        faults = found(both(arrays(cube(20)), moved(arrays(cube(20)), 7, 8, 9)))
        self.assertGreater(faults["crossing"]["count"], 0)
        # apart by a hair they do not
        self.assertNotIn(
            "crossing", found(both(arrays(cube(20)), moved(arrays(cube(20)), 20.01, 0, 0)))
        )

    def test_shells_in_shells(self):
        small = (BALL[0] * 0.4, BALL[1])
        self.assertEqual(found(both(BALL, turned_in(small)))["cavity"]["count"], 1)
        self.assertEqual(found(both(BALL, small))["nested"]["count"], 1)
        self.assertEqual(found(turned_in(BALL))["inward"]["count"], 1)
        # in the box of the other, but beside it
        corner = moved((BALL[0] * 0.05, BALL[1]), 18, 18, 18)
        self.assertNotIn("nested", found(both(BALL, corner)))

    def test_a_splinter_and_a_wrong_unit(self):
        splinter = moved((BALL[0] * 0.005, BALL[1]), 40, 0, 0)
        self.assertEqual(found(both(BALL, splinter))["splinter"]["count"], 1)
        self.assertIn(
            "taken as inches it would be 40.6 mm", found((BALL[0] * 0.04, BALL[1]))["unit"]["words"]
        )
        self.assertIn("unit", found((BALL[0] * 100, BALL[1])))

    @settings(max_examples=25)
    @given(st.data())
    def test_any_mesh_is_looked_at(self, data):
        count = data.draw(st.integers(4, 12))
        v = data.draw(st.lists(st.tuples(*3 * [st.integers(0, 3)]), min_size=4, max_size=9))
        f = data.draw(
            st.lists(
                st.tuples(*3 * [st.integers(0, len(v) - 1)]), min_size=count, max_size=3 * count
            )
        )
        for fault in faults_of(bodies_of((np.array(v, float), np.array(f)))):
            self.assertGreater(fault["count"], 0)
            self.assertLessEqual(len(fault["places"]), 60)


class Differences(unittest.TestCase):
    def of(self, mesh):
        return differences(bodies_of(mesh), load_part(stl_of(mesh), "a.stl"))

    def test_a_good_mesh_keeps_all(self):
        found = self.of(BALL)
        self.assertFalse(found.state.any())
        self.assertEqual(len(found.state), len(BALL[1]))

    def test_a_lid_is_added(self):
        found = self.of(open_box())
        self.assertAlmostEqual(found.area(ADDED), 400, 3)
        self.assertEqual((found.area(DROPPED), found.area(TURNED)), (0, 0))
        np.testing.assert_allclose(found.corners[found.state == ADDED][:, :, 2], 20)

    def test_a_turned_triangle_is_turned(self):
        v, f = arrays(cube())
        f = f.copy()
        f[3] = f[3, ::-1]
        found = self.of((v, f))
        self.assertAlmostEqual(found.area(TURNED), 200, 3)
        self.assertEqual((found.area(DROPPED), found.area(ADDED)), (0, 0))

    def test_what_lies_inside_two_that_meet_is_dropped(self):
        found = self.of(both(arrays(cube(20)), moved(arrays(cube(20)), 10, 0, 0)))
        # each has a side of 400 mm² within the other
        self.assertAlmostEqual(found.area(DROPPED), 800, 2)
