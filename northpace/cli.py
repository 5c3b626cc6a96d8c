"""The command line: ``python -m northpace …``.

Exit 0: done; 2: the input or a setting is wrong (one line says what, where and what is allowed); 1:
a fault of the program.
"""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from northpace.beds import command as beds
from northpace.errors import InputError
from northpace.export import export_for, exports
from northpace.figures import Report
from northpace.gcode.read import read_gcode
from northpace.moves import to_arrow
from northpace.plan import mesh_command as meshes
from northpace.plan.compare import compare
from northpace.plan.file import PlanFile, read_plan, write_plan
from northpace.plan.pipeline import Pipeline, Source
from northpace.proposals.held import GIVE, Held, held_now
from northpace.proposals.options import FAMILIES
from northpace.proposals.search import Aim, propose
from northpace.proposals.standing import FAMILY as STANDING
from northpace.schedule import command as schedules
from northpace.spec import PlanSpec, settings, spec_from, with_settings
from northpace.ways import command as ways

#: An option that may be given several times.
MANY: dict[str, Any] = {"action": "append", "default": []}


def main(arguments: list[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    parser = _parser()
    try:
        options = parser.parse_args(arguments)
    except SystemExit as stop:
        return int(stop.code or 0)
    try:
        options.run(options)
    except InputError as error:
        print(" ".join(str(error).split()), file=sys.stderr)
        return 2
    except OSError as error:
        print(f"{error.filename or 'file'}: {error.strerror}", file=sys.stderr)
        return 2
    return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="python -m northpace", description="Plan how a printed part is laid down."
    )
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    def command(name: str, run: Callable[..., None], help: str) -> argparse.ArgumentParser:
        added = commands.add_parser(name, help=help)
        added.set_defaults(run=run)
        return added

    def of_part(name: str, run: Callable[..., None], help: str) -> argparse.ArgumentParser:
        """A command about a part with settings, which writes a report."""
        added = command(name, run, help)
        added.add_argument("part", type=Path, help="a mesh file, or a plan's .3mf file")
        added.add_argument("--spec", type=Path, help="a plan spec as JSON")
        added.add_argument("--set", **MANY, metavar="GROUP.NAME=VALUE", dest="pairs")
        subject = {_plan: "report", _compare: "comparison"}.get(run)
        added.add_argument("--report", type=Path, help=_suffixes(subject) if subject else ".json")
        return added

    plan = of_part("plan", _plan, "from a mesh file to G-code, move table and report")
    plan.add_argument("--gcode", type=Path)
    plan.add_argument("--moves", type=Path, help=_suffixes("moves"))
    plan.add_argument("--save", type=Path, help="the plan as a .3mf file, read back to the same")
    of_part("profile", _profile, "area, perimeter and islands along the height")
    of_part("frontier", _frontier, "least time for every surface error, beside the even stacks")
    side = of_part(
        "compare",
        _compare,
        "plans of a part side by side; the one of --spec and --set is the baseline",
    )
    side.add_argument(
        "--with",
        **MANY,
        nargs="+",
        metavar="GROUP.NAME=VALUE",
        dest="others",
        help="another plan: what it changes",
    )
    _proposing(
        of_part(
            "propose",
            _propose,
            "what would make the plan quicker within what is held, each change computed exactly",
        )
    )
    ways.add_options(
        of_part("ways", _ways, "ways up, with what each costs; * marks those no other beats")
    )
    meshes.add_cutting(
        of_part("mesh", _mesh, "faults of a file, what mending and thinning did, its bodies"),
        of_part("cut", _cut, "cut a part by a plane into two that stand on the cut"),
    )
    _bedding(
        command("bed", beds.lay, "lay several plans on one bed: G-code and report"),
        of_part("fit", _fit, "how many copies a bed holds, together and in turn"),
    )
    _looking(command)
    return parser


def _looking(command: Callable[..., argparse.ArgumentParser]) -> None:
    """What is looked up: settings, shapes of the sample workshop, a file; and what is scheduled."""
    schedules.add_options(
        command("orders", schedules.orders, "which bed is laid when and where for orders")
    )
    listing = command("settings", _settings, "every setting with unit, bounds, default and help")
    listing.add_argument("--json", action="store_true")
    sample = command("sample", _sample, "write a shape of the sample workshop")
    sample.add_argument("name")
    sample.add_argument("--out", type=Path, required=True)
    check = command(
        "check-gcode", _check, "read a G-code file back: time, filament, bounds, by feature"
    )
    check.add_argument("file", type=Path)


def _bedding(bed: argparse.ArgumentParser, fit: argparse.ArgumentParser) -> None:
    """What beds can be told."""
    bed.add_argument("bed", type=Path, help="a bed as JSON: plans and placings")
    bed.add_argument("--arrange", action="store_true", help="arrange the placings first")
    bed.add_argument("--gcode", type=Path)
    bed.add_argument("--report", type=Path, help=".json")
    fit.add_argument("--clearance", type=float, default=4.0, help="mm between copies")
    fit.add_argument("--turn-step", type=float, default=15.0, help="turns by so many degrees")


def _proposing(command: argparse.ArgumentParser) -> None:
    """What a search for proposals can be told."""
    command.add_argument(
        "--give",
        type=float,
        default=100 * GIVE,
        metavar="PERCENT",
        help="share by which thickness, surface and stiffness may fall short",
    )
    command.add_argument("--keep", **MANY, metavar="GROUP.NAME", help="a setting that stays")
    command.add_argument(
        "--families",
        nargs="+",
        default=[],
        choices=[*FAMILIES, STANDING],
        help="what may vary; all of it when left out",
    )
    command.add_argument("--seconds", type=float, default=50.0, help="how long to search")


def _opened(options: argparse.Namespace) -> PlanFile:
    """The part and its settings: of a plan's file with what --set changes in it, or of a mesh file
    with --spec and --set.
    """
    data = options.part.read_bytes()
    found = read_plan(data) or PlanFile(
        Source.of(data, options.part.name), PlanSpec(), options.part.stem, None
    )
    spec = found.spec
    if options.spec:
        try:
            spec = spec_from(json.loads(options.spec.read_text()))
        except (json.JSONDecodeError, UnicodeDecodeError) as error:
            raise InputError(f"this is no JSON ({error})", str(options.spec)) from error
    return found._replace(spec=with_settings(spec, options.pairs))


def _suffixes(subject: str) -> str:
    return " or ".join(f".{suffix}" for suffix in exports(subject))


def _emit(data: Any, target: Path | None) -> None:
    text = json.dumps(data, indent=1)
    if target:
        target.write_text(text + "\n")
    else:
        print(text)


def _plan(options: argparse.Namespace) -> None:
    written = [
        (target, export_for(subject, target.suffix, str(target)))
        for subject, target in (("moves", options.moves), ("report", options.report))
        if target
    ]
    opened, pipeline = _opened(options), Pipeline()
    source, spec, correction = opened.source, opened.spec, opened.correction
    plan = pipeline.plan(source, spec, {"part": opened.name}, correction=correction)
    if options.save:
        options.save.write_bytes(write_plan(opened, pipeline.placed(source, spec)))
    if options.gcode:
        options.gcode.write_bytes(plan.gcode)
    for target, way in written:
        subject = to_arrow(plan.moves) if way.subject == "moves" else plan.report
        target.write_bytes(way.write(subject))
    figures = plan.report
    stuff = figures["filament"]
    findings = sum(not finding["below"] for finding in figures["findings"])
    print(
        f"{figures['time_s']['total'] / 3600:.2f} h, {stuff['mass_g']:.2f} g, "
        f"{stuff['length_mm'] / 1000:.2f} m, {stuff['cost']:.2f} €, "
        f"{figures['layers']['count']} layers, {findings} findings"
    )


def _mesh(options: argparse.Namespace) -> None:
    meshes.show(options, *_opened(options)[:2])


def _cut(options: argparse.Namespace) -> None:
    meshes.cut_apart(options, *_opened(options)[:2])


def _profile(options: argparse.Namespace) -> None:
    found = Pipeline().profile(*_opened(options)[:2])
    _emit(
        {
            name: [round(float(v), 4) for v in getattr(found, name)]
            for name in ("levels", "area", "perimeter", "islands", "rings")
        },
        options.report,
    )


def _frontier(options: argparse.Namespace) -> None:
    found = Pipeline().frontier(*_opened(options)[:2])
    _emit(found.as_dict(), options.report)


def _compare(options: argparse.Namespace) -> None:
    if not options.others:
        raise InputError("give at least one other plan, such as --with body.walls=2")
    target = options.report
    way = target and export_for("comparison", target.suffix, str(target))
    source, spec = _opened(options)[:2]
    specs = [spec, *(with_settings(spec, pairs) for pairs in options.others)]
    pipeline = Pipeline()
    plans = [pipeline.plan(source, spec) for spec in specs]
    found = compare([plan.report for plan in plans], [plan.spec.model_dump() for plan in plans])
    for row in found["settings"]:
        print(f"{row['name']:32} " + " ".join(f"{value!s:>12}" for value in row["values"]))
    for row in found["totals"]:
        label = ", ".join(part for part in (row["label"], row["unit"]) if part)
        print(f"{label:32} " + " ".join(f"{value:12.5g}" for value in row["values"]))
    if target:
        target.write_bytes(way.write(found))


def _propose(options: argparse.Namespace) -> None:
    (source, spec), names = _opened(options)[:2], {entry["name"] for entry in settings()}
    if not 0 <= options.give <= 50:
        raise InputError(f"{options.give:g} is not from 0 to 50 %", "--give")
    for name in options.keep:
        if name not in names:
            raise InputError(
                f"'{name}' is no setting; python -m northpace settings lists them", "--keep"
            )

    def held(report: Report, height: float) -> Held:
        return replace(
            held_now(report, spec, height, options.give / 100),
            keep=tuple(options.keep),
            families=tuple(options.families),
        )

    found = propose(
        Pipeline(),
        source,
        spec,
        held,
        aim=Aim(seconds=options.seconds),
    )
    print(f"{found.before['time_s'] / 60:.1f} min now")
    for one in found.singles:
        print(f"  alone: {one.sentence}")
    for step in found.chain:
        print(f"  {step.after['time_s'] / 60:.1f} min with {step.sentence}")
    print(found.rest)
    if options.report:
        _emit(found.as_dict(), options.report)


def _ways(options: argparse.Namespace) -> None:
    ways.show(options, *_opened(options)[:2])


def _fit(options: argparse.Namespace) -> None:
    opened = _opened(options)
    beds.fit(
        opened.source,
        opened.name,
        opened.spec,
        {"clearance": options.clearance, "turn_step": options.turn_step},
        options.report,
    )


def _settings(options: argparse.Namespace) -> None:
    records = settings()
    if options.json:
        _emit(records, None)
        return
    for entry in records:
        low, high = entry["min"], entry["max"]
        allowed = (
            " | ".join(entry["choices"])
            if entry["choices"]
            else f"{low:g} … {high:g}"
            if low is not None
            else entry["type"]
        )
        print(
            f"{entry['name']:32} {_default(entry):34} {entry['unit']:6} {allowed:24} "
            f"{entry['help']}"
        )


def _default(entry: dict[str, Any]) -> str:
    """What a setting is where nobody says it: its value, or where it comes from."""
    if entry["default"] is not None:
        return repr(str(entry["default"])[:30])
    source = entry["source"] or ""
    return "left open" if source in ("", "nobody") else f"as {source}"


def _sample(options: argparse.Namespace) -> None:
    from demo.shapes import SHAPES, sample_stl

    if options.name not in SHAPES:
        raise InputError(f"there is no sample '{options.name}'; there are {', '.join(SHAPES)}")
    options.out.write_bytes(sample_stl(options.name))


def _check(options: argparse.Namespace) -> None:
    _emit(read_gcode(options.file.read_bytes()).summary(), None)
