"""What the orders of a problem cost, with the prices of its machines and spools."""

from __future__ import annotations

from northpace.schedule.problem import FloorMachine, Problem, WantedOrder, WantedPieces
from northpace.schedule.quote import PricedBed, Quote, QuotedPieces, quoted

#: The urgency from which an order is charged as a rush order.
RUSH = 3


def quote_of(problem: Problem, order: WantedOrder) -> Quote:
    """What an order costs."""
    return quoted(parts_of(problem, order), problem.rates, order.urgency >= RUSH)


def parts_of(problem: Problem, order: WantedOrder) -> list[QuotedPieces]:
    """The lines of an order that have pieces, as they are quoted."""
    machines = {one.key: one for one in problem.machines}
    prices = {spool.material: spool.price for spool in reversed(problem.spools)}
    return [_part(problem, machines, prices, line) for line in order.lines if line.pieces]


def unpriced(order: WantedOrder, quote: Quote) -> list[str]:
    """Names of the lines that have no price, because no plan may be used for them."""
    priced = {part.name for part in quote.parts}
    return [line.name for line in order.lines if line.pieces and line.name not in priced]


def _part(
    problem: Problem,
    machines: dict[str, FloorMachine],
    prices: dict[str, float],
    line: WantedPieces,
) -> QuotedPieces:
    beds, rates = [bed for bed in line.beds if bed.machine in machines], problem.rates
    used = [machines[bed.machine] for bed in beds]
    own = [one for one in used if not one.clears_itself]
    learned = line.finishing_min is not None

    def hour(machine: FloorMachine) -> float:
        return rates.machine_h if machine.hour is None else machine.hour

    return QuotedPieces(
        line.name,
        max(line.pieces - line.spare, 1),
        tuple(
            PricedBed(
                bed.model_copy(update={"machine": one.name}),
                prices.get(bed.material, 0.0),
                hour(one),
            )
            for bed, one in zip(beds, used, strict=True)
        ),
        line.fails,
        line.finishing_min if line.finishing_min is not None else rates.finishing_min,
        learned,
        max((one.bed_change_s for one in own), default=0.0) / 60,
        spool_change_min=max((one.spool_change_s for one in used), default=0.0) / 60,
    )
