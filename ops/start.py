"""./start: from a fresh machine to the running application with the sample workshop."""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.request
from pathlib import Path

from ops import cluster as db
from ops.alone import MARK, end_leftovers, hold
from ops.backup import back_up, restore
from ops.stale import drop_stale
from ops.steps import PYTHON, ROOT, VAR, Stop, check_machine, front_end, python_packages, run, say
from ops.supervise import supervised, web

#: Simulated printers of the sample workshop.
PRINTERS = 3


def main() -> int:
    options = _options()
    check_machine()
    lock = None
    if not (options.backup or options.restore):
        lock = hold(VAR, options.port)
        if left := end_leftovers(ROOT):
            say(f"ended {left} processes that an earlier start had left")
    if not (options.prepare or options.backup or options.restore):
        _check_port(options.port)
    python_packages(tests=False)
    drop_stale()
    # in the second core, while the front end is built and the database begins
    compiling = subprocess.Popen(
        [str(PYTHON), "-m", "ops.kernels"],
        cwd=ROOT,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    front_end()
    cluster = db.start_cluster("db")
    try:
        if options.backup or options.restore:
            if options.backup:
                back_up(cluster, VAR, options.backup.absolute())
            else:
                restore(cluster, VAR, options.restore.absolute())
            return 0
        env = {
            **os.environ,
            **cluster.environment(),
            MARK: str(ROOT),
            "NORTHPACE_LOOPBACK_PRINTERS": "1",  # the simulated ones
            "PYTHONUNBUFFERED": "1",
            "PYTHONPATH": str(ROOT),
        }
        manage = [str(PYTHON), "manage.py"]
        standins = ROOT / "var" / "standins.json"
        ports = [str(port) for port in free_ports(PRINTERS)]
        run(
            [*manage, "prepare", "--standins", str(standins), "--ports", *ports],
            "the database could not be brought up to date",
            env=env,
        )
        if options.prepare:
            return compiling.wait()
        return _serve(options, env, cluster.folder)
    finally:
        compiling.terminate()  # nothing, where it has ended
        db.stop_cluster(cluster)
        if lock is not None:
            lock.close()


def _options() -> argparse.Namespace:
    parser = argparse.ArgumentParser(
        prog="./start", description="Run North Pace with the sample workshop."
    )
    parser.add_argument("--port", type=int, default=int(os.environ.get("NORTHPACE_PORT", "8000")))
    parser.add_argument(
        "--workers",
        type=int,
        default=max(2, (os.cpu_count() or 2) // 2),
        help="processes that compute plans, by the machine's cores; the first of several takes "
        "only what takes seconds",
    )
    parser.add_argument(
        "--factor",
        type=float,
        default=60.0,
        help="how many times faster than real the simulated printers run",
    )
    parser.add_argument("--backup", type=Path, help="write everything to this file, then end")
    parser.add_argument("--restore", type=Path, help="fill an empty place from it, then end")
    parser.add_argument("--prepare", action="store_true", help="install and build, then end")
    return parser.parse_args()


def _check_port(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise Stop(
                f"port {port} is taken by another program; run ./start --port {port + 1}"
            ) from error


def free_ports(count: int) -> list[int]:
    """Ports on loopback that nobody listens on, from 8101 on where they are free."""
    found: list[int] = []
    for wanted in [*range(8101, 8101 + 10 * count), *[0] * count]:
        if len(found) == count:
            break
        with socket.socket() as probe, contextlib.suppress(OSError):
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            probe.bind(("127.0.0.1", wanted))
            found.append(probe.getsockname()[1])
    return found


def _serve(options: argparse.Namespace, env: dict[str, str], database: Path) -> int:
    """Run web, workers and all, each of which comes back by itself, until Ctrl-C."""
    programs: dict[str, list[object]] = {
        "database": [PYTHON, "-m", "ops.cluster", database],
        "web": web(options.port),
        **{f"worker{k + 1}": worker for k, worker in enumerate(_workers(options.workers))},
        "minder": [PYTHON, "manage.py", "mind"],
    }
    for k, entry in enumerate(json.loads((ROOT / "var" / "standins.json").read_text())):
        programs[f"printer{k + 1}"] = [
            *(PYTHON, "-m", "standin", "--port", entry["port"]),
            *("--folder", ROOT / "var" / "standins" / str(k + 1), "--name", entry["name"]),
            *("--limits", json.dumps(entry["limits"]), "--factor", options.factor, "--release"),
            *("--reach", entry.get("reach", 1.0), "--layer-extra", entry.get("layer_extra", 0.0)),
        ]
    process = subprocess.Popen(
        supervised(programs, ROOT / "var" / "supervised"),
        cwd=ROOT,
        env=env,
        stdin=subprocess.DEVNULL,
        start_new_session=True,
    )
    threading.Thread(target=_announce, args=(options.port, process), daemon=True).start()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda *_: _end(process))
    code = process.wait()
    return 0 if code in (0, -signal.SIGTERM, -signal.SIGINT, 130, 143) else code


def _workers(count: int) -> list[list[object]]:
    """The commands of the workers: the first of several takes small work only."""
    work: list[object] = [PYTHON, "manage.py", "work"]
    return [[*work, "--lane", "small"] if count > 1 and k == 0 else work for k in range(count)]


def _end(process: subprocess.Popen[bytes]) -> None:
    if process.poll() is None:
        process.send_signal(signal.SIGTERM)


def _announce(port: int, process: subprocess.Popen[bytes]) -> None:
    address = f"http://127.0.0.1:{port}/"
    for _ in range(600):
        if process.poll() is not None:
            return
        try:
            with urllib.request.urlopen(address + "api/session", timeout=2):
                break
        except OSError:
            time.sleep(0.1)
    say(
        f"ready at {address}  sign in as tern, password tern-point (the sample workshop). "
        "Ctrl-C stops."
    )


if __name__ == "__main__":
    sys.exit(main())
