"""A PostgreSQL cluster of the project's own, on a free loopback port. Never touches another
cluster.
"""

from __future__ import annotations

import hashlib
import json
import os
import pwd
import secrets
import shutil
import socket
import subprocess
import sys
import time
from dataclasses import dataclass
from pathlib import Path

from ops.steps import ROOT, VAR, Stop, install_packages, run, say


@dataclass(frozen=True)
class Cluster:
    """Where the server listens, how to sign in, and whether this process started it."""

    folder: Path
    port: int
    password: str
    ours: bool = True

    def environment(self) -> dict[str, str]:
        return {
            "NORTHPACE_DB_HOST": "127.0.0.1",
            "NORTHPACE_DB_PORT": str(self.port),
            "NORTHPACE_DB_USER": "northpace",
            "NORTHPACE_DB_PASSWORD": self.password,
            "NORTHPACE_DB_NAME": "northpace",
        }


def server_programs() -> Path:
    found = sorted(
        Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[-3])
    )
    if not found:
        install_packages(["postgresql"], "PostgreSQL is missing")
        found = sorted(
            Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[-3])
        )
    if not found:
        raise Stop(
            "PostgreSQL is installed but its programs are not in /usr/lib/postgresql; "
            "reinstall the package postgresql"
        )
    return found[-1].parent


def as_server(command: list[str]) -> list[str]:
    """The server refuses to run as root, so that root runs it as ``postgres``."""
    return ["runuser", "-u", "postgres", "--", *command] if os.geteuid() == 0 else command


def _home(name: str) -> Path:
    """Where the cluster lives: below var/, or where ``postgres`` may go when it cannot
    reach that.
    """
    folder = VAR / name
    if os.geteuid() != 0:
        folder.mkdir(parents=True, exist_ok=True)
        return folder
    account = pwd.getpwnam("postgres")
    reachable = (
        subprocess.run(as_server(["test", "-x", str(VAR)]), capture_output=True).returncode == 0
    )
    if not reachable:
        folder = (
            Path("/var/lib/northpace") / hashlib.sha256(str(ROOT).encode()).hexdigest()[:12] / name
        )
    folder.mkdir(parents=True, exist_ok=True)
    os.chown(folder, account.pw_uid, account.pw_gid)
    return folder


def _free_port(wanted: int | None) -> int:
    for port in (wanted, 0):
        if port is None:
            continue
        with socket.socket() as probe:
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise Stop("no free port on the loopback interface")


def _running(home: Path) -> int | None:
    """The port of the server that runs in this folder; None if none does.

    After a power cut the process number in ``postmaster.pid`` may belong to any other process. A
    server has its data folder as working directory, so that is what we compare.
    """
    data = home / "data"
    try:
        lines = (data / "postmaster.pid").read_text().splitlines()
        if not os.path.samefile(f"/proc/{int(lines[0])}/cwd", data):
            return None
        return int(lines[3])
    except (OSError, ValueError, IndexError):
        return None


def start_cluster(name: str, careless: bool = False) -> Cluster:
    """Create the cluster where there is none, start it where it does not run. ``careless`` trades
    safety for speed (tests).
    """
    binaries = server_programs()
    home = _home(name)
    notes = home / "cluster.json"
    known = json.loads(notes.read_text()) if notes.exists() else {}
    if not (home / "data" / "PG_VERSION").exists():
        known = {"password": _create(binaries, home, careless)}
    port = _running(home)
    ours = port is None
    if port is None:
        port = _free_port(known.get("port"))
        _start(binaries, home, port, careless)
    notes.write_text(json.dumps({**known, "port": port}))
    notes.chmod(0o600)
    cluster = Cluster(home, port, known["password"], ours)
    _database(binaries, cluster)
    return cluster


def _create(binaries: Path, home: Path, careless: bool) -> str:
    """A new cluster below ``home``; returns its password."""
    password = secrets.token_urlsafe(24)
    secret = home / "password"
    secret.touch(mode=0o600)
    secret.write_text(password)
    if os.geteuid() == 0:
        shutil.chown(secret, "postgres", "postgres")
    options = ["--auth=scram-sha-256", f"--pwfile={secret}", "--encoding=UTF8", "--locale=C.UTF-8"]
    options += ["--no-sync"] if careless else []
    run(
        as_server(
            [str(binaries / "initdb"), "-D", str(home / "data"), "-U", "northpace", *options]
        ),
        f"the database cluster could not be made; delete {home} and run again",
        Path("/"),
    )
    return password


def _start(binaries: Path, home: Path, port: int, careless: bool) -> None:
    data, log = home / "data", home / "server.log"
    (data / "postmaster.pid").unlink(missing_ok=True)
    options = (
        f"-p {port} -c listen_addresses=127.0.0.1 -c unix_socket_directories= "
        "-c max_connections=100"
    )
    if careless:
        options += " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
    command = [str(binaries / "pg_ctl"), "-D", str(data), "-w", "-t", "60", "-l", str(log)]
    run(
        as_server([*command, "-o", options, "start"]),
        f"the database did not start; its log is {log}",
        Path("/"),
    )


def _database(binaries: Path, cluster: Cluster) -> None:
    """Make the database in a cluster, where it is not there."""
    ask = "select 1 from pg_database where datname='northpace'"
    signed_in = client(cluster)
    present = run(
        [str(binaries / "psql"), "-Atc", ask, "-d", "postgres"],
        "the database does not let us in",
        env=signed_in,
    )
    if not present.strip():
        run(
            [str(binaries / "createdb"), "northpace"],
            "the database could not be made",
            env=signed_in,
        )


def client(cluster: Cluster) -> dict[str, str]:
    return {
        **os.environ,
        "PGHOST": "127.0.0.1",
        "PGPORT": str(cluster.port),
        "PGUSER": "northpace",
        "PGPASSWORD": cluster.password,
    }


def keep_running(home: Path) -> None:
    """Start the cluster in a folder again whenever its server is gone, until this process is
    stopped.
    """
    notes = json.loads((home / "cluster.json").read_text())
    while True:
        if _running(home) is None:
            say("the database is gone; it is started again")
            try:
                _start(server_programs(), home, int(notes["port"]), careless=False)
            except Stop as error:
                say(str(error))
        time.sleep(1.0)


def stop_cluster(cluster: Cluster) -> None:
    """Stop the server, whoever is connected; one that another start runs is left to it."""
    if not cluster.ours:
        return
    subprocess.run(
        as_server(
            [
                str(server_programs() / "pg_ctl"),
                "-D",
                str(cluster.folder / "data"),
                "-m",
                "fast",
                "-w",
                "stop",
            ]
        ),
        cwd="/",
        capture_output=True,
    )


if __name__ == "__main__":
    keep_running(Path(sys.argv[1]))
