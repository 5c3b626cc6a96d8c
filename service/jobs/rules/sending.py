"""Bringing a job to its machine and beginning it. A job has its run on record before the printer
hears of it, and a printer begins a run once, so that sending can be cut off anywhere and taken up
again.
"""

from __future__ import annotations

import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction

from service.files import Damaged, fetch
from service.jobs.models import Job
from service.jobs.rules.hanging import needed_change
from service.jobs.rules.running import finish, heard, locked, settle
from service.workshop.models import Machine
from service.workshop.rules.printers import Declined, NoContact, Printer, printer_of

#: Seconds until a declined job is offered again.
AGAIN = 10.0
#: The kind of lock that a job has while it is brought to its machine.
SENDING = 4711
#: Why a job ends whose file cannot be sent.
LOST_FILE = "its file is damaged on disk and was not sent; commit the plan again"


def claim(machine: Machine) -> int | None:
    """Take the next job of a machine for sending. Its run is on record before the printer hears of
    it.
    """
    job = _next(machine)
    if job is None or machine.held or time.time() < job.progress.get("again_after", 0.0):
        return None
    if needed_change(machine, job) is not None:
        return None
    job.run, job.state, job.reason = job.run or uuid.uuid4().hex, Job.State.SENDING, ""
    job.save(update_fields=["run", "state", "reason"])
    return job.pk


def send(job_id: int) -> None:
    """Bring a claimed job to its machine and begin it; safe to be cut off and called again.

    Nothing is locked while the file is on its way, which may take minutes: who cancels meanwhile is
    heard, and it is never begun.
    """
    with _alone(job_id) as alone:
        job = Job.objects.select_related("machine").filter(pk=job_id).first()
        if not alone or job is None or job.state != Job.State.SENDING or job.machine is None:
            return
        printer = printer_of(job.machine)
        if printer is None:
            return
        trouble = _bring(printer, job)
        with transaction.atomic():
            machine = locked(job_id)
            now = Job.objects.select_for_update(no_key=True, of=("self",)).get(pk=job_id)
            if now.state != Job.State.SENDING or now.run != job.run or now.machine_id is None:
                return
            if machine is not None and machine.connection == job.machine.connection:
                _begin(machine, printer, now, trouble)


@contextmanager
def _alone(job_id: int) -> Iterator[bool]:
    """Whether nobody else brings this job to its machine; until the end, or until this process or
    its connection is gone.
    """
    with connection.cursor() as cursor:
        cursor.execute("select pg_try_advisory_lock(%s, %s)", [SENDING, job_id])
        (mine,) = cursor.fetchone()
    try:
        yield bool(mine)
    finally:
        if mine:
            with connection.cursor() as cursor:
                cursor.execute("select pg_advisory_unlock(%s, %s)", [SENDING, job_id])


def _bring(printer: Printer, job: Job) -> Damaged | Declined | NoContact | None:
    """The file to its machine; what stood in the way."""
    if job.wish == "cancel":
        return None
    try:
        printer.take(job.run, job.file_name, fetch(job.file_key))
    except (Damaged, Declined, NoContact) as error:
        return error
    return None


def _begin(
    machine: Machine,
    printer: Printer,
    job: Job,
    trouble: Damaged | Declined | NoContact | None,
) -> None:
    """Begin a job whose file is there. What the printer declines puts the job back into the queue
    with the reason.
    """
    if job.wish == "cancel":
        finish(job, Job.State.CANCELLED, "cancelled before it began")
        return
    if isinstance(trouble, Damaged):
        finish(job, Job.State.FAILED, LOST_FILE)
        return
    # somebody may have hung up another spool while the file was on its way
    change = needed_change(machine, job)
    if change is not None:
        job.state, job.reason = Job.State.QUEUED, change.words[:300]
        job.save(update_fields=["state", "reason"])
        return
    try:
        if trouble is not None:
            raise trouble
        # this is answered at once, and what it does is to be on record with it
        state = printer.start(job.run, job.file_name)
    except NoContact as error:
        heard(machine, error=str(error))
        return
    except Declined as error:
        job.state, job.reason = Job.State.QUEUED, f"declined by {machine.name}: {error}"[:300]
        job.progress = {"again_after": time.time() + AGAIN}
        job.save(update_fields=["state", "reason", "progress"])
        return
    settle(job, state)
    heard(machine, state)


def hand_over(machine: Machine, printer: Printer) -> None:
    """Write the next file of a machine that files are carried to; it waits there until a person
    says that it runs.
    """
    if Job.objects.filter(machine=machine, state__in=Job.ACTIVE).exists():
        return
    job = _next(machine)
    if job is None or job.run or needed_change(machine, job) is not None:
        return
    job.run = uuid.uuid4().hex
    try:
        printer.take(job.run, job.file_name, fetch(job.file_key))
    except Damaged:
        finish(job, Job.State.FAILED, LOST_FILE)
        return
    except NoContact as error:
        job.run, job.reason = "", str(error)[:300]
        job.save(update_fields=["run", "reason"])
        return
    job.reason = f"{job.file_name} lies on the drive; start it at the machine and say so"
    job.save(update_fields=["run", "reason"])


def _next(machine: Machine) -> Job | None:
    return (
        Job.objects.select_for_update(no_key=True)
        .filter(machine=machine, state=Job.State.QUEUED)
        .order_by("position", "number")
        .first()
    )
