"""One stack of layers for all plans of a bed."""

import unittest

import manifold3d as m3
import numpy as np

from northpace.beds.bed import lay_bed
from northpace.beds.planning import Asked, Planner
from northpace.beds.report import bed_report
from northpace.beds.spec import BedSpec
from northpace.errors import InputError
from northpace.spec import PlanSpec, with_settings
from tests.beds.shapes import SPARSE, at
from tests.core.shapes import PIPELINE, knob, source

SHAPES = {
    "knob": knob(),
    "ball": m3.Manifold.sphere(9, 64).trim_by_plane((0, 0, 1), -7),
    "block": m3.Manifold.cube((12, 12, 9.35)),
}
FIT = ("surface.kind=best-fit", "surface.target_um=90")
OWN = {"knob": FIT, "ball": ("surface.layer_height=0.16",), "block": ("surface.layer_height=0.3",)}


class OneStack(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.planner = Planner(
            PIPELINE,
            {
                name: Asked(name, source(solid), with_settings(PlanSpec(), [*SPARSE, *OWN[name]]))
                for name, solid in SHAPES.items()
            },
        )
        places = (at("knob", -40), at("ball"), at("block", 40), at("ball", 0, 40))
        cls.bed = BedSpec(placings=places)
        cls.own = cls.planner.own(cls.bed)

    def planned(self, **said):
        bed = self.bed.model_copy(update=said)
        return bed, self.planner.planned(bed, self.own)

    def test_it_has_few_passes_ends_at_every_top_and_shows_what_was_shown(self):
        bed, planned = self.planned(heights="one")
        stack = planned.stack
        tops = np.cumsum(stack.heights)
        for key, plan in planned.plans.items():
            np.testing.assert_allclose(plan.tops, tops[: len(plan.tops)], atol=1e-6)
            self.assertAlmostEqual(plan.top, self.own[key].top, places=3)
        self.assertLess(stack.passes, stack.own_passes / 2)
        laid = lay_bed(bed, planned.plans)
        self.assertEqual(len(laid.laid.order.top), stack.passes)
        # what was promised of every part is what its exact plan says
        for key, error in zip(("knob", "ball", "block"), stack.errors, strict=True):
            exact = planned.plans[key].report["surface"]["p95_um"]
            self.assertAlmostEqual(exact, 1000 * error, delta=0.06)
        self.assertLessEqual(stack.reached, stack.target)

    def test_the_report_says_both(self):
        bed, planned = self.planned(heights="one")
        report = bed_report(lay_bed(bed, planned.plans), planned)
        self.assertEqual(
            [(way["way"], way["heights"]) for way in report["ways"]],
            [
                ("together", "one"),
                ("together", "own"),
                ("in-turn", "one"),
                ("one-by-one", "own"),
            ],
        )
        one, own = report["ways"][:2]
        self.assertEqual(
            (one["passes"], own["passes"]),
            (report["stack"]["passes"], report["stack"]["own_passes"]),
        )
        for way in (one, own):
            self.assertAlmostEqual(sum(way["rows"].values()), way["total_s"], places=6)
        # before it is chosen the quick figures say what it would be
        bed, planned = self.planned()
        would_be = bed_report(lay_bed(bed, planned.plans), planned)["stack"]
        self.assertEqual(would_be, report["stack"])
        self.assertIs(planned.plans, self.own)

    def test_a_part_that_shows_more_than_it_was_asked_to_is_named(self):
        # the walls of the others outweigh it, so that the measure over all hardly sees it
        bed, planned = self.planned(heights="one", target_um=250)
        found = bed_report(lay_bed(bed, planned.plans), planned)["findings"]
        said = [f["message"] for f in found if f["code"] == "rougher-together"]
        # the block has walls alone, which show no steps
        self.assertEqual([message.split()[5] for message in said], ["knob", "ball"])
        self.assertIn("90 µm were asked for", said[0])
        bed, planned = self.planned()
        found = bed_report(lay_bed(bed, planned.plans), planned)["findings"]
        self.assertEqual(found, [])

    def test_a_target_of_its_own_is_kept(self):
        times = []
        for target in (40, 80, 160):
            stack = self.planned(heights="one", target_um=target, measure="mean")[1].stack
            self.assertLessEqual(1000 * stack.reached, target + 1e-6)
            times.append(stack.seconds)
        self.assertEqual(times, sorted(times, reverse=True))

    def test_no_stack_for_all_is_refused_with_what_would_help(self):
        spec = with_settings(
            PlanSpec(), [*SPARSE, 'surface.pins=[{"z_mm": 2.0, "height_mm": 0.1}]']
        )
        other = with_settings(
            PlanSpec(), [*SPARSE, 'surface.pins=[{"z_mm": 2.0, "height_mm": 0.3}]']
        )
        asked = {
            "knob": Asked("knob", source(SHAPES["knob"]), spec),
            "ball": Asked("ball", source(SHAPES["ball"]), other),
        }
        planner = Planner(PIPELINE, asked)
        bed = BedSpec(placings=(at("knob", -20), at("ball", 20)), heights="one")
        with self.assertRaisesRegex(InputError, "heights of their own"):
            planner.planned(bed, planner.own(bed))
        # beside heights of their own nothing is said of it
        bed = bed.model_copy(update={"heights": "own"})
        self.assertIsNone(planner.planned(bed, planner.own(bed)).stack)

    def test_plans_that_share_their_layers_have_nothing_to_gain(self):
        spec = with_settings(PlanSpec(), list(SPARSE))
        asked = {
            name: Asked(name, source(m3.Manifold.cube((9, 9, z))), spec)
            for name, z in (("low", 3.2), ("tall", 6.2))
        }
        planner = Planner(PIPELINE, asked)
        bed = BedSpec(placings=(at("low", -20), at("tall", 20)))
        self.assertIsNone(planner.planned(bed, planner.own(bed)).stack)


if __name__ == "__main__":
    unittest.main()
