"""A bed laid together, in turn and in groups: its moves are those of its plans, in an order the
rules ask for, and its file says the same.
"""

import unittest

import numpy as np

from northpace.beds.bed import lay_bed
from northpace.beds.bedplan import cosine_sine
from northpace.beds.planning import Planned
from northpace.beds.report import bed_report
from northpace.beds.spec import BedSpec
from northpace.beds.write import write_bed
from northpace.gcode.read import read_gcode
from northpace.moves import RETRACTION, TRAVEL
from tests.beds.shapes import SPARSE, at, bed_of, plan

FINE = (*SPARSE, "surface.kind=adaptive", "surface.target_um=40", "surface.least_height=0.1")


class Moves(unittest.TestCase):
    def laid(self, way):
        places = [at("ring", -40, 0), at("knob", 10, 20, 30), at("ring", 40, -30, 90)]
        return bed_of(*places, way=way, clearance=1).laid

    def test_a_placing_has_the_moves_of_its_plan_at_its_place(self):
        for way in ("together", "in-turn"):
            laid = self.laid(way)
            for k, placing in enumerate(laid.placings[: laid.own]):
                rows, course = laid.plans[k].paced.rows, laid.plans[k].paced.course
                mine = laid.placing == k
                source = laid.source[mine]
                with self.subTest(way=way, placing=k):
                    # in order, and nothing that lays is left out
                    np.testing.assert_array_equal(
                        source[rows.width[source] > 0], np.flatnonzero(rows.width > 0)
                    )
                    self.assertTrue((np.diff(source) > 0).all())
                    cosine, sine = cosine_sine(placing.turn)
                    away = np.stack([rows.x, rows.y])[:, source] - laid.plans[k].middle[:, None]
                    there = np.array([[cosine, -sine], [sine, cosine]]) @ away
                    there += (placing.at + laid.plans[k].spec.machine.origin)[:, None]
                    found = np.stack([laid.moves.x[mine], laid.moves.y[mine]])
                    np.testing.assert_allclose(found, there, atol=1e-6, rtol=0)
                    np.testing.assert_array_equal(laid.moves.z[mine], rows.z[source])
                    np.testing.assert_array_equal(laid.moves.filament[mine], course.e[source])

    def test_nothing_lies_above_the_nozzle_when_it_comes_down(self):
        laid = self.laid("together")
        drawn = laid.moves.width > 0
        height = np.maximum.accumulate(np.where(drawn, laid.moves.z, 0.0))
        self.assertTrue((laid.moves.z[drawn] >= height[drawn] - 1e-9).all())
        self.assertTrue((np.diff(laid.order.top) > 0).all())
        # a pass visits each placing once
        visits = np.stack([laid.order.number, laid.order.placing])
        self.assertEqual(len(np.unique(visits, axis=1).T), len(laid.order.number))

    def test_what_is_laid_is_what_the_plans_lay(self):
        for way in ("together", "in-turn"):
            laid = self.laid(way)
            drawn = laid.moves.width > 0
            alone = sum(float(p.paced.course.e[p.paced.rows.width > 0].sum()) for p in laid.plans)
            self.assertAlmostEqual(
                float(laid.moves.filament[drawn].sum()), alone, delta=1e-6 * alone
            )
            # all that is pulled back between is given back
            between = (laid.source < 0) & (laid.moves.feature == RETRACTION)
            self.assertAlmostEqual(float(laid.moves.filament[between].sum()), 0.0, places=6)

    def test_one_placing_takes_what_its_plan_takes(self):
        one = bed_of(at("knob"))
        alone = plan("knob", *SPARSE).report["time_s"]["total"]
        self.assertAlmostEqual(one.laid.seconds, alone, places=6)

    def test_every_part_keeps_its_own_heights(self):
        fine, plain = plan("knob", *FINE), plan("ring", *SPARSE)
        spec = BedSpec(placings=(at("ring", -30), at("knob", 30)), loops="own")
        bed = lay_bed(spec, {"ring": plain, "knob": fine})
        planned = Planned({"ring": plain, "knob": fine})
        errors = [p["p95_um"] for p in bed_report(bed, planned)["placings"]]
        self.assertEqual(errors, [each.report["surface"]["p95_um"] for each in (plain, fine)])
        self.assertGreater(len(bed.laid.order.top), len(fine.tops))
        tops = np.round(np.union1d(fine.tops, plain.tops), 4)
        np.testing.assert_allclose(bed.laid.order.top, np.unique(tops))


class Cooling(unittest.TestCase):
    PAIRS = (*SPARSE, "pace.least_layer_time=10", "pace.floor_speed=1")

    def windows(self, laid, k):
        """Seconds from each visit of a placing to its next."""
        begins = np.cumsum(laid.moves.seconds)[laid.merged.starts[:-1] - 1]
        return np.diff(begins[laid.order.placing == k])

    def test_placings_cool_while_others_are_laid(self):
        alone = bed_of(at("pin"), pairs=self.PAIRS).laid
        four = bed_of(*(at("pin", 12 * k) for k in range(4)), pairs=self.PAIRS).laid
        self.assertTrue((self.windows(four, 0) > 9.9).all())
        slowing = [float((laid.moves.seconds - laid.quick).sum()) for laid in (alone, four)]
        self.assertGreater(slowing[0], 60)
        # what one alone waits for is nearly all that four wait for
        self.assertLess(slowing[1], 0.8 * slowing[0])
        self.assertLess(four.seconds, 1.5 * alone.seconds)

    def test_enough_placings_need_no_slowing(self):
        many = bed_of(
            *(at("pin", 12 * (k % 6), 12 * (k // 6)) for k in range(24)), pairs=self.PAIRS
        ).laid
        self.assertTrue((self.windows(many, 5) > 10).all())
        last = many.order.number[np.maximum(many.merged.visit, 0)] == many.order.number.max()
        slowed = np.abs(many.moves.seconds - many.quick) > 1e-6
        self.assertFalse((slowed & ~last).any())


class File(unittest.TestCase):
    def test_it_is_read_back_to_the_same_placings_and_moves(self):
        places = [at("ring", -40, 0), at("knob", 10, 20, 30), at("ring", 40, -30, 90)]
        for way, pauses in (("together", "none"), ("in-turn", "each")):
            laid = bed_of(*places, way=way, pauses=pauses, pause_seconds=90).laid
            found = read_gcode(write_bed(laid, {}))
            moves = laid.moves
            with self.subTest(way=way):
                for name in ("x", "y", "z", "filament", "layer", "feature"):
                    np.testing.assert_array_equal(getattr(found, name), getattr(moves, name)[1:])
                np.testing.assert_array_equal(found.placing, laid.placing[1:])
                np.testing.assert_allclose(found.seconds, moves.seconds[1:], atol=1e-9)
                self.assertAlmostEqual(found.summary()["time_s"]["total"], laid.seconds, places=6)

    def test_labels_say_what_may_be_left_out(self):
        pairs = (*SPARSE, "machine.object_labels=M486")
        laid = bed_of(at("pin"), at("pin", 20), pairs=pairs, way="in-turn").laid
        text = write_bed(laid, {}).decode()
        words = [line for line in text.splitlines() if line.startswith(("M486", ";placing"))]
        self.assertEqual(
            words,
            [
                ";placing 1 pin copy 1",
                "M486 S0",
                "M486 S-1",
                ";placing 2 pin copy 2",
                "M486 S1",
            ],
        )

    def test_loops_run_around_everything_once(self):
        plans = {name: plan(name, "footing.skirt_loops=2", *SPARSE) for name in ("pin", "ring")}
        spec = BedSpec(placings=(at("pin", -30), at("ring", 30)))
        bed = lay_bed(spec, plans)
        self.assertTrue(bed.primed)
        own = (bed.laid.placing < 0) & (bed.laid.moves.width > 0)
        self.assertLess(bed.laid.moves.x[own].min(), 110 - 30 - 3 - 4)
        self.assertGreater(bed.laid.moves.x[own].max(), 110 + 30 + 15 + 4)
        self.assertEqual(set(bed.laid.moves.layer[own]), {0})
        self.assertEqual(set(bed.laid.merged.feature[own]), {3})


class Breakdown(unittest.TestCase):
    def test_nine_rings_three_ways(self):
        places = [at("ring", 61 * (k % 3) - 61, 61 * (k // 3) - 61) for k in range(9)]
        plans = {"ring": plan("ring", *SPARSE)}
        bed = bed_of(*places)
        report = bed_report(bed, Planned(plans))
        ways = {way["way"]: way for way in report["ways"]}
        self.assertEqual(list(ways), ["together", "in-turn", "one-by-one"])
        for way in ways.values():
            self.assertAlmostEqual(sum(way["rows"].values()), way["total_s"], places=6)
            self.assertEqual(way["against"], "")
        alone = plans["ring"].report["time_s"]["total"]
        self.assertAlmostEqual(ways["one-by-one"]["total_s"], 9 * alone, places=5)
        # eight warm-ups are what one by one costs more than in turn, but for the ways between
        start = ways["in-turn"]["rows"]["start"]
        saved = ways["one-by-one"]["total_s"] - ways["in-turn"]["total_s"]
        self.assertAlmostEqual(saved, 8 * start, delta=60)
        self.assertAlmostEqual(sum(p["grams"] for p in report["placings"]), report["mass_g"])
        travel = bed.laid.moves.feature == TRAVEL
        self.assertAlmostEqual(
            ways["together"]["travel_between_mm"],
            float(bed.laid.moves.lengths()[travel & (bed.laid.source < 0)].sum()),
        )


if __name__ == "__main__":
    unittest.main()
