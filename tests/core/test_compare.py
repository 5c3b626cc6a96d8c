"""Plans side by side: a plan against itself shows nothing, differences add up to the total."""

import unittest

from northpace.plan.compare import compare, lanes_of
from northpace.plan.pipeline import Pipeline
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import knob, source

PIPELINE = Pipeline()


class Compare(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        band = (
            'surface.bands=[{"from_mm": 2, "to_mm": 6, "name": "waist", "changes": '
            '{"body.walls": 2}}]'
        )
        cls.specs = [
            PlanSpec(),
            with_settings(
                PlanSpec(),
                [
                    "surface.layer_height=0.28",
                    "body.infill_density=30",
                    "material.name=PETG",
                    "body.top_layers=0",
                    "body.top_thickness=0",
                ],
            ),
            with_settings(PlanSpec(), [band]),
        ]
        cls.reports = [PIPELINE.plan(source(knob()), spec).report for spec in cls.specs]
        cls.found = compare(cls.reports, [spec.model_dump() for spec in cls.specs])

    def test_against_itself_there_is_nothing(self):
        found = compare([self.reports[0]] * 2, [self.specs[0].model_dump()] * 2)
        self.assertEqual((found["settings"], found["findings"]), ([], []))
        for key in ("totals", "features", "heights"):
            for row in found[key]:
                for values in (
                    row[name] for name in ("values", "seconds", "grams", "cost") if name in row
                ):
                    self.assertEqual(values[0], values[1])

    def test_only_what_differs_in_settings(self):
        rows = {row["name"]: row["values"] for row in self.found["settings"]}
        self.assertEqual(
            set(rows),
            {
                "surface.layer_height",
                "body.infill_density",
                "material.name",
                "body.top_layers",
                "body.top_thickness",
                "surface.bands",
            },
        )
        self.assertEqual(rows["surface.layer_height"], [0.2, 0.28, 0.2])
        self.assertEqual(rows["surface.bands"], ["0 of them", "0 of them", "1 of them"])

    def test_differences_add_up_to_the_total(self):
        totals = {row["key"]: row["values"] for row in self.found["totals"]}
        for k in range(3):
            time, mass = (
                totals["time_s.total"][k] - totals["time_s.total"][0],
                totals["filament.mass_g"][k] - totals["filament.mass_g"][0],
            )
            self.assertAlmostEqual(
                sum(row["seconds"][k] - row["seconds"][0] for row in self.found["features"]),
                time,
                6,
            )
            self.assertAlmostEqual(
                sum(row["grams"][k] - row["grams"][0] for row in self.found["features"]), mass, 6
            )
            # what comes before the first layer belongs to no height
            start = (
                self.reports[k]["ledger"]["start"]["seconds"]
                - self.reports[0]["ledger"]["start"]["seconds"]
            )
            self.assertAlmostEqual(
                sum(row["seconds"][k] - row["seconds"][0] for row in self.found["heights"]) + start,
                time,
                3,
            )
            self.assertAlmostEqual(
                sum(row["grams"][k] - row["grams"][0] for row in self.found["heights"]), mass, 3
            )

    def test_findings_that_come_and_go_and_bands(self):
        codes = {row["code"]: row["messages"] for row in self.found["findings"]}
        self.assertIsNone(codes["open-by-design"][0])
        self.assertIsNotNone(codes["open-by-design"][1])
        waist = next(row for row in self.found["bands"] if "waist" in row["name"])
        self.assertEqual(waist["seconds"][:2], [None, None])
        self.assertGreater(waist["seconds"][2], 0)

    def test_lanes_hold_the_minutes(self):
        lanes, report = lanes_of(self.reports[0]), self.reports[0]
        minutes = sum(
            pace * height
            for pace, height in zip(lanes["min_per_mm"], lanes["heights_mm"], strict=True)
        )
        self.assertAlmostEqual(minutes, sum(report["layers"]["seconds"]) / 60, 2)
