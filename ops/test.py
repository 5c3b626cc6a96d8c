"""./test: lint, types, the import contract and every test, against a database cluster of
its own.
"""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from ops import cluster as db
from ops.stale import drop_stale
from ops.steps import (
    PYTHON,
    ROOT,
    check_machine,
    front_end,
    install_packages,
    node,
    python_packages,
    say,
)

TALLY = re.compile(r"^tests: (\d+) passed, (\d+) failed$", re.MULTILINE)


def main() -> int:
    check_machine()
    python_packages(tests=True)
    drop_stale()
    # several test processes would each compile the kernels, at the same time; this uses the time in
    # which packages are fetched
    kernels = subprocess.Popen(
        [str(PYTHON), "-m", "ops.kernels"],
        cwd=ROOT,
        env={**os.environ, "PYTHONPATH": str(ROOT)},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    if not Path("/usr/bin/chromium").exists() and shutil.which("chromium") is None:
        install_packages(["chromium"], "Chromium is missing, which the browser tests drive")
    if shutil.which("ip") is None:
        install_packages(["iproute2"], "iproute2 is missing, with which a test makes a second host")
    front_end(force_packages=True)
    only = sys.argv[1:]
    passed, failed = (0, 0) if only else _checks()
    kernels.wait()
    cluster = db.start_cluster("test-db", careless=True)
    try:
        env = {
            **os.environ,
            **cluster.environment(),
            "PYTHONPATH": str(ROOT),
            "PYTHONUNBUFFERED": "1",
            "PATH": f"{node()}{os.pathsep}{os.environ['PATH']}",
        }
        good, bad = _tests(only, env)
    finally:
        db.stop_cluster(cluster)
    print(f"{passed + good} passed, {failed + bad} failed", flush=True)
    return 1 if failed + bad or not passed + good else 0


def _checks() -> tuple[int, int]:
    """Lint, types and the import contract; each counts as one test."""
    bin_ = PYTHON.parent
    web = ROOT / "web"
    tools = web / "node_modules" / ".bin"
    env = {
        **os.environ,
        "PATH": f"{node()}{os.pathsep}{os.environ['PATH']}",
        "PYTHONPATH": str(ROOT),
    }
    checks = [
        ("lint", [str(bin_ / "ruff"), "check", "."], ROOT),
        ("format", [str(bin_ / "ruff"), "format", "--check", "."], ROOT),
        ("types", [str(bin_ / "mypy")], ROOT),
        ("import contract", [str(bin_ / "lint-imports")], ROOT),
        ("front-end types", [str(tools / "tsc"), "--noEmit"], web),
        ("front-end lint", [str(tools / "eslint"), "src", "tests"], web),
        ("front-end format", [str(tools / "prettier"), "--check", "src", "tests"], web),
    ]
    passed = failed = 0
    for name, command, folder in checks:
        result = subprocess.run(command, cwd=folder, env=env, capture_output=True, text=True)
        if result.returncode == 0:
            passed += 1
            say(f"{name}: fine")
        else:
            failed += 1
            say(f"{name}: FAILED\n{result.stdout}{result.stderr}")
    return passed, failed


def _tests(only: list[str], env: dict[str, str]) -> tuple[int, int]:
    """Django's runner over tests/, two groups at a time, each with a database of its own; its
    runner prints the tally.
    """
    begun = time.monotonic()
    groups = [only] if only else _groups()
    with ThreadPoolExecutor(2) as pool:
        found = list(
            pool.map(
                lambda k: _run(
                    groups[k], {**env, "NORTHPACE_DB_NAME": f"northpace_{k}"}, bool(only)
                ),
                range(len(groups)),
            )
        )
    say(f"tests took {time.monotonic() - begun:.0f} s")
    return sum(good for good, _ in found), sum(bad for _, bad in found)


def _groups() -> list[list[str]]:
    """The tests in parts that fill two processors evenly, the longest first: the browser's, those
    that need no database, in parts, and the others in parts.
    """
    core, service = _files("core"), _files("service")
    first = [["tests.browser"], core[::2], [*core[1::2], "tests.standin"]]
    others = [
        f"tests.{folder.name}"
        for folder in sorted((ROOT / "tests").iterdir())
        if (folder / "__init__.py").exists()
        and folder.name not in ("browser", "core", "standin", "service", "beds", "ways")
    ]
    return [*first, others, service[::2], service[1::2], ["tests.beds", "tests.ways"]]


def _files(folder: str) -> list[str]:
    """The test files of a folder, as Django's runner takes them."""
    return [
        f"tests.{folder}.{file.stem}"
        for file in sorted((ROOT / "tests" / folder).glob("test_*.py"))
    ]


def _run(names: list[str], env: dict[str, str], live: bool) -> tuple[int, int]:
    """Run some tests; what they print comes as it is printed, or at their end, where it would be
    mixed up with others.
    """
    process = subprocess.Popen(
        [
            str(PYTHON),
            "manage.py",
            "test",
            *names,
            "--noinput",
            "--testrunner",
            "tests.runner.Runner",
        ],
        cwd=ROOT,
        env={**env, "NORTHPACE_STALLED_AFTER": "4", "NORTHPACE_LOOPBACK_PRINTERS": "1"},
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        errors="replace",
    )
    assert process.stdout is not None
    said = []
    for line in process.stdout:
        said.append(line)
        if live:
            print(line, end="", flush=True)
    if not live:
        print("".join(said), end="", flush=True)
    return _tally("".join(said), process.wait())


def _tally(output: str, code: int) -> tuple[int, int]:
    """Passed and failed of a run; a run that broke counts as one failure."""
    found = TALLY.search(output)
    if not found:
        return 0, 1
    good, bad = int(found[1]), int(found[2])
    return good, max(bad, 1) if code else bad


if __name__ == "__main__":
    sys.exit(main())
