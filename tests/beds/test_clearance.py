"""In turn nothing finished is hit: checked against a map of heights that knows nothing of how it is
decided, on beds drawn at random.
"""

import unittest

import numpy as np
import shapely

from northpace.beds.arrange import arranged
from northpace.beds.bed import lay_bed
from northpace.beds.findings import bed_findings
from northpace.beds.fit import filled
from northpace.beds.head import head
from northpace.beds.reach import hit, may_hit, swept
from northpace.beds.spec import BedSpec
from northpace.spec import HeadPart, Machine
from tests.beds.brute import hits
from tests.beds.shapes import SPARSE, at, bed_of, plan

#: A fan duct that reaches forward and hangs low, a block, and a bar across x.
PAIRS = (
    *SPARSE,
    'machine.head=[{"name":"Duct","left":6,"right":6,"front":22,"back":4,"height":2},'
    '{"name":"Block","left":14,"right":9,"front":12,"back":16,"height":7}]',
    "machine.gantry_height=30",
    "machine.gantry_front=10",
    "machine.gantry_back=16",
)
OUTLINES = [(6, 6, 22, 4, 2), (14, 9, 12, 16, 7), (500, 500, 10, 16, 30), (0.3, 0.3, 0.3, 0.3, 0)]
KINDS = ("pin", "post", "mushroom", "bar")


class Random(unittest.TestCase):
    def test_300_beds_against_a_map_of_heights(self):
        plans = {name: plan(name, *PAIRS) for name in KINDS}
        allowed = refused = 0
        for seed in range(300):
            random = np.random.default_rng(seed)
            count = int(random.integers(2, 5))
            spots = random.permutation(9)[:count]
            places = [
                at(
                    KINDS[random.integers(len(KINDS))],
                    *np.round(np.array([k % 3 - 1, k // 3 - 1]) * 36 + random.uniform(-4, 4, 2), 2),
                    float(random.integers(24) * 15),
                )
                for k in spots
            ]
            spec = BedSpec(placings=places, way="in-turn", loops="own")
            bed = lay_bed(spec, plans)
            with self.subTest(seed=seed):
                if bed.clashes:
                    refused += 1
                    clash = bed.clashes[0]
                    self.refused(spec, plans, clash, len(bed.clashes))
                else:
                    allowed += 1
                    self.assertEqual(hits(bed.laid, -1.0, OUTLINES), [])
        self.assertGreater(allowed, 60)
        self.assertGreater(refused, 40)

    def refused(self, spec, plans, clash, count):
        """Both ways round the pair hits, and far enough apart one of them does not."""
        pair = [spec.placings[clash.one], spec.placings[clash.two]]
        if count > 1 or len(spec.placings) == 2:
            for first in (1, 2):
                asked = BedSpec(placings=pair, way="in-turn", loops="own", order=(first, 3 - first))
                laid = lay_bed(asked, plans)
                self.assertEqual(len(laid.clashes), 1)
                self.assertTrue(hits(laid.laid, 1.0, OUTLINES))
        by, direction = clash.parting
        way = {"to the right": (1, 0), "to the left": (-1, 0), "to the back": (0, 1)}.get(
            direction, (0, -1)
        )
        there = pair[1].at + by * np.array(way)
        apart = [pair[0], pair[1].model_copy(update={"x": there[0], "y": there[1]})]
        bed = lay_bed(BedSpec(placings=apart, way="in-turn", loops="own"), plans)
        self.assertEqual(bed.clashes, ())
        self.assertEqual(hits(bed.laid, -1.0, OUTLINES), [])


class Gantry(unittest.TestCase):
    """Two posts of 45 mm, above the bar at 30."""

    def test_in_different_rows_they_are_laid_in_turn(self):
        bed = bed_of(at("post", -40, -30), at("post", 40, 30), pairs=PAIRS, way="in-turn")
        self.assertEqual(bed.clashes, ())
        self.assertEqual(hits(bed.laid, -1.0, OUTLINES), [])

    def test_in_one_row_they_are_refused_with_a_distance_that_is_enough(self):
        places = [at("post", -40, 0), at("post", 40, 2)]
        bed = bed_of(*places, pairs=PAIRS, way="in-turn")
        (finding,) = [f for f in bed_findings(bed) if f.code == "head-hits"]
        self.assertEqual(finding.severity, "stop")
        self.assertIn("1 (post copy 1) nor 2 (post copy 2)", finding.message)
        self.assertIn("gantry", finding.message)
        by, direction = bed.clashes[0].parting
        self.assertIn(f"Move 2 {by:.1f} mm {direction}", finding.help)
        sign = 1 if direction == "to the back" else -1
        # 8 mm of post, 10 mm in front of the tip: the one in front is laid later
        self.assertLess(by, 8 + 10 + 1)
        moved = places[1].model_copy(update={"y": 2 + sign * by})
        self.assertEqual(bed_of(places[0], moved, pairs=PAIRS, way="in-turn").clashes, ())
        less = places[1].model_copy(update={"y": 2 + sign * (by - 0.3)})
        self.assertTrue(bed_of(places[0], less, pairs=PAIRS, way="in-turn").clashes)

    def test_an_order_that_hits_says_who_has_to_come_first(self):
        places = [at("pin", 0, 0), at("post", 0, 25)]
        good = bed_of(*places, pairs=PAIRS, way="in-turn")
        self.assertEqual(good.clashes, ())
        first = good.groups[0][0]
        wrong = bed_of(*places, pairs=PAIRS, way="in-turn", order=(2 - first, 1 + first))
        (finding,) = bed_findings(wrong)
        self.assertIn(f"Lay {first + 1} before {2 - first}", finding.help)

    def last_way(self, *places, **said):
        """Of the way to the placing that is laid last: heights, and length."""
        bed = bed_of(*places, way="in-turn", **said)
        moves = bed.laid.moves
        visit = np.maximum(bed.laid.merged.visit, 0)
        way = (bed.laid.source < 0) & (bed.laid.order.group[visit] == len(places) - 1)
        return bed, moves.z[way], float(moves.lengths()[way].sum())

    def test_the_way_over_what_is_finished_is_above_it(self):
        # the bar leaves no way around: it is as wide as the bed
        places = [at("pin", -60, 60), at("post", 0, 60), at("pin", 60, 60)]
        _, z, _ = self.last_way(*places, pairs=PAIRS, order=(2, 1, 3))
        self.assertGreaterEqual(z.max(), 46.0)

    def test_the_way_goes_around_where_that_is_quicker(self):
        places = [at("pin", -40, 0), at("post", 0, 0), at("pin", 40, 0)]
        free = (*PAIRS, "machine.gantry=none")
        bed, z, length = self.last_way(*places, pairs=free, order=(2, 1, 3))
        self.assertEqual(bed.clashes, ())
        self.assertEqual(hits(bed.laid, -0.9, [*OUTLINES[:2], OUTLINES[3]]), [])
        self.assertAlmostEqual(z.max(), 6.0)
        # one corner of the block in the way, and not far from it
        self.assertLess(length, 110)
        quick = (*free, "machine.max_speed_z=500", "pace.travel_speed=20")
        _, z, _ = self.last_way(*places, pairs=quick, order=(2, 1, 3))
        self.assertGreaterEqual(z.max(), 40.0)


class Layers(unittest.TestCase):
    def test_where_slabs_would_refuse_every_layer_is_looked_at(self):
        # the brim of the hat ends at 6.8 mm, within the slab up to 8; the block counts from 7
        low, hat = plan("pin", *PAIRS), plan("hat", *PAIRS)
        away = np.array([0.0, 22.0])
        pin, brim = low.turned(0), hat.turned(0)
        self.assertEqual(may_hit(pin, brim, away), "Block")
        self.assertEqual(hit(pin, brim, away), "")
        places = [at("hat", 0, 22), at("pin", 0, 0)]
        bed = bed_of(*places, pairs=PAIRS, way="in-turn", order=(1, 2))
        self.assertEqual(bed.clashes, ())
        self.assertEqual(hits(bed.laid, -0.9, OUTLINES), [])
        # nearer, the block meets the thin end of the hat
        self.assertEqual(hit(pin, brim, np.array([0.0, 20.0])), "Block")


class Groups(unittest.TestCase):
    def test_arranged_groups_can_be_laid_one_after_the_other(self):
        places = [at(name, 0, 0, group=g) for g in (1, 2) for name in ("post", "pin", "post")]
        plans = {name: plan(name, *PAIRS) for name in ("post", "pin")}
        spec = BedSpec(placings=places, way="groups", loops="own")
        found, beside = arranged(spec, plans)
        self.assertEqual(beside, [])
        bed = lay_bed(found, plans)
        self.assertEqual(bed.clashes, ())
        self.assertEqual(bed_findings(bed), [])
        self.assertEqual(hits(bed.laid, -0.9, OUTLINES), [])

    def test_a_circle_of_groups_names_a_pair_and_its_distance(self):
        # each group has a low part beside a tall one of the next, so that each has to come first
        places = [
            at("pin", 0, 0, group=1),
            at("post", 60, 20, group=1),
            at("pin", 60, 0, group=2),
            at("post", 0, 20, group=2),
        ]
        bed = bed_of(*places, pairs=PAIRS, way="groups")
        self.assertTrue(bed.clashes)
        stops = [f for f in bed_findings(bed) if f.code == "head-hits"]
        self.assertTrue(stops[0].help.startswith("Move"))

    def test_what_groups_are_filled_with_is_clear_of_the_others(self):
        plans = {name: plan(name, *PAIRS) for name in ("post", "pin")}
        there = (at("post", -60, 60, group=2), at("post", 60, -60, group=3))
        spec = BedSpec(placings=there, way="groups", loops="own")
        full = filled(spec, "pin", plans, 30)
        self.assertEqual(len(full.placings), 30)
        bed = lay_bed(full, plans)
        self.assertEqual(bed.clashes, ())
        self.assertEqual(hits(bed.laid, -0.9, OUTLINES), [])


class Sweep(unittest.TestCase):
    def test_an_outline_that_leaves_the_tip_out(self):
        corners = np.array([[5, -1], [7, -1], [7, 1], [5, 1]], float)
        found = swept(shapely.box(0, 0, 10, 10), corners)
        self.assertEqual(found.bounds, (5, -1, 17, 11))
        self.assertAlmostEqual(found.area, 144)

    def test_a_ring_leaves_its_hole_to_a_narrow_outline(self):
        ring = shapely.Point(0, 0).buffer(20).difference(shapely.Point(0, 0).buffer(15))
        corners = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]], float)
        self.assertFalse(swept(ring, corners).contains(shapely.Point(0, 0)))

    def test_machines_without_outlines_have_one_of_four_distances(self):
        names = [part.name for part in head(Machine())]
        self.assertEqual(names, ["Nozzle", "Head", "Gantry"])
        own = Machine(head=(HeadPart(name="Duct"),), gantry="none")
        self.assertEqual([part.name for part in head(own)], ["Nozzle", "Duct"])


if __name__ == "__main__":
    unittest.main()
