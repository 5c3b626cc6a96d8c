"""Specs that older versions of the program kept are read for ever."""

import copy
import json
import unittest
from pathlib import Path

from northpace.errors import InputError
from northpace.spec import PlanSpec, spec_from
from northpace.spec.kept import STEPS, VERSION, carried, forgiven, spec_kept

KEPT = Path(__file__).parent / "kept"


class Kept(unittest.TestCase):
    def example(self, version=VERSION):
        return json.loads((KEPT / f"v{version}.json").read_text())

    def test_an_example_of_every_version_is_read_as_it_was_meant(self):
        files = sorted(int(path.stem[1:]) for path in KEPT.glob("v*.json"))
        self.assertEqual(files, list(range(1, VERSION + 1)), "every version leaves an example")
        for version in files:
            values = carried(self.example(version), version)
            found, left_out = forgiven(values)
            self.assertEqual(left_out, [], f"version {version} needs a step")
            spec = spec_from(found)
            self.assertEqual((spec.surface.kind, spec.surface.target_um), ("best-fit", 80.0))
            self.assertEqual(spec.surface.bands[0].changes, {"body.walls": 2})
            self.assertEqual(spec.body.infill_density, 35)

    def test_the_newest_example_has_every_setting_of_now(self):
        now = PlanSpec().model_dump()
        example = self.example()
        names = {(g, key) for g, own in now.items() for key in own}
        self.assertEqual({(g, key) for g, own in example.items() for key in own}, names)

    def test_what_is_no_longer_known_or_allowed_is_left_out_by_name(self):
        values = copy.deepcopy(self.example())
        values["body"]["pattern_of_old"] = "x"
        values["body"]["infill_pattern"] = "no such pattern"
        values["surface"]["layer_height"] = -3
        values["gone"] = {"a": 1}
        found, left_out = forgiven(values)
        self.assertEqual(
            sorted(left_out),
            ["body.infill_pattern", "body.pattern_of_old", "gone", "surface.layer_height"],
        )
        spec = spec_kept(values, 0)
        self.assertEqual(spec.surface.layer_height, PlanSpec().surface.layer_height)
        self.assertEqual(spec.body.infill_density, 35)
        self.assertIn("infill_pattern", values["body"])  # what is kept does not change
        self.assertEqual(found["body"]["infill_density"], 35)

    def test_a_band_that_changes_what_is_gone(self):
        values = copy.deepcopy(self.example())
        values["surface"]["bands"][0]["changes"] = {"body.of_old": 2}
        found, left_out = forgiven(values)
        self.assertEqual(left_out, ["surface.bands"])
        self.assertEqual(spec_from(found).surface.bands, ())

    def test_steps_come_one_after_the_other(self):
        self.assertEqual(len(STEPS), VERSION)
        values = {"body": {"walls": 3}}
        self.assertEqual(carried(values, VERSION), values)
        self.assertIsNot(carried(values, VERSION)["body"], values["body"])

    def test_what_contradicts_itself_by_a_rule_of_today_is_read_as_it_was_kept(self):
        values = {
            "machine": {"nozzle": 0.2, "of_old": 1},
            "body": {"outer_width": 3.0, "infill_pattern": "of old"},
        }
        with self.assertRaises(InputError):
            forgiven(values)
        spec = spec_kept(values, VERSION)
        self.assertEqual((spec.machine.nozzle, spec.body.outer_width), (0.2, 3.0))
        self.assertEqual(spec.body.infill_pattern, PlanSpec().body.infill_pattern)
