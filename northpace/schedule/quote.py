"""What pieces of an order cost, term by term, each with where it comes from."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from northpace.schedule.problem import BedTime
from northpace.spec.declare import Group, setting

#: Numbers of pieces for which a price is said beside the one that was asked for.
BREAKS = (1, 10, 50, 200)
CENT = Decimal("0.01")


class Rates(Group):
    """What an hour, a change and a margin count as in a workshop."""

    machine_h: float = setting(
        2.0,
        "Machine hour",
        help="Wear, power and room of an hour on a machine.",
        unit="€/h",
        ge=0,
        le=1000,
    )
    hands_h: float = setting(30.0, "Hour of work", help="Work by hand.", unit="€/h", ge=0, le=1000)
    setup_min: float = setting(
        10.0,
        "Setting up",
        help="Work by hand for each part of an order, however many pieces.",
        unit="min",
        ge=0,
        le=10000,
    )
    packing_min: float = setting(
        5.0, "Packing", help="Work by hand for each order.", unit="min", ge=0, le=10000
    )
    finishing_min: float = setting(
        2.0,
        "Finishing",
        help="Work by hand on each piece, for plans of which no job has said it.",
        unit="min",
        ge=0,
        le=10000,
    )
    margin: float = setting(
        25.0, "Margin", help="Added to what pieces cost.", unit="%", ge=0, le=1000
    )
    rush: float = setting(
        30.0, "Rush", help="Added to what urgent orders cost.", unit="%", ge=0, le=1000
    )


@dataclass(frozen=True)
class QuotedPieces:
    """What is asked of a part: so many good pieces, and what is known of them."""

    #: the part, and how many good ones are asked for
    name: str
    pieces: int
    #: beds that may be used, with the price of their filament in €/kg
    beds: tuple[tuple[BedTime, float], ...]
    #: share that fails, minutes of finishing for a piece, and whether these are from results
    fails: float
    finishing_min: float
    learned: bool
    #: minutes of work by hand between two beds
    bed_change_min: float
    #: g of filament lost with each spool that is hung up, and g on a full spool
    purge_g: float = 0.0
    spool_g: float = 1000.0
    spool_change_min: float = 5.0


@dataclass(frozen=True)
class Term:
    """A line of a quote: what it is for, how it is reckoned, and € to the cent."""

    name: str
    words: str
    amount: Decimal


@dataclass(frozen=True)
class PartQuote:
    """The terms of a part, and how its beds are laid."""

    #: the part, good pieces that are asked for, and pieces that are likely to be laid for them
    name: str
    pieces: int
    laid: int
    #: beds, pieces a bed at most, and the machine
    beds: int
    a_bed: int
    machine: str
    #: hours and grams of all beds
    hours: float
    grams: float
    terms: tuple[Term, ...]

    @property
    def total(self) -> Decimal:
        return sum((term.amount for term in self.terms), Decimal(0))


@dataclass(frozen=True)
class Quote:
    """A quote: parts, what the order costs as a whole, and the sum; every term is rounded to the
    cent by itself (half a cent up), and the total is the sum of the rounded terms.
    """

    parts: tuple[PartQuote, ...]
    terms: tuple[Term, ...]

    @property
    def total(self) -> Decimal:
        parts = sum((part.total for part in self.parts), Decimal(0))
        return parts + sum((term.amount for term in self.terms), Decimal(0))


def cents(amount: float) -> Decimal:
    """An amount in € to the cent, half a cent up."""
    return Decimal(repr(round(amount, 9))).quantize(CENT, ROUND_HALF_UP)


def quoted(parts: list[QuotedPieces], rates: Rates, urgent: bool = False) -> Quote:
    """The quote for an order; parts without a bed are left out, which is for others to say."""
    found = tuple(_part(part, rates) for part in parts if part.beds)
    own = float(sum((part.total for part in found), Decimal(0)))
    terms = [_work("Packing", rates.packing_min, rates, "the order")]
    own += float(terms[0].amount)
    terms.append(
        Term("Margin", f"{rates.margin:g} % of {own:.2f} €", cents(own * rates.margin / 100))
    )
    if urgent:
        terms.append(
            Term("Rush", f"{rates.rush:g} % of {own:.2f} €", cents(own * rates.rush / 100))
        )
    return Quote(found, tuple(terms))


def breaks(part: QuotedPieces, rates: Rates) -> list[tuple[int, Decimal]]:
    """€ a piece if so many are ordered by themselves, each number with its own best bed."""
    out = []
    for count in BREAKS:
        other = QuotedPieces(**{**part.__dict__, "pieces": count})
        out.append((count, cents(float(quoted([other], rates).total) / count)))
    return out


def _part(part: QuotedPieces, rates: Rates) -> PartQuote:
    """The part with the bed that costs least."""
    tried = [
        _laid(part, rates, bed, price, count)
        for bed, price in part.beds
        for count in _sizes(bed, part.pieces)
    ]
    return min(tried, key=lambda found: (found.total, found.beds, found.machine))


def _sizes(bed: BedTime, pieces: int) -> list[int]:
    """Pieces a bed: those whose time is known, and those that come out even."""
    most = min(bed.holds, pieces)
    beds = -(-pieces // most)
    return sorted({count for count in bed.pieces if count <= most} | {most, -(-pieces // beds)})


def _laid(part: QuotedPieces, rates: Rates, bed: BedTime, price: float, count: int) -> PartQuote:
    """What a part costs with so many pieces a bed."""
    whole, rest = divmod(part.pieces, count)
    beds = whole + (rest > 0)
    hours = (whole * bed.takes(count) + (bed.takes(rest) if rest else 0.0)) / 3600
    grams = whole * bed.weighs(count) + (bed.weighs(rest) if rest else 0.0)
    more = part.pieces / (1 - part.fails) - part.pieces
    spools = max(grams / part.spool_g, 0.0)
    minutes = beds * part.bed_change_min
    on = f"{beds} {'bed' if beds == 1 else 'beds'} of up to {count}"
    terms = [
        Term(
            "Machine",
            f"{hours:.2f} h on {bed.machine}, {on}, at {rates.machine_h:g} €/h",
            cents(hours * rates.machine_h),
        ),
        Term(
            "Filament",
            f"{grams:.1f} g of {bed.material} at {price:g} €/kg",
            cents(grams * price / 1000),
        ),
        _work("Bed changes", minutes, rates, f"{beds} of {part.bed_change_min:g} min"),
        _work(
            "Finishing",
            part.pieces * part.finishing_min,
            rates,
            f"{part.pieces} × {part.finishing_min:g} min, "
            + ("from results" if part.learned else "as the workshop says"),
        ),
        _work("Setting up", rates.setup_min, rates, "once"),
    ]
    if part.purge_g or part.spool_change_min:
        lost, change = spools * part.purge_g, spools * part.spool_change_min
        terms.insert(
            3,
            Term(
                "Spool changes",
                f"{spools:.2f} spools: {lost:.1f} g lost, {change:.1f} min",
                cents(lost * price / 1000 + change * rates.hands_h / 60),
            ),
        )
    if part.fails:
        again = float(sum((term.amount for term in terms[:-2]), Decimal(0))) / part.pieces
        terms.append(
            Term(
                "Failures",
                f"{more:.2f} pieces more, as {100 * part.fails:.1f} % fail"
                + ("" if part.learned else " (as the workshop says)"),
                cents(more * again),
            )
        )
    laid = round(part.pieces + more)
    return PartQuote(
        *(part.name, part.pieces, laid, beds, count, bed.machine), hours, grams, tuple(terms)
    )


def _work(name: str, minutes: float, rates: Rates, of: str) -> Term:
    """Work by hand."""
    return Term(
        name, f"{of}: {minutes:g} min at {rates.hands_h:g} €/h", cents(minutes * rates.hands_h / 60)
    )
