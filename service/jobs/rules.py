"""Committing: a computed version becomes a job with a file."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import Max

from northpace.errors import InputError
from northpace.naming import file_name, time_word
from northpace.spec import spec_from
from service.jobs.models import Job
from service.plans.models import PlanVersion
from service.workshop.models import Workshop


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
