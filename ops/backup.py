"""Everything of a workshop in one file, and back again: database, files and signing key."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import shutil
import tarfile
import tempfile
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from ops import cluster as db
from ops.steps import ROOT, Stop, run, say

#: What a backup holds, in this order: the list of all that follows, the database, the rest.
LIST, DUMP = "northpace-backup.json", "database.dump"
VERSION = 1
#: Where the last one is written down, for the page that says how the service is.
LAST = "last-backup.json"


def back_up(cluster: db.Cluster, var: Path, target: Path) -> None:
    """Write a backup while everything runs. It is written beside, checked, renamed, and nobody but
    the owner may read it, because the signing key is in it.

    The database is read in one moment. Its files are held by links before and after that: what is
    removed meanwhile stays in the backup, and what is written only in part is left out.
    """
    with (
        tempfile.TemporaryDirectory(prefix="northpace-backup-") as folder,
        tempfile.TemporaryDirectory(prefix=".backup-", dir=var) as held,
    ):
        dump = Path(folder) / DUMP
        _hold(var, Path(held))
        run(
            [str(db.server_programs() / "pg_dump"), "-Fc", "-f", str(dump), "northpace"],
            "the database could not be read",
            env=db.client(cluster),
        )
        _hold(var, Path(held))
        sums = {DUMP: _sum(dump), **_sums(Path(held))}
        listed = Path(folder) / LIST
        schema = _schema(cluster)
        listed.write_text(json.dumps({"version": VERSION, "schema": schema, "sums": sums}))
        part = target.with_name(target.name + ".part")
        part.unlink(missing_ok=True)
        with (
            os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as stream,
            tarfile.open(fileobj=stream, mode="w") as archive,
        ):
            archive.add(listed, LIST)
            for name in sums:
                archive.add(dump if name == DUMP else Path(held) / name, name)
    _check(part)
    os.replace(part, target)
    made = {
        "at": datetime.now(UTC).isoformat(timespec="seconds"),
        "file": str(target),
        "bytes": target.stat().st_size,
    }
    (var / LAST).write_text(json.dumps(made))
    say(f"backed up to {target}: the database and {len(sums) - 1:,} files")


def _hold(var: Path, held: Path) -> None:
    """Link all files that are there now into a folder, in which they stay when they are removed."""
    for name in _files(var):
        link = held / name
        if not link.exists():
            link.parent.mkdir(parents=True, exist_ok=True)
            with contextlib.suppress(FileNotFoundError):  # gone since it was listed
                os.link(var / name, link)


def _sums(held: Path) -> dict[str, str]:
    """The sums of all files, without those that are not what they are named after: they are still
    being written, or the disk lost some of them.
    """
    sums = {name: _sum(held / name) for name in _files(held)}
    stored = "files" + os.sep
    return {
        name: found
        for name, found in sums.items()
        if not name.startswith(stored) or Path(name).name.startswith(found)
    }


def _schema(cluster: db.Cluster) -> list[str]:
    """The steps by which the tables became what they are."""
    ask = "select app || '.' || name from django_migrations order by 1"
    programs, client = db.server_programs(), db.client(cluster)
    said = run(
        [str(programs / "psql"), "-Atc", ask, "-d", "northpace"],
        "the database could not be asked for its tables",
        env=client,
    )
    return said.split()


def _newer(schema: list[str]) -> list[str]:
    """The steps of a backup that this program does not know."""
    known, ours = set(), set()
    for path in ROOT.glob("service/*/migrations/[0-9]*.py"):
        ours.add(path.parts[-3])
        known.add(f"{path.parts[-3]}.{path.stem}")
    return [step for step in schema if step.split(".")[0] in ours and step not in known]


def restore(cluster: db.Cluster, var: Path, source: Path) -> None:
    """Put a backup into an empty place; ends with a word, and nothing changed, where the backup is
    damaged or the place is not empty.
    """
    if not source.is_file():
        raise Stop(f"there is no backup {source}")
    listed = _check(source)
    if newer := _newer(listed.get("schema", [])):
        raise Stop(
            f"{source} was made by a newer North Pace, whose tables have '{newer[0]}'; update this "
            "one first"
        )
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
        for name in listed["sums"]:
            if name != DUMP:
                (var / name).parent.mkdir(parents=True, exist_ok=True)
                shutil.move(Path(folder) / name, var / name)
    say(f"restored from {source}: the database and {len(listed['sums']) - 1:,} files")


def _files(var: Path) -> list[str]:
    """Stored files and the signing key, by their place below ``var``."""
    found = [path for path in (var / "files").rglob("*") if path.is_file()]
    found += [path for path in [var / "secret"] if path.exists()]
    return sorted(str(path.relative_to(var)) for path in found)


def _sum(path: Path) -> str:
    with path.open("rb") as stream:
        return hashlib.file_digest(stream, "sha256").hexdigest()


def _check(path: Path) -> dict[str, Any]:
    """The list of what a backup holds; ends with a word where something is missing or damaged."""
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
    return dict(listed)
