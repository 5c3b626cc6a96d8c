"""What the command line says to files and figures that are wrong: one line, and 2."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path

from demo.shapes import sample_stl
from northpace.cli import main


class Refused(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        (self.folder / "clamp.stl").write_bytes(sample_stl("mast-clamp"))

    def said(self, *arguments: str) -> str:
        """What is printed to a refusal."""
        out = io.StringIO()
        with contextlib.redirect_stderr(out), contextlib.redirect_stdout(out):
            self.assertEqual(main(list(arguments)), 2)
        lines = out.getvalue().strip().splitlines()
        self.assertEqual(len(lines), 1, lines)
        return lines[0]

    def bed(self, content: object) -> str:
        """What is said to a bed file."""
        path = self.folder / "bed.json"
        path.write_text(content if isinstance(content, str) else json.dumps(content))
        return self.said("bed", str(path))

    def test_a_weight_below_nothing(self):
        said = self.said("ways", str(self.folder / "clamp.stl"), "--time", "-5")
        self.assertIn("time: -5.0 is not allowed", said)
        self.assertIn("greater than or equal to 0", said)

    def test_a_bed_file_that_is_none(self):
        self.assertIn("this is no JSON", self.bed("{"))
        for content in (5, [], {"plans": 3, "bed": {}}, {"bed": {}}):
            with self.subTest(content=content):
                self.assertIn("a bed file holds 'plans' and 'bed'", self.bed(content))

    def test_a_value_in_a_bed_file(self):
        plans = {"a": {"part": "clamp.stl"}}
        said = self.bed({"plans": plans, "bed": {"way": "heaped"}})
        self.assertIn("way: 'heaped' is not allowed", said)
        said = self.bed({"plans": {"a": {"part": "gone.stl"}}, "bed": {}})
        self.assertIn("gone.stl", said)
        said = self.bed(
            {"plans": {"a": {"part": "clamp.stl", "set": ["walls.cuont=3"]}}, "bed": {}}
        )
        self.assertIn("'walls.cuont=3' is no setting", said)
