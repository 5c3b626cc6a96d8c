"""Minding the machines: what each one does is found out, written down, and the next job is sent
when its turn comes.

Every step can be cut off anywhere and taken up again: a job has its run before the printer hears of
it, a printer begins a run once, and what was extruded is booked with the change of state it belongs
to, in one transaction. Whoever changes a job on its machine locks the machine first, then the job,
then the spool: minders and makers may do so at the same moment.
"""

from __future__ import annotations

import logging
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

from django.db import connection, transaction

from service.jobs.models import Job
from service.jobs.rules.hanging import next_change
from service.jobs.rules.running import PHASES, finish, heard, settle
from service.jobs.rules.sending import claim, hand_over, send
from service.queue import NO_DATABASE
from service.workshop.models import Machine
from service.workshop.rules.printers import Declined, NoContact, Printer, State, printer_of

log = logging.getLogger(__name__)


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
                self._at[pk] = self._pool.submit(look_after, pk)

    def end(self) -> None:
        """Wait for those that are being looked after."""
        self._pool.shutdown()


def look_after(machine_id: int) -> None:
    try:
        mind(machine_id)
    except NO_DATABASE as error:
        # it comes back, and what the machine did meanwhile is asked again; until then the thread
        # keeps its connection, as a new one costs more than looking after a machine
        log.warning("the database does not answer: %s", error)
        connection.close()
    except Exception:
        log.exception("machine %s could not be looked after", machine_id)


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
        machine = (
            Machine.objects.select_for_update(no_key=True, skip_locked=True)
            .filter(pk=machine_id)
            .first()
        )
        # what was said is of another moment when somebody else was at the machine meanwhile
        if machine is None or _stands(machine) != before:
            return
        if state is None:
            heard(machine, error=error)
            return
        if not printer.tells:
            hand_over(machine, printer)
            heard(machine, state, trouble=_waits_for(machine))
            return
        current = (
            Job.objects.select_for_update(no_key=True)
            .filter(machine=machine, state__in=Job.ACTIVE)
            .order_by("started", "pk")
            .first()
        )
        try:
            if current is not None:
                state = _follow(printer, current, state)
            trouble = ""
            if not Job.objects.filter(machine=machine, state__in=Job.ACTIVE).exists():
                state, trouble = _make_ready(machine, printer, state)
                trouble = trouble or _waits_for(machine)
        except NoContact as error:
            heard(machine, error=str(error))
            return
        heard(machine, state, trouble=trouble)
        waiting = None
        if current is not None and current.state == Job.State.SENDING:
            # the printer never got it, or lost it before it began: the same run again begins
            # nothing twice
            waiting = current.pk
        elif not trouble and state.phase == "idle":
            waiting = claim(machine)
    if waiting is not None:
        send(waiting)


def _stands(machine: Machine) -> tuple[Any, ...]:
    """How a machine and what is on it stand, to find out whether somebody changes it."""
    jobs = Job.objects.filter(machine=machine, state__in=Job.ACTIVE).order_by("pk")
    fields = ("pk", "state", "run", "wish", "copies")
    return (machine.connection, machine.contact, machine.held, *jobs.values_list(*fields))


def _follow(printer: Printer, job: Job, state: State) -> State:
    """Bring a job on a machine to what the machine says of it."""
    if state.run != job.run:
        found = printer.ended(job.run)
        if found is not None:
            settle(job, found)
        elif job.state != Job.State.SENDING:
            finish(
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
    for copy in job.copies:
        if not copy.pop("asked", False):
            continue
        try:
            state = printer.give_up(job.run, copy["number"])
        except Declined as error:
            copy["state"] = ""
            job.reason = f"copy {copy['number']} is not given up: {error}"[:300]
        job.save(update_fields=["copies", "reason"])
    settle(job, state)
    return state


def _waits_for(machine: Machine) -> str:
    """Why the next job of a machine cannot begin although the machine is free; "" if it can."""
    if machine.held or Job.objects.filter(machine=machine, state__in=Job.ACTIVE).exists():
        return ""
    change = next_change(machine)
    return "" if change is None else change.words


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
        try:
            return printer.order("clear", ""), ""
        except Declined as error:
            return state, f"it does not take the order to go on: {error}"
    if state.phase in PHASES:
        return (
            state,
            f"the machine prints {state.name or 'something'}, which was not sent from here",
        )
    return state, ""
