"""Laying out a bed: what has to come out for shapes whose best is known, and that nothing it gives
is too near, beyond the edge or on a keep-out place.
"""

import json
import unittest

import numpy as np
import shapely

from northpace.beds.arrange import arranged
from northpace.beds.bed import lay_bed
from northpace.beds.findings import bed_findings
from northpace.beds.fit import filled, shared_out
from northpace.beds.spec import BedSpec
from northpace.errors import InputError
from tests.beds.shapes import SPARSE, at, plan


def filled_with(name, *pairs, **said):
    plans = {name: plan(name, *SPARSE, *pairs)}
    return lay_bed(filled(BedSpec(loops="own", **said), name, plans), plans)


def through(bed, area, below):
    """mm of all moves below a height (mm) that lead through an area."""
    moves = bed.laid.moves
    ends = np.stack([moves.x, moves.y], axis=1) - bed.laid.plans[0].spec.machine.origin
    lines = shapely.linestrings(np.stack([ends[:-1], ends[1:]], axis=1))
    low = np.minimum(moves.z[:-1], moves.z[1:]) < below
    return float(shapely.length(shapely.intersection(lines[low], area)).sum())


class Known(unittest.TestCase):
    def counts(self, bed, least):
        self.assertGreaterEqual(bed.laid.own, least)
        self.assertEqual(bed_findings(bed), [])

    def test_discs_lie_staggered(self):
        self.counts(filled_with("disc"), 42)

    def test_squares(self):
        self.counts(filled_with("square", turn_step=90), 25)

    def test_two_angles_nest_in_one_rectangle(self):
        plans = {"angle": plan("angle", *SPARSE)}
        spec = BedSpec(placings=(at("angle"), at("angle")), turn_step=90, loops="own")
        found, beside = arranged(spec, plans)
        self.assertEqual(beside, [])
        box = shapely.union_all(lay_bed(found, plans).stands).bounds
        # 40 long, one arm of 15, the clearance, the other arm of 15 and 25 between them
        sides = sorted((box[2] - box[0], box[3] - box[1]))
        self.assertAlmostEqual(sides[0], 40.0, delta=0.1)
        self.assertLess(sides[1], 40 + 4 + 15 + 0.1)

    def test_in_turn_squares_of_one_head(self):
        # 40 mm and 30 mm of head all around: three rows of three on 220 mm
        self.counts(filled_with("square", turn_step=90, way="in-turn"), 9)

    def test_a_keep_out_place_stays_free(self):
        place = 'machine.keep_out=[{"name":"Worn spot","size_x":60,"size_y":60}]'
        bed = filled_with("disc", place)
        self.counts(bed, 28)
        worn = shapely.box(-30, -30, 30, 30)
        self.assertFalse(any(shapely.intersects(worn, stand) for stand in bed.stands))

    def test_nothing_moves_through_a_clip(self):
        # in the middle, where it lies among the pieces, and at their border, where loops would
        # run; each with a loop around all of them, for which arranging leaves room
        for x, y in ((0, 0), (-42, 0), (-75, -60), (0, 62)):
            place = json.dumps([{"name": "Clip", "size_x": 60, "size_y": 60, "x": x, "y": y}])
            pairs = (*SPARSE, f"machine.keep_out={place}", "footing.skirt_loops=2")
            plans = {"bar": plan("bar", *pairs)}
            for way in ("together", "in-turn"):
                spec = BedSpec(placings=(at("bar"),) * 8, loops="shared", way=way)
                found, beside = arranged(spec, plans)
                self.assertEqual(beside, [])
                bed = lay_bed(found, plans)
                self.assertTrue(bed.primed, (x, y, way))
                self.assertEqual(bed_findings(bed), [], (x, y, way))
                clip = shapely.box(x - 29.9, y - 29.9, x + 29.9, y + 29.9)
                self.assertEqual(through(bed, clip, 4.9), 0.0, (x, y, way))

    def test_loops_go_around_a_clip_at_their_border(self):
        place = json.dumps([{"name": "Clip", "size_x": 20, "size_y": 20, "x": 0, "y": -30}])
        plans = {
            "ring": plan("ring", *SPARSE, f"machine.keep_out={place}", "footing.skirt_loops=2")
        }
        placings = tuple(at("ring", x, 0) for x in (-50, 50))
        bed = lay_bed(BedSpec(placings=placings, loops="shared"), plans)
        self.assertTrue(bed.primed)
        low = lay_bed(
            BedSpec(placings=tuple(at("ring", x, -14) for x in (-50, 50)), loops="shared"), plans
        )
        self.assertTrue(low.primed)
        for each in (bed, low):
            self.assertEqual(through(each, shapely.box(-9.9, -39.9, 9.9, -20.1), 4.9), 0.0)
            self.assertEqual(bed_findings(each), [])

    def test_the_first_way_is_over_clips(self):
        # between the corner where the head begins and the piece
        place = json.dumps([{"size_x": 90, "size_y": 90, "x": -55, "y": -55}])
        plans = {"ring": plan("ring", *SPARSE, f"machine.keep_out={place}")}
        bed = lay_bed(BedSpec(placings=(at("ring", 60, 60),), loops="own"), plans)
        self.assertEqual(through(bed, shapely.box(-99, -99, -11, -11), 4.9), 0.0)
        self.assertEqual(bed_findings(bed), [])

    def test_a_plan_that_leads_through_a_clip_stops(self):
        # ways between the two posts of one plan lead straight across it, which is no harm if flat
        for height, codes in ((0, []), (5, ["keep-out"])):
            place = json.dumps([{"size_x": 6, "size_y": 6, "height": height}])
            plans = {"posts": plan("posts", *SPARSE, f"machine.keep_out={place}")}
            bed = lay_bed(BedSpec(placings=(at("posts"),), loops="own"), plans)
            self.assertGreater(through(bed, shapely.box(-2.9, -2.9, 2.9, 2.9), 4.9), 20.0)
            self.assertEqual([finding.code for finding in bed_findings(bed)], codes)

    def test_round_and_polygon_plates(self):
        self.counts(filled_with("disc", "machine.bed=round"), 26)
        corners = "machine.bed_points=[[-110,-110],[110,-110],[110,0],[0,0],[0,110],[-110,110]]"
        self.counts(filled_with("disc", "machine.bed=polygon", corners), 24)


class Arranging(unittest.TestCase):
    def test_what_is_locked_stays_and_what_does_not_fit_lies_beside(self):
        plans = {"square": plan("square", *SPARSE)}
        places = [at("square", 3, 5, locked=True), *(at("square") for _ in range(30))]
        found, beside = arranged(BedSpec(placings=places, loops="own", turn_step=90), plans)
        self.assertEqual((found.placings[0].x, found.placings[0].y), (3, 5))
        self.assertGreaterEqual(len(beside), 6)
        for number in beside:
            self.assertGreater(found.placings[number - 1].x, 110)
        bed = lay_bed(found, plans)
        codes = {finding.code for finding in bed_findings(bed)}
        self.assertEqual(codes, {"beyond-the-bed"})

    def test_one_that_is_locked_lies_as_it_is_turned(self):
        plans = {"bar": plan("bar", *SPARSE)}
        places = [at("bar", 0, 0, 37, locked=True), *(at("bar") for _ in range(20))]
        found, beside = arranged(BedSpec(placings=places, loops="own", turn_step=90), plans)
        self.assertEqual((beside, found.placings[0].turn), ([], 37.0))
        self.assertEqual(bed_findings(lay_bed(found, plans)), [])

    def test_what_is_not_there_is_said(self):
        plans = {"bar": plan("bar", *SPARSE)}
        for spec in (BedSpec(), BedSpec(placings=[at("pin")])):
            with self.assertRaises(InputError):
                arranged(spec, plans)

    def test_around_the_point_that_was_chosen(self):
        plans = {"disc": plan("disc", *SPARSE)}
        spec = BedSpec(placings=[at("disc")] * 4, centre_x=60, centre_y=-60, loops="own")
        found, _ = arranged(spec, plans)
        for placing in found.placings:
            self.assertLess(abs(placing.x - 60) + abs(placing.y + 60), 60)

    def test_no_turns_where_lines_must_run_one_way(self):
        plans = {"bar": plan("bar", *SPARSE)}
        found, _ = arranged(
            BedSpec(placings=[at("bar", turn=30)] * 5, turn_step=0, loops="own"), plans
        )
        self.assertEqual({placing.turn for placing in found.placings}, {30.0})

    def test_in_turn_what_is_arranged_can_be_laid(self):
        plans = {name: plan(name, *SPARSE) for name in ("post", "pin", "bar", "ring")}
        places = [at(name) for name in plans for _ in range(2)]
        spec = BedSpec(placings=places, way="in-turn", loops="own", clearance=2)
        found, beside = arranged(spec, plans)
        self.assertLessEqual(len(beside), 2)
        kept = [p for k, p in enumerate(found.placings, 1) if k not in beside]
        bed = lay_bed(found.model_copy(update={"placings": tuple(kept)}), plans)
        self.assertEqual([f for f in bed_findings(bed) if f.severity == "stop"], [])


class Copies(unittest.TestCase):
    def test_over_several_beds(self):
        plans = {"square": plan("square", *SPARSE)}
        spec = BedSpec(loops="own", turn_step=90)
        for count, evenly, found in (
            (60, False, [(25, 2), (10, 1)]),
            (60, True, [(20, 3)]),
            (62, True, [(21, 2), (20, 1)]),
            (7, False, [(7, 1)]),
        ):
            beds = shared_out(spec, "square", count, plans, evenly)
            self.assertEqual([(len(bed.placings), bed.times) for bed in beds], found)
        with self.assertRaisesRegex(InputError, "at most 12500 copies"):
            shared_out(spec, "square", 20_000, plans, True)

    def test_one_that_does_not_fit_is_said(self):
        plans = {"square": plan("square", *SPARSE, "machine.size_x=30")}
        with self.assertRaisesRegex(InputError, "not one copy of 'square' fits"):
            shared_out(BedSpec(loops="own"), "square", 2, plans, False)


if __name__ == "__main__":
    unittest.main()
