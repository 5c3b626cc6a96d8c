"""The browser's pure logic, tested on its own by vitest."""

from __future__ import annotations

import json
import subprocess
import tempfile
import unittest
from pathlib import Path

WEB = Path(__file__).resolve().parents[2] / "web"


class Unit(unittest.TestCase):
    def test_logic_of_the_browser(self):
        with tempfile.TemporaryDirectory() as folder:
            report = Path(folder) / "report.json"
            program = str(WEB / "node_modules" / ".bin" / "vitest")
            done = subprocess.run(
                [program, "run", "--reporter=json", f"--outputFile={report}"],
                cwd=WEB,
                capture_output=True,
                text=True,
                timeout=300,
            )
            self.assertTrue(report.exists(), done.stdout + done.stderr)
            found = json.loads(report.read_text())
        self.assertGreater(found["numTotalTests"], 20)
        for file in found["testResults"]:
            for test in file["assertionResults"]:
                with self.subTest(test["fullName"]):
                    self.assertEqual(test["status"], "passed", test["failureMessages"])
        self.assertEqual(done.returncode, 0, done.stderr)
