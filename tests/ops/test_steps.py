"""What start and test say when something is wrong: one line, with what to do."""

import contextlib
import io
import os
import socket
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from types import SimpleNamespace
from unittest import mock

from ops import start, steps


class Failures(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patch = mock.patch.object(steps, "VAR", self.folder)
        patch.start()
        self.addCleanup(patch.stop)

    def line(self, run):
        """The one line a step prints when it stops."""
        err = io.StringIO()
        with (
            contextlib.redirect_stderr(err),
            contextlib.redirect_stdout(io.StringIO()),
            self.assertRaises(steps.Stop) as caught,
        ):
            run()
        self.assertEqual(caught.exception.code, 1)
        lines = err.getvalue().splitlines()
        self.assertEqual(len(lines), 1)
        return lines[0]

    def test_port_taken(self):
        with socket.socket() as other:
            other.bind(("127.0.0.1", 0))
            other.listen()
            port = other.getsockname()[1]
            self.assertIn(
                f"port {port} is taken by another program; run ./start --port {port + 1}",
                self.line(lambda: start._check_port(port)),
            )

    def test_disk_nearly_full(self):
        with (
            mock.patch.object(steps.shutil, "disk_usage", return_value=SimpleNamespace(free=5e8)),
            mock.patch.object(steps, "PYTHON", self.folder / "none"),
        ):
            self.assertIn("0.5 GB free and 3 GB are needed", self.line(steps.check_machine))

    def test_disk_full_in_the_middle(self):
        tool = ["sh", "-c", "echo 'write: No space left on device' >&2; exit 1"]
        self.assertIn(
            "the disk is full", self.line(lambda: steps.run(tool, "the build failed", Path("/")))
        )

    def test_folder_not_writable(self):
        (self.folder / "file").write_text("")
        with mock.patch.object(steps, "VAR", self.folder / "file" / "var"):
            self.assertIn("set NORTHPACE_VAR", self.line(steps.check_machine))

    def test_wrong_python(self):
        with mock.patch.object(steps.sys, "version_info", (3, 9, 2)):
            self.assertIn("set NORTHPACE_PYTHON", self.line(steps.check_machine))

    def test_no_sudo(self):
        def which(name):
            return None if name == "sudo" else f"/usr/bin/{name}"

        with (
            mock.patch.object(steps.os, "geteuid", return_value=1000),
            mock.patch.object(steps.shutil, "which", which),
        ):
            said = self.line(
                lambda: steps.install_packages(["postgresql"], "PostgreSQL is missing")
            )
        self.assertIn(
            "PostgreSQL is missing and there is no sudo; as root run: apt-get install -y "
            "postgresql",
            said,
        )

    def test_registry_unreachable(self):
        tool = self.folder / "python"
        tool.write_text("#!/bin/sh\necho 'Could not find a version' >&2\nexit 1\n")
        tool.chmod(0o755)
        with (
            mock.patch.object(steps, "PYTHON", tool),
            mock.patch.object(steps, "VENV", self.folder),
        ):
            said = self.line(lambda: steps.python_packages(tests=False))
        self.assertIn("is the package registry reachable? Run again to go on (whole output: ", said)
        self.assertIn("Could not find a version", next((self.folder / "log").iterdir()).read_text())


class NodeChoice(unittest.TestCase):
    def test_the_machines_node_when_it_is_new_enough(self):
        for version, wanted in (
            ("v20.19.0", True),
            ("v24.1.0", True),
            ("v20.18.9", False),
            ("v18.20.0", False),
            ("", False),
        ):
            with tempfile.TemporaryDirectory() as name:
                venv = Path(name)
                (venv / "bin").mkdir()
                (venv / "bin" / "node").write_text("")
                found = mock.Mock(return_value=SimpleNamespace(stdout=version))
                with (
                    mock.patch.object(steps, "VENV", venv),
                    mock.patch.object(steps.subprocess, "run", found),
                    mock.patch.object(steps.shutil, "which", lambda tool: f"/opt/node/{tool}"),
                ):
                    self.assertEqual(steps.node() == Path("/opt/node"), wanted, version)


class FirstStart(unittest.TestCase):
    def test_processes_that_start_together_on_a_fresh_machine_share_one_key(self):
        say_key = "import service.config.settings as s; print(s.SECRET_KEY)"
        for _ in range(3):
            with tempfile.TemporaryDirectory() as name:
                env = {
                    key: value for key, value in os.environ.items() if key != "NORTHPACE_SECRET"
                } | {"NORTHPACE_VAR": f"{name}/var"}
                started = [
                    subprocess.Popen(
                        [sys.executable, "-c", say_key],
                        cwd=steps.ROOT,
                        env=env,
                        stdout=subprocess.PIPE,
                        text=True,
                    )
                    for _ in range(6)
                ]
                said = [process.communicate()[0].strip() for process in started]
                self.assertEqual([process.returncode for process in started], [0] * 6)
                self.assertEqual(len(set(said)), 1)
                self.assertGreater(len(said[0]), 40)
                self.assertEqual([path.name for path in Path(name, "var").iterdir()], ["secret"])
                self.assertEqual(Path(name, "var", "secret").stat().st_mode & 0o777, 0o600)
