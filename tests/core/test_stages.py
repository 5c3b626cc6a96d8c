"""Placement, layer stacks, outlines, walls, solid areas, order: properties of each stage."""

import unittest

import manifold3d as m3
import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.errors import InputError
from northpace.heights.even import even_heights
from northpace.moves import FEATURES, INNER, OUTER, SOLID, TOP, TRAVEL
from northpace.outlines.sections import cut, sections
from northpace.part.place import check_size, flat_faces, misfits, place
from northpace.part.solid import load_part
from northpace.part.stl import binary_stl, mesh_arrays
from northpace.paths.bead import spacing
from northpace.paths.fill.areas import layers_within
from northpace.paths.walls.loops import Asked, walls
from northpace.paths.walls.zones import Zones
from northpace.plan.pipeline import Pipeline
from northpace.spec import Machine, Placement, PlanSpec, Surface, with_settings
from tests.core.shapes import cube, organic, source, stl, torus


def placed(solid, **values):
    return place(load_part(stl(solid), "a.stl"), Placement(**values))


class Placing(unittest.TestCase):
    box = m3.Manifold.cube((10.0, 20.0, 30.0)).translate((7, -3, 11))

    def test_centred_on_the_plate(self):
        found = placed(self.box)
        np.testing.assert_allclose(found.size, (10, 20, 30), atol=1e-6)
        np.testing.assert_allclose(found.low, (-5, -10, 0), atol=1e-6)

    def test_scale_turn_and_face(self):
        np.testing.assert_allclose(
            placed(self.box, scale_x=200, scale_z=50).size, (20, 20, 15), atol=1e-5
        )
        np.testing.assert_allclose(placed(self.box, turn_x=90).size, (10, 30, 20), atol=1e-5)
        np.testing.assert_allclose(placed(self.box, turn_z=90).size, (20, 10, 30), atol=1e-5)
        np.testing.assert_allclose(
            placed(self.box, down_x=1, down_z=0).size, (30, 20, 10), atol=1e-5
        )
        np.testing.assert_allclose(placed(self.box, down_z=1).size, (10, 20, 30), atol=1e-5)
        np.testing.assert_allclose(placed(self.box, inches=True).size, (254, 508, 762), atol=1e-3)

    @given(st.floats(-180, 180), st.floats(-180, 180), st.floats(-180, 180))
    @settings(max_examples=25)
    def test_turning_keeps_the_volume_and_stands_on_the_plate(self, x, y, z):
        found = placed(self.box, turn_x=x, turn_y=y, turn_z=z)
        self.assertAlmostEqual(found.volume, 6000, 2)
        self.assertAlmostEqual(found.low[2], 0, 5)

    def test_bodies_of_a_file_stay_apart(self):
        part = load_part(stl(cube(10) + cube(10).translate((30, 0, 0))), "a.stl")
        found = place(part, Placement())
        vertices, faces, owner = mesh_arrays(found.bodies)
        self.assertEqual(sorted(np.bincount(owner)), [12, 12])
        self.assertNotEqual(*(np.sign(vertices[faces[owner == k], 0].mean()) for k in (0, 1)))
        records = np.frombuffer(binary_stl(vertices, faces, owner)[84:], np.uint8).reshape(-1, 50)
        np.testing.assert_array_equal(records[:, 48], owner)

    def test_faces_to_stand_on(self):
        faces = flat_faces(load_part(stl(self.box), "a.stl"))
        self.assertEqual(
            [round(face["area_mm2"]) for face in faces], [600, 600, 300, 300, 200, 200]
        )

    def test_what_does_not_fit_is_said(self):
        small = Machine(size_x=15, size_y=15, size_z=100)
        for machine, code, words in (
            (small, "outside-bed", "beyond the bed"),
            (Machine(size_z=20), "too-tall", "tall"),
            (Machine(bed="round", size_x=22), "outside-bed", "round bed"),
        ):
            (found,) = misfits(placed(self.box), machine)
            self.assertEqual(found[0], code)
            self.assertIn(words, found[1])
        self.assertEqual(misfits(placed(self.box), Machine(bed="round", size_x=22.4)), [])
        self.assertEqual(len(misfits(placed(self.box), Machine(size_z=30), lift=1.0)), 1)
        with self.assertRaisesRegex(InputError, "unit"):
            check_size(
                place(load_part(stl(cube(31)), "a.stl"), Placement()),
                Machine(size_x=10, size_y=10, size_z=10),
            )


class Stacks(unittest.TestCase):
    @given(st.integers(8, 20000), st.integers(8, 30), st.integers(8, 30))
    @settings(max_examples=300)
    def test_even_stacks_meet_every_limit(self, top, first, each):
        machine = Machine()
        try:
            heights = even_heights(
                top / 100, Surface(layer_height=each / 100, first_layer_height=first / 100), machine
            )
        except InputError:
            # only where no stack exists: right above the first layer, less than a layer or between
            # one and two
            self.assertLess(top, first + 2 * 30)
            return
        steps = np.round(heights / 0.01).astype(int)
        np.testing.assert_allclose(heights, steps * 0.01, atol=1e-9)
        self.assertEqual(steps.sum(), top)
        self.assertTrue((steps >= 8).all() and (steps <= 30).all())
        if top > first:
            self.assertEqual(steps[0], first)
        usual = np.flatnonzero(steps[1:] == each)
        self.assertLessEqual(len(steps) - 1 - len(usual), 30)

    def test_plain_case(self):
        heights = even_heights(20.0, Surface(), Machine())
        np.testing.assert_allclose(heights, np.full(100, 0.2))


class Outlines(unittest.TestCase):
    def test_areas_times_heights_approach_the_volume(self):
        for solid in (m3.Manifold.sphere(15.0, 96), torus(), organic(64, 60)):
            body = placed(solid)
            heights = np.full(int(body.height / 0.05), body.height / int(body.height / 0.05))
            outlines = cut(body, heights)
            self.assertAlmostEqual(
                float((shapely.area(outlines.areas) * heights).sum()) / body.volume, 1, delta=2e-3
            )

    def test_a_level_step_belongs_to_the_side_above(self):
        solid = cube(20) + m3.Manifold.cube((10.0, 10.0, 10.0)).translate((0, 0, 20))
        areas = sections(placed(solid).solid, np.array([0.0, 19.999, 20.0, 29.999, 30.0]))
        np.testing.assert_allclose(shapely.area(areas), [400, 400, 100, 100, 0], atol=1e-6)

    def test_holes_and_islands_in_holes(self):
        solid = (
            cube(30)
            - m3.Manifold.cube((20.0, 20.0, 40.0)).translate((5, 5, -5))
            + m3.Manifold.cube((8.0, 8.0, 30.0)).translate((11, 11, 0))
        )
        outlines = cut(placed(solid), np.full(10, 3.0))
        self.assertEqual(len(outlines.islands), 20)
        np.testing.assert_allclose(shapely.area(outlines.areas), 900 - 400 + 64, rtol=1e-6)

    def test_offsets(self):
        outlines = cut(placed(cube()), np.full(10, 2.0), -0.1, -0.2)
        np.testing.assert_allclose(
            shapely.area(outlines.areas), [19.4**2, *[19.8**2] * 9], rtol=1e-6
        )


class WallsAndAreas(unittest.TestCase):
    def test_walls_of_a_square_lie_where_the_formula_says(self):
        outlines = cut(placed(cube()), np.full(100, 0.2))
        asked = Asked(np.full(100, 3), np.full(100, 0.5), np.full(100, 0.4), False, True)
        found = walls(outlines, asked, Zones.none(100))
        s0, s1 = spacing(0.5, 0.2), spacing(0.4, 0.2)
        expected = [0.5 / 2, 0.5 / 2 + (s0 + s1) / 2, 0.5 / 2 + (s0 + s1) / 2 + s1]
        table = found.paths
        for k in range(3):
            p = np.flatnonzero((table.layer == 5) & (table.rank == -k))
            self.assertEqual(len(p), 1)
            points = table.points[table.starts[p[0]] : table.starts[p[0] + 1]]
            np.testing.assert_allclose(np.abs(points).max(axis=0), 10 - expected[k], atol=1e-9)
        self.assertAlmostEqual(
            float(np.sqrt(found.border[5].area)), 20 - 2 * (expected[2] + s1 / 2), 9
        )
        self.assertEqual(len(found.leftover), 0)

    def test_solid_layers_by_thickness_and_least_count(self):
        heights = np.full(50, 0.2)
        tops = np.cumsum(heights)
        self.assertTrue((layers_within(tops, heights, 0.8, 3, True) == 4)[:40].all())
        self.assertTrue((layers_within(tops, heights, 0.8, 6, True) == 6)[:40].all())
        self.assertTrue((layers_within(tops, heights, 0.9, 1, False) == 5)[10:].all())
        self.assertTrue((layers_within(tops, heights, 0, 0, True) == 0).all())

    def test_solid_only_under_open_air(self):
        plan = Pipeline().plan(source(cube()), PlanSpec())
        moves = plan.moves
        solid = np.unique(moves.layer[np.isin(moves.feature, (SOLID, TOP))])
        np.testing.assert_array_equal(np.unique(moves.layer[moves.feature == TOP]), [99])
        np.testing.assert_array_equal(solid, [0, 1, 2, 96, 97, 98, 99])
        infill = np.unique(moves.layer[moves.feature == FEATURES.index("infill")])
        np.testing.assert_array_equal(infill, np.arange(3, 96))

    def test_a_step_is_covered_where_it_is_open(self):
        solid = cube(20) + m3.Manifold.cube((8.0, 20.0, 10.0)).translate((0, 0, 20))
        plan = Pipeline().plan(source(solid), PlanSpec())
        moves = plan.moves
        at_step = (moves.layer == 99) & np.isin(moves.feature, (SOLID, TOP))
        under_tower = moves.x[at_step] < 110 - 10 + 8 - 3  # left of the step and its tie
        self.assertTrue(at_step.any())
        self.assertFalse(under_tower.any())


class OrderStage(unittest.TestCase):
    def test_outer_wall_last_or_first(self):
        for order, first, last in (("outside-last", INNER, OUTER), ("outside-first", OUTER, INNER)):
            moves = (
                Pipeline()
                .plan(
                    source(cube()),
                    with_settings(PlanSpec(), [f"body.wall_order={order}"]),
                )
                .moves
            )
            in_walls = moves.feature[(moves.layer == 50) & np.isin(moves.feature, (INNER, OUTER))]
            self.assertEqual((in_walls[0], in_walls[-1]), (first, last))

    def test_moves_join_up_and_nothing_is_laid_in_a_travel(self):
        plan = Pipeline().plan(source(torus()), PlanSpec())
        moves = plan.moves
        self.assertTrue((moves.filament[moves.feature == TRAVEL] == 0).all())
        self.assertTrue((np.diff(moves.z) >= -1e-9).all())
        pulled = moves.filament[moves.feature == FEATURES.index("retraction")]
        self.assertTrue((np.add.accumulate(pulled) <= 1e-9).all() and abs(pulled.sum()) < 1e-9)

    def test_seam_at_the_rear(self):
        moves = (
            Pipeline().plan(source(m3.Manifold.cylinder(10.0, 10.0, 10.0, 90)), PlanSpec()).moves
        )
        starts = np.flatnonzero((moves.feature[1:] == OUTER) & (moves.feature[:-1] != OUTER))
        self.assertGreater(len(starts), 40)
        self.assertTrue((moves.y[starts] > 110 + 10 - 0.3).all())
