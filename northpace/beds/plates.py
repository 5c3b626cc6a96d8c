"""What plates with so many copies of one plan take: exact as long as they are few, straight on for
more.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import accumulate

from northpace.beds.bed import lay_bed
from northpace.beds.bedplan import BedPlan
from northpace.beds.fit import filled
from northpace.beds.spec import MOST, BedSpec
from northpace.errors import InputError

#: Most moves of a plate that is laid to know its time: a second's work.
MOST_MOVES = 600_000


@dataclass(frozen=True)
class Plates:
    """Plates filled one after the other."""

    #: how many copies a plate holds, as far as so many were asked for
    holds: int
    #: seconds of each plate, and whether all of them were laid to know them
    seconds: tuple[float, ...]
    exact: bool


@dataclass(frozen=True)
class PlateFigures:
    """Time in s and filament in g of plates with different numbers of copies of a plan; none of
    them falls with more copies.
    """

    copies: tuple[int, ...]
    seconds: tuple[float, ...]
    grams: tuple[float, ...]


def plates(spec: BedSpec, key: str, plan: BedPlan, copies: int) -> Plates:
    """The plates that copies of a plan take, laid as ``spec`` says. Beyond `MOST_MOVES` another
    copy takes what the last ones took. Raises `InputError` where not even one fits.
    """
    full = _Full(spec, key, plan, copies)
    whole, rest = divmod(copies, full.holds)
    seconds = whole * (full.takes(full.holds)[0],) + ((full.takes(rest)[0],) if rest else ())
    return Plates(full.holds, seconds, full.holds <= full.few)


def plate_figures(spec: BedSpec, key: str, plan: BedPlan) -> PlateFigures:
    """What plates of a plan take with 1, 2, 4 … copies, and with as many as fit; beyond
    `MOST_MOVES` as `plates` says. Raises `InputError` where not even one fits.
    """
    full = _Full(spec, key, plan, MOST)
    copies = sorted({2**k for k in range(full.holds.bit_length())} | {full.holds})
    found = [full.takes(count) for count in copies]
    # with one more copy a plate may take a little less, because every copy has longer to cool
    seconds, grams = (tuple(accumulate(row, max)) for row in zip(*found, strict=True))
    return PlateFigures(tuple(copies), seconds, grams)


class _Full:
    """A plate with as many copies of a plan as fit. It says what it takes with fewer of them."""

    def __init__(self, spec: BedSpec, key: str, plan: BedPlan, copies: int) -> None:
        self.plans = {key: plan}
        empty = spec.model_copy(update={"placings": (), "order": ()})
        self.full = filled(empty, key, self.plans, min(copies, MOST))
        self.holds = len(self.full.placings)
        if not self.holds:
            raise InputError("not one copy fits on the bed", "plan")
        self.few = max(MOST_MOVES // len(plan.paced.rows.layer), 2)

    def takes(self, count: int) -> tuple[float, float]:
        """Seconds and grams of a plate with so many copies."""
        if count <= self.few:
            return self._laid(count)
        last, half = self._laid(self.few), self._laid(self.few // 2)
        more = (count - self.few) / (self.few - self.few // 2)
        return last[0] + more * (last[0] - half[0]), last[1] + more * (last[1] - half[1])

    def _laid(self, count: int) -> tuple[float, float]:
        some = self.full.model_copy(update={"placings": self.full.placings[:count]})
        laid = lay_bed(some, self.plans).laid
        return laid.seconds, float(laid.grams.sum())
