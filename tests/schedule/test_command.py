"""Orders on the command line."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path

from northpace.cli import main
from tests.schedule.made import OFFICE, bed, machine, order, problem


class Command(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def run_it(self, text, *more):
        file = self.folder / "orders.json"
        file.write_text(text)
        said, wrong = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(said), contextlib.redirect_stderr(wrong):
            code = main(["orders", str(file), *more])
        return code, said.getvalue(), wrong.getvalue()

    def test_beds_promises_and_a_report(self):
        asked = problem(
            [order("cups", (6, (bed("a", 2, 3),)), due_h=60), order("odd", (1, ()))],
            [machine()],
            week=OFFICE,
        )
        report = self.folder / "out.json"
        code, said, wrong = self.run_it(
            asked.model_dump_json(), "--quick", "--quote", "--report", str(report)
        )
        self.assertEqual((code, wrong), (0, ""))
        self.assertIn("3 × cups.0 for cups, 6h", said)
        self.assertIn("cannot be printed: 1 × odd.0 for odd: no plan", said)
        self.assertIn("cups: by Thu 03 Dec 08:05 with 95%; it is on time with 100%", said)
        self.assertIn("odd: no price, as no plan may be used for odd.0", said)
        self.assertIn("12.00 h on A (2 × up to 3) at 2 €/h", said)
        kept = json.loads(report.read_text())
        self.assertEqual(len(kept["beds"]), 2)
        (part,), terms = kept["quotes"]["cups"]["parts"], kept["quotes"]["cups"]["terms"]
        amounts = [float(term["amount"]) for term in [*part["terms"], *terms]]
        self.assertIn(f"cups: {sum(amounts):.2f} €", said)
        self.assertEqual(kept["promises"][0]["order"], "cups")

    def test_what_is_wrong_is_said_in_a_line(self):
        for text, words in (
            ("{", "no JSON"),
            ("{}", "now"),
            ('{"now": "2026-12-02T10:00:00Z", "orders": [{"key": 1}]}', "orders 1 key"),
        ):
            code, _, wrong = self.run_it(text)
            self.assertEqual((code, wrong.count("\n")), (2, 1))
            self.assertIn(words, wrong)
