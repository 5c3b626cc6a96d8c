"""Committing: a computed version becomes jobs with a file, after the review."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from northpace.errors import InputError
from northpace.naming import file_name, time_word, words_of
from northpace.spec import digest
from service.beds.models import BedVersion
from service.beds.rules import stored as beds
from service.computed import Computed
from service.jobs.models import Job
from service.jobs.rules.reviewing import Review, review, review_bed
from service.plans.models import PlanVersion
from service.plans.rules import stored
from service.workshop.models import Workshop


def suggested_name(version: PlanVersion, template: str) -> str:
    """The file name the workshop's template gives for a computed version."""
    spec, report = version.whole_spec, version.report
    assert report is not None
    return file_name(
        template,
        {
            "time": time_word(report["time_s"]["total"]),
            "part": version.its_part.name,
            "spool": version.spool.label if version.spool else "no-spool",
            "plan": str(version.plan.number),
            "version": str(version.number),
            "mass": f"{report['filament']['mass_g']:.0f}g",
            **words_of(spec, _above_first(report), timezone.localdate(), 1),
        },
        spec.machine.name_limit,
    )


def _above_first(report: Any) -> list[float]:
    """Heights in mm of the layers above the first, or of that one alone."""
    heights: list[float] = report["layers"]["heights_mm"]
    return heights[1:] or heights


class Press(NamedTuple):
    """A press on *commit*: the template of the file's name, what was ticked, how many copies, and a
    key: the same one commits once, however often it comes.
    """

    template: str | None = None
    ticked: tuple[str, ...] = ()
    copies: int = 1
    key: str = ""


def commit(version: PlanVersion, user: Any, press: Press = Press()) -> list[Job]:
    """Make jobs of a computed version, frozen with spec, file and checksums; raises `InputError`
    for what stops, and for what was not ticked.
    """
    plan, machine = version.plan, version.nozzle.machine
    # before the transaction: what is damaged is queued to be computed anew, which has to stay
    sums = _sums(version, version.checksum, stored.gcode(version) if version.gcode_key else b"")
    template = press.template or plan.workshop.name_template

    def job() -> dict[str, Any]:
        assert version.report is not None  # the review stops what is not computed
        return {
            "version": version,
            "machine": machine,
            "spool": version.spool,
            "file_name": suggested_name(version, template),
            "figures": _figures(version.report),
            "title": f"{version.its_part.name}, {plan} version {version.number}, on {machine}, "
            f"in {version.material}",
        }

    frozen = {"file_key": version.gcode_key, "checksums": sums, "spec": version.spec}
    return _made(plan.workshop, user, press, partial(review, version), lambda: frozen | job())


def commit_bed(version: BedVersion, user: Any, press: Press = Press()) -> list[Job]:
    """Make jobs of a computed bed, one a copy of it, as `commit` does of a plan. The plan that is
    laid first stands for its material.
    """
    bed, machine = version.bed, version.bed.nozzle.machine
    data = beds.gcode(version) if version.gcode_key else b""
    sums = _sums(version, digest(version.spec), data)

    def job() -> dict[str, Any]:
        report = version.report
        assert report is not None  # the review stops what is not computed
        first = version.spec["placings"][report["order"][0][0] - 1]["plan"]
        pin = version.pins.get(pk=int(first))
        count = len(report["placings"])
        return {
            "version": pin,
            "bed": version,
            "copies": [
                {"number": placing["number"], "name": placing["name"], "state": ""}
                for placing in report["placings"]
            ],
            "machine": machine,
            "spool": bed.spool,
            "file_name": bed_name(version, press.template or bed.workshop.name_template),
            "figures": _bed_figures(report, pin),
            "spec": pin.spec,
            "title": f"{bed.name or str(bed).capitalize()} version {version.number}, {count} "
            f"{'placing' if count == 1 else 'placings'}, on {machine}, in {pin.material}",
        }

    frozen = {"file_key": version.gcode_key, "checksums": sums}
    return _made(bed.workshop, user, press, partial(review_bed, version), lambda: frozen | job())


def _sums(version: Computed, spec: str, data: bytes) -> dict[str, str]:
    """Checksums a job keeps: of the spec, of the file (empty where there is none), and the core."""
    return {
        "spec": spec,
        "file": hashlib.sha256(data).hexdigest() if data else "",
        "core": version.core_version,
    }


def _made(
    workshop: Workshop,
    user: Any,
    press: Press,
    look: Callable[[int], Review],
    job: Callable[[], dict[str, Any]],
) -> list[Job]:
    """Jobs of what passes its review, all with the fields of ``job``.

    Review and booking are one: nobody else of the workshop commits between them, so that what the
    review found free on a spool still is.
    """
    with transaction.atomic():
        number = _next_number(workshop.pk)
        made = Job.objects.filter(workshop=workshop, commit_key=press.key).order_by("number")
        if press.key and made:
            return list(made)
        looked = _passed(look(press.copies), press.ticked)
        fields = job()
        return [
            Job.objects.create(
                workshop=workshop,
                number=number + k,
                position=number + k,
                committed_by=user,
                commit_key=press.key,
                checks=[check.as_dict() for check in looked.checks],
                **fields,
            )
            for k in range(press.copies)
        ]


def bed_name(version: BedVersion, template: str) -> str:
    """The file name the workshop's template gives for a computed bed."""
    report, bed = version.report, version.bed
    assert report is not None
    pins = list(version.pins.select_related("plan__part", "part"))
    names = sorted({pin.its_part.name for pin in pins})
    spec = pins[0].whole_spec
    part = names[0] if len(names) == 1 else f"bed-{bed.number}"
    return file_name(
        template,
        {
            "time": time_word(report["total_s"]),
            "part": f"{part}-x{len(report['placings'])}",
            "spool": bed.spool.label if bed.spool else "no-spool",
            "plan": f"b{bed.number}",
            "version": str(version.number),
            "mass": f"{report['mass_g']:.0f}g",
            **words_of(
                spec,
                [height for one in pins for height in _above_first(one.report)],
                timezone.localdate(),
                len(report["placings"]),
            ),
        },
        spec.machine.name_limit,
    )


def _bed_figures(report: Any, pin: PlanVersion) -> dict[str, float]:
    """What of a bed's report its jobs keep."""
    return {
        "time_s": report["total_s"],
        "mass_g": report["mass_g"],
        "length_mm": report["length_mm"],
        "cost": report["cost"],
        "layers": len(report["passes"]["tops_mm"]),
        "top_mm": max(placing["top_mm"] for placing in report["placings"]),
        "spread_s": report["total_s"] * pin.whole_spec.machine.estimate_spread / 100,
    }


def _passed(looked: Review, ticked: tuple[str, ...]) -> Review:
    """The review; raises `InputError` for what stops, and for what was not ticked."""
    stops = [check.words for check in looked.checks if check.level == "stop"]
    if stops:
        raise InputError(" ".join(stops), "commit")
    missing = [
        check.words for check in looked.checks if check.level == "look" and check.key not in ticked
    ]
    if missing:
        raise InputError("not ticked on the review: " + " · ".join(missing), "commit")
    return looked


def _figures(report: Any) -> dict[str, float]:
    """What of a version's report its jobs keep."""
    return {
        "time_s": report["time_s"]["total"],
        "mass_g": report["filament"]["mass_g"],
        "length_mm": report["filament"]["length_mm"],
        "cost": report["filament"]["cost"],
        "layers": report["layers"]["count"],
        "top_mm": report["layers"]["tops_mm"][-1],
        "spread_s": report["time_s"].get("spread", 0.0),
    }


def reprint(job: Job, user: Any) -> Job:
    """The same file once more, at the end of the queue."""
    with transaction.atomic():
        number = _next_number(job.workshop_id)
        return Job.objects.create(
            workshop_id=job.workshop_id,
            version=job.version,
            bed=job.bed,
            copies=[{**copy, "state": ""} for copy in job.copies],
            number=number,
            file_key=job.file_key,
            committed_by=user,
            machine=job.machine,
            spool=job.spool,
            file_name=job.file_name,
            position=number,
            figures=job.figures,
            spec=job.spec,
            checksums=job.checksums,
            checks=job.checks,
            title=job.title,
            reprint_of=job,
        )


def _next_number(workshop_id: int) -> int:
    """The next job's number; one commit of a workshop at a time takes one."""
    workshop = Workshop.objects.select_for_update(no_key=True).get(pk=workshop_id)
    return int(Job.objects.filter(workshop=workshop).aggregate(last=Max("number"))["last"] or 0) + 1


def put_before(job: Job, other: Job | None) -> Job:
    """Give a queued job its place before another one of its machine's queue, or at the end."""
    with transaction.atomic():
        queue = list(
            Job.objects.select_for_update(no_key=True)
            .filter(machine=job.machine, state=Job.State.QUEUED)
            .order_by("position", "number")
        )
        if job not in queue:
            raise InputError(
                f"{job} is {job.state}; only what is queued can be put elsewhere", str(job)
            )
        if other is not None and other not in queue:
            raise InputError(f"{other} does not wait for {job.machine}", str(other))
        if other == job:
            return job
        rest = [entry for entry in queue if entry != job]
        rest.insert(rest.index(other) if other is not None else len(rest), job)
        for place, entry in enumerate(rest, 1):
            if entry.position != place:
                entry.position = place
                entry.save(update_fields=["position"])
    job.refresh_from_db()
    return job
