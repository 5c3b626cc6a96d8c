"""Only one ``./start`` runs in a folder, and it ends what one that was killed left running."""

import io
import os
import subprocess
import tempfile
import unittest
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path

from ops import alone, cluster
from ops.steps import Stop


class Alone(unittest.TestCase):
    def setUp(self):
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)

    def test_a_second_start_is_told_where_the_first_one_is(self):
        lock = alone.hold(self.folder, 8000)
        said = io.StringIO()
        with redirect_stdout(said), redirect_stderr(said), self.assertRaises(Stop):
            alone.hold(self.folder, 8120)
        self.assertIn("at http://127.0.0.1:8000/", said.getvalue())
        self.assertIn(f"process {os.getpid()}", said.getvalue())
        lock.close()
        alone.hold(self.folder, 8120).close()

    def test_what_was_left_is_ended_and_nothing_else(self):
        mine = {**os.environ, alone.MARK: str(self.folder)}
        left = [
            subprocess.Popen(["sleep", "60"], env=mine),
            # this one ignores the signal to end
            subprocess.Popen(["sh", "-c", "trap '' TERM; sleep 60"], env=mine),
        ]
        other = subprocess.Popen(["sleep", "60"])
        self.addCleanup(other.wait)
        self.addCleanup(other.kill)
        alone.PATIENCE, before = 2.0, alone.PATIENCE
        self.addCleanup(setattr, alone, "PATIENCE", before)
        self.assertGreaterEqual(alone.end_leftovers(self.folder), 2)
        for process in left:
            self.assertIsNotNone(process.wait(10))
        self.assertIsNone(other.poll())
        self.assertEqual(alone.end_leftovers(self.folder), 0)

    def test_a_number_that_lives_is_not_the_database_of_a_folder(self):
        data = self.folder / "data"
        data.mkdir()
        # after a power cut the number in the file may belong to any process
        (data / "postmaster.pid").write_text(f"{os.getpid()}\n{data}\n1\n5432\n")
        self.assertIsNone(cluster._running(self.folder))
        (data / "postmaster.pid").write_text("nonsense")
        self.assertIsNone(cluster._running(self.folder))
        # a server has its data folder as working directory
        server = subprocess.Popen(["sleep", "60"], cwd=data)
        self.addCleanup(server.wait)
        self.addCleanup(server.kill)
        (data / "postmaster.pid").write_text(f"{server.pid}\n{data}\n1\n5432\n")
        self.assertEqual(cluster._running(self.folder), 5432)
