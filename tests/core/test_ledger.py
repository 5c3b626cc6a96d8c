"""The ledger adds up, caps say what keeps to them, spools reach exactly as far as their grams."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.checks.suited import suits
from northpace.estimate.quick import correction_of
from northpace.material.amounts import parts_per_spool
from northpace.material.spools import reach
from northpace.plan.pipeline import Pipeline, Source
from northpace.spec import Machine, Material, PlanSpec, with_settings
from tests.core.shapes import cube, knob, source, stl

PIPELINE = Pipeline()


class Ledger(unittest.TestCase):
    def setUp(self):
        self.plan = PIPELINE.plan(
            source(knob()),
            with_settings(
                PlanSpec(),
                [
                    "machine.hourly_rate=2",
                    "machine.failed_share=5",
                    "material.failed_share=3",
                    "machine.power=200",
                    "machine.tariff=0.3",
                    'surface.bands=[{"from_mm": 2, "to_mm": 6, "name": "waist", "changes": '
                    '{"body.walls": 2}}]',
                ],
            ),
        )

    def test_every_way_of_telling_adds_up_to_the_whole(self):
        report = self.plan.report
        whole = {
            "seconds": report["time_s"]["total"],
            "grams": report["filament"]["mass_g"],
            "cost": report["filament"]["cost"],
        }
        found = report["ledger"]
        for way in ("features", "bands"):
            for key, value in whole.items():
                self.assertAlmostEqual(
                    sum(entry[key] for entry in found[way]), value, 6, (way, key)
                )
        for key, value in whole.items():
            self.assertAlmostEqual(
                sum(entry[key] for entry in found["heights"]) + found["start"][key], value, 6, key
            )
        for entry in (*found["bands"], *found["heights"]):
            self.assertAlmostEqual(sum(entry["by_feature"].values()), entry["seconds"], 6)
        by_feature = {entry["feature"]: entry["seconds"] for entry in found["features"]}
        self.assertEqual(
            {name: round(value, 6) for name, value in by_feature.items()},
            {name: round(value, 6) for name, value in report["time_s"]["by_feature"].items()},
        )

    def test_a_feature_leads_to_where_it_takes_longest(self):
        moves, report = self.plan.moves, self.plan.report
        for entry in report["ledger"]["features"]:
            if entry["at_mm"] is None:
                continue
            layer = int(np.searchsorted(self.plan.outlines.tops, entry["at_mm"][2] - 1e-6))
            names = np.array(
                (
                    "start",
                    "travel",
                    "retraction",
                    "footing",
                    "outer-wall",
                    "inner-wall",
                    "solid",
                    "infill",
                    "gap",
                    "top",
                    "bridge",
                    "support",
                    "support-roof",
                )
            )
            mine = names[moves.feature] == entry["feature"]
            per_layer = np.bincount(
                moves.layer[mine & (moves.layer >= 0)],
                moves.seconds[mine & (moves.layer >= 0)],
                len(self.plan.outlines.tops),
            )
            self.assertAlmostEqual(per_layer[layer], per_layer.max(), 6, entry["feature"])


class Lighter(unittest.TestCase):
    def test_what_is_proposed_makes_the_part_light_enough(self):
        data = stl(cube(24))
        spec = with_settings(PlanSpec(), ["body.infill_density=20"])
        plan = PIPELINE.plan(Source.of(data, "a.stl"), spec)
        mass = plan.report["filament"]["mass_g"]
        correction = correction_of(
            plan.report, PIPELINE.profile(Source.of(data, "a.stl"), spec), spec
        )
        for wanted in (0.02 * mass, 0.1 * mass):
            ways = PIPELINE.lighter(
                Source.of(data, "a.stl"), spec, plan.outlines.heights, wanted, correction
            )
            self.assertTrue(ways)
            for way in ways:
                pairs = [f"{name}={value}" for name, value in way.change.items()]
                after = PIPELINE.plan(Source.of(data, "a.stl"), with_settings(spec, pairs)).report[
                    "filament"
                ]["mass_g"]
                self.assertLess(after, mass - 0.85 * wanted, way.words)
                self.assertAlmostEqual(after - mass, way.grams, delta=0.03 * mass, msg=way.words)
        self.assertEqual(
            PIPELINE.lighter(
                Source.of(data, "a.stl"), spec, plan.outlines.heights, 0.0, correction
            ),
            [],
        )
        self.assertEqual(
            PIPELINE.lighter(
                Source.of(data, "a.stl"), spec, plan.outlines.heights, 10 * mass, correction
            ),
            [],
        )

    def test_one_more_per_spool(self):
        # computations §10: as many as fit, and how much lighter each must get for one more
        share = parts_per_spool(1000, 33.0)
        self.assertEqual((share.parts, round(share.left_over_g, 6)), (30, 10))
        self.assertAlmostEqual(share.lighter_for_one_more_g, 33 - 1000 / 31)


class Spools(unittest.TestCase):
    def test_where_a_spool_ends(self):
        mass, seconds = np.array([1.0, 1.0, 2.0]), np.array([10.0, 20.0, 40.0])
        found = reach(mass, seconds, 100.0, [9.0], 3, 60.0)
        self.assertEqual(found.copies, 2)
        self.assertAlmostEqual(found.left_over_g, 1.0)
        self.assertAlmostEqual(found.missing_g, 3.0)
        self.assertAlmostEqual(found.seconds, 3 * 170 + 2 * 60)
        (end,) = found.runs_out
        # after two copies one gram is left: it ends with the first layer of the third
        self.assertEqual((end.spool, end.copy, end.layer), (0, 3, 2))
        self.assertAlmostEqual(end.seconds, 2 * (170 + 60) + 100 + 10)

    def test_inside_a_layer_by_its_share(self):
        (end,) = reach(np.array([4.0]), np.array([40.0]), 0.0, [1.0], 1).runs_out
        self.assertAlmostEqual(end.seconds, 10.0)

    @settings(max_examples=60)
    @given(
        mass=st.lists(st.floats(0.01, 5), min_size=1, max_size=30),
        spools=st.lists(st.floats(0, 60), min_size=1, max_size=4),
        copies=st.integers(1, 12),
    )
    def test_grams_are_neither_lost_nor_made(self, mass, spools, copies):
        layers = np.array(mass)
        found = reach(layers, np.ones(len(mass)), 5.0, spools, copies)
        each, total = layers.sum(), sum(spools)
        self.assertAlmostEqual(found.missing_g, max(copies * each - total, 0), 6)
        self.assertLessEqual(found.copies * each, total + 1e-6)
        for end in found.runs_out:
            laid = (end.copy - 1) * each + layers[: end.layer].sum()
            self.assertGreaterEqual(laid, sum(spools[: end.spool + 1]) - 1e-6)
            self.assertLess(laid - layers[end.layer - 1], sum(spools[: end.spool + 1]) + 1e-6)
            self.assertLessEqual(end.seconds, found.seconds + 1e-6)


class Suits(unittest.TestCase):
    def test_said_before_anything_is_planned(self):
        machine, fine = Machine(hottest_nozzle=250, hottest_bed=90), Material()
        self.assertEqual(suits(machine, fine), [])
        hot = fine.model_copy(
            update={"name": "ASA", "nozzle_temp": 260.0, "bed_temp": 100.0, "abrasive": True}
        )
        self.assertEqual(
            [(entry.code, entry.severity) for entry in suits(machine, hot)],
            [("too-hot", "stop"), ("bed-too-cool", "stop"), ("abrasive", "look")],
        )
        hard = machine.model_copy(
            update={"nozzle_hard": True, "hottest_nozzle": 300.0, "hottest_bed": 110.0}
        )
        self.assertEqual(suits(hard, hot), [])
