"""Where a mesh has two meanings, both can be had; bodies are objects; a part is cut in two."""

import unittest

import numpy as np

from northpace.errors import InputError
from northpace.part.cut import cut
from northpace.part.solid import load_part
from northpace.spec import BodyChange, Mesh, Placement, PlanSpec
from tests.core.shapes import PIPELINE, arrays, cube
from tests.intake.shapes import M, both, file_of, moved, open_box, stl_of, turned_in

BALL = M.sphere(20.0, 64)
HOLLOW = both(arrays(BALL), turned_in((0.5 * arrays(BALL)[0], arrays(BALL)[1])))


def taken(mesh, **choices):
    return load_part(stl_of(mesh), "a.stl", Mesh(**choices))


class Choices(unittest.TestCase):
    def test_a_cavity_or_solid(self):
        self.assertAlmostEqual(taken(HOLLOW).volume / BALL.volume(), 7 / 8, 4)
        filled = taken(HOLLOW, cavities="solid")
        self.assertAlmostEqual(filled.volume / BALL.volume(), 1, 5)
        self.assertIn("filled 1 cavity inside", filled.mended)
        self.assertAlmostEqual(filled.done[0].volume / BALL.volume(), 1 / 8, 4)

    def test_an_open_shell_is_closed_or_dropped(self):
        mesh = both(arrays(cube(20)), moved(open_box(10), 50, 0, 0))
        closed = taken(mesh)
        self.assertAlmostEqual(closed.volume, 9000, 2)
        self.assertAlmostEqual(closed.widest_opening, 10 * np.sqrt(2), 3)
        dropped = taken(mesh, openings="drop")
        self.assertAlmostEqual(dropped.volume, 8000, 2)
        self.assertIn("dropped 1 open shell of 10 triangles", dropped.mended)
        with self.assertRaisesRegex(InputError, "every shell of the file is open"):
            taken(open_box(), openings="drop")

    def test_a_shell_that_was_turned_gives_its_volume(self):
        turned = taken(both(arrays(cube(20)), moved(turned_in(arrays(cube(10))), 50, 0, 0)))
        self.assertAlmostEqual(turned.done[0].volume, 1000, 3)
        # a lid in a plane bulges nowhere
        self.assertAlmostEqual(taken(open_box()).done[0].volume, 0, 9)

    def test_bodies_that_meet_are_one_or_stay_apart(self):
        mesh = both(arrays(cube(20)), moved(arrays(cube(20)), 10, 0, 0))
        self.assertEqual(len(taken(mesh).bodies), 1)
        apart = taken(mesh, meeting="apart")
        self.assertEqual(apart.names, ("body 1", "body 2"))
        self.assertAlmostEqual(apart.volume, 16000, 2)
        # laid they are one either way
        spec = PlanSpec(mesh=Mesh(meeting="apart"))
        laid = PIPELINE.placed(file_of(mesh), spec)
        self.assertAlmostEqual(laid.volume, 12000, 2)

    def test_splinters_are_kept_or_dropped(self):
        mesh = both(arrays(BALL), moved((0.005 * arrays(BALL)[0], arrays(BALL)[1]), 30, 0, 0))
        self.assertEqual(len(taken(mesh).bodies), 2)
        self.assertEqual(len(taken(mesh, splinters="drop").bodies), 1)


class Bodies(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.mesh = file_of(both(arrays(cube(20)), moved(arrays(M.cube((10, 20, 30))), 50, 0, 0)))

    def laid(self, *changes):
        spec = PlanSpec(mesh=Mesh(bodies=changes))
        return PIPELINE.placed(self.mesh, spec)

    def test_left_out(self):
        laid = self.laid(BodyChange(name="body 2", left_out=True))
        self.assertEqual(laid.size, (20, 20, 20))
        self.assertAlmostEqual(laid.volume, 8000, 3)

    def test_moved_turned_and_mirrored(self):
        self.assertEqual(self.laid(BodyChange(name="body 2", shift_x=-25)).size, (35, 20, 30))
        # about its middle at 55, 10, 15 it is 30 wide and 10 tall: from 40 to 70, 10 to 20
        turned = self.laid(BodyChange(name="body 2", turn_y=90))
        np.testing.assert_allclose(turned.size, (70, 20, 20), atol=1e-9)
        mirrored = self.laid(BodyChange(name="body 2", mirror="x"))
        self.assertAlmostEqual(mirrored.volume, 14000, 3)

    def test_what_cannot_be(self):
        with self.assertRaisesRegex(InputError, "there is no body 'lid' in the file; there is"):
            self.laid(BodyChange(name="lid"))
        with self.assertRaisesRegex(InputError, "every body is left out"):
            self.laid(*(BodyChange(name=f"body {n}", left_out=True) for n in (1, 2)))
        with self.assertRaisesRegex(ValueError, "'a' is changed twice"):
            PlanSpec(mesh=Mesh(bodies=(BodyChange(name="a"), BodyChange(name="a"))))

    def test_a_mirrored_part(self):
        wedge = M.cube((30, 20, 10)).trim_by_plane((1, 2, 3), 20)
        one = PIPELINE.placed(file_of(arrays(wedge)), PlanSpec())
        two = PIPELINE.placed(file_of(arrays(wedge)), PlanSpec(place=Placement(mirror="y")))
        self.assertAlmostEqual(one.volume, two.volume, 6)
        self.assertEqual(one.size, two.size)
        both_ = (one.solid ^ two.solid.mirror((0, 1, 0))).volume()
        self.assertAlmostEqual(both_, one.volume, 3)


class Cut(unittest.TestCase):
    def test_halves_stand_on_the_cut_and_add_up(self):
        ball = M.sphere(20.0, 96).translate((3, 4, 5))
        for normal, offset in (((0, 0, 1), 12.0), ((1, 1, 0), 0.0), ((1, -2, 3), -6.0)):
            with self.subTest(normal=normal):
                lower, upper = cut(ball, np.array(normal), offset)
                self.assertAlmostEqual((lower.volume() + upper.volume()) / ball.volume(), 1, 9)
                for half in (lower, upper):
                    self.assertAlmostEqual(half.bounding_box()[2], 0, 9)
                    foot = half.trim_by_plane((0, 0, -1), -0.01).volume() / 0.01
                    self.assertGreater(foot, 0.5 * np.pi * (400 - 15**2))

    def test_a_plane_beside_the_part(self):
        with self.assertRaisesRegex(InputError, "misses the part; .* between 0.00 and 20.00"):
            cut(cube(20), np.array([0, 0, 1]), 25.0)
        with self.assertRaisesRegex(InputError, "needs a direction"):
            cut(cube(20), np.zeros(3), 1.0)
