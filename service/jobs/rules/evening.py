"""What happens to the queue of a machine while nobody is there: how many jobs run without help,
what the next one waits for, and which order needs the fewest changes of spool.
"""

from __future__ import annotations

from typing import Any

from django.db import transaction

from service.jobs.models import Job
from service.jobs.rules.hanging import needed_change
from service.jobs.rules.minding import mind
from service.workshop.models import Machine


def change_of(machine: Machine, jobs: list[Job]) -> dict[str, Any] | None:
    """What has to be changed on a machine before its next job begins, as the board shows it; None
    if nothing has to be, or while a job runs. ``jobs`` are the machine's open jobs in their order.

    ``instead`` is the spool that hangs there, if it is of the material that the job needs.
    """
    waiting = _waiting(jobs)
    if not waiting or len(waiting) < len(jobs):
        return None
    change = needed_change(machine, waiting[0])
    if change is None:
        return None
    there = machine.loaded
    alike = (
        there is not None
        and change.kind == "spool"
        and change.spool is not None
        and there.material_id == change.job.version.material_id
    )
    return {
        "job": change.job.pk,
        "number": change.job.number,
        "kind": change.kind,
        "words": change.words,
        "steps": change.steps,
        "minutes": change.minutes,
        "grams": change.grams,
        "material": change.job.version.material_id,
        "spool": change.spool.pk if change.spool else None,
        "spool_label": change.spool.label if change.spool else "",
        "nozzle": change.nozzle.pk if change.nozzle else None,
        "instead": machine.loaded_id if alike else None,
        "instead_label": there.label if alike and there is not None else "",
    }


def unattended(machine: Machine, jobs: list[Job]) -> dict[str, Any]:
    """How many of a machine's waiting jobs can run with nobody there, and why the one after them
    cannot. Every job takes its grams from its spool before the next one is looked at.
    """
    waiting = _waiting(jobs)
    busy = len(waiting) < len(jobs)
    left = {job.spool_id: job.spool.usable_mass for job in jobs if job.spool is not None}
    for job in jobs[: len(jobs) - len(waiting)]:
        if job.spool_id is not None:
            left[job.spool_id] -= job.still_taken_g
    then, count = "", 0
    for job in waiting:
        change = needed_change(machine, job)
        if change is not None:
            then = change.words
        elif (busy or count) and not machine.clears_itself:
            then = "the bed has to be cleared"
        elif job.spool is not None:
            left[job.spool_id] -= job.still_taken_g
            if left[job.spool_id] < -1e-6 and not job.begin_short:
                then = f"{job.spool.label} has not enough left for {job}"
        if then:
            break
        count += 1
    return {"count": count, "waiting": len(waiting), "then": then}


def fewer_changes(machine: Machine, jobs: list[Job]) -> dict[str, int] | None:
    """The number of spool changes in the present order of a queue (``now``), and in the order that
    `regroup` would make (``least``). None if that order needs no fewer.
    """
    waiting = _waiting(jobs)
    first = _hangs_when_free(machine, jobs)
    now, least = _changes(first, waiting), _changes(first, _grouped(first, waiting))
    return {"now": now, "least": least} if least < now else None


def regroup(machine: Machine) -> None:
    """Put the waiting jobs of a machine into the order with the fewest changes of spool. Jobs of
    the spool that hangs there come first, then those of each other spool together.
    """
    with transaction.atomic():
        machine = Machine.objects.select_for_update(no_key=True).get(pk=machine.pk)
        jobs = list(Job.objects.filter(machine=machine, state__in=Job.OPEN))
        jobs.sort(key=lambda job: (job.state == Job.State.QUEUED, job.position, job.number))
        waiting = _waiting(jobs)
        first = min((job.position for job in waiting), default=0.0)
        for k, job in enumerate(_grouped(_hangs_when_free(machine, jobs), waiting)):
            job.position = first + k
            job.save(update_fields=["position"])
    mind(machine.pk)


def _waiting(jobs: list[Job]) -> list[Job]:
    return [job for job in jobs if job.state == Job.State.QUEUED]


def _hangs_when_free(machine: Machine, jobs: list[Job]) -> int | None:
    """Key of the spool that will hang on a machine when the first waiting job begins."""
    on = [job.spool_id for job in jobs if job.state != Job.State.QUEUED and job.spool_id]
    return on[-1] if on else machine.loaded_id


def _changes(hangs: int | None, jobs: list[Job]) -> int:
    """The number of spool changes if ``jobs`` are printed in this order and the spool with the key
    ``hangs`` is on the machine before.
    """
    count = 0
    for job in jobs:
        if job.spool_id is not None and job.spool_id != hangs:
            count, hangs = count + 1, job.spool_id
    return count


def _grouped(hangs: int | None, jobs: list[Job]) -> list[Job]:
    """The jobs ordered by spool, beginning with the spool that hangs there. A job that names no
    spool stays behind the job before it.
    """
    order: dict[int | None, list[Job]] = {hangs: []}
    last = hangs
    for job in jobs:
        last = job.spool_id if job.spool_id is not None else last
        order.setdefault(last, []).append(job)
    return [job for group in order.values() for job in group]
