"""What a person says: orders to a machine, how a print went that the machine does not tell of, a
bed that is clear, another spool.
"""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils import timezone

from northpace.errors import InputError
from service.jobs.models import Job
from service.jobs.rules.hanging import fit, hang_up, needed_change, note_loaded, tell
from service.jobs.rules.minding import mind
from service.jobs.rules.running import finish, locked, take_off
from service.workshop.models import Machine, Spool
from service.workshop.rules.printers import Declined, NoContact, printer_of

#: Orders that wait for a machine that does not answer.
WISHES = ("pause", "resume", "cancel")


def order(job: Job, what: str) -> Job:
    """Tell a machine to pause, resume or cancel a job; kept as a wish while it does not answer."""
    with transaction.atomic():
        job = Job.objects.select_for_update(no_key=True).get(pk=job.pk)
        if what == "cancel" and job.state == Job.State.QUEUED:
            finish(job, Job.State.CANCELLED, "cancelled before it began")
            return job
        if job.state not in Job.ACTIVE:
            raise InputError(
                f"{job} is {job.state}; only what is on a machine can be told to {what}", str(job)
            )
        printer = printer_of(job.machine) if job.machine is not None else None
        if printer is None or not printer.tells:
            raise InputError(
                f"nobody listens on {job.machine}; {what} it there, and say here when it is "
                "done or failed",
                str(job),
            )
        job.wish = what
        job.save(update_fields=["wish"])
    assert job.machine_id is not None
    mind(job.machine_id)
    job.refresh_from_db()
    return job


def by_hand(
    job: Job, what: str, actual_s: float | None = None, reason: str = "", share: float = 0.0
) -> Job:
    """What a person says of a machine that does not speak: started, done or failed. Done counts as
    laid in full, failed up to the share said.
    """
    with transaction.atomic():
        locked(job.pk)  # nobody says meanwhile that something else hangs there
        job = (
            Job.objects.select_for_update(no_key=True, of=("self",))
            .select_related("machine")
            .get(pk=job.pk)
        )
        if (
            job.machine is not None
            and (printer := printer_of(job.machine)) is not None
            and printer.tells
        ):
            raise InputError(f"{job.machine} says itself what it does", str(job))
        if what == "started" and job.state == Job.State.QUEUED:
            change = needed_change(job.machine, job) if job.machine is not None else None
            if change is not None:
                raise InputError(f"{change.words}; change it, and say so, first", str(job))
            job.state, job.started, job.reason = Job.State.PRINTING, timezone.now(), ""
            job.save(update_fields=["state", "started", "reason"])
        elif what in ("done", "failed") and job.state in (Job.State.PRINTING, Job.State.PAUSED):
            share = 1.0 if what == "done" else share
            job.progress = {
                **job.progress,
                "extruded_mm": share * job.figures["length_mm"],
                "layer": round(share * job.figures["layers"]),
                "layers": job.figures["layers"],
            }
            job.actual_s = actual_s if what == "done" else None
            finish(job, Job.State.DONE if what == "done" else Job.State.FAILED, reason)
        else:
            raise InputError(f"{job} is {job.state}; it cannot be said to be {what}", str(job))
    return job


def clear_bed(machine: Machine) -> Machine:
    """The bed is clear: the machine may start the next job."""
    printer = printer_of(machine)
    if printer is not None and printer.tells:
        try:
            # said twice, or when the next job has begun already, it changes nothing
            if printer.state().phase in ("done", "failed", "cancelled"):
                printer.order("clear", "")
        except (NoContact, Declined) as error:
            raise InputError(str(error), machine.name) from error
        mind(machine.pk)
    machine.refresh_from_db()
    return machine


def begin_short(job: Job) -> Job:
    """Allow a waiting job to begin although its spool has too little left. Somebody promises to be
    there and change the spool.
    """
    with transaction.atomic():
        job = Job.objects.select_for_update(no_key=True).get(pk=job.pk)
        if job.state != Job.State.QUEUED:
            raise InputError(f"{job} is {job.state}; only what waits can be let begin", str(job))
        job.begin_short = True
        job.save(update_fields=["begin_short"])
    if job.machine_id is not None:
        mind(job.machine_id)
    job.refresh_from_db()
    return job


def hung_up(machine: Machine, said: dict[str, Any], user: Any) -> Machine:
    """Note what a person says of a machine: the ``spool`` that hangs there (None for none), the
    ``nozzle`` that is fitted, or both. The job that waited for it begins.
    """
    with transaction.atomic():
        if "nozzle" in said:
            fit(machine, said["nozzle"])
        if "spool" in said:
            hang_up(machine, said["spool"], user)
    mind(machine.pk)
    machine.refresh_from_db()
    return machine


def change_spool(job: Job, spool: Spool, user: Any = None) -> Job:
    """Go on with another spool: what the job took so far is booked on the old one, the rest will be
    on the new.
    """
    with transaction.atomic():
        machine = locked(job.pk)
        job = (
            Job.objects.select_for_update(no_key=True, of=("self",))
            .select_related("machine", "spool", "version__material")
            .get(pk=job.pk)
        )
        if job.state not in Job.OPEN:
            raise InputError(f"{job} is {job.state}; its spool is history", str(job))
        if spool.material_id != job.version.material_id:
            raise InputError(
                f"{spool.label} is {spool.material}; the file was made for {job.version.material}",
                str(job),
            )
        if job.state in Job.ACTIVE and job.state != Job.State.PAUSED:
            raise InputError(
                f"{job} is {job.state}; pause it before another spool is hung up", str(job)
            )
        take_off(job)
        job.spool = spool
        job.save(update_fields=["spool"])
        if machine is not None and job.state == Job.State.PAUSED:
            note_loaded(machine, spool, user)
            machine.save(update_fields=["loaded", "loaded_since", "loaded_by"])
            tell(machine, spool)
    return job
