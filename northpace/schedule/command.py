"""Orders on the command line: reads a file with orders, machines and spools, and prints the
schedule, promises and quotes.
"""

from __future__ import annotations

import argparse
import json
from collections.abc import Iterator
from dataclasses import asdict
from datetime import timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from northpace.errors import InputError
from northpace.naming import time_word
from northpace.schedule.plan_of_day import at_once, scheduled
from northpace.schedule.pricing import parts_of, quote_of, unpriced
from northpace.schedule.problem import Problem, WantedOrder
from northpace.schedule.promise import Promise, promises
from northpace.schedule.quote import Quote, breaks
from northpace.schedule.timetable import Timetable
from northpace.schedule.week import AHEAD_DAYS
from northpace.spec.validated import validated


def add_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("orders", type=Path, help="orders, machines and spools as JSON")
    command.add_argument("--quick", action="store_true", help="only the first answer")
    command.add_argument("--quote", action="store_true", help="what each order costs, too")
    command.add_argument("--report", type=Path, help=".json")


def orders(options: argparse.Namespace) -> None:
    """Print which bed is printed when and where, by when each order can be promised, and what it
    costs.
    """
    problem = read_problem(options.orders)
    table = at_once(problem) if options.quick else scheduled(problem)
    promised = promises(problem, table)
    quotes = {one.key: quote_of(problem, one) for one in problem.orders if options.quote}
    for line in (*_schedule(problem, table), *_promised(problem, promised)):
        print(line)
    best = "" if table.unplaced else f", at most {table.gap:.0%} from the best there can be"
    print(f"{len(table.beds)} beds{best}")
    for order in problem.orders:
        for line in _quote(problem, order, quotes.get(order.key)):
            print(line)
    if options.report:
        said = {
            **asdict(table),
            "promises": [asdict(one) for one in promised],
            "quotes": {key: asdict(quote) for key, quote in quotes.items()},
        }
        options.report.write_text(json.dumps(said, indent=1, default=str) + "\n")


def read_problem(path: Path) -> Problem:
    """Orders, machines and spools from a file; raises `InputError` for what is wrong in it."""
    try:
        data: Any = json.loads(path.read_text())
    except (ValueError, RecursionError) as error:
        raise InputError(f"this is no JSON ({error})", str(path)) from error
    try:
        return validated(Problem, data)
    except InputError as error:
        raise InputError(error.message, str(path)) from error


def _schedule(problem: Problem, table: Timetable) -> Iterator[str]:
    lines = {line.key: line.name for order in problem.orders for line in order.lines}
    of = {order.key: order.name for order in problem.orders}
    machines = {machine.key: machine.name for machine in problem.machines}
    for bed in table.beds:
        change = f", after {bed.spool} is hung up" if bed.changed else ""
        yield (
            f"{_at(problem, bed.begin_s)}  {machines[bed.machine]:14} {bed.pieces:3} × "
            f"{lines[bed.line]} for {of[bed.order]}, {time_word(bed.end_s - bed.begin_s)}{change}"
        )
    for one in table.unplaced:
        yield f"cannot be printed: {one.pieces} × {lines[one.line]} for {of[one.order]}: {one.why}"


def _promised(problem: Problem, promised: list[Promise]) -> Iterator[str]:
    of = {order.key: order.name for order in problem.orders}
    for one in promised:
        kept = "" if one.on_time is None else f"; it is on time with {one.on_time:.0%}"
        by = f"not within {AHEAD_DAYS} days"
        if one.promise_s is not None:
            by = f"by {_at(problem, one.promise_s)} with 95%"
        yield f"{of[one.order]}: {by}{kept}"


def _quote(problem: Problem, order: WantedOrder, quote: Quote | None) -> Iterator[str]:
    if quote is None:
        return
    missing = unpriced(order, quote)
    if missing:
        yield f"{order.name}: no price, as no plan may be used for {', '.join(missing)}"
        return
    yield f"{order.name}: {quote.total} €"
    for part, asked in zip(quote.parts, parts_of(problem, order), strict=True):
        yield f"  {part.pieces} × {part.name}: {part.total} €"
        for term in part.terms:
            yield f"    {term.amount:>10} €  {term.name}: {term.words}"
        each = ", ".join(f"{price} € each of {n}" for n, price in breaks(asked, problem.rates))
        yield f"    by number: {each}"
    for term in quote.terms:
        yield f"  {term.amount:>12} €  {term.name}: {term.words}"


def _at(problem: Problem, seconds: float) -> str:
    """A time in the time zone of the workshop."""
    moment = problem.now + timedelta(seconds=seconds)
    return f"{moment.astimezone(ZoneInfo(problem.week.zone)):%a %d %b %H:%M}"
