"""A simulated printer in a process of its own, for tests."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import urllib.request
from pathlib import Path

from django.conf import settings

ROOT = Path(__file__).resolve().parents[2]


class PrinterProcess:
    """Starts on a free port; its folder stays, so that it can be started again after it
    was killed.
    """

    def __init__(self, factor=1e5, port=0, **options):
        self.factor, self.options = factor, options
        self._folder = tempfile.TemporaryDirectory(prefix="northpace-printer-")
        self.port = port
        self.process = None
        self.start()

    def start(self):
        words = [
            sys.executable,
            "-m",
            "standin",
            "--port",
            str(self.port),
            "--folder",
            self._folder.name,
            "--factor",
            str(self.factor),
        ]
        for name, value in self.options.items():
            words += [
                f"--{name.replace('_', '-')}",
                json.dumps(value) if isinstance(value, dict) else str(value),
            ]
        self.process = subprocess.Popen(words, cwd=ROOT, stdout=subprocess.PIPE, text=True)
        line = self.process.stdout.readline()
        self.port = int(line.rsplit(" ", 1)[1])  # said once it listens
        return self

    @property
    def address(self):
        return f"http://127.0.0.1:{self.port}"

    def ask(self, method, path, body=None):
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.address + path, data, method=method)
        with urllib.request.urlopen(request, timeout=10) as answer:
            return json.loads(answer.read())

    def state(self):
        return self.ask("GET", "/state")

    def kill(self):
        self.process.kill()
        self.wait()

    def wait(self):
        self.process.wait(30)
        self.process.stdout.close()

    def stop(self):
        if self.process.poll() is None:
            self.kill()
        self._folder.cleanup()


class Background:
    """One of the service's processes beside a test, with the test's database and files; ends with
    the test.
    """

    def __init__(self, words, connection, storage, case):
        var = tempfile.TemporaryDirectory(prefix="northpace-background-")
        (Path(var.name) / "files").symlink_to(storage.location)
        env = {
            **os.environ,
            "NORTHPACE_DB_NAME": connection.settings_dict["NAME"],
            "PYTHONPATH": str(ROOT),
            "NORTHPACE_VAR": var.name,
            "NORTHPACE_SECRET": settings.SECRET_KEY,
            "NORTHPACE_MIND_EVERY": "0.05",
        }
        self.process = subprocess.Popen(
            [sys.executable, *words], cwd=ROOT, env=env, stdout=subprocess.DEVNULL
        )
        case.addCleanup(var.cleanup)
        case.addCleanup(self.stop)

    def stop(self):
        self.process.kill()
        self.process.wait()
