"""A backup restored into an empty place gives the same reports and the same files."""

import contextlib
import hashlib
import io
import json
import os
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from ops import backup
from ops import cluster as db
from ops.backup import back_up, restore
from ops.steps import PYTHON, ROOT, Stop


class Backup(unittest.TestCase):
    def place(self, name):
        """An empty place: a cluster, a folder, and the environment for `manage.py` there."""
        cluster = db.start_cluster(name, careless=True)
        self.addCleanup(shutil.rmtree, cluster.folder)
        self.addCleanup(db.stop_cluster, cluster)
        folder = tempfile.TemporaryDirectory(prefix=f"northpace-{name}-")
        self.addCleanup(folder.cleanup)
        env = {
            **os.environ,
            **cluster.environment(),
            "NORTHPACE_VAR": folder.name,
            "PYTHONPATH": str(ROOT),
        }
        return cluster, Path(folder.name), env

    def manage(self, env, *words):
        done = subprocess.run(
            [str(PYTHON), "manage.py", *words], cwd=ROOT, env=env, capture_output=True, text=True
        )
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
        return done.stdout

    def rows(self, env):
        kept = ["workshop", "parts", "plans", "jobs", "accounts", "auth.user"]
        return json.loads(self.manage(env, "dumpdata", *kept))

    def files(self, var):
        return {
            str(path.relative_to(var)): hashlib.sha256(path.read_bytes()).hexdigest()
            for path in (var / "files").rglob("*")
            if path.is_file()
        }

    def stopped(self, *arguments):
        said = io.StringIO()
        with contextlib.redirect_stderr(said), self.assertRaises(Stop):
            restore(*arguments)
        return said.getvalue()

    def test_there_and_back(self):
        cluster, var, env = self.place("backup-a")
        self.manage(env, "prepare")
        self.manage(env, "work", "--until-empty")
        rows, files = self.rows(env), self.files(var)
        self.assertGreater(len(files), 3)
        target = var / "all.northpace"
        half = var / "files" / "ab" / ("ab" * 32 + ".stl")
        half.parent.mkdir(exist_ok=True)
        half.write_bytes(b"written in part")
        removed = var / min(files)
        kept, dump = removed.read_bytes(), backup.run

        def removing(words, *others, **options):
            """A file goes while the database is read."""
            if words[0].endswith("pg_dump"):
                removed.unlink()
            return dump(words, *others, **options)

        with (
            mock.patch.object(backup, "run", removing),
            contextlib.redirect_stdout(io.StringIO()),
        ):
            back_up(cluster, var, target)
        self.assertEqual(target.stat().st_mode & 0o777, 0o600)
        self.assertEqual([path.name for path in var.glob(".backup-*")], [])
        removed.write_bytes(kept)
        half.unlink()
        self.assertIn("already", self.stopped(cluster, var, target))

        other, there, env = self.place("backup-b")
        whole = target.read_bytes()
        broken = there / "broken.northpace"
        inside = whole.rindex(b"files/") + 600  # of the last stored file, behind its header
        changed = whole[:inside] + bytes([whole[inside] ^ 1]) + whole[inside + 1 :]
        steps = ["jobs.9999_later", "auth.0001_x"]
        with (
            mock.patch.object(backup, "_schema", lambda _: steps),
            contextlib.redirect_stdout(io.StringIO()),
        ):
            back_up(cluster, var, var / "newer.northpace")
        newer = self.stopped(other, there, var / "newer.northpace")
        self.assertIn("tables have 'jobs.9999_later'", newer)
        for data in (whole[: len(whole) // 2], changed, b""):
            broken.write_bytes(data)
            self.assertIn("north pace: ", self.stopped(other, there, broken))
        broken.unlink()
        with contextlib.redirect_stdout(io.StringIO()):
            restore(other, there, target)
        self.assertEqual(self.rows(env), rows)
        self.assertEqual(self.files(there), files)
        self.assertEqual((there / "secret").read_text(), (var / "secret").read_text())
