"""Supports and footing: what holds, how close, at what cost; and what primes the nozzle."""

import json
import unittest

import manifold3d as m3
import numpy as np
import shapely

from northpace.errors import InputError
from northpace.moves import FOOTING, ROOF, SUPPORT
from northpace.paths.bead import area
from northpace.paths.supports.by_hand import painted_area
from northpace.plan.pipeline import Pipeline, Source
from northpace.spec import PlanSpec, with_settings
from tests.core.paths import lay_out
from tests.core.shapes import PIPELINE, cube, source
from tests.core.test_findings import box, mushroom, table

ON = "supports.enabled=true"
#: A board on one leg, 8 mm above the bed.
SHELF = box(6, 20, 10) + box(30, 20, 2, (0, 0, 8))


def plan(solid, *pairs):
    return Pipeline().plan(source(solid), with_settings(PlanSpec(), list(pairs)))


class Supports(unittest.TestCase):
    def test_nothing_where_nothing_leans_out(self):
        for solid in (cube(10), mushroom(40)):
            self.assertEqual(lay_out(solid, ON).volume(SUPPORT, ROOF), 0)

    def test_angle_decides(self):
        self.assertGreater(lay_out(mushroom(55), ON, "supports.angle=50").volume(SUPPORT), 0)
        self.assertEqual(lay_out(mushroom(55), ON, "supports.angle=60").volume(SUPPORT), 0)

    def test_a_level_face_is_held_at_every_angle(self):
        # 42 × 42 mm over a post of 2 × 2 in its middle
        solid = box(42, 42, 3, (0, 0, 8)) + box(2, 2, 8, (20, 20, 0))
        for angle in (0, 50, 66, 80, 89):
            laid = lay_out(solid, ON, f"supports.angle={angle}", "supports.spare_bridges=0")
            held = max(float(shapely.area(area)) for area in laid.stands.held)
            self.assertGreater(held, 0.97 * (42 * 42 - 4), angle)
        # and what leans out a little less than the angle is not
        for lean, angle, there in ((78, 80, False), (82, 80, True)):
            held = lay_out(mushroom(lean), ON, f"supports.angle={angle}").stands.at
            self.assertEqual(len(held) > 0, there, (lean, angle))

    def test_slopes_are_reached_and_walls_kept_clear(self):
        for lean in (55, 60, 70):
            made = plan(mushroom(lean), ON)
            rise = 6 * np.tan(np.radians(lean))
            under = np.pi * ((5 + rise) ** 2 - 5**2)
            self.assertGreater(
                sum(stand["contact_mm2"] for stand in made.report["stands"]), 0.5 * under, lean
            )
            laid = lay_out(mushroom(lean), ON)
            # in the gap between a stand and the slope above it there is no support, and the stalk
            # stays clear
            layer = 10
            held = np.flatnonzero(
                np.isin(laid.rows.feature, (SUPPORT, ROOF))
                & (laid.rows.width > 0)
                & (laid.rows.layer == layer)
            )
            strokes = shapely.buffer(laid.lines(held), 0.225)
            self.assertGreaterEqual(
                float(shapely.distance(strokes, laid.outlines.areas[layer]).min()), 0.55
            )

    def test_clearances(self):
        laid = lay_out(SHELF, ON, "supports.gap_top=0.4", "supports.clearance=0.8")
        rows, outlines = laid.rows, laid.outlines
        held = np.isin(rows.feature, (SUPPORT, ROOF)) & (rows.width > 0)
        # the board's underside lies at 8 mm: no support between 7.6 and 8
        self.assertAlmostEqual(float(rows.z[held].max()), 7.6, 5)
        beside = held & (rows.layer == 10)
        strokes = shapely.buffer(laid.lines(np.flatnonzero(beside)), 0.225)
        self.assertGreaterEqual(
            float(shapely.distance(strokes, outlines.areas[10]).min()), 0.8 - 0.05
        )

    def test_density_and_strength(self):
        solid = box(5, 40, 20) + box(45, 40, 2, (0, 0, 18))
        thin, dense = (
            lay_out(solid, ON, f"supports.density={share}", "supports.roof=0").volume(SUPPORT)
            for share in (10, 30)
        )
        self.assertAlmostEqual(dense / thin, 3, delta=0.25)
        light, strong = (
            lay_out(solid, ON, f"supports.strength={word}", "supports.roof=0").volume(SUPPORT)
            for word in ("light", "strong")
        )
        self.assertGreater(strong, 1.05 * light)
        for word, most in (("light", 0.009), ("ordinary", 0.015)):
            laid = lay_out(
                solid, ON, "supports.density=10", "supports.roof=0", f"supports.strength={word}"
            )
            room = float((shapely.area(laid.stands.areas) * laid.outlines.heights).sum())
            # walls take their share, up to where lines would lie too far apart
            self.assertAlmostEqual(laid.volume(SUPPORT) / room, 0.10, delta=most)

    def test_bridges_are_spared_up_to_a_length(self):
        self.assertEqual(lay_out(table(8), ON, "supports.spare_bridges=10").volume(SUPPORT), 0)
        self.assertGreater(lay_out(table(8), ON, "supports.spare_bridges=5").volume(SUPPORT), 0)
        self.assertGreater(lay_out(table(25), ON, "supports.spare_bridges=10").volume(SUPPORT), 0)

    def test_from_the_bed_only(self):
        # a shelf above a wide foot: nothing of the bed lies under it
        solid = box(30, 20, 3) + box(4, 20, 14) + box(30, 20, 2, (0, 0, 12))
        anywhere, bed = (plan(solid, ON, f"supports.origin={word}") for word in ("anywhere", "bed"))
        self.assertTrue(all(stand["on_part"] for stand in anywhere.report["stands"]))
        self.assertGreater(len(anywhere.report["stands"]), 0)
        self.assertEqual(bed.report["stands"], [])
        self.assertIn("open-bottom", [f.code for f in bed.findings])
        self.assertNotIn("open-bottom", [f.code for f in anywhere.findings])

    def test_stands_say_what_they_cost_and_why(self):
        made = plan(SHELF + box(5, 5, 3, (40, 0, 5)), ON)
        stands = made.report["stands"]
        self.assertEqual(len(stands), 2)
        shelf, island = sorted(stands, key=lambda s: -s["contact_mm2"])
        self.assertIn("mid-air", island["why"])
        self.assertIn("50°", shelf["why"])
        self.assertAlmostEqual(shelf["contact_mm2"], 24 * 20, delta=30)
        self.assertAlmostEqual(island["contact_mm2"], 25, delta=5)
        held = made.moves.seconds[np.isin(made.moves.feature, (SUPPORT, ROOF))].sum()
        self.assertAlmostEqual(sum(s["seconds"] for s in stands), float(held), delta=1)
        self.assertNotIn("starts-in-air", [f.code for f in made.findings])

    def test_no_splinters(self):
        from demo.shapes import sample_stl

        made = Pipeline().plan(
            Source.of(sample_stl("anemometer-cup"), "a.stl"), with_settings(PlanSpec(), [ON])
        )
        self.assertGreaterEqual(min(stand["contact_mm2"] for stand in made.report["stands"]), 0.5)

    def test_demanded_and_forbidden_faces(self):
        under = {"x": 18.0, "y": 10.0, "z": 8.0, "spread": 10.0}
        forbidden = plan(SHELF, ON, f"supports.marks={json.dumps([{**under, 'want': False}])}")
        self.assertEqual(forbidden.report["stands"], [])
        # a slope that needs none gets some where it is asked for
        ramp = mushroom(40)
        asked = plan(
            ramp,
            ON,
            "supports.marks="
            + json.dumps([{"x": 7.0, "y": 0.0, "z": 6.4, "spread": 10.0, "want": True}]),
        )
        self.assertGreater(len(asked.report["stands"]), 0)
        brushed = plan(
            ramp,
            ON,
            "supports.marks="
            + json.dumps(
                [{"x": 7.0, "y": 0.0, "z": 6.4, "spread": 60.0, "radius": 4.0, "want": True}]
            ),
        )
        self.assertLess(
            brushed.report["time_s"]["by_feature"].get("support", 0),
            asked.report["time_s"]["by_feature"]["support"],
        )

    def held(self, solid, *marks, pairs=()):
        """mm² that stands hold, and why they are there."""
        made = lay_out(solid, f"supports.marks={json.dumps(marks)}", "supports.roof=0", *pairs)
        report = plan(solid, f"supports.marks={json.dumps(marks)}", *pairs).report
        return float(shapely.area(made.stands.held).sum()), {s["why"] for s in report["stands"]}

    def test_a_dot_on_a_large_facet_marks_its_circle(self):
        # the underside of a table of 60 × 60 mm is two facets; supports are otherwise off
        top = box(60, 60, 3, (0, 0, 12)) + box(4, 4, 12)
        dot = {"x": 35.0, "y": 30.0, "z": 12.0, "radius": 10.0}
        area_, why = self.held(top, dot)
        self.assertAlmostEqual(area_, np.pi * 100, delta=0.02 * np.pi * 100)
        self.assertEqual(why, {"asked for by hand"})
        # the same as a facet mesh of any fineness, and after the part was turned and scaled
        fine = top.refine(6)
        self.assertAlmostEqual(self.held(fine, dot)[0], area_, delta=0.01 * area_)
        turned = ("place.turn_z=30", "place.scale_x=50", "place.scale_y=50", "place.scale_z=50")
        self.assertAlmostEqual(
            self.held(top, {**dot, "radius": 5.0}, pairs=turned)[0],
            np.pi * 25,
            delta=0.03 * np.pi * 25,
        )

    def test_the_painted_area_is_that_of_the_surface(self):
        top = box(60, 60, 3, (0, 0, 12)) + box(4, 4, 12)
        dot = {"x": 35.0, "y": 30.0, "z": 12.0, "radius": 10.0}
        inner = {**dot, "radius": 6.0}
        circle = np.pi * 100

        def area_of(*marks, solid=top):
            spec = with_settings(PlanSpec(), [f"supports.marks={json.dumps(marks)}"])
            return painted_area(PIPELINE.placed(source(solid), spec), spec.supports)

        for solid in (top, top.refine(5)):
            found = area_of(dot, dot, {**inner, "want": False}, solid=solid)
            self.assertAlmostEqual(found["asked_mm2"], 0.64 * circle, delta=0.01 * circle)
            self.assertAlmostEqual(found["forbidden_mm2"], 0.36 * circle, delta=0.01 * circle)
        found = area_of({**dot, "want": False}, {**inner, "erase": True})
        self.assertEqual(found["asked_mm2"], 0)
        self.assertAlmostEqual(found["forbidden_mm2"], 0.64 * circle, delta=0.01 * circle)
        # a face as a whole; what looks up is not held
        self.assertAlmostEqual(area_of({**dot, "radius": 0})["asked_mm2"], 3600 - 16, 2)
        self.assertEqual(area_of({**dot, "z": 15.0, "radius": 0})["asked_mm2"], 0)

    def test_a_stroke_is_a_band_and_what_is_erased_is_gone(self):
        top = box(60, 60, 3, (0, 0, 12)) + box(4, 4, 12)
        stroke = {"x": 15.0, "y": 30.0, "z": 12.0, "radius": 4.0, "along": [[45.0, 30.0, 12.0]]}
        whole = 30 * 8 + np.pi * 16
        self.assertAlmostEqual(self.held(top, stroke)[0], whole, delta=0.02 * whole)
        bent = {**stroke, "along": [[30.0, 30.0, 12.0], [45.0, 30.0, 12.0]]}
        self.assertAlmostEqual(self.held(top, bent)[0], whole, delta=0.02 * whole)
        erased = {"x": 30.0, "y": 30.0, "z": 12.0, "radius": 6.0, "erase": True}
        left = whole - (8 * np.sqrt(36 - 16) + 72 * np.arcsin(4 / 6))
        self.assertAlmostEqual(self.held(top, stroke, erased)[0], left, delta=0.03 * whole)
        self.assertEqual(self.held(top, stroke, {**stroke, "erase": True})[0], 0)

    def test_by_itself_by_hand_and_both(self):
        top = box(60, 60, 3, (0, 0, 12)) + box(4, 4, 12)
        dot = {"x": 35.0, "y": 30.0, "z": 12.0, "radius": 10.0}
        none = {**dot, "want": False}
        whole = 60 * 60 - 16
        circle = np.pi * 100
        for mark, decided, expected in (
            (dot, "both", whole),
            (dot, "itself", whole),
            (dot, "hand", circle),
            (none, "both", whole - circle),
            (none, "itself", whole),
            (none, "hand", 0),
        ):
            found, _ = self.held(top, mark, pairs=(ON, f"supports.decided={decided}"))
            self.assertAlmostEqual(found, expected, delta=0.03 * whole, msg=(mark, decided))

    def test_a_brush_on_a_slope_covers_what_it_touches(self):
        # a slope that leans out by 60°: the circle is narrower when seen from above
        solid = mushroom(60)
        spot = {"x": 9.0, "y": 0.0, "z": 6.31, "radius": 2.0}
        found, why = self.held(solid, spot, pairs=("surface.layer_height=0.1",))
        # less what the clearance to the slope below takes
        seen = np.pi * 4 * np.cos(np.radians(30))
        self.assertLess(found, 1.02 * seen)
        self.assertGreater(found, 0.65 * seen)
        self.assertEqual(why, {"asked for by hand"})

    def test_a_stroke_is_checked(self):
        for along, words in (
            ([[0, 0, 1e9]], "beyond 100,000 mm"),
            ([[0, 0, 0]] * 500, "at most 400 points"),
        ):
            marks = json.dumps([{"x": 0, "y": 0, "z": 0, "radius": 2, "along": along}])
            with self.assertRaisesRegex(InputError, words):
                with_settings(PlanSpec(), [f"supports.marks={marks}"])

    def test_roof_is_solid(self):
        laid = lay_out(SHELF, ON, "supports.roof=0.6", "supports.gap_top=0.2")
        rows = laid.rows
        top = (rows.feature == ROOF) & (rows.width > 0)
        self.assertEqual(sorted(set(np.round(rows.z[top], 2))), [7.4, 7.6, 7.8])
        layer = int(rows.layer[top].max())
        covered = shapely.area(laid.stands.roofs[layer])
        mine = top & (rows.layer == layer)
        volume = float(
            (
                laid.lengths()[mine]
                * area(rows.width[mine].astype(float), rows.height[mine].astype(float))
            ).sum()
        )
        self.assertAlmostEqual(volume / (covered * 0.2), 1, delta=0.06)

    def test_changing_layer_heights_keep_the_clearance(self):
        made = plan(
            SHELF,
            ON,
            'surface.bands=[{"name": "", "from_mm": 3, "to_mm": 7, "height_mm": 0.1}]',
            "surface.kind=best-fit",
            "surface.target_um=150",
        )
        moves, outlines = made.moves, made.outlines
        held = np.isin(moves.feature, (SUPPORT, ROOF)) & (moves.width > 0)
        # layers are cut in their middle
        first = int(np.searchsorted(outlines.tops - outlines.heights / 2, 8))
        under = float(outlines.tops[first - 1])
        gap = under - float(moves.z[held].max())
        self.assertTrue(
            0.2 - 1e-6 <= gap <= 0.2 + float(outlines.heights[first - 3 : first + 1].max()) + 1e-6,
            gap,
        )


class Footing(unittest.TestCase):
    def test_loops_prime_the_volume(self):
        for volume in (5, 40, 120):
            laid = lay_out(cube(20), f"footing.prime_volume={volume}")
            fed = laid.volume(FOOTING)
            ring = fed / laid.foot.loops
            self.assertGreaterEqual(fed, volume)
            self.assertLess(fed - 1.2 * ring, volume)

    def test_priming_layers_and_distance(self):
        laid = lay_out(
            cube(20), "footing.skirt_height=4", "footing.skirt_loops=2", "footing.skirt_distance=6"
        )
        mine = (laid.rows.feature == FOOTING) & (laid.rows.width > 0)
        self.assertEqual(sorted(set(laid.rows.layer[mine])), [0, 1, 2, 3])
        beads = shapely.buffer(laid.lines(np.flatnonzero(mine)), 0.225)
        self.assertAlmostEqual(
            float(shapely.distance(beads, laid.outlines.areas[0]).min()), 6, delta=0.02
        )

    def test_brim_reaches_as_far_as_asked(self):
        tube = m3.Manifold.cylinder(4.0, 15.0, 15.0, 96) - m3.Manifold.cylinder(4.0, 8.0, 8.0, 96)
        for where, outer, inner in (("outside", 5, 0), ("holes", 0, 5), ("both", 5, 5)):
            laid = lay_out(
                tube,
                "footing.brim_reach=5",
                f"footing.brim_where={where}",
                "footing.skirt_loops=0",
                "footing.brim_clearance=0.1",
            )
            mine = np.flatnonzero((laid.rows.feature == FOOTING) & (laid.rows.width > 0))
            far = np.hypot(*laid.ends()[mine].T)
            outside, inside = far[far > 12], far[far < 12]
            self.assertEqual((len(outside) > 0, len(inside) > 0), (outer > 0, inner > 0), where)
            if outer:
                self.assertAlmostEqual(float(outside.max()) + 0.225, 20, delta=0.45)
                self.assertAlmostEqual(float(outside.min()) - 0.225, 15.1, delta=0.05)
            if inner:
                self.assertAlmostEqual(float(inside.min()) - 0.225, 3, delta=0.45)

    def test_a_raft_lifts_the_part(self):
        flat, raised = (
            plan(cube(10)),
            plan(cube(10), "footing.raft_layers=3", "footing.raft_gap=0.2"),
        )
        lift = raised.report["footing"]["lift_mm"]
        laid = raised.moves.feature == FOOTING
        self.assertAlmostEqual(lift, 3 * 0.3 + 0.2, 6)
        self.assertAlmostEqual(float(raised.moves.z.max() - flat.moves.z.max()), lift, 5)
        self.assertAlmostEqual(float(raised.moves.z[laid & (raised.moves.width > 0)].max()), 0.9, 5)
        self.assertGreater(raised.report["time_s"]["total"], flat.report["time_s"]["total"])
