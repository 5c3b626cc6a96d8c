"""Minding the machines: what each one does is found out, written down, and the next job is sent
when its turn comes.

Every step can be cut off anywhere and taken up again: a job has its run before the printer hears of
it, a printer begins a run once, and what was extruded is booked with the change of state it belongs
to, in one transaction. Whoever changes a job on its machine locks the machine first, then the job,
then the spool: minders and makers may do so at the same moment.
"""

from __future__ import annotations

import logging
import time
import uuid
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import asdict
from typing import Any

from django.db import InterfaceError, OperationalError, connection, transaction
from django.utils import timezone

from northpace.errors import InputError
from service.files import Damaged, fetch
from service.jobs.models import Job
from service.queue import later
from service.workshop.models import Machine, Spool, SpoolEntry
from service.workshop.rules.printers import Declined, NoContact, Printer, State, printer_of
from service.workshop.rules.spools import book

log = logging.getLogger(__name__)
#: What a printer's phase makes of a job.
PHASES = {
    "heating": Job.State.HEATING,
    "printing": Job.State.PRINTING,
    "paused": Job.State.PAUSED,
    "done": Job.State.DONE,
    "failed": Job.State.FAILED,
    "cancelled": Job.State.CANCELLED,
}
#: Seconds until a declined job is offered again.
AGAIN = 10.0
#: Orders that wait for a machine that does not answer.
WISHES = ("pause", "resume", "cancel")


def mind_all() -> int:
    """Look after every machine that has a connection; returns how many."""
    machines = list(Machine.objects.exclude(connection={}).order_by("pk"))
    for machine in machines:
        try:
            mind(machine.pk)
        except Exception:
            # one machine must not keep the others from being looked after
            log.exception("machine %s could not be looked after", machine.pk)
    return len(machines)


class Rounds:
    """Looks after every machine on its own: one that is slow to answer holds up nobody else."""

    #: Most machines that are looked after at the same moment.
    MOST = 32

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(self.MOST, thread_name_prefix="minder")
        self._at: dict[int, Future[None]] = {}

    def begin(self) -> None:
        """Begin to look after every machine that nobody is at yet."""
        for pk in Machine.objects.exclude(connection={}).values_list("pk", flat=True):
            if pk not in self._at or self._at[pk].done():
                self._at[pk] = self._pool.submit(_alone, pk)

    def end(self) -> None:
        """Wait for those that are being looked after."""
        self._pool.shutdown()


def _alone(machine_id: int) -> None:
    try:
        mind(machine_id)
    except (OperationalError, InterfaceError) as error:
        # it comes back, and what the machine did meanwhile is asked again
        log.warning("the database does not answer: %s", error)
    except Exception:
        log.exception("machine %s could not be looked after", machine_id)
    finally:
        connection.close()


def mind(machine_id: int) -> None:
    """Look after one machine; when someone else does so at this moment, that is enough."""
    asked = Machine.objects.filter(pk=machine_id).first()
    printer = printer_of(asked) if asked is not None else None
    if asked is None or printer is None:
        return
    before = _stands(asked)
    state, error = None, ""
    try:  # before anything is locked: whoever waits for an answer holds nobody up
        state = printer.state()
    except NoContact as lost:
        error = str(lost)
    except Declined as declined:
        error = f"the printer declines to say how it is: {declined}"
    with transaction.atomic():
        machine = Machine.objects.select_for_update(skip_locked=True).filter(pk=machine_id).first()
        # what was said is of another moment when somebody else was at the machine meanwhile
        if machine is None or _stands(machine) != before:
            return
        if state is None:
            _heard(machine, error=error)
            return
        if not printer.tells:
            _heard(machine, state)
            _hand_over(machine, printer)
            return
        current = (
            Job.objects.select_for_update()
            .filter(machine=machine, state__in=Job.ACTIVE)
            .order_by("started", "pk")
            .first()
        )
        try:
            if current is not None:
                state = _follow(machine, printer, current, state)
            trouble = ""
            if not Job.objects.filter(machine=machine, state__in=Job.ACTIVE).exists():
                state, trouble = _make_ready(machine, printer, state)
        except NoContact as error:
            _heard(machine, error=str(error))
            return
        _heard(machine, state, trouble=trouble)
        claimed = _claim(machine) if not trouble and state.phase == "idle" else None
    if claimed is not None:
        send(claimed)


def _stands(machine: Machine) -> tuple[Any, ...]:
    """How a machine and what is on it stand, to find out whether somebody changes it."""
    jobs = Job.objects.filter(machine=machine, state__in=Job.ACTIVE).order_by("pk")
    fields = ("pk", "state", "run", "wish")
    return (machine.connection, machine.contact, machine.held, *jobs.values_list(*fields))


def _heard(
    machine: Machine, state: State | None = None, error: str = "", trouble: str = ""
) -> None:
    """Keep what was heard from a machine, or since when nothing was."""
    before = machine.contact
    now = timezone.now().isoformat()
    if error:
        machine.contact = {**before, "error": error, "lost": before.get("lost") or now}
    else:
        assert state is not None
        machine.contact = {
            "state": asdict(state),
            "seen": now,
            "error": "",
            "lost": None,
            "trouble": trouble,
        }
    machine.save(update_fields=["contact"])


def _follow(machine: Machine, printer: Printer, job: Job, state: State) -> State:
    """Bring a job on a machine to what the machine says of it."""
    if state.run != job.run:
        found = printer.ended(job.run)
        if found is not None:
            _settle(job, found)
        elif job.state == Job.State.SENDING:
            # the printer never got it, or lost it before it began: the same run again begins
            # nothing twice
            return _deliver(machine, printer, job, state)
        else:
            _finish(
                job,
                Job.State.FAILED,
                "the printer no longer knows this job; what it had extruded when last heard "
                "of is booked",
            )
        return state
    if job.wish:
        try:
            state = printer.order(job.wish, job.run)
        except Declined as error:
            job.reason = f"{job.wish} was declined: {error}"[:300]
        job.wish = ""
        job.save(update_fields=["wish", "reason"])
    _settle(job, state)
    return state


def _settle(job: Job, state: State) -> None:
    """Write a printer's word about a job's run down."""
    new = PHASES.get(state.phase)
    if new is None:
        return
    job.progress = {
        "layer": state.layer,
        "layers": state.layers,
        "seconds": state.seconds,
        "left_s": state.left_s,
        "extruded_mm": state.extruded_mm,
        "nozzle": state.nozzle,
        "bed": state.bed,
    }
    if new in Job.ENDED:
        job.actual_s = state.seconds if new == Job.State.DONE else job.actual_s
        _finish(job, new, state.reason)
        return
    if job.started is None:
        job.started = timezone.now()
    job.state, job.reason = new, state.reason
    job.save(update_fields=["state", "reason", "progress", "started"])


def _finish(job: Job, state: str, reason: str) -> None:
    """End a job: its state, what it took off the spool, and what its machine learns, all or
    nothing.
    """
    take_off(job)
    job.state, job.reason, job.ended, job.wish = state, reason[:300], timezone.now(), ""
    job.save(update_fields=["state", "reason", "ended", "wish", "progress", "actual_s"])
    if state == Job.State.DONE and job.actual_s:
        later("jobs.tasks.learn_from", machine_id=job.machine_id)


def take_off(job: Job) -> None:
    """Book what a job has extruded since it was last booked."""
    extruded = float(job.progress.get("extruded_mm", 0.0))
    new = extruded - job.booked_mm
    if new <= 0:
        return
    job.booked_mm = extruded
    job.save(update_fields=["booked_mm"])
    if job.spool is not None:
        book(
            job.spool,
            -new * job.grams_per_mm,
            SpoolEntry.Kind.TAKEN,
            f"job {job.number}, {extruded / 1000:.3f} m extruded",
            job.pk,
        )


def _make_ready(machine: Machine, printer: Printer, state: State) -> tuple[State, str]:
    """Whether the next job can start: the state then, and what stands in the way."""
    if state.phase in ("done", "failed", "cancelled"):
        if not machine.clears_itself:
            return state, f"{state.name or 'the last part'} lies on the bed; say when it is clear"
        if state.phase != "done":
            return (
                state,
                f"the last print {state.phase}; look at the machine, then say that its bed is "
                "clear",
            )
        return printer.order("clear", ""), ""
    if state.phase in PHASES:
        return (
            state,
            f"the machine prints {state.name or 'something'}, which was not sent from here",
        )
    return state, ""


def _next(machine: Machine) -> Job | None:
    return (
        Job.objects.select_for_update()
        .filter(machine=machine, state=Job.State.QUEUED)
        .order_by("position", "number")
        .first()
    )


def _claim(machine: Machine) -> int | None:
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
        machine = _locked(job_id)
        job = Job.objects.select_for_update(of=("self",)).select_related("machine").get(pk=job_id)
        if job.state != Job.State.SENDING or machine is None or job.machine_id != machine.pk:
            return
        printer = printer_of(machine)
        assert printer is not None
        try:
            state = _deliver(machine, printer, job, None)
        except NoContact as error:
            _heard(machine, error=str(error))
            return
        if state is not None:
            _heard(machine, state)


#: Why a job ends whose file cannot be sent.
LOST_FILE = "its file is damaged on disk and was not sent; commit the plan again"


def _locked(job_id: int) -> Machine | None:
    """The machine of a job, locked."""
    return Machine.objects.select_for_update(of=("self",)).filter(jobs=job_id).first()


def _deliver(machine: Machine, printer: Printer, job: Job, state: State | None) -> Any:
    """File, then start. What the printer declines puts the job back into the queue with
    the reason.
    """
    if job.wish == "cancel":
        _finish(job, Job.State.CANCELLED, "cancelled before it began")
        return state
    try:
        printer.take(job.run, job.file_name, fetch(job.file_key))
        state = printer.start(job.run, job.file_name)
    except Damaged:
        _finish(job, Job.State.FAILED, LOST_FILE)
        return state
    except Declined as error:
        job.state, job.reason = Job.State.QUEUED, f"declined by {machine.name}: {error}"[:300]
        job.progress = {"again_after": time.time() + AGAIN}
        job.save(update_fields=["state", "reason", "progress"])
        return state
    if job.spool_id and machine.loaded_id != job.spool_id:
        machine.loaded_id = job.spool_id
        machine.save(update_fields=["loaded"])
    _settle(job, state)
    return state


def _hand_over(machine: Machine, printer: Printer) -> None:
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
        _finish(job, Job.State.FAILED, LOST_FILE)
        return
    except NoContact as error:
        job.run, job.reason = "", str(error)[:300]
        job.save(update_fields=["run", "reason"])
        return
    job.reason = f"{job.file_name} lies on the drive; start it at the machine and say so"
    job.save(update_fields=["run", "reason"])


def order(job: Job, what: str) -> Job:
    """Tell a machine to pause, resume or cancel a job; kept as a wish while it does not answer."""
    with transaction.atomic():
        job = Job.objects.select_for_update().get(pk=job.pk)
        if what == "cancel" and job.state == Job.State.QUEUED:
            _finish(job, Job.State.CANCELLED, "cancelled before it began")
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
        job = Job.objects.select_for_update(of=("self",)).select_related("machine").get(pk=job.pk)
        if (
            job.machine is not None
            and (printer := printer_of(job.machine)) is not None
            and printer.tells
        ):
            raise InputError(f"{job.machine} says itself what it does", str(job))
        if what == "started" and job.state == Job.State.QUEUED:
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
            _finish(job, Job.State.DONE if what == "done" else Job.State.FAILED, reason)
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


def change_spool(job: Job, spool: Spool) -> Job:
    """Go on with another spool: what the job took so far is booked on the old one, the rest will be
    on the new.
    """
    with transaction.atomic():
        machine = _locked(job.pk)
        job = (
            Job.objects.select_for_update(of=("self",))
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
            machine.loaded = spool
            machine.save(update_fields=["loaded"])
            printer = printer_of(machine)
            if printer is not None:
                try:
                    printer.reload(spool.usable_mass / job.grams_per_mm)
                except (NoContact, Declined) as error:
                    raise InputError(str(error), machine.name) from error
    return job
