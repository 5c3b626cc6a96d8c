"""Properties that hold for any input, looked for with random ones."""

import unittest

import manifold3d as m3
import numpy as np
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from northpace.errors import InputError
from northpace.gcode.read import read_gcode
from northpace.gcode.write import _number
from northpace.geometry.polygons import offset
from northpace.geometry.scanline import fill_lines
from northpace.material.amounts import parts_per_spool
from northpace.motion.kinematics import Course, limits_of, run
from northpace.naming import FIELDS, file_name
from northpace.part.solid import load_part
from northpace.part.stl import binary_stl
from northpace.paths.bead import area, spacing
from northpace.plan.pipeline import Pipeline
from northpace.spec import Machine, PlanSpec, with_settings
from tests.core.shapes import PIPELINE, arrays, cube, source

finite = {"allow_nan": False, "allow_infinity": False}
MACHINE = Machine(max_acceleration_xy=100000, max_speed_xy=2000)


def star(radii):
    """A polygon around the origin from its radii."""
    angle = np.linspace(0, 2 * np.pi, len(radii), endpoint=False)
    return shapely.Polygon(np.stack([radii * np.cos(angle), radii * np.sin(angle)], axis=1))


def times(points, speed, acceleration):
    p = np.asarray(points, float)
    out = np.zeros(len(p))
    course = Course(
        p[:, 0].copy(),
        p[:, 1].copy(),
        np.zeros(len(p)),
        np.zeros(len(p)),
        np.full(len(p), float(speed)),
        np.full(len(p), float(acceleration)),
    )
    total = run(course, limits_of(MACHINE), 0, len(p), out)
    return total, out


class Numbers(unittest.TestCase):
    @given(st.floats(-9999, 9999, **finite), st.integers(0, 5))
    def test_written_numbers_read_back(self, value, decimals):
        out = np.zeros(40, np.uint8)
        text = out[: _number(out, 0, value, decimals)].tobytes().decode()
        self.assertAlmostEqual(float(text), value, delta=0.5001 * 10.0**-decimals)
        self.assertFalse("." in text and text.endswith("0"))
        self.assertNotEqual(text, "-0")

    def test_the_reader_never_breaks_on_any_bytes(self):
        whole = PIPELINE.plan(source(cube(2)), PlanSpec()).gcode
        read_ones = 0

        # bytes alone are hardly ever a file, so they are put into one
        @given(st.binary(max_size=60), st.floats(0, 1), st.integers(0, 200))
        def put_in(data, at, instead_of):
            nonlocal read_ones
            k = int(at * len(whole))
            try:
                found = read_gcode(whole[:k] + data + whole[k + instead_of :])
            except InputError as error:
                self.assertTrue(error.message)
                return
            read_ones += 1
            self.assertTrue(np.isfinite(found.seconds).all())
            self.assertTrue((found.seconds >= 0).all())

        put_in()
        self.assertGreater(read_ones, 10)


class MotionProperties(unittest.TestCase):
    points = st.lists(
        st.tuples(st.floats(-100, 100, **finite), st.floats(-100, 100, **finite)),
        min_size=1,
        max_size=30,
    )

    @given(points, st.floats(5, 300), st.floats(50, 5000))
    def test_bounds(self, points, speed, acceleration):
        total, each = times(points, speed, acceleration)
        length = np.linalg.norm(np.diff(np.r_[[(0, 0)], points], axis=0), axis=1)
        self.assertTrue((each >= length / speed - 1e-9).all())
        stopping = sum(
            2 * np.sqrt(d / acceleration)
            if d < speed**2 / acceleration
            else d / speed + speed / acceleration
            for d in length
        )
        self.assertLessEqual(total, stopping + 1e-6)

    @given(points, st.floats(5, 300), st.floats(50, 2000))
    def test_more_acceleration_is_never_slower(self, points, speed, acceleration):
        self.assertLessEqual(
            times(points, speed, 2 * acceleration)[0], times(points, speed, acceleration)[0] + 1e-9
        )

    @given(st.floats(1, 200), st.integers(2, 40), st.floats(10, 200))
    def test_cutting_a_straight_move_changes_nothing(self, length, pieces, speed):
        whole = times([(length, 0)], speed, 1000)[0]
        cut = times([(length * (k + 1) / pieces, 0) for k in range(pieces)], speed, 1000)[0]
        self.assertAlmostEqual(whole, cut, 7)


class Fill(unittest.TestCase):
    radii = st.lists(st.floats(6, 30), min_size=5, max_size=24)

    @given(radii, st.floats(-180, 180), st.floats(0.4, 6), st.booleans())
    @settings(max_examples=60)
    def test_lines_and_joins_stay_inside(self, radii, angle, pitch, fit):
        polygon = star(np.array(radii))
        chains = fill_lines(
            np.array([polygon]),
            np.array([angle]),
            np.array([pitch]),
            np.array([pitch / 2 if fit else 0.2]),
            fit,
            2.0,
        )
        self.assertGreater(len(chains.polygon), 0)
        room = polygon.buffer(1e-6)
        length = 0.0
        for a, b in zip(chains.starts[:-1], chains.starts[1:], strict=True):
            line = shapely.LineString(chains.points[a:b])
            self.assertTrue(room.covers(line))
            length += line.length
        self.assertAlmostEqual(length, chains.length[0], 6)

    @given(st.lists(st.floats(9, 25), min_size=8, max_size=20), st.integers(0, 5), st.floats(0, 90))
    @settings(max_examples=15)
    def test_any_convex_prism_lays_its_volume(self, radii, walls, angle):
        section = star(np.array(radii)).convex_hull
        assume(section.buffer(-7).area > 1)
        solid = m3.CrossSection(
            [np.asarray(section.exterior.coords)[:-1]], m3.FillRule.EvenOdd
        ).extrude(1.0)
        plan = Pipeline().plan(
            source(solid),
            with_settings(
                PlanSpec(),
                [
                    "body.infill_density=100",
                    f"body.walls={walls}",
                    f"body.solid_angles={angle},{angle + 90}",
                    "footing.skirt_loops=0",
                ],
            ),
        )
        moves = plan.moves
        volume = (
            np.bincount(moves.layer[moves.width > 0], moves.filament[moves.width > 0], minlength=5)
            * np.pi
            * 1.75**2
            / 4
        )
        width = plan.spec.body.outer_width
        edge = (width - spacing(width, 0.2)) / 2 if walls else 0.0
        wanted = shapely.area(offset(plan.outlines.areas, -edge)) * 0.2
        np.testing.assert_allclose(volume, wanted, rtol=0.02)

    @given(st.floats(0.2, 2), st.floats(0.05, 1))
    def test_a_bead_is_never_wider_than_its_lane_suggests(self, width, height):
        assume(width > height)
        self.assertLess(spacing(width, height), width)
        self.assertGreater(area(width, height), 0)


class MendProperties(unittest.TestCase):
    vertices, faces = arrays(m3.Manifold.sphere(10.0, 24))

    @given(st.sets(st.integers(0, 10**6)), st.integers(0, 2**32 - 1))
    @settings(max_examples=25)
    def test_any_order_and_direction_of_facets_gives_the_same_solid(self, chosen, seed):
        faces = self.faces.copy()
        wrong = (
            np.unique([k % len(faces) for k in chosen]).astype(int) if chosen else np.empty(0, int)
        )
        assume(len(wrong) < 0.45 * len(faces))
        faces[wrong] = faces[wrong][:, ::-1]
        faces = np.random.default_rng(seed).permutation(faces)
        part = load_part(binary_stl(self.vertices, faces), "a.stl")
        self.assertAlmostEqual(
            part.volume, load_part(binary_stl(self.vertices, self.faces), "a.stl").volume, 4
        )


class Words(unittest.TestCase):
    @given(
        st.dictionaries(st.sampled_from(sorted(FIELDS)), st.text(max_size=60)), st.integers(12, 120)
    )
    def test_any_words_give_a_safe_name_in_the_limit(self, values, limit):
        name = file_name("{time}_{part}_{material}_p{plan}", values, limit)
        self.assertLessEqual(len(name), limit)
        self.assertRegex(name, r"^[a-z0-9][A-Za-z0-9._-]*\.gcode$")

    @given(st.floats(1, 5000), st.floats(0.01, 3000))
    def test_a_spool_is_shared_out_without_rest(self, usable, each):
        share = parts_per_spool(usable, each)
        self.assertAlmostEqual(share.parts * each + share.left_over_g, usable, 6)
        self.assertLess(share.left_over_g, each * (1 + 1e-6))
        self.assertGreaterEqual(
            usable / (each - share.lighter_for_one_more_g), share.parts + 1 - 1e-6
        )
