"""Beds on the command line."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from northpace.beds.arrange import arranged
from northpace.beds.bed import lay_bed
from northpace.beds.bedplan import BedPlan, bed_plan, without_loops
from northpace.beds.fit import filled
from northpace.beds.report import bed_report
from northpace.beds.spec import BedSpec, bed_from
from northpace.beds.write import write_bed
from northpace.errors import InputError
from northpace.naming import time_word
from northpace.plan.pipeline import Pipeline
from northpace.plan.source import Source
from northpace.spec import PlanSpec, spec_from, with_settings


def lay(options: argparse.Namespace) -> None:
    """Lay a bed. The file holds ``plans`` (a name each: ``part``, a path from the file, and
    ``spec`` or ``set``) and ``bed``, the settings of the bed with its ``placings``.
    """
    spec, plans = read_bed(options.bed)
    if options.arrange:
        spec, beside = arranged(spec, plans)
        if beside:
            raise InputError(
                f"{len(beside)} of {len(spec.placings)} placings do not fit on the bed: "
                + ", ".join(str(number) for number in beside),
                str(options.bed),
            )
    bed = lay_bed(spec, plans)
    report = bed_report(bed, plans)
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
        print(f"  {way['way']:12} {time_word(way['total_s'])}  {way['against']}")
    for finding in report["findings"]:
        print(f"  {finding['severity']}: {finding['message']} {finding['help']}")


def read_bed(path: Path) -> tuple[BedSpec, dict[str, BedPlan]]:
    """A bed and the exact plans it lays; raises `InputError` for what is wrong in the file."""
    try:
        data = json.loads(path.read_text())
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise InputError(f"this is no JSON ({error})", str(path)) from error
    if not isinstance(data, dict) or set(data) != {"plans", "bed"}:
        raise InputError("a bed file holds 'plans' and 'bed', and nothing else", str(path))
    spec, pipeline = bed_from(data["bed"]), Pipeline()
    plans = {
        name: _planned(pipeline, spec, name, said, path) for name, said in data["plans"].items()
    }
    return spec, plans


def _planned(
    pipeline: Pipeline, bed: BedSpec, name: str, said: dict[str, Any], path: Path
) -> BedPlan:
    if not isinstance(said, dict) or "part" not in said or set(said) - {"part", "spec", "set"}:
        raise InputError(f"plan '{name}' holds 'part', and 'spec' or 'set'", str(path))
    spec = with_settings(spec_from(said.get("spec", {})), said.get("set", []))
    return computed(pipeline, Source.at(path.parent / said["part"]), name, spec, bed)


def computed(
    pipeline: Pipeline, source: Source, name: str, spec: PlanSpec, bed: BedSpec
) -> BedPlan:
    """An exact plan for a bed."""
    own = without_loops(spec) if bed.loops == "shared" else spec
    return bed_plan(name, pipeline.plan(source, own), spec.footing)


def fit(
    source: Source, name: str, spec: PlanSpec, said: dict[str, Any], target: Path | None
) -> None:
    """Print how many copies a bed holds."""
    pipeline, found = Pipeline(), {}
    for way in ("together", "in-turn"):
        bed = bed_from({**said, "way": way})
        plans = {name: computed(pipeline, source, name, spec, bed)}
        found[way] = filled(bed, name, plans)
        print(f"{len(found[way].placings):4} {way}")
    if target:
        beds = {way: bed.model_dump() for way, bed in found.items()}
        target.write_text(json.dumps(beds, indent=1) + "\n")
