"""Bringing a job to its machine and beginning it. A job has its run on record before the printer
hears of it, and a printer begins a run once, so that sending can be cut off anywhere and taken up
again.
"""

from __future__ import annotations

import time
import uuid

from django.db import transaction

from service.files import Damaged, fetch
from service.jobs.models import Job
from service.jobs.rules.running import finish, heard, locked, settle
from service.workshop.models import Machine
from service.workshop.rules.printers import Declined, NoContact, Printer, State, printer_of

#: Seconds until a declined job is offered again.
AGAIN = 10.0
#: Why a job ends whose file cannot be sent.
LOST_FILE = "its file is damaged on disk and was not sent; commit the plan again"


def claim(machine: Machine) -> int | None:
    """Take the next job of a machine for sending. Its run is on record before the printer hears of
    it.
    """
    job = _next(machine)
    if job is None or machine.held or time.time() < job.progress.get("again_after", 0.0):
        return None
    job.run, job.state, job.reason = job.run or uuid.uuid4().hex, Job.State.SENDING, ""
    job.save(update_fields=["run", "state", "reason"])
    return job.pk


def send(job_id: int) -> None:
    """Bring a claimed job to its machine and begin it; safe to be cut off and called again."""
    with transaction.atomic():
        machine = locked(job_id)
        job = Job.objects.select_for_update(of=("self",)).select_related("machine").get(pk=job_id)
        if job.state != Job.State.SENDING or machine is None or job.machine_id != machine.pk:
            return
        printer = printer_of(machine)
        assert printer is not None
        try:
            state = deliver(machine, printer, job, None)
        except NoContact as error:
            heard(machine, error=str(error))
            return
        if state is not None:
            heard(machine, state)


def deliver(machine: Machine, printer: Printer, job: Job, state: State | None) -> State | None:
    """File, then start. What the printer declines puts the job back into the queue with
    the reason.
    """
    if job.wish == "cancel":
        finish(job, Job.State.CANCELLED, "cancelled before it began")
        return state
    try:
        printer.take(job.run, job.file_name, fetch(job.file_key))
        state = printer.start(job.run, job.file_name)
    except Damaged:
        finish(job, Job.State.FAILED, LOST_FILE)
        return state
    except Declined as error:
        job.state, job.reason = Job.State.QUEUED, f"declined by {machine.name}: {error}"[:300]
        job.progress = {"again_after": time.time() + AGAIN}
        job.save(update_fields=["state", "reason", "progress"])
        return state
    if job.spool_id and machine.loaded_id != job.spool_id:
        machine.loaded_id = job.spool_id
        machine.save(update_fields=["loaded"])
    settle(job, state)
    return state


def hand_over(machine: Machine, printer: Printer) -> None:
    """Write the next file of a machine that files are carried to; it waits there until a person
    says that it runs.
    """
    if Job.objects.filter(machine=machine, state__in=Job.ACTIVE).exists():
        return
    job = _next(machine)
    if job is None or job.run:
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
        Job.objects.select_for_update()
        .filter(machine=machine, state=Job.State.QUEUED)
        .order_by("position", "number")
        .first()
    )
