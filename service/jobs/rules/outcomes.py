"""What came of jobs: kept with them, learnt from by their machines and spools, and counted in the
cost of their plan.
"""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from northpace.errors import InputError
from northpace.gcode.read import read_gcode
from northpace.motion.learn import Done, learn
from service.files import Damaged, fetch
from service.jobs.models import Job
from service.jobs.rules.instructions import by_hand
from service.jobs.rules.prints import note_prints
from service.queue import SMALL, later
from service.workshop.models import Machine

#: A machine learns from its newest jobs: it wears, and is repaired.
MOST = 24
#: A flow correction by weight further off than this (a share) is a mistake in weighing.
FURTHEST = 0.25
#: What is told of a job.
TOLD = ("outcome", "finishing_min", "note", "weighed_g", "measures")


def keep_outcome(job: Job, values: dict[str, Any]) -> Job:
    """Keep what came of a job, and let its machine learn from it."""
    if job.state in Job.ACTIVE:
        raise InputError(
            f"{job} is {job.state}; what came of it is known when it has ended", str(job)
        )
    if job.state == Job.State.QUEUED:
        # printed without the board knowing of it: the maker's word is taken
        by_hand(job, "started")
        job = by_hand(
            job, "failed" if values["outcome"] == "failed" else "done", values.get("actual_s")
        )
    for name in TOLD:
        if name in values:
            setattr(job, name, values[name])
    if values.get("actual_s") is not None:
        job.actual_s = values["actual_s"]
    job.save(update_fields=[*TOLD, "actual_s"])
    note_prints(job)
    later("jobs.tasks.learn_from", SMALL, job.workshop_id, machine_id=job.machine_id)
    return job


def relearn(machine: Machine) -> None:
    """Correct a machine by the jobs on it whose time is known, failed ones left out; with too few
    of them it counts as it states itself.
    """
    jobs = Job.objects.filter(
        machine=machine, actual_s__isnull=False, state=Job.State.DONE
    ).exclude(outcome="failed")
    done = []
    for job in jobs.order_by("-number")[:MOST]:
        if job.given_up:
            continue  # not all of its file was laid
        try:
            read = read_gcode(fetch(job.file_key))
        except Damaged:
            continue  # nothing is learnt from what cannot be read
        seconds = (job.actual_s or 0.0) - read.start_seconds
        if seconds > 0:
            done.append(Done(read, job.figures["layers"], seconds, job.whole_spec.machine))
    found = learn(done)
    machine.learnt = asdict(found) if found else None
    machine.save(update_fields=["learnt"])


def flow_by_weight(job: Job) -> float:
    """The flow correction in % that would have made the part weigh what its plan says; raises
    `InputError` where the weighing cannot be right.
    """
    if not job.weighed_g:
        raise InputError("the finished part was not weighed", str(job))
    planned = job.booked_mm * job.grams_per_mm if job.given_up else job.figures["mass_g"]
    ratio = planned / job.weighed_g
    if abs(ratio - 1) > FURTHEST:
        raise InputError(
            f"the part weighs {job.weighed_g:g} g and its plan says "
            f"{planned:.2f} g: too far apart for a flow that is a "
            "little off; was it weighed with its footing, or without a support?",
            str(job),
        )
    return float(job.spec["material"]["flow"] * ratio)


def correct_flow(job: Job) -> float:
    """Give the spool of a weighed job the flow that makes parts weigh what their plans say."""
    if job.spool is None:
        raise InputError("the job has no spool to correct", str(job))
    flow = round(flow_by_weight(job), 2)
    job.spool.figures = {**job.spool.figures, "flow": flow}
    job.spool.save(update_fields=["figures"])
    return flow
