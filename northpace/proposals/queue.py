"""The order in which options are worth trying."""

from __future__ import annotations

import numpy as np

from northpace.figures import Report
from northpace.proposals.exact import Exact, own_correction
from northpace.proposals.held import Held
from northpace.proposals.options import Option, options
from northpace.proposals.proposal import WORTH
from northpace.proposals.rank import Ranker
from northpace.spec import PlanSpec

#: Options of a family tried for one step at most; after a refusal, the next one promises at most
#: this share of what was refused.
EACH, WEAKER = 3, 0.75


class Queue:
    """Options in the order they are worth trying: the best of every family by the quick figures,
    heights first, because only a solver can tell. What is refused is followed by a clearly weaker
    option of its family, since its neighbours would most likely be refused too.
    """

    def __init__(self, exact: Exact, spec: PlanSpec, report: Report, held: Held) -> None:
        heights = np.array(report["layers"]["heights_mm"])
        settled = exact.pipeline.settled(exact.source, spec, exact.correction)
        ranker = Ranker(
            exact.pipeline.profile(exact.source, spec),
            settled,
            heights,
            own_correction(exact, spec, report),
        )
        base = ranker(()).seconds
        every = options(settled, held, float(np.median(heights)))
        scored = ranker.many([(option,) for option in every if option.family != "heights"])
        self.waiting = [(-np.inf, option) for option in every if option.family == "heights"]
        self.waiting += sorted(
            (
                (one.seconds - base, one.options[0])
                for one in scored
                if one.seconds < (1 - WORTH) * base
            ),
            key=lambda entry: entry[0],
        )
        self.tried: dict[str, int] = {}
        #: ≈ seconds the option handed out last promised.
        self.last_gain = 0.0

    def next(self) -> Option | None:
        """The next option; each family is tried a few times only."""
        for k, (_, option) in enumerate(self.waiting):
            if self.tried.get(option.family, 0) < EACH:
                self.last_gain = self.waiting.pop(k)[0]
                self.tried[option.family] = self.tried.get(option.family, 0) + 1
                return option
        return None

    def refused(self, option: Option) -> None:
        """Leave out what promises about as much as an option that was refused, and its family's
        turn is not used up.
        """
        self.waiting = [
            entry
            for entry in self.waiting
            if entry[1].family != option.family or entry[0] > WEAKER * self.last_gain
        ]
