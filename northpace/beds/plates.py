"""What plates with so many copies of one plan take: exact as long as they are few, straight on for
more.
"""

from __future__ import annotations

from dataclasses import dataclass

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


def plates(spec: BedSpec, key: str, plan: BedPlan, copies: int) -> Plates:
    """The plates that copies of a plan take, laid as ``spec`` says. Beyond `MOST_MOVES` another
    copy takes what the last ones took. Raises `InputError` where not even one fits.
    """
    plans = {key: plan}
    empty = spec.model_copy(update={"placings": (), "order": ()})
    full = filled(empty, key, plans, min(copies, MOST))
    holds = len(full.placings)
    if not holds:
        raise InputError("not one copy fits on the bed", "plan")
    few = max(MOST_MOVES // len(plan.paced.rows.layer), 2)

    def laid(count: int) -> float:
        some = full.model_copy(update={"placings": full.placings[:count]})
        return lay_bed(some, plans).laid.seconds

    def takes(count: int) -> float:
        if count <= few:
            return laid(count)
        last, half = laid(few), laid(few // 2)
        return last + (count - few) * (last - half) / (few - few // 2)

    whole, rest = divmod(copies, holds)
    seconds = whole * (takes(holds),) + ((takes(rest),) if rest else ())
    return Plates(holds, seconds, holds <= few)
