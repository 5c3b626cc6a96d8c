"""How often a plan was printed, when last, and what came of it: kept with the plan, because a list
of thousands cannot look through the jobs of each.
"""

from __future__ import annotations

from datetime import datetime
from typing import NamedTuple

from django.db.models import Q

from service.jobs.models import Job
from service.plans.models import Plan, PlanVersion


class Prints(NamedTuple):
    """What came of a plan."""

    #: when the last one was done
    printed: datetime | None
    #: of how many it is known what came of them, and how many of these are good
    told: int
    good: int


def note_prints(job: Job) -> None:
    """Keep with every plan of a job what came of it so far."""
    plans = {job.version.plan_id}
    if job.bed is not None:
        plans |= set(job.bed.pins.values_list("plan", flat=True))
    for plan in plans:
        Plan.objects.filter(pk=plan).update(**prints_of(plan)._asdict())


def prints_of(plan: int) -> Prints:
    """What came of a plan so far: of its own jobs, and of its copies on beds."""
    versions = set(PlanVersion.objects.filter(plan=plan).values_list("pk", flat=True))
    jobs = Job.objects.filter(
        Q(bed=None, version__plan=plan) | Q(bed__pins__plan=plan), state__in=Job.ENDED
    )
    printed, outcomes = None, []
    for job in jobs.select_related("bed").defer("spec", "figures", "checks").distinct():
        mine = _outcomes(job, versions)
        outcomes += mine
        if job.state == Job.State.DONE and job.ended and mine:
            printed = max(printed or job.ended, job.ended)
    known = [outcome for outcome in outcomes if outcome]
    return Prints(printed, len(known), known.count("good"))


def _outcomes(job: Job, versions: set[int]) -> list[str]:
    """What came of every copy in a job that is of one of these versions of a plan."""
    if job.bed is None:
        return [job.outcome]
    placings = job.bed.spec["placings"]
    return [
        copy["state"]
        for copy in job.copies
        if int(placings[copy["number"] - 1]["plan"]) in versions
    ]
