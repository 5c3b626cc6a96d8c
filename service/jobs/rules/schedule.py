"""Clock times: when what waits for a machine begins and ends, from what is on it and the figures of
what waits before.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from northpace.schedule.lined_up import Print, Turnover, lined_up
from northpace.schedule.week import AHEAD_S, Presence
from service.jobs.models import Job
from service.workshop.models import Machine
from service.workshop.rules.house import presence_of


@dataclass(frozen=True)
class Slot:
    """When a job begins and ends, and how far either side of the end it may come out by the
    machine's jobs so far (two standard deviations).
    """

    begin: datetime
    end: datetime
    give_s: float


def factor_of(machine: Machine) -> float:
    """Seconds a machine does in a real one: 1, but for simulated ones."""
    return max(float((machine.contact.get("state") or {}).get("factor") or 1.0), 1e-6)


def as_simulated(name: str, factor: float) -> str:
    """What to say of clock times of a machine that does not run in real time; else nothing."""
    return "" if factor == 1 else f"{name} is simulated, {factor:g} times as fast as a real one"


def schedule(
    machine: Machine,
    jobs: list[Job],
    now: datetime | None = None,
    presence: Presence | None = None,
) -> dict[int, Slot]:
    """When the open jobs of a machine begin and end, by their keys. ``jobs`` are sorted as
    `in_queue` does. Work by hand between them waits until somebody is there; ``presence`` says when
    that is, from ``now`` on, and is looked up if it is not given.
    """
    moment = now or timezone.now()
    presence = presence or presence_of(machine.workshop, moment)
    spread, quick = float((machine.learnt or {}).get("spread", 0.0)), factor_of(machine)
    prints = [_print_of(job, quick) for job in jobs]
    times = lined_up(prints, turnover_of(machine), presence, machine.loaded_id)
    slots: dict[int, Slot] = {}
    behind = 0.0
    for job, one, at in zip(jobs, prints, times, strict=True):
        behind = (behind**2 + (2 * spread * one.seconds) ** 2) ** 0.5
        begin = job.started if one.running and job.started else _later(moment, at.begin)
        slots[job.pk] = Slot(begin, _later(moment, at.end), behind)
    return slots


def turnover_of(machine: Machine) -> Turnover:
    """How long the changes between two prints of a machine take on the clock. They take less if it
    is simulated faster than a real one.
    """
    quick = factor_of(machine)
    return Turnover(
        60 * machine.bed_change_min / quick,
        60 * machine.spool_change_min / quick,
        machine.clears_itself,
    )


def _print_of(job: Job, quick: float) -> Print:
    if job.state in Job.ACTIVE and job.progress.get("layers"):
        return Print(float(job.progress.get("left_s", 0.0)) / quick, job.spool_id, running=True)
    return Print(float(job.figures["time_s"]) / quick, job.spool_id)


def _later(moment: datetime, seconds: float) -> datetime:
    """A moment so many seconds later, at most as many days ahead as schedules look."""
    return moment + timedelta(seconds=min(seconds, AHEAD_S))


#: What is large and no list of jobs shows.
HEAVY = (
    "version__report",
    "version__spec",
    "version__settings",
    "bed__report",
    "bed__outlines",
    "bed__spec",
    "version__part__picture",
    "version__plan__part__picture",
)


def open_jobs(machine: Machine) -> list[Job]:
    """Jobs on a machine and waiting for it, in the order they are printed."""
    found = list(
        Job.objects.filter(machine=machine, state__in=Job.OPEN)
        .select_related(
            "version__plan__part",
            "version__part",
            "version__nozzle",
            "version__material",
            "bed",
            "spool__material",
            "machine",
            "committed_by__member",
        )
        .defer(*HEAVY)
    )
    return in_queue(found)


def in_queue(jobs: list[Job]) -> list[Job]:
    """The open jobs of a machine, sorted: the one on the machine first, then those that wait."""
    return sorted(jobs, key=lambda job: (job.state == Job.State.QUEUED, job.position, job.number))


def next_slot(machine: Machine, seconds: float, spool: int | None = None) -> Slot:
    """When one more job would begin and end that takes ``seconds`` and the spool with that key."""
    more = Job(
        pk=0,
        machine=machine,
        spool_id=spool,
        state=Job.State.QUEUED,
        figures={"time_s": seconds},
        progress={},
    )
    return schedule(machine, [*open_jobs(machine), more])[0]
