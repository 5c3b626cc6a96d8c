"""The command line: ``python -m northpace …``.

Exit 0: done; 2: the input or a setting is wrong (one line says what, where and what is allowed); 1: a fault of the program.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from northpace.errors import InputError
from northpace.gcode.read import read_gcode
from northpace.moves import write_table
from northpace.pipeline import Pipeline
from northpace.spec import PlanSpec, settings, spec_from, with_settings


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
    parser = argparse.ArgumentParser(prog="python -m northpace", description="Plan how a printed part is laid down.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    plan = commands.add_parser("plan", help="from a mesh file to G-code, move table and report")
    plan.add_argument("part", type=Path)
    plan.add_argument("--gcode", type=Path)
    plan.add_argument("--report", type=Path)
    plan.add_argument("--moves", type=Path, help=".arrow or .parquet")
    plan.set_defaults(run=_plan)
    outline = commands.add_parser("profile", help="area, perimeter and islands along the height")
    outline.add_argument("part", type=Path)
    outline.add_argument("--report", type=Path)
    outline.set_defaults(run=_profile)
    edge = commands.add_parser("frontier", help="least time for every surface error, beside the even stacks")
    edge.add_argument("part", type=Path)
    edge.add_argument("--report", type=Path)
    edge.set_defaults(run=_frontier)
    for command in (plan, outline, edge):
        command.add_argument("--spec", type=Path, help="a plan spec as JSON")
        command.add_argument("--set", action="append", default=[], metavar="GROUP.NAME=VALUE", dest="pairs")

    listing = commands.add_parser("settings", help="every setting with unit, bounds, default and help")
    listing.add_argument("--json", action="store_true")
    listing.set_defaults(run=_settings)

    sample = commands.add_parser("sample", help="write a shape of the sample workshop")
    sample.add_argument("name")
    sample.add_argument("--out", type=Path, required=True)
    sample.set_defaults(run=_sample)

    check = commands.add_parser("check-gcode", help="read a G-code file back: time, filament, bounds, by feature")
    check.add_argument("file", type=Path)
    check.set_defaults(run=_check)
    return parser


def _spec(options: argparse.Namespace) -> PlanSpec:
    spec = PlanSpec()
    if options.spec:
        try:
            spec = spec_from(json.loads(options.spec.read_text()))
        except (json.JSONDecodeError, UnicodeDecodeError) as error:
            raise InputError(f"this is no JSON ({error})", str(options.spec)) from error
    return with_settings(spec, options.pairs)


def _emit(data: Any, target: Path | None) -> None:
    text = json.dumps(data, indent=1)
    if target:
        target.write_text(text + "\n")
    else:
        print(text)


def _plan(options: argparse.Namespace) -> None:
    if options.moves and options.moves.suffix not in (".arrow", ".parquet"):
        raise InputError("the move table is written as .arrow or .parquet", str(options.moves))
    spec = _spec(options)
    plan = Pipeline().plan(options.part.read_bytes(), options.part.name, spec, {"part": options.part.stem})
    if options.gcode:
        options.gcode.write_bytes(plan.gcode)
    if options.moves:
        write_table(plan.moves, str(options.moves), options.moves.suffix == ".parquet")
    if options.report:
        _emit(plan.report, options.report)
    figures = plan.report
    stuff = figures["filament"]
    print(f"{figures['time_s']['total'] / 3600:.2f} h, {stuff['mass_g']:.2f} g, {stuff['length_mm'] / 1000:.2f} m, {stuff['cost']:.2f} €, "
          f"{figures['layers']['count']} layers, {len(figures['findings'])} findings")


def _profile(options: argparse.Namespace) -> None:
    found = Pipeline().profile(options.part.read_bytes(), options.part.name, _spec(options))
    _emit({name: [round(float(v), 4) for v in getattr(found, name)]
           for name in ("levels", "area", "perimeter", "islands", "rings")}, options.report)


def _frontier(options: argparse.Namespace) -> None:
    found = Pipeline().frontier(options.part.read_bytes(), options.part.name, _spec(options))
    _emit(found.as_dict(), options.report)


def _settings(options: argparse.Namespace) -> None:
    records = settings()
    if options.json:
        _emit(records, None)
        return
    for entry in records:
        low, high = entry["min"], entry["max"]
        allowed = " | ".join(entry["choices"]) if entry["choices"] else f"{low:g} … {high:g}" if low is not None else entry["type"]
        default = entry["default"] if entry["default"] is not None else f"from the {entry['source']}"
        print(f"{entry['name']:32} {str(default)[:24]!r:28} {entry['unit']:6} {allowed:24} {entry['help']}")


def _sample(options: argparse.Namespace) -> None:
    from demo.shapes import SHAPES, sample_stl

    if options.name not in SHAPES:
        raise InputError(f"there is no sample '{options.name}'; there are {', '.join(SHAPES)}")
    options.out.write_bytes(sample_stl(options.name))


def _check(options: argparse.Namespace) -> None:
    _emit(read_gcode(options.file.read_bytes()).summary(), None)

