"""Whose work ships with ours is said, with its licence."""

import unittest

from ops.notices import notices
from ops.steps import ROOT


class Notices(unittest.TestCase):
    def test_every_package_that_ships_is_named_with_its_licence(self):
        kept = (ROOT / "NOTICES.md").read_text()
        self.assertEqual(kept, notices(), "stale: python -m ops.notices")
        self.assertNotIn("| ? |", kept)
        self.assertNotIn("not installed", kept)
        for name in ("@fontsource/barlow", "react", "three", "django", "pebble"):
            self.assertIn(f"| {name} |", kept)
