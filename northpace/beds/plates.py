"""What a plate with so many copies of one plan takes: exact for a few numbers, straight lines in
between.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from northpace.beds.bed import lay_bed
from northpace.beds.bedplan import BedPlan
from northpace.beds.fit import filled
from northpace.beds.spec import MOST, BedSpec
from northpace.errors import InputError


@dataclass(frozen=True)
class Plates:
    """Seconds (K,) of plates with counts (K,) of copies."""

    #: how many copies a plate holds, as far as so many were asked for
    holds: int
    counts: np.ndarray
    seconds: np.ndarray

    def takes(self, copies: int) -> float:
        """Seconds of a plate with so many copies."""
        return float(np.interp(copies, self.counts, self.seconds))

    def for_all(self, copies: int) -> list[float]:
        """Seconds of each of the plates that so many copies take, filled one after the other."""
        full, rest = divmod(copies, self.holds)
        return [self.takes(self.holds)] * full + ([self.takes(rest)] if rest else [])


def plates(spec: BedSpec, key: str, plan: BedPlan, copies: int) -> Plates:
    """Plates of a plan laid as ``spec`` says, exact for ``copies`` of them; raises `InputError`
    where not even one fits.
    """
    plans = {key: plan}
    empty = spec.model_copy(update={"placings": (), "order": ()})
    full = filled(empty, key, plans, min(copies, MOST))
    holds = len(full.placings)
    if not holds:
        raise InputError("not one copy fits on the bed", "plan")
    counts = sorted({1, min(2, holds), holds, copies % holds} - {0})
    seconds = []
    for count in counts:
        some = full.model_copy(update={"placings": full.placings[:count]})
        seconds.append(lay_bed(some, plans).laid.seconds)
    return Plates(holds, np.array(counts, float), np.array(seconds))
