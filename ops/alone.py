"""Make sure that only one ``./start`` runs in a folder. It holds a lock as long as it runs. If it
is killed, the next one ends the processes that were left running.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import signal
import time
from pathlib import Path
from typing import IO

from ops.steps import Stop

#: Name of an environment variable that every process of a start carries; its value is the folder.
MARK = "NORTHPACE_STARTED_IN"
#: Seconds to wait for leftover processes to end, after each signal.
PATIENCE = 5.0


def hold(folder: Path, port: int) -> IO[str]:
    """Lock a folder for a start that will answer on ``port``. Closing the returned file releases
    the lock. Raises `Stop` if another start runs in the folder.
    """
    folder.mkdir(parents=True, exist_ok=True)
    lock = (folder / "start.lock").open("a+")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        lock.seek(0)
        process, _, there = lock.read().partition(" ")
        lock.close()
        raise Stop(
            f"this folder runs already, at http://127.0.0.1:{there}/ (process {process}); use that "
            "address, or stop it there with Ctrl-C"
        ) from error
    lock.seek(0)
    lock.truncate()
    lock.write(f"{os.getpid()} {port}")
    lock.flush()
    return lock


def end_leftovers(folder: Path) -> int:
    """End the processes that an earlier start in a folder left running when it was killed, and
    return their number. The database is not ended, since the new start goes on using it.
    """
    found: set[int] = set()
    for number in (signal.SIGTERM, signal.SIGKILL):
        told: set[int] = set()
        end = time.monotonic() + PATIENCE
        while time.monotonic() < end:
            # a supervisor that still runs starts new processes, so we look for them repeatedly
            left = {process for process in _marked(folder) if _lives(process)}
            if not left:
                return len(found)
            for process in left - told:
                _signal(process, number)
            told |= left
            found |= left
            time.sleep(0.02)
    return len(found)


def _marked(folder: Path) -> list[int]:
    """Numbers of the processes that carry the mark of a folder, without this process."""
    wanted = f"{MARK}={folder}".encode()
    found = []
    for entry in Path("/proc").glob("[0-9]*"):
        try:
            marked = wanted in (entry / "environ").read_bytes().split(b"\0")
            database = (entry / "comm").read_text().startswith("postgres")
        except OSError:  # of somebody else, or gone meanwhile
            continue
        if marked and not database and int(entry.name) != os.getpid():
            found.append(int(entry.name))
    return found


def _lives(process: int) -> bool:
    """Whether a process is there and is not one that has ended and waits to be fetched."""
    try:
        stat = Path(f"/proc/{process}/stat").read_text()
    except OSError:
        return False
    return stat.rsplit(")", 1)[1].split()[0] != "Z"


def _signal(process: int, number: int) -> None:
    with contextlib.suppress(OSError):
        os.kill(process, number)
