"""Beds on the command line."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from northpace.beds.arrange import arranged
from northpace.beds.bed import lay_bed
from northpace.beds.figures import StackFigures
from northpace.beds.fit import filled
from northpace.beds.planning import Asked, Planner
from northpace.beds.report import bed_report
from northpace.beds.spec import BedSpec, bed_from
from northpace.beds.write import write_bed
from northpace.errors import InputError
from northpace.naming import time_word
from northpace.plan.pipeline import Pipeline
from northpace.plan.source import Source
from northpace.spec import PlanSpec, spec_from, with_settings
from northpace.spec.declare import Group
from northpace.spec.validated import validated


def lay(options: argparse.Namespace) -> None:
    """Lay a bed. The file holds ``plans`` (a name each: ``part``, a path from the file, and
    ``spec`` or ``set``) and ``bed``, the settings of the bed with its ``placings``.
    """
    spec, planner = read_bed(options.bed)
    own = planner.own(spec)
    if options.arrange:
        spec, beside = arranged(spec, own)
        if beside:
            raise InputError(
                f"{len(beside)} of {len(spec.placings)} placings do not fit on the bed: "
                + ", ".join(str(number) for number in beside),
                str(options.bed),
            )
    planned = planner.planned(spec, own)
    bed = lay_bed(spec, planned.plans)
    report = bed_report(bed, planned)
    if options.gcode:
        options.gcode.write_bytes(write_bed(bed.laid, {"bed": options.bed.stem}))
    if options.report:
        options.report.write_text(json.dumps(report, indent=1) + "\n")
    print(
        f"{report['total_s'] / 3600:.2f} h, {report['mass_g']:.2f} g, {report['cost']:.2f} €, "
        f"{len(report['placings'])} placings, {len(report['passes']['tops_mm'])} passes, "
        f"{len(report['findings'])} findings"
    )
    for way in report["ways"]:
        name = way["way"] + ", own heights" * (way["heights"] != spec.heights)
        print(f"  {name:12} {time_word(way['total_s'])}  {way['against']}")
    if report["stack"]:
        print(_stack_line(report["stack"]))
    for finding in report["findings"]:
        print(f"  {finding['severity']}: {finding['message']} {finding['help']}")


def _stack_line(stack: StackFigures) -> str:
    errors = ", ".join(
        f"{plan['name']} {plan['um']:.0f} µm (own {plan['own_um']:.0f})" for plan in stack["plans"]
    )
    return (
        f"  one stack for all: {stack['passes']} passes instead of {stack['own_passes']}, "
        f"≈ {time_word(stack['seconds'])} instead of {time_word(stack['own_seconds'])}; "
        f"{stack['measure']}: {errors}"
    )


class PlanOfFile(Group):
    """A plan in a bed file: a part by its path from the file, and what is set for it."""

    part: str
    spec: dict[str, Any] = {}
    set: list[str] = []


class BedFile(Group):
    """A bed and the plans it is laid of, by a name each."""

    plans: dict[str, PlanOfFile]
    bed: dict[str, Any]


def read_bed(path: Path) -> tuple[BedSpec, Planner]:
    """A bed and what it is laid of; raises `InputError` for what is wrong in the file."""
    try:
        data = json.loads(path.read_text())
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as error:
        raise InputError(f"this is no JSON ({error})", str(path)) from error
    try:
        file = validated(BedFile, data)
    except InputError as error:
        said = f"{error.message}; a bed file holds 'plans' and 'bed'"
        raise InputError(said, str(path)) from error
    try:
        asked = {
            name: Asked(
                name,
                Source.at(path.parent / plan.part),
                with_settings(spec_from(plan.spec), plan.set),
            )
            for name, plan in file.plans.items()
        }
        return bed_from(file.bed), Planner(Pipeline(), asked)
    except InputError as error:
        raise InputError(error.message, str(path)) from error


def fit(
    source: Source, name: str, spec: PlanSpec, said: dict[str, Any], target: Path | None
) -> None:
    """Print how many copies a bed holds."""
    planner, found = Planner(Pipeline(), {name: Asked(name, source, spec)}), {}
    for way in ("together", "in-turn"):
        bed = bed_from({**said, "way": way})
        found[way] = filled(bed, name, planner.own(bed))
        print(f"{len(found[way].placings):4} {way}")
    if target:
        beds = {way: bed.model_dump() for way, bed in found.items()}
        target.write_text(json.dumps(beds, indent=1) + "\n")
