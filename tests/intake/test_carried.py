"""What is marked on a body goes with it."""

import unittest

import numpy as np

from northpace.part.bodies import with_bodies
from northpace.part.carried import with_bodies_moved
from northpace.part.solid import load_part
from northpace.spec import BodyChange, PlanSpec, with_settings
from tests.core.shapes import arrays, cube
from tests.intake.shapes import both, moved, stl_of

TWO = load_part(stl_of(both(arrays(cube(10)), moved(arrays(cube(8)), 20, 0, 0))), "two.stl")
#: On the top of the second, and on a side of the first.
MARKS = 'surface.marks=[{"x": 24, "y": 4, "z": 8}, {"x": 0, "y": 5, "z": 5, "attention": "hidden"}]'


def change(**said):
    return BodyChange(name="body 2", **said)


class Carried(unittest.TestCase):
    def moved(self, *pairs, before=(), after=()):
        spec = with_settings(PlanSpec(), list(pairs))
        mesh = spec.mesh.model_copy(update={"bodies": before})
        return with_bodies_moved(spec.model_copy(update={"mesh": mesh}), TWO, after)

    def test_only_what_is_on_it(self):
        found = self.moved(MARKS, after=(change(shift_x=5, shift_z=1),))
        self.assertEqual(found["mesh.bodies"], [{"name": "body 2", "shift_x": 5, "shift_z": 1}])
        moved, stays = found["surface.marks"]
        self.assertEqual((moved["x"], moved["y"], moved["z"]), (29, 4, 9))
        self.assertEqual(stays, {"x": 0, "y": 5, "z": 5, "attention": "hidden"})

    def test_back_where_it_was_drawn_is_back(self):
        there = (change(turn_x=90, turn_z=30, shift_x=4, mirror="y"),)
        gone = self.moved(MARKS, after=there)["surface.marks"]
        spec = PlanSpec()
        surface = spec.surface.model_copy(
            update={"marks": tuple(type(spec.surface).model_validate({"marks": gone}).marks)}
        )
        mesh = spec.mesh.model_copy(update={"bodies": there})
        spec = spec.model_copy(update={"surface": surface, "mesh": mesh})
        back = with_bodies_moved(spec, TWO, ())["surface.marks"][0]
        self.assertAlmostEqual(back["x"], 24, 2)
        self.assertAlmostEqual(back["y"], 4, 2)
        self.assertAlmostEqual(back["z"], 8, 2)

    def test_it_stays_on_the_surface_it_was_on(self):
        there = (change(turn_x=90, turn_y=20, shift_x=4, mirror="x"),)
        mark = self.moved(MARKS, after=there)["surface.marks"][0]
        body = with_bodies(TWO, there).bodies[1]
        at = np.array([mark["x"], mark["y"], mark["z"]])
        corners = np.asarray(body.to_mesh64().vert_properties)[:, :3]
        self.assertAlmostEqual(np.linalg.norm(corners - at, axis=1).min(), np.hypot(4, 4), 2)

    def test_strokes_and_outlines_go_whole(self):
        stroke = 'supports.marks=[{"x": 24, "y": 4, "z": 0, "radius": 2, "along": [[25, 4, 0]]}]'
        region = (
            'body.regions=[{"shape": "outline", "x": 22, "y": 1, "z": 8, '
            '"points": [[22, 1, 8], [26, 1, 8], [24, 5, 8]], '
            '"changes": {"body.infill_density": 40}}]'
        )
        found = self.moved(stroke, region, after=(change(shift_y=7),))
        self.assertEqual(found["supports.marks"][0]["along"], [[25, 11, 0]])
        self.assertEqual(found["body.regions"][0]["points"][2], [24, 12, 8])
        self.assertEqual(found["body.regions"][0]["changes"], {"body.infill_density": 40})

    def test_nothing_moves_where_no_body_does(self):
        for after in ((), (change(left_out=True),)):
            found = self.moved(MARKS, after=after)
            self.assertEqual(list(found), ["mesh.bodies"])


if __name__ == "__main__":
    unittest.main()
