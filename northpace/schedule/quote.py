"""What the pieces of an order cost. Every amount says how it was computed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import ROUND_HALF_UP, Decimal

from northpace.schedule.problem import BedTime
from northpace.schedule.rates import OrderRates

#: Numbers of pieces for which a price is said beside the one that was asked for.
BREAKS = (1, 10, 50, 200)
CENT = Decimal("0.01")


@dataclass(frozen=True)
class PricedBed:
    """A plan that may be used, and what its machine and its filament cost."""

    bed: BedTime
    #: filament in €/kg, and the machine in €/h
    filament: float
    machine_h: float
    #: minutes of work by hand to clear a bed and to hang up a spool
    bed_change_min: float = 5.0
    spool_change_min: float = 5.0
    #: g of filament that are lost when a spool is hung up, and g on a full spool
    purge_g: float = 0.0
    spool_g: float = 1000.0


@dataclass(frozen=True)
class QuotedPieces:
    """One part of a quote: how many good pieces are wanted, and what is known about printing it."""

    #: the part's name, and how many good pieces are wanted
    name: str
    pieces: int
    #: plans that may be used
    beds: tuple[PricedBed, ...]
    #: share of pieces that fail
    fails: float
    #: minutes of work by hand on each piece, and whether results have shown them
    finishing_min: float
    learned: bool


@dataclass(frozen=True)
class Term:
    """One amount of a quote in €, rounded to the cent, with its name and how it was computed."""

    name: str
    words: str
    amount: Decimal


@dataclass(frozen=True)
class PartQuote:
    """What one part costs, and the beds it is printed on."""

    #: the part's name, how many good pieces are wanted, and how many are likely to be printed
    name: str
    pieces: int
    laid: int
    #: how many beds, the most pieces on one of them, and the machine
    beds: int
    a_bed: int
    machine: str
    #: hours and grams of all beds
    hours: float
    grams: float
    terms: tuple[Term, ...]

    @property
    def total(self) -> Decimal:
        """The sum of its amounts in €."""
        return sum((term.amount for term in self.terms), Decimal(0))


@dataclass(frozen=True)
class Quote:
    """The price of an order: what each part costs, and what is charged once for the whole order.

    Every amount is rounded to the cent by itself, half a cent upwards. The total is the sum of the
    rounded amounts, so it always adds up.
    """

    parts: tuple[PartQuote, ...]
    terms: tuple[Term, ...]

    @property
    def total(self) -> Decimal:
        """The sum of all amounts in €."""
        parts = sum((part.total for part in self.parts), Decimal(0))
        return parts + sum((term.amount for term in self.terms), Decimal(0))


def cents(amount: float) -> Decimal:
    """An amount in €, rounded to the cent, half a cent upwards."""
    return Decimal(repr(round(amount, 9))).quantize(CENT, ROUND_HALF_UP)


def quoted(parts: Sequence[QuotedPieces], rates: OrderRates, urgent: bool = False) -> Quote:
    """The quote for an order. A part for which no plan may be used has no price: it is left out."""
    found = tuple(_cheapest(part, rates) for part in parts if part.beds)
    packing = _work("Packing", rates.packing_min, rates, "the order")
    own = sum((part.total for part in found), packing.amount)
    shares = [("Margin", rates.margin), *([("Rush", rates.rush)] if urgent else [])]
    added = [
        Term(name, f"{share:g} % of {own} €", cents(float(own) * share / 100))
        for name, share in shares
    ]
    return Quote(found, (packing, *added))


def breaks(part: QuotedPieces, rates: OrderRates) -> list[tuple[int, Decimal]]:
    """The price of one piece in € if 1, 10, 50 or 200 of them are ordered, each number printed on
    the beds that are cheapest for it.
    """
    return [
        (count, cents(float(quoted([replace(part, pieces=count)], rates).total) / count))
        for count in BREAKS
    ]


def _cheapest(part: QuotedPieces, rates: OrderRates) -> PartQuote:
    """The part on the plan and with the number of pieces on a bed that cost least."""
    tried = [
        _on_beds(part, rates, one, count)
        for one in part.beds
        for count in _sizes(one.bed, part.pieces)
    ]
    return min(tried, key=lambda found: (found.total, found.beds, found.machine))


def _sizes(bed: BedTime, pieces: int) -> list[int]:
    """Numbers of pieces on a bed that are worth a look: those whose time is known, as many as fit,
    and the number with which all beds are equally full.
    """
    most = min(bed.holds, pieces)
    beds = -(-pieces // most)
    return sorted({count for count in bed.pieces if count <= most} | {most, -(-pieces // beds)})


def _on_beds(part: QuotedPieces, rates: OrderRates, one: PricedBed, count: int) -> PartQuote:
    """What a part costs with ``count`` pieces on a bed, the last bed taking the rest."""
    bed = one.bed
    whole, rest = divmod(part.pieces, count)
    sizes = [(whole, count), (1, rest)] if rest else [(whole, count)]
    beds = sum(times for times, _ in sizes)
    hours = sum(times * bed.takes(size) for times, size in sizes) / 3600
    grams = sum(times * bed.weighs(size) for times, size in sizes)
    printing = _printing(rates, one, f"{beds} × up to {count}", hours, grams)
    printing.append(
        _work(
            "Bed changes",
            beds * one.bed_change_min,
            rates,
            f"{beds} × {one.bed_change_min:g} min",
        )
    )
    terms = [
        *printing,
        _work(
            "Finishing",
            part.pieces * part.finishing_min,
            rates,
            f"{part.pieces} × {part.finishing_min:g} min, "
            + ("from results" if part.learned else "as the workshop assumes"),
        ),
        _work("Setting up", rates.setup_min, rates, "once"),
    ]
    more = part.pieces / (1 - part.fails) - part.pieces
    if more:
        each = float(sum((term.amount for term in printing), Decimal(0))) / part.pieces
        words = f"{more:.2f} more pieces, because {100 * part.fails:.1f} % fail"
        terms.append(Term("Failures", words, cents(more * each)))
    return PartQuote(
        part.name,
        part.pieces,
        round(part.pieces + more),
        beds,
        count,
        bed.machine,
        hours,
        grams,
        tuple(terms),
    )


def _printing(
    rates: OrderRates,
    one: PricedBed,
    beds: str,
    hours: float,
    grams: float,
) -> list[Term]:
    """What machine and filament cost for all beds together."""
    bed, price, hour = one.bed, one.filament, one.machine_h
    terms = [
        Term(
            "Machine",
            f"{hours:.2f} h on {bed.machine} ({beds}) at {hour:g} €/h",
            cents(hours * hour),
        ),
        Term(
            "Filament",
            f"{grams:.1f} g of {bed.material} at {price:g} €/kg",
            cents(grams * price / 1000),
        ),
    ]
    spools = grams / one.spool_g
    lost, change = spools * one.purge_g, spools * one.spool_change_min
    if lost or change:
        words = f"{spools:.2f} spools: {lost:.1f} g lost, {change:.1f} min"
        amount = cents(lost * price / 1000 + change * rates.hands_h / 60)
        terms.append(Term("Spool changes", words, amount))
    return terms


def _work(name: str, minutes: float, rates: OrderRates, of: str) -> Term:
    """What work by hand costs."""
    return Term(
        name, f"{of}: {minutes:g} min at {rates.hands_h:g} €/h", cents(minutes * rates.hands_h / 60)
    )
