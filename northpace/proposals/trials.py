"""Options of a plan tried exactly, in the order they are worth it."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from northpace.errors import InputError
from northpace.figures import Report
from northpace.proposals.exact import Exact, changed
from northpace.proposals.held import Held, broken
from northpace.proposals.options import Option
from northpace.proposals.proposal import Proposal, new_findings, proposal
from northpace.proposals.queue import Queue
from northpace.spec import PlanSpec

#: Exact plans that may do computed for each step of the chain.
TRIED = 4


class Step(NamedTuple):
    """A change that was computed, and the plan with it."""

    proposal: Proposal
    spec: PlanSpec
    report: Report

    @property
    def seconds(self) -> float:
        return self.report["time_s"]["total"]


class Trials:
    """Options computed exactly, with what is held checked on each."""

    def __init__(self, exact: Exact, first: Report, held: Held) -> None:
        self.exact, self.first, self.held = exact, first, held
        #: what was tried and why it did not do
        self.refused: list[str] = []

    def tried(
        self, spec: PlanSpec, report: Report, option: Option, there: PlanSpec | None = None
    ) -> Step | None:
        """A plan with an option; None with its reason where it breaks what is held, cannot be
        planned, or would not print as the plan the search began with did. ``there`` is the plan
        with the option, where it is more than settings.
        """
        try:
            there = changed(spec, option.change) if there is None else there
            after = self.exact(there)
        except InputError as error:
            self.refused.append(f"{option.words}: {error.message}")
            return None
        height = float(np.median(after["layers"]["heights_mm"]))
        wrong = [
            *broken(self.held, there, height, after),
            *new_findings(self.first, after, ("stop",)),
        ]
        if wrong:
            self.refused.append(f"{option.words}: {'; '.join(wrong)}")
            return None
        return Step(proposal(option, there, report, after), there, after)

    def best(
        self, spec: PlanSpec, report: Report, worth: float, left: Callable[[], float]
    ) -> Step | None:
        """The best of the most promising options of a plan that saves more than ``worth``
        seconds, while there is time ``left()``.
        """
        found: Step | None = None
        queue, good = Queue(self.exact, spec, report, self.held), 0
        while (
            (option := queue.next()) is not None and left() > 0 and (good < TRIED or found is None)
        ):
            one = self.tried(spec, report, option)
            if one is None:
                queue.refused(option)
                continue
            good += 1
            limit = found.seconds if found else report["time_s"]["total"] - worth
            if one.seconds < limit:
                found = one
        return found
