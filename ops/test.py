"""./test: lint, types, the import contract and every test, against a database cluster of its own."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import threading
import time
from pathlib import Path

from ops import cluster as db
from ops.steps import PYTHON, ROOT, check_machine, front_end, install_packages, node, python_packages, say

#: Tests that touch no database.
BESIDE = ("tests.core", "tests.standin")
TALLY = re.compile(r"^tests: (\d+) passed, (\d+) failed$", re.MULTILINE)


def main() -> int:
    check_machine()
    python_packages(tests=True)
    # several test processes would each compile the kernels, at the same time; this uses the time in which packages are fetched
    kernels = subprocess.Popen([str(PYTHON), "-m", "ops.kernels"], cwd=ROOT, env={**os.environ, "PYTHONPATH": str(ROOT)},
                               stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    if not Path("/usr/bin/chromium").exists() and shutil.which("chromium") is None:
        install_packages(["chromium"], "Chromium is missing, which the browser tests drive")
    front_end(force_packages=True)
    only = sys.argv[1:]
    passed, failed = (0, 0) if only else _checks()
    kernels.wait()
    cluster = db.start_cluster("test-db", careless=True)
    try:
        env = {**os.environ, **cluster.environment(), "PYTHONPATH": str(ROOT), "PYTHONUNBUFFERED": "1",
               "PATH": f"{node()}{os.pathsep}{os.environ['PATH']}"}
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
    env = {**os.environ, "PATH": f"{node()}{os.pathsep}{os.environ['PATH']}", "PYTHONPATH": str(ROOT)}
    checks = [
        ("lint", [str(bin_ / "ruff"), "check", "."], ROOT), ("types of the core", [str(bin_ / "mypy")], ROOT),
        ("import contract", [str(bin_ / "lint-imports")], ROOT), ("front-end types", [str(tools / "tsc"), "--noEmit"], web),
        ("front-end lint", [str(tools / "eslint"), "src"], web),
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
    """Django's runner over tests/; its runner prints the tally. Tests that need no database run beside those that do, their output after them."""
    begun = time.monotonic()
    beside = None if only else _runner(list(BESIDE), env)
    kept: list[str] = []
    reader = threading.Thread(target=lambda: kept.extend(beside.stdout), daemon=True) if beside else None  # type: ignore[union-attr,arg-type]
    if reader:
        reader.start()
    rest = only or [f"tests.{folder.name}" for folder in sorted((ROOT / "tests").iterdir())
                    if (folder / "__init__.py").exists() and f"tests.{folder.name}" not in BESIDE]
    main = _runner(rest, env)
    assert main.stdout is not None
    shown = []
    for line in main.stdout:
        print(line, end="", flush=True)
        shown.append(line)
    tallies = [_tally("".join(shown), main.wait())]
    if beside and reader:
        code = beside.wait()
        reader.join()
        print("".join(kept), end="", flush=True)
        tallies.append(_tally("".join(kept), code))
    say(f"tests took {time.monotonic() - begun:.0f} s")
    return sum(good for good, _ in tallies), sum(bad for _, bad in tallies)


def _runner(names: list[str], env: dict[str, str]) -> subprocess.Popen[str]:
    return subprocess.Popen([str(PYTHON), "manage.py", "test", *names, "--noinput", "--testrunner", "tests.runner.Runner"], cwd=ROOT,
                            env={**env, "NORTHPACE_SIGN_IN_RATE": "10000/min", "NORTHPACE_STALLED_AFTER": "4"},
                            stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, errors="replace")


def _tally(output: str, code: int) -> tuple[int, int]:
    """Passed and failed of a run; a run that broke counts as one failure."""
    found = TALLY.search(output)
    if not found:
        return 0, 1
    good, bad = int(found[1]), int(found[2])
    return good, max(bad, 1) if code else bad


if __name__ == "__main__":
    sys.exit(main())
