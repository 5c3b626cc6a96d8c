"""What the orders of a problem cost, with the prices of its machines and spools."""

from __future__ import annotations

from northpace.schedule.problem import (
    BedTime,
    FloorMachine,
    FloorSpool,
    Problem,
    WantedOrder,
    WantedPieces,
)
from northpace.schedule.quote import PricedBed, Quote, QuotedPieces, quoted

#: The urgency from which an order is charged as a rush order.
RUSH = 3


def quote_of(problem: Problem, order: WantedOrder) -> Quote:
    """What an order costs."""
    return quoted(parts_of(problem, order), problem.rates, order.urgency >= RUSH)


def parts_of(problem: Problem, order: WantedOrder) -> list[QuotedPieces]:
    """What a quote needs to know of every line of an order that has pieces."""
    machines = {one.key: one for one in problem.machines}
    spools = {spool.material: spool for spool in reversed(problem.spools)}
    return [_part(problem, machines, spools, line) for line in order.lines if line.pieces]


def unpriced(order: WantedOrder, quote: Quote) -> list[str]:
    """Names of the lines that have no price, because no plan may be used for them."""
    priced = {part.name for part in quote.parts}
    return [line.name for line in order.lines if line.pieces and line.name not in priced]


def _part(
    problem: Problem,
    machines: dict[str, FloorMachine],
    spools: dict[str, FloorSpool],
    line: WantedPieces,
) -> QuotedPieces:
    rates, learned = problem.rates, line.finishing_min is not None
    beds = tuple(
        _priced(problem, bed, machines[bed.machine], spools.get(bed.material))
        for bed in line.beds
        if bed.machine in machines
    )
    return QuotedPieces(
        line.name,
        max(line.pieces - line.spare, 1),
        beds,
        line.fails,
        line.finishing_min if line.finishing_min is not None else rates.finishing_min,
        learned,
    )


def _priced(
    problem: Problem, bed: BedTime, machine: FloorMachine, spool: FloorSpool | None
) -> PricedBed:
    """A bed with its prices; it has the name of its machine instead of the key."""
    return PricedBed(
        bed.model_copy(update={"machine": machine.name}),
        spool.price if spool else 0.0,
        problem.rates.machine_h if machine.hour is None else machine.hour,
        0.0 if machine.clears_itself else machine.bed_change_s / 60,
        machine.spool_change_s / 60,
        spool.purge_g if spool else 0.0,
        spool.full_g if spool else 1000.0,
    )
