"""Orders on the command line: a file with what is wanted, the schedule in lines and as JSON."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from datetime import timedelta
from pathlib import Path
from typing import Any

from northpace.errors import InputError
from northpace.naming import time_word
from northpace.schedule.plan_of_day import at_once, scheduled
from northpace.schedule.problem import Problem
from northpace.schedule.promise import promises
from northpace.spec.validated import validated


def add_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("orders", type=Path, help="now, machines, spools and orders as JSON")
    command.add_argument("--quick", action="store_true", help="the list's answer only")
    command.add_argument("--report", type=Path, help=".json")


def orders(options: argparse.Namespace) -> None:
    """Print which bed is laid when and where, and by when each order can be promised."""
    problem = read_problem(options.orders)
    table = at_once(problem) if options.quick else scheduled(problem)
    can = promises(problem, table)
    names = {order.key: order.name for order in problem.orders}
    names |= {line.key: line.name for order in problem.orders for line in order.lines}
    names |= {machine.key: machine.name for machine in problem.machines}
    for bed in table.beds:
        took = time_word(bed.end_s - bed.begin_s)
        took += f", {bed.spool} hung up" if bed.changed else ""
        print(
            f"{_at(problem, bed.begin_s)}  {names[bed.machine]:14} {bed.pieces:3} × "
            f"{names[bed.line]} for {names[bed.order]}, {took}"
        )
    for one in table.unplaced:
        print(f"no place for {one.pieces} × {names[one.line]} of {names[one.order]}: {one.why}")
    for promise in can:
        kept = "" if promise.on_time is None else f", on time in {promise.on_time:.0%}"
        print(f"{names[promise.order]}: by {_at(problem, promise.promise_s)} with 95 %{kept}")
    best = "" if table.unplaced else f", at most {table.gap:.0%} from the best there can be"
    print(f"{len(table.beds)} beds{best}")
    if options.report:
        said = {**asdict(table), "promises": [asdict(promise) for promise in can]}
        options.report.write_text(json.dumps(said, indent=1) + "\n")


def read_problem(path: Path) -> Problem:
    """What is wanted, from a file; raises `InputError` for what is wrong in it."""
    try:
        data: Any = json.loads(path.read_text())
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as error:
        raise InputError(f"this is no JSON ({error})", str(path)) from error
    try:
        return validated(Problem, data)
    except InputError as error:
        raise InputError(error.message, str(path)) from error


def _at(problem: Problem, seconds: float) -> str:
    return f"{problem.now + timedelta(seconds=seconds):%a %d %b %H:%M}"
