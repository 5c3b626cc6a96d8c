"""Committing: a computed version becomes a job with a file."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from django.db import transaction
from django.db.models import Max

from northpace.errors import InputError
from northpace.gcode.read import read_gcode
from northpace.motion.learn import Done, learn
from northpace.naming import file_name, time_word
from northpace.spec import spec_from
from service.files import fetch
from service.jobs.models import Job
from service.plans.models import PlanVersion
from service.workshop.models import Machine, Workshop

#: A machine learns from its newest jobs: it wears, and is repaired.
MOST = 24


def suggested_name(version: PlanVersion, template: str) -> str:
    """The file name the workshop's template gives for a computed version."""
    spec, report = spec_from(version.spec), version.report
    assert report is not None
    return file_name(template, {
        "time": time_word(report["time_s"]["total"]), "part": version.plan.part.name, "material": spec.material.name,
        "spool": version.spool.label if version.spool else "no-spool", "plan": str(version.plan.number), "version": str(version.number),
        "machine": spec.machine.name, "nozzle": f"{spec.machine.nozzle:g}", "mass": f"{report['filament']['mass_g']:.0f}g",
        "layer": f"{spec.surface.layer_height:g}"}, spec.machine.name_limit)


def commit(version: PlanVersion, user: Any, template: str | None = None) -> Job:
    """Make a job of a computed version; raises `InputError` while there is nothing exact to commit, or a *stop* finding."""
    if version.state != PlanVersion.State.DONE or version.report is None:
        raise InputError("the exact figures are not computed yet; a job is committed from exact figures only", "commit")
    plan = version.plan
    known = list(plan.acknowledgements.all())
    stops = [finding["message"] for finding in version.report["findings"]
             if finding["severity"] == "stop" and not any(entry.holds(finding) for entry in known)]
    if stops:
        raise InputError("this would not print: " + " ".join(stops) + " Put it right, or acknowledge it with a reason.", "commit")
    with transaction.atomic():
        workshop = Workshop.objects.select_for_update().get(pk=plan.workshop_id)
        number = (Job.objects.filter(workshop=workshop).aggregate(last=Max("number"))["last"] or 0) + 1
        report = version.report
        return Job.objects.create(
            workshop=workshop, version=version, number=number, file_key=version.gcode_key, committed_by=user,
            file_name=suggested_name(version, template or workshop.name_template),
            title=f"{plan.part.name}, {plan} version {version.number}, on {version.nozzle.machine}, in {version.material}",
            figures={"time_s": report["time_s"]["total"], "mass_g": report["filament"]["mass_g"],
                     "length_mm": report["filament"]["length_mm"], "cost": report["filament"]["cost"], "layers": report["layers"]["count"]})


def keep_outcome(job: Job, outcome: str, actual_s: float | None, finishing_min: float, note: str) -> Job:
    """Keep what came of a job, and let its machine learn from it."""
    job.outcome, job.actual_s, job.finishing_min, job.note = outcome, actual_s, finishing_min, note
    job.save(update_fields=["outcome", "actual_s", "finishing_min", "note"])
    relearn(job.version.nozzle.machine)
    return job


def relearn(machine: Machine) -> None:
    """Correct a machine by the jobs on it whose time is known, failed ones left out; with too few of them it counts as it states itself."""
    jobs = Job.objects.filter(version__nozzle__machine=machine, actual_s__isnull=False).exclude(outcome="failed").select_related("version")
    done = []
    for job in jobs.order_by("-number")[:MOST]:
        read = read_gcode(fetch(job.file_key))
        seconds = (job.actual_s or 0.0) - read.start_seconds
        if seconds > 0:
            done.append(Done(read, job.figures["layers"], seconds, spec_from(job.version.spec).machine))
    found = learn(done)
    machine.learnt = asdict(found) if found else None
    machine.save(update_fields=["learnt"])
