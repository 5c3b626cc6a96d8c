"""Clock times: when what waits for a machine begins and ends, from what is on it and the figures of
what waits before.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from service.jobs.models import Job
from service.workshop.models import Machine


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


def schedule(machine: Machine, jobs: list[Job], now: datetime | None = None) -> dict[int, Slot]:
    """Slots of a machine's open jobs by their key; ``jobs`` in the order they are printed, those on
    the machine first.
    """
    moment = now or timezone.now()
    change, spread, quick = (
        timedelta(minutes=machine.bed_change_min),
        float((machine.learnt or {}).get("spread", 0.0)),
        factor_of(machine),
    )
    slots: dict[int, Slot] = {}
    behind, hangs = 0.0, machine.loaded_id
    for k, job in enumerate(jobs):
        if job.state in Job.ACTIVE and job.progress.get("layers"):
            span, begin = float(job.progress.get("left_s", 0.0)), job.started or moment
        else:
            hands = change if k else timedelta(0)
            if job.spool_id is not None and job.spool_id != hangs:
                hands += timedelta(minutes=machine.spool_change_min)
            span, begin = float(job.figures["time_s"]), moment + hands / quick
        end = max(begin, moment) + timedelta(seconds=span / quick)
        hangs = job.spool_id or hangs
        behind = (behind**2 + (2 * spread * span) ** 2) ** 0.5
        slots[job.pk] = Slot(begin, end, behind / quick)
        moment = end
    return slots


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
    return sorted(found, key=lambda job: (job.state == Job.State.QUEUED, job.position, job.number))


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
