"""The system units start what there is."""

import configparser
import re
import shutil
import subprocess
import unittest
from importlib.util import find_spec

from django.core.management import get_commands

from ops.steps import ROOT


class Units(unittest.TestCase):
    def test_every_unit_starts_something_of_ours_and_brings_it_back(self):
        found = sorted((ROOT / "ops" / "systemd").glob("*.service"))
        self.assertEqual(len(found), 4)
        for path in found:
            unit = configparser.ConfigParser(interpolation=None, strict=False)
            unit.optionxform = str
            unit.read(path)
            service = unit["Service"]
            with self.subTest(path.name):
                self.assertEqual(service["Restart"], "always")
                self.assertLessEqual(int(service["RestartSec"]), 10)
                self.assertEqual(unit["Unit"]["StartLimitIntervalSec"], "0")
                words = service["ExecStart"].split()
                self.assertTrue(words[0].startswith(service["WorkingDirectory"]))
                if words[1] == "-m":
                    self.assertIsNotNone(find_spec(words[2]))
                    module, name = words[3].split(":")
                    self.assertIn(name, vars(__import__(module, fromlist=[name])))
                else:
                    self.assertEqual(words[1], "manage.py")
                    self.assertIn(words[2], get_commands())

    @unittest.skipUnless(shutil.which("systemd-analyze"), "this machine has no systemd")
    def test_systemd_takes_them(self):
        for path in (ROOT / "ops" / "systemd").glob("*.service"):
            said = subprocess.run(
                ["systemd-analyze", "verify", str(path)], capture_output=True, text=True
            ).stderr
            # that our place and user are not on this machine is not their fault
            wrong = [
                line
                for line in said.splitlines()
                if path.name in line and not re.search("not executable|Failed to|No such", line)
            ]
            self.assertEqual(wrong, [])

    def test_what_the_server_page_names_is_read(self):
        page = (ROOT / "docs" / "server.md").read_text()
        source = (ROOT / "service" / "config" / "settings.py").read_text()
        for name in set(re.findall(r"NORTHPACE_[A-Z_]*[A-Z]", page)):
            self.assertIn(f'"{name}"', source)
