"""What is not needed any more goes: old versions of plans, sessions that have ended, and files that
nothing points to.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime, timedelta
from typing import Any, NamedTuple

from django.contrib.sessions.models import Session
from django.core.files.storage import default_storage
from django.db.models import Max, Q, QuerySet
from django.utils import timezone

from service.beds.models import Bed, BedVersion
from service.jobs.models import Job
from service.parts.models import Part
from service.plans.models import Plan, PlanVersion, Search, TestSlice
from service.workshop.models import Workshop

#: A file may be written before the row that points to it; only older ones are looked at.
FRESH = timedelta(minutes=30)
#: So many files go at a time, so that nobody waits for it; the others go the next time.
MOST_FILES = 500


class Tidied(NamedTuple):
    """How much went."""

    versions: int
    files: int
    bytes: int


def tidy(now: datetime | None = None) -> Tidied:
    """Remove what no workshop needs any more."""
    now = now or timezone.now()
    gone = 0
    for workshop in Workshop.objects.filter(keep_days__gt=0):
        # beds first: what they pin stays
        gone += _bed_versions(workshop, now) + _versions(workshop, now)
    Session.objects.filter(expire_date__lt=timezone.now()).delete()
    files, size = _files(now)
    return Tidied(gone, files, size)


def _bed_versions(workshop: Workshop, now: datetime) -> int:
    """Versions of beds older than a workshop keeps them, but for the newest of a bed and the newest
    exact one, what undoing returns to, and what jobs are of.
    """
    before = now - timedelta(days=workshop.keep_days)
    newest = BedVersion.objects.filter(
        pk__in=_newest(Bed.objects.filter(workshop=workshop), BedVersion.State.DONE)
    )
    kept = {key for row in newest.values_list("pk", "back", "forth") for key in row if key}
    old = (
        BedVersion.objects.filter(bed__workshop=workshop, created__lt=before, jobs__isnull=True)
        .exclude(pk__in=kept)
        .exclude(state__in=BedVersion.OPEN)
    )
    _, gone = old.defer("report", "outlines").delete()
    return gone.get(BedVersion._meta.label, 0)


def _newest(rows: QuerySet[Any], done: str) -> set[int]:
    """Keys of the newest version of each row, and of its newest exact one."""
    found = rows.annotate(
        newest=Max("versions__pk"), exact=Max("versions__pk", filter=Q(versions__state=done))
    )
    return {key for row in found.values_list("newest", "exact") for key in row if key}


def _versions(workshop: Workshop, now: datetime) -> int:
    """Versions older than a workshop keeps them, but for the newest of a plan and the newest exact
    one, what undoing returns to, baselines, and what jobs and test slices are of.
    """
    before = now - timedelta(days=workshop.keep_days)
    Search.objects.filter(plan__workshop=workshop, created__lt=before).delete()
    newest = PlanVersion.objects.filter(
        pk__in=_newest(Plan.objects.filter(workshop=workshop), PlanVersion.State.DONE)
    )
    needed = (
        newest.values_list("pk", "back", "forth"),
        Plan.objects.filter(workshop=workshop).values_list("baseline"),
        TestSlice.objects.filter(plan__workshop=workshop).values_list("version"),
        Search.objects.filter(plan__workshop=workshop).values_list("version"),
    )
    kept = {key for rows in needed for row in rows for key in row if key}
    old = (
        PlanVersion.objects.filter(
            plan__workshop=workshop,
            created__lt=before,
            jobs__isnull=True,
            bed_versions__isnull=True,
        )
        .exclude(pk__in=kept)
        .exclude(state__in=PlanVersion.OPEN)
    )
    # reports are large, and of no use to who removes them
    _, gone = old.defer("report", "spec", "settings").delete()
    return gone.get(PlanVersion._meta.label, 0)


def _files(now: datetime) -> tuple[int, int]:
    """Files that nothing points to: how many went, and their bytes."""
    needed = {key for keys in keys_by_kind().values() for key in keys}
    count = size = 0
    for key in _stored():
        if key in needed or default_storage.get_modified_time(key) > now - FRESH:
            continue
        size += default_storage.size(key)
        default_storage.delete(key)
        count += 1
        if count == MOST_FILES:
            break
    return count, size


def _stored() -> Iterator[str]:
    for folder in default_storage.listdir("")[0]:
        for name in default_storage.listdir(folder)[1]:
            yield f"{folder}/{name}"


def keys_by_kind(workshop: Workshop | None = None) -> dict[str, set[str]]:
    """Keys of the files that are pointed to, of one workshop or of all, by what they are."""

    def of(path: str) -> Q:
        return Q() if workshop is None else Q(**{path: workshop})

    def keys(*lists: Iterable[tuple[str, ...]]) -> set[str]:
        return {key for rows in lists for row in rows for key in row if key}

    return {
        "parts": keys(Part.objects.filter(of("workshop")).values_list("file_key", "mesh_key")),
        "plans": keys(
            PlanVersion.objects.filter(of("plan__workshop")).values_list("moves_key", "gcode_key"),
            PlanVersion.objects.filter(
                of("plan__workshop"), state__in=PlanVersion.OPEN
            ).values_list("laid_key"),
        ),
        "beds": keys(
            BedVersion.objects.filter(of("bed__workshop")).values_list("moves_key", "gcode_key")
        ),
        "jobs": keys(Job.objects.filter(of("workshop")).values_list("file_key")),
        "photos": keys(
            Job.objects.filter(of("workshop")).values_list("photo_key"),
            TestSlice.objects.filter(of("plan__workshop")).values_list("photo_key"),
        ),
    }


def room_of(workshop: Workshop) -> dict[str, int]:
    """Bytes on disk by what they are; a job's file is its plan's, and counted there."""
    counted: set[str] = set()
    room = {}
    for kind, keys in keys_by_kind(workshop).items():
        new = {key for key in keys - counted if default_storage.exists(key)}
        room[kind] = sum(default_storage.size(key) for key in new)
        counted |= new
    return room
