"""The ledger of a spool: every change of what is left on it has a line, and a reason."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Sum

from northpace.errors import InputError
from service.workshop.models import Spool, SpoolEntry


def book(
    spool: Spool, grams: float, kind: str, note: str = "", job: int | None = None
) -> SpoolEntry:
    """Change what is left on a spool by ``grams`` (negative takes) and write the line; nothing goes
    below zero.
    """
    with transaction.atomic():
        locked = Spool.objects.select_for_update(no_key=True).get(pk=spool.pk)
        left = max(locked.usable_mass + grams, 0.0)
        entry = SpoolEntry.objects.create(
            spool=locked,
            kind=kind,
            grams=left - locked.usable_mass,
            left_after=left,
            job_id=job,
            note=note,
        )
        locked.usable_mass = left
        locked.save(update_fields=["usable_mass"])
    spool.usable_mass = left
    return entry


def put_right(spool: Spool, left: float, kind: str, note: str = "") -> SpoolEntry | None:
    """Say what is left on a spool (g), by hand or from a scale."""
    with transaction.atomic():
        # a job may have taken from it since it was read
        now = Spool.objects.select_for_update(no_key=True).get(pk=spool.pk).usable_mass
        return book(spool, left - now, kind, note) if abs(left - now) > 1e-9 else None


def weigh(spool: Spool, gross: float) -> SpoolEntry | None:
    """What a scale says of the spool with its reel (g)."""
    if spool.tare is None:
        raise InputError(
            "the weight of the empty reel (tare) is not known; without it a weighing says nothing",
            "tare",
        )
    if gross < spool.tare:
        raise InputError(
            f"{gross:g} g is less than the empty reel weighs ({spool.tare:g} g)", "gross"
        )
    return put_right(
        spool, gross - spool.tare, SpoolEntry.Kind.WEIGHED, f"weighed {gross:g} g with its reel"
    )


def reserved(spool: Spool) -> float:
    """Grams that open jobs will still take from a spool."""
    return float(sum(job.still_taken_g for job in spool.jobs.open()))


def taken(spool: Spool) -> float:
    """Grams taken off a spool by jobs, all told."""
    return -float(
        spool.entries.filter(kind=SpoolEntry.Kind.TAKEN).aggregate(sum=Sum("grams"))["sum"] or 0.0
    )
