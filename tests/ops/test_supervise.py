"""Everything comes back by itself: processes that are killed, and a database that is restarted."""

import json
import os
import signal
import subprocess
import tempfile
import time
import unittest
import urllib.error
import urllib.request
from pathlib import Path

from ops import cluster as db
from ops.start import free_ports
from ops.steps import PYTHON, ROOT
from ops.supervise import supervised

#: How long anything may stay away (s): a third of it on a machine that does nothing else, but the
#: tests beside this one keep both processors busy.
BACK = 30.0


class ComesBack(unittest.TestCase):
    """Web, worker and minder with a database of their own."""

    @classmethod
    def setUpClass(cls):
        cls.cluster = db.start_cluster("fault-db", careless=True)
        cls.addClassCleanup(db.stop_cluster, cls.cluster)
        folder = tempfile.TemporaryDirectory(prefix="northpace-faults-")
        cls.addClassCleanup(folder.cleanup)
        cls.port = free_ports(1)[0]
        cls.address = f"http://127.0.0.1:{cls.port}/api/"
        env = {
            **os.environ,
            **cls.cluster.environment(),
            "NORTHPACE_VAR": folder.name,
            "NORTHPACE_STALLED_AFTER": "4",
            "PYTHONPATH": str(ROOT),
        }
        subprocess.run([str(PYTHON), "manage.py", "migrate", "-v0"], cwd=ROOT, env=env, check=True)
        programs = {
            "database": [PYTHON, "-m", "ops.cluster", cls.cluster.folder],
            "web": [
                *(PYTHON, "-m", "uvicorn", "service.config.asgi:application"),
                *("--host", "127.0.0.1", "--port", cls.port, "--log-level", "warning"),
            ],
            "worker": [PYTHON, "manage.py", "work"],
            "minder": [PYTHON, "manage.py", "mind"],
        }
        cls.process = subprocess.Popen(
            supervised(programs, Path(folder.name) / "supervised"),
            cwd=ROOT,
            env=env,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        cls.addClassCleanup(cls.process.wait, 40)
        cls.addClassCleanup(cls.process.terminate)

    def setUp(self):
        self.within(60, self.ready)
        self.within(60, lambda: all(self.pid(name) for name in ("web", "worker", "minder")))

    def within(self, seconds, condition):
        """Wait for a condition; returns how long it took."""
        begun = time.monotonic()
        while not condition():
            self.assertLess(time.monotonic() - begun, seconds, condition)
            time.sleep(0.05)
        return time.monotonic() - begun

    def ready(self):
        try:
            with urllib.request.urlopen(self.address + "health", timeout=2) as answer:
                return bool(json.load(answer)["ready"])
        except (OSError, ValueError):
            return False

    def pid(self, name):
        """The process of a program, by what it was started with."""
        sign = {"web": str(self.port), "worker": "manage.py\0work", "minder": "manage.py\0mind"}
        for entry in Path("/proc").glob("[0-9]*"):
            try:
                words = (entry / "cmdline").read_text()
                parent = int((entry / "stat").read_text().rsplit(")", 1)[1].split()[1])
            except (OSError, ValueError):
                continue
            if sign[name] in words and parent == self.process.pid:
                return int(entry.name)
        return None

    def test_what_is_killed_is_there_again(self):
        for name in ("web", "worker", "minder"):
            old = self.pid(name)
            os.kill(old, signal.SIGKILL)
            self.within(BACK, lambda: self.pid(name) not in (None, old))  # noqa: B023
            self.within(BACK, self.ready)

    def test_a_database_that_is_restarted_is_waited_for(self):
        pids = {name: self.pid(name) for name in ("web", "worker", "minder")}
        for how in ("fast", "immediate"):
            self.stop_database(how)
            self.within(BACK, self.ready)
        # nobody fell over
        self.assertEqual(pids, {name: self.pid(name) for name in pids})

    def stop_database(self, how):
        data = str(self.cluster.folder / "data")
        # a machine that has other work beside it takes its time
        server = str(db.server_programs() / "pg_ctl")
        command = [server, "-D", data, "-m", how, "-t", "120", "stop"]
        subprocess.run(db.as_server(command), cwd="/", check=True, capture_output=True)
