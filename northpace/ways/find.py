"""All ways of a part, one after the other as they are found."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np

from northpace.errors import InputError
from northpace.estimate.rates import Correction
from northpace.estimate.support import Needed
from northpace.part.place import Placed
from northpace.part.solid import Part
from northpace.spec import PlanSpec
from northpace.ways.candidates import Candidate, candidates
from northpace.ways.figures import WayFigures
from northpace.ways.judge import judged, of_few_levels, slow_now

#: Ways looked at at the same moment: what takes long leaves the interpreter free.
AT_ONCE = 2


class Way(NamedTuple):
    """A way up that was looked at."""

    #: which one of how many this is
    number: int
    of: int
    figures: WayFigures
    placed: Placed
    needed: Needed


def find_ways(
    part: Part,
    spec: PlanSpec,
    correction: Correction | None = None,
    pull: np.ndarray | None = None,
    cancelled: Callable[[], bool] | None = None,
) -> Iterator[Way]:
    """The ways of a part, the present one first. Ways whose layers cannot keep the plan's rules are
    left out; raises `InputError` where that is true of the present one. ``pull`` (3,) is a load in
    the file.
    """
    all_ = candidates(part, spec.place)
    known = slow_now(part, spec) if correction else 1.0
    fitting = of_few_levels(part, spec, correction) if correction else None

    def look(candidate: Candidate) -> tuple[WayFigures, Placed, Needed] | None:
        if cancelled and cancelled():
            return None
        try:
            return judged(part, candidate, spec, fitting, pull, known)
        except InputError:
            if candidate.kind == "now":
                raise
            return None

    with ThreadPoolExecutor(AT_ONCE, "ways") as pool:
        for number, found in enumerate(pool.map(look, all_)):
            if cancelled and cancelled():
                return
            if found is not None:
                yield Way(number, len(all_), *found)
