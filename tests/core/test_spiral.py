"""The spiral: one unbroken line from base to rim, measured from the text of the file alone, and
refused where the part does not allow it.
"""

import re
import unittest

import manifold3d as m3
import numpy as np

from northpace.errors import InputError
from northpace.paths.spiral.check import set_aside
from northpace.plan.pipeline import Pipeline, Source
from northpace.spec import PlanSpec, spec_from, with_settings
from tests.core.shapes import cube, source, stl

SPIRAL = (
    "body.build=spiral",
    "body.outer_width=0.5",
    "pace.least_layer_time=0",
    "footing.skirt_loops=0",
)


def fluted(height=20.0) -> m3.Manifold:
    """A twisted tube with eight flutes, modelled as a solid body."""
    turn = np.linspace(0, 2 * np.pi, 160, endpoint=False)
    radius = 18 + 1.5 * np.cos(8 * turn)
    return m3.Manifold.extrude(
        m3.CrossSection([np.stack([radius * np.cos(turn), radius * np.sin(turn)], 1)]),
        height,
        60,
        40.0,
    )


def read(text: bytes) -> np.ndarray:
    """Moves of a file: x, y, z and filament fed (K, 4), by the words of its lines."""
    at, out = {"X": 0.0, "Y": 0.0, "Z": 0.0}, []
    for line in text.decode().split(";end")[0].splitlines():
        if not re.match(r"G[01] ", line):
            continue
        words = {word[0]: float(word[1:]) for word in line.split()[1:]}
        at.update({axis: value for axis, value in words.items() if axis in at})
        out.append([at["X"], at["Y"], at["Z"], words.get("E", 0.0)])
    return np.array(out)


class Spiral(unittest.TestCase):
    def plan(self, solid, *pairs):
        return Pipeline().plan(source(solid), with_settings(PlanSpec(), [*SPIRAL, *pairs]))

    def check(self, plan, rim):
        moves = read(plan.gcode)
        # after the last move without filament everything is the spiral
        begin = int(np.flatnonzero(moves[:, 3] <= 0)[-1])
        while (
            begin + 1 < len(moves)
            and moves[begin + 1, 0] == moves[begin, 0]
            and moves[begin + 1, 1] == moves[begin, 1]
        ):
            begin += 1  # the return of the filament
        spiral = moves[begin:]
        z = spiral[:, 2]
        self.assertTrue((spiral[1:, 3] > 0).all())
        self.assertGreaterEqual(np.diff(z).min(), 0)
        self.assertLessEqual(np.diff(z).max(), 0.02 + 1e-9)
        base = np.searchsorted(plan.outlines.tops, 0.6 - 1e-6)
        self.assertAlmostEqual(z[0], plan.outlines.tops[max(base, 2)], 6)
        self.assertAlmostEqual(z[-1], rim, 6)
        return spiral

    def test_a_cylinder_turn_by_turn(self):
        plan = self.plan(m3.Manifold.cylinder(10.0, 25.0, 25.0, 720))
        spiral = self.check(plan, 10.0)
        step = np.hypot(*np.diff(spiral[:, :2], axis=0).T)
        # 47 layers above 0.6 mm are 48 turns of 2π · 24.75
        self.assertAlmostEqual(step.sum() / 48, 155.51, delta=0.05)
        # the first turn grows from nothing, the last runs out: together they are one
        laid = spiral[1:, 3].sum() * np.pi * 1.75**2 / 4
        bead = (0.5 - 0.2) * 0.2 + np.pi * 0.2**2 / 4
        self.assertAlmostEqual(laid / (47 * 155.51 * bead), 1, delta=0.02)
        self.assertEqual(plan.report["paths"]["walls"], 1)
        # the last turn is level
        level = spiral[:, 2] >= 10.0 - 1e-9
        self.assertAlmostEqual(step[level[1:] & level[:-1]].sum(), 155.51, delta=1.5)

    def test_a_twisted_fluted_tube(self):
        plan = self.plan(fluted())
        spiral = self.check(plan, 20.0)
        step = np.hypot(*np.diff(spiral[:, :2], axis=0).T)
        bead = (0.5 - 0.2) * 0.2 + np.pi * 0.2**2 / 4
        ring = plan.outlines.areas[50].buffer(-0.25).exterior.length
        laid = spiral[1:, 3].sum() * np.pi * 1.75**2 / 4
        self.assertAlmostEqual(laid / (97 * ring * bead), 1, delta=0.02)
        self.assertAlmostEqual(step.sum() / (98 * ring), 1, delta=0.02)
        # every turn stays on its outline
        import shapely

        middle = spiral[:, 2] > 5
        line = plan.outlines.areas[50].buffer(-0.25).exterior
        here = np.abs(spiral[:, 2] - plan.outlines.tops[50]) < 0.1
        far = shapely.distance(shapely.points(spiral[here & middle][:, :2] - 110.0), line)
        self.assertLess(far.max(), 0.25)

    def test_changing_pitch(self):
        plan = self.plan(
            fluted(),
            'surface.bands=[{"name": "fine", "from_mm": 8, "to_mm": 14, "height_mm": 0.1}]',
            "surface.kind=best-fit",
            "surface.target_um=100",
        )
        heights = plan.outlines.heights
        self.assertGreater(len(np.unique(np.round(heights, 3))), 2)
        self.check(plan, 20.0)

    def test_refused_with_height_and_reason(self):
        tube = m3.Manifold.cylinder(12.0, 10.0, 10.0, 64)
        loop = tube + m3.Manifold.cylinder(3.0, 3.0, 3.0, 32).translate((16, 0, 6))
        fork = (
            m3.Manifold.cube((30.0, 10.0, 6.0))
            + m3.Manifold.cube((8.0, 10.0, 12.0))
            + m3.Manifold.cube((8.0, 10.0, 12.0)).translate((22, 0, 0))
        )
        dome = m3.Manifold.sphere(10.0, 96).trim_by_plane((0.0, 0.0, 1.0), 0.0)
        shelf = tube + m3.Manifold.cylinder(4.0, 14.0, 14.0, 64).translate((0, 0, 8))
        for solid, words, z in (
            (loop, "2 outlines", 6.2),
            (fork, "2 outlines", 6.2),
            (shelf, "leans out", 8.2),
            (
                tube - m3.Manifold.cylinder(12.0, 8.0, 8.0, 64).translate((0, 0, 3)),
                "has a hole",
                3.2,
            ),
        ):
            with self.assertRaises(InputError) as caught:
                self.plan(solid)
            self.assertIn(words, str(caught.exception))
            self.assertIn(f"at {z:.2f} mm", str(caught.exception))
        with self.assertRaises(InputError) as caught:
            self.plan(dome)
        # a step of half a bead inwards in a layer of 0.2: the slope is less than 0.8, from z = 10 ·
        # 0.78 on
        said = float(re.search(r"at (\d+\.\d+) mm", str(caught.exception))[1])
        self.assertAlmostEqual(said, 7.9, delta=0.3)

    def test_a_wall_modelled_double_takes_its_outer_contour(self):
        tube = m3.Manifold.cylinder(8.0, 10.0, 10.0, 96) - m3.Manifold.cylinder(
            8.0, 8.5, 8.5, 96
        ).translate((0, 0, 1))
        plan = self.plan(tube, "body.outer_contour_only=true")
        self.check(plan, 8.0)

    def test_what_it_sets_aside_comes_back(self):
        plan = self.plan(cube(12), "body.infill_density=40", "body.top_thickness=1.2")
        self.assertNotIn("infill", plan.report["time_s"]["by_feature"])
        self.assertEqual(plan.spec.body.infill_density, 40)
        self.assertIn("open-by-design", [f.code for f in plan.findings])

    def test_open_vessel(self):
        plan = Pipeline().plan(
            source(cube(12)),
            with_settings(PlanSpec(), ["body.build=open-vessel", "body.walls=2"]),
        )
        above = plan.moves.layer > 5
        laid = {int(f) for f in np.unique(plan.moves.feature[above & (plan.moves.width > 0)])}
        self.assertEqual(laid, {4, 5})
        self.assertEqual(plan.report["paths"]["walls"], 2)


class Stretches(unittest.TestCase):
    """A spiral of part of the height, ordinary layers around it."""

    def plan(self, solid, *pairs):
        return Pipeline().plan(
            source(solid),
            with_settings(
                PlanSpec(),
                [
                    "body.outer_width=0.5",
                    "pace.least_layer_time=0",
                    "footing.skirt_loops=0",
                    *pairs,
                ],
            ),
        )

    def band(self, low, high):
        return (
            f'surface.bands=[{{"from_mm": {low}, "to_mm": {high}, "changes": '
            f'{{"body.build": "spiral"}}}}]'
        )

    def test_a_spiral_between_two_heights(self):
        plan = self.plan(m3.Manifold.cylinder(12.0, 10.0, 10.0, 128), self.band(4, 8))
        moves = read(plan.gcode)
        inside = np.flatnonzero((moves[:, 2] > 4.0) & (moves[:, 2] < 8.0))
        self.assertEqual(np.diff(inside).max(), 1)
        spiral = moves[inside]
        self.assertTrue((spiral[1:, 3] > 0).all())
        self.assertGreaterEqual(np.diff(spiral[:, 2]).min(), 0)
        self.assertLessEqual(np.diff(spiral[:, 2]).max(), 0.02 + 1e-9)
        self.assertEqual(plan.report["spirals"], [[4.0, 8.0]])
        # below it closes with a top, above with a bottom; and both are as they would be without it
        kinds = [
            (entry["kinds"], entry["from_mm"], entry["to_mm"])
            for entry in plan.report["solid"]["patches"]
        ]
        self.assertTrue(
            any("top" in kind and abs(high - 4) < 1e-6 for kind, _, high in kinds), kinds
        )
        self.assertTrue(
            any("bottom" in kind and abs(low - 8) < 1e-6 for kind, low, _ in kinds), kinds
        )
        laid = plan.moves.filament * (plan.moves.width > 0)
        plain = self.plan(m3.Manifold.cylinder(12.0, 10.0, 10.0, 128)).moves
        for k in (5, 10, 50):
            self.assertAlmostEqual(
                laid[plan.moves.layer == k].sum()
                / (plain.filament * (plain.width > 0))[plain.layer == k].sum(),
                1,
                delta=0.02,
            )
        # the head goes on from the rim of the spiral, wherever it would have come from otherwise
        after = inside[-1] + 1
        self.assertLess(np.hypot(*(moves[after + 3, :2] - moves[after, :2])), 60)

    def test_what_cannot_be_one_is_refused_within_its_band_only(self):
        fork = (
            m3.Manifold.cube((30.0, 10.0, 6.0))
            + m3.Manifold.cube((8.0, 10.0, 12.0))
            + m3.Manifold.cube((8.0, 10.0, 12.0)).translate((22, 0, 0))
        )
        self.assertEqual(self.plan(fork, self.band(1, 6)).report["spirals"], [[1.0, 6.0]])
        with self.assertRaises(InputError) as caught:
            self.plan(fork, self.band(1, 8))
        self.assertIn("at 6.20 mm there are 2 outlines", str(caught.exception))

    def test_the_check_proposes_ways_that_work(self):
        tube = m3.Manifold.cylinder(12.0, 10.0, 10.0, 64)
        loop = tube + m3.Manifold.cylinder(3.0, 3.0, 3.0, 32).translate((16, 0, 6))
        pipeline, data = Pipeline(), stl(loop)
        found = pipeline.vase(Source.of(data, "a.stl"), PlanSpec())
        self.assertFalse(found.suits)
        self.assertEqual([entry.rule for entry in found.breaks][0], "outlines")
        self.assertEqual(
            [offer.words for offer in found.offers],
            [
                "Spiral up to 6.00 mm, the rest ordinary",
                "Spiral between 9.20 and 12.00 mm, the rest ordinary",
            ],
        )
        for offer, (low, high) in zip(found.offers, ((0.6, 6.0), (9.2, 12.0)), strict=True):
            plan = pipeline.plan(
                Source.of(data, "a.stl"),
                spec_from({"surface": {"bands": [offer.change["surface.bands"]]}}),
            )
            self.assertEqual(plan.report["spirals"], [[low, high]])
        shell = tube - m3.Manifold.cylinder(12.0, 8.0, 8.0, 64).translate((0, 0, 3))
        self.assertEqual(
            pipeline.vase(source(shell), PlanSpec()).offers[0].change,
            {"body.build": "spiral", "body.outer_contour_only": True},
        )
        self.assertTrue(pipeline.vase(source(tube), PlanSpec()).suits)

    def test_what_is_set_aside_is_told_with_its_value(self):
        spec = with_settings(PlanSpec(), ["body.infill_density=40", "body.floor_every=0"])
        told = {entry["name"]: entry["value"] for entry in set_aside(spec, "spiral")}
        self.assertEqual(told["body.infill_density"], 40)
        self.assertEqual(told["body.walls"], 3)
        self.assertNotIn("body.floor_every", told)
        self.assertNotIn("body.walls", {entry["name"] for entry in set_aside(spec, "open-vessel")})

    def test_the_wall_has_a_width_a_nozzle_holds(self):
        for width, allowed in ((0.3, False), (0.32, True), (0.8, True), (0.85, False)):
            try:
                with_settings(
                    PlanSpec(),
                    [
                        "body.build=spiral",
                        f"body.outer_width={width}",
                        "body.first_layer_width=0.5",
                    ],
                )
                self.assertTrue(allowed, width)
            except InputError as error:
                self.assertFalse(allowed, width)
                self.assertIn("0.32 to 0.8 mm", str(error))


class Rims(unittest.TestCase):
    """A body cut off aslant: the rim runs from 10 to 13.5 mm."""

    def setUp(self):
        tilt = np.radians(10)
        self.data = stl(
            m3.Manifold.cylinder(20.0, 10.0, 10.0, 192).trim_by_plane(
                (-np.sin(tilt), 0.0, -np.cos(tilt)), -np.cos(tilt) * 11.763
            )
        )

    def spiral(self, rim):
        plan = Pipeline().plan(
            Source.of(self.data, "a.stl"), with_settings(PlanSpec(), [*SPIRAL, f"body.rim={rim}"])
        )
        moves = read(plan.gcode)
        return moves[int(np.flatnonzero(moves[:, 3] <= 0)[-1]) + 1 :]

    def test_refused_unless_chosen(self):
        with self.assertRaises(InputError) as caught:
            self.spiral("top")
        self.assertIn("closes inward", str(caught.exception))
        words = [
            offer.words
            for offer in Pipeline().vase(Source.of(self.data, "a.stl"), PlanSpec()).offers
        ]
        self.assertIn("Spiral that follows the slanting rim", words)

    def test_level_where_the_outline_ends(self):
        spiral = self.spiral("level")
        self.assertAlmostEqual(spiral[-1, 2], 10.0, delta=0.21)
        self.assertGreaterEqual(np.diff(spiral[:, 2]).min(), 0)

    def test_following_the_rim(self):
        spiral = self.spiral("follow")
        x, z = spiral[:, 0] - 110, spiral[:, 2]
        around = np.unwrap(np.arctan2(spiral[:, 1] - 110, x))
        last = np.abs(around - around[-1]) < 2 * np.pi
        # the last turn lies on the plane of the cut, but for layers' grain
        rim = 11.763 - x[last] * np.tan(np.radians(10))
        self.assertLess(np.abs(z[last] - rim).max(), 0.45)
        self.assertLessEqual(np.abs(np.diff(z)).max(), 0.02 + 2e-3)
        self.assertTrue((spiral[1:, 3] > 0).all())
        # wall area times the section of a bead a millimetre of height
        laid = spiral[:, 3].sum() * np.pi * 1.75**2 / 4
        wall = 2 * np.pi * 9.75 * (11.763 - 0.6)
        self.assertAlmostEqual(laid / (wall * 0.457), 1, delta=0.04)

    def test_too_steep_to_follow(self):
        steep = np.radians(35)
        cut = stl(
            m3.Manifold.cylinder(30.0, 10.0, 10.0, 96).trim_by_plane(
                (-np.sin(steep), 0.0, -np.cos(steep)), -np.cos(steep) * 15
            )
        )
        with self.assertRaises(InputError) as caught:
            Pipeline().plan(
                Source.of(cut, "a.stl"), with_settings(PlanSpec(), [*SPIRAL, "body.rim=follow"])
            )
        self.assertIn("follows up to 20°", str(caught.exception))


class Tips(unittest.TestCase):
    """Parts that end in a tip narrower than a turn are refused with what can be done, or end level
    below it.
    """

    def plan(self, solid, *pairs):
        return Pipeline().plan(source(solid), with_settings(PlanSpec(), [*SPIRAL, *pairs]))

    def test_a_cone_says_where_it_gets_too_narrow(self):
        for tip, sides in ((0.0, 96), (0.0, 16), (0.2, 48)):
            with self.assertRaisesRegex(InputError, r"at 19\.\d+ mm it is too narrow for a turn"):
                self.plan(m3.Manifold.cylinder(20, 12, tip, sides))

    def test_it_ends_level_where_that_is_asked_for(self):
        plan = self.plan(m3.Manifold.cylinder(20, 12, 0, 96), "body.rim=level")
        moves = read(plan.gcode)
        laid = moves[moves[:, 3] > 0]
        self.assertGreater(laid[:, 2].max(), 18.5)
        self.assertLess(laid[:, 2].max(), 19.4)

    def test_a_sphere_and_a_needle_end_with_a_plan_or_a_sentence(self):
        for solid in (m3.Manifold.sphere(9, 48), m3.Manifold.cylinder(12, 1.0, 0, 12)):
            for rim in ("top", "level", "follow"):
                try:
                    self.plan(solid, f"body.rim={rim}")
                except InputError as error:
                    self.assertIn("mm", error.message)
