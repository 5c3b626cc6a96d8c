"""The whole house beside a test: database, web, worker and minder, each brought back by itself."""

import json
import os
import signal
import socket
import subprocess
import tempfile
import time
import urllib.request
from pathlib import Path

from ops import cluster as db
from ops.steps import PYTHON, ROOT
from ops.supervise import supervised, web

#: How a process of the house is known among all that it started.
SIGNS = {"web": "service.config.asgi", "worker": "manage.py\0work", "minder": "manage.py\0mind"}
#: How long anything may stay away (s): a third of it on a machine that does nothing else, but the
#: tests beside these keep both processors busy.
BACK = 30.0
EMPTY = """
from django.db import connection
connection.cursor().execute("truncate procrastinate_jobs, procrastinate_workers cascade")
"""


class House:
    """Runs on a database of its own until the test case is over. ``careless`` may lose what was
    said to be kept when its database falls, ``without`` leaves programs out, ``more`` is added to
    the environment.
    """

    def __init__(self, case, careless=True, without=(), **more):
        self.cluster = db.start_cluster("fault-db" if careless else "fault-db-safe", careless)
        case.addClassCleanup(db.stop_cluster, self.cluster)
        folder = tempfile.TemporaryDirectory(prefix="northpace-faults-", ignore_cleanup_errors=True)
        case.addClassCleanup(folder.cleanup)
        port = any_port()
        self.address = f"http://127.0.0.1:{port}"
        self.env = {
            **os.environ,
            **self.cluster.environment(),
            "NORTHPACE_VAR": folder.name,
            "NORTHPACE_STALLED_AFTER": "4",
            "NORTHPACE_LOOPBACK_PRINTERS": "1",
            "PYTHONPATH": str(ROOT),
            **more,
        }
        self.manage("migrate", "-v0")
        self.manage("flush", "--noinput", "-v0")
        # what was left in the queue by a run that was broken off is not among what is flushed
        self.manage("shell", "-v0", "-c", EMPTY)
        programs = {
            "database": [PYTHON, "-m", "ops.cluster", self.cluster.folder],
            "web": web(port),
            "worker": [PYTHON, "manage.py", "work"],
            "minder": [PYTHON, "manage.py", "mind"],
        }
        programs = {name: words for name, words in programs.items() if name not in without}
        self.signs = {name: sign for name, sign in SIGNS.items() if name in programs}
        self.process = subprocess.Popen(
            supervised(programs, Path(folder.name) / "supervised"),
            cwd=ROOT,
            env=self.env,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        case.addClassCleanup(self.process.wait, 40)
        case.addClassCleanup(self.process.terminate)
        within(60, self.whole)

    def manage(self, *words):
        """What a command of the service prints."""
        command = [str(PYTHON), "manage.py", *words]
        return subprocess.run(
            command, cwd=ROOT, env=self.env, check=True, stdout=subprocess.PIPE, text=True
        ).stdout

    def ready(self):
        """Whether web and database answer."""
        try:
            with urllib.request.urlopen(self.address + "/api/health", timeout=2) as answer:
                return bool(json.load(answer)["ready"])
        except (OSError, ValueError):
            return False

    def whole(self):
        """Whether everything runs."""
        return self.ready() and all(self.pid(name) for name in self.signs)

    def pid(self, name):
        """The process of a program, by what it was started with."""
        return next(
            (pid for pid, words in self._children(self.process.pid) if SIGNS[name] in words), None
        )

    def hands(self, name):
        """The processes that compute for a program."""
        of = self.pid(name)
        return [pid for pid, words in self._children(of) if "spawn_main" in words] if of else []

    @staticmethod
    def _children(of):
        """Number and words of each process that another one started."""
        found = []
        for entry in Path("/proc").glob("[0-9]*"):
            try:
                words = (entry / "cmdline").read_text()
                parent = int((entry / "stat").read_text().rsplit(")", 1)[1].split()[1])
            except (OSError, ValueError):
                continue
            if parent == of:
                found.append((int(entry.name), words))
        return found

    def kill(self, name):
        """End a program at once; returns when another one stands in its place."""
        old = self.pid(name)
        os.kill(old, signal.SIGKILL)
        within(BACK, lambda: self.pid(name) not in (None, old))

    def kill_hand(self, name):
        """End the processes that compute for a program."""
        within(60, lambda: self.hands(name))
        for pid in self.hands(name):
            os.kill(pid, signal.SIGKILL)

    def stop_database(self, how):
        """Stop the server; returns once it is gone. Another one may stand in its place already, so
        that nobody waits for a place without one.
        """
        data = self.cluster.folder / "data"
        old = (data / "postmaster.pid").read_text().split()[0]
        server = str(db.server_programs() / "pg_ctl")
        command = [server, "-D", str(data), "-m", how, "-W", "stop"]
        subprocess.run(db.as_server(command), cwd="/", check=True, capture_output=True)
        # a machine that has other work beside it takes its time
        within(120, lambda: not Path("/proc", old, "exe").exists())


def any_port(address="127.0.0.1"):
    """A port of an address that nobody listens on, and that nobody else would think of."""
    with socket.socket() as probe:
        probe.bind((address, 0))
        return probe.getsockname()[1]


def within(seconds, condition):
    """Wait for a condition; returns how long it took (s)."""
    begun = time.monotonic()
    while not condition():
        if time.monotonic() - begun > seconds:
            raise AssertionError(f"not so within {seconds:.0f} s: {condition}")
        time.sleep(0.05)
    return time.monotonic() - begun
