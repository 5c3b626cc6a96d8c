"""Everything of a workshop in one file, and back again: database, files and signing key."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import tarfile
import tempfile
from datetime import UTC, datetime
from pathlib import Path

from ops import cluster as db
from ops.steps import Stop, run, say

#: What a backup holds, in this order: the list of all that follows, the database, the rest.
LIST, DUMP = "northpace-backup.json", "database.dump"
VERSION = 1
#: Where the last one is written down, for the page that says how the service is.
LAST = "last-backup.json"


def back_up(cluster: db.Cluster, var: Path, target: Path) -> None:
    """Write a backup. The database is read in one moment, and its files after it: files are
    removed at night alone, so that all that the database names is there. Written beside, checked,
    renamed.
    """
    with tempfile.TemporaryDirectory(prefix="northpace-backup-") as folder:
        dump = Path(folder) / DUMP
        run(
            [str(db.server_programs() / "pg_dump"), "-Fc", "-f", str(dump), "northpace"],
            "the database could not be read",
            env=db.client(cluster),
        )
        files = [DUMP, *_files(var)]
        sums = {name: _sum(dump if name == DUMP else var / name) for name in files}
        listed = Path(folder) / LIST
        listed.write_text(json.dumps({"version": VERSION, "sums": sums}))
        part = target.with_name(target.name + ".part")
        with tarfile.open(part, "w") as archive:
            archive.add(listed, LIST)
            for name in files:
                archive.add(dump if name == DUMP else var / name, name)
    _check(part)
    os.replace(part, target)
    made = {
        "at": datetime.now(UTC).isoformat(timespec="seconds"),
        "file": str(target),
        "bytes": target.stat().st_size,
    }
    (var / LAST).write_text(json.dumps(made))
    say(f"backed up to {target}: the database and {len(files) - 1:,} files")


def restore(cluster: db.Cluster, var: Path, source: Path) -> None:
    """Put a backup into an empty place; ends with a word, and nothing changed, where the backup is
    damaged or the place is not empty.
    """
    if not source.is_file():
        raise Stop(f"there is no backup {source}")
    listed = _check(source)
    ask = "select count(*) from information_schema.tables where table_schema = 'public'"
    programs, client = db.server_programs(), db.client(cluster)
    there = run(
        [str(programs / "psql"), "-Atc", ask, "-d", "northpace"],
        "the database does not let us in",
        env=client,
    )
    if int(there) or _files(var):
        raise Stop(
            "there is a workshop here already; a backup goes into an empty place: move var/ away, "
            "or use another folder of the project"
        )
    var.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="northpace-restore-") as folder:
        with tarfile.open(source) as archive:
            archive.extractall(folder, filter="data")
        run(
            [
                *(str(programs / "pg_restore"), "--no-owner", "--exit-on-error"),
                *("--single-transaction", "-d", "northpace", str(Path(folder) / DUMP)),
            ],
            "the database could not be filled",
            env=client,
        )
        for name in listed:
            if name != DUMP:
                (var / name).parent.mkdir(parents=True, exist_ok=True)
                shutil.move(Path(folder) / name, var / name)
    say(f"restored from {source}: the database and {len(listed) - 1:,} files")


def _files(var: Path) -> list[str]:
    """Stored files and the signing key, by their place below ``var``."""
    found = [path for path in (var / "files").rglob("*") if path.is_file()]
    found += [path for path in [var / "secret"] if path.exists()]
    return sorted(str(path.relative_to(var)) for path in found)


def _sum(path: Path) -> str:
    with path.open("rb") as stream:
        return hashlib.file_digest(stream, "sha256").hexdigest()


def _check(path: Path) -> list[str]:
    """What a backup holds; ends with a word where something is missing or damaged."""
    try:
        with tarfile.open(path) as archive:
            first = archive.extractfile(LIST)
            assert first is not None
            listed = json.loads(first.read())
            if listed["version"] != VERSION:
                raise Stop(f"{path} was made by a newer North Pace; update this one first")
            for name, wanted in listed["sums"].items():
                if Path(name).is_absolute() or ".." in Path(name).parts:
                    raise Stop(f"{path} would write outside of its place, at {name}")
                stream = archive.extractfile(name)
                assert stream is not None
                if hashlib.file_digest(stream, "sha256").hexdigest() != wanted:
                    raise Stop(f"{path} is damaged at {name}; take another backup")
    except (tarfile.TarError, OSError, KeyError, ValueError, AssertionError) as error:
        raise Stop(f"{path} is no whole backup: {error}") from error
    return list(listed["sums"])
