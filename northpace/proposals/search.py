"""Proposed next changes and the chain of them: ranked by the quick figures, computed exactly,
every limit checked on the exact plan.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np

from northpace.estimate.rates import Correction
from northpace.figures import Report
from northpace.plan.pipeline import Pipeline, Source
from northpace.proposals.exact import Exact, own_correction
from northpace.proposals.held import Held
from northpace.proposals.options import Option
from northpace.proposals.proposal import WORTH, Proposal, Proposed, best_of_family, rest, totals
from northpace.proposals.queue import Queue
from northpace.proposals.rank import rank
from northpace.proposals.standing import standing
from northpace.proposals.trials import Trials
from northpace.spec import PlanSpec

#: Steps of a chain at most.
STEPS = 12


@dataclass(frozen=True)
class Alternative:
    """Another nozzle for the same plan: what it is in words, the change that means it to whoever
    asked, and the plan with it.
    """

    words: str
    change: dict[str, Any]
    spec: PlanSpec


class Aim(NamedTuple):
    """What a search looks for, and how long."""

    #: seconds it may take; what is found by then counts
    seconds: float = 50.0
    #: whether single changes and whether a chain of them are looked for
    single: bool = True
    chain: bool = True
    #: other nozzles, which are tried as single changes
    alternatives: tuple[Alternative, ...] = ()


def propose(
    pipeline: Pipeline,
    source: Source,
    spec: PlanSpec,
    held: Held | Callable[[Report, float], Held],
    correction: Correction | None = None,
    aim: Aim = Aim(),
    progress: Callable[[str, float], None] | None = None,
    cancelled: Callable[[], bool] | None = None,
) -> Proposed:
    """Search for what makes a plan quicker within what is held, which may be made from the plan's
    own report and usual layer height (mm).

    Raises `InputError` for a spec that cannot be planned and `Cancelled` when ``cancelled()`` says
    so.
    """
    exact = Exact(pipeline, source, correction, cancelled)
    search = _Search(exact, spec, held, aim, progress)
    report, held = search.report, search.trials.held
    search.tell("ranking", 0.05)
    clock = time.perf_counter()
    found = rank(
        pipeline.profile(source, spec),
        pipeline.settled(source, spec, correction),
        np.array(report["layers"]["heights_mm"]),
        held,
        own_correction(exact, spec, report),
    )
    ranked_s = time.perf_counter() - clock
    singles = [*search.singles(), *search.other_nozzles(), *search.ways_up()]
    singles.sort(key=lambda one: one.seconds)
    steps, now, state = search.chain()
    return Proposed(
        totals(report),
        held,
        tuple(best_of_family(singles)),
        tuple(steps),
        len(found),
        ranked_s,
        rest(state, now),
        time.perf_counter() - search.begun,
        tuple(dict.fromkeys(search.trials.refused))[:12],
    )


class _Search:
    """A search that is under way."""

    def __init__(
        self,
        exact: Exact,
        spec: PlanSpec,
        held: Held | Callable[[Report, float], Held],
        aim: Aim,
        progress: Callable[[str, float], None] | None,
    ) -> None:
        self.begun = time.perf_counter()
        self.exact, self.spec, self.aim = exact, spec, aim
        self.tell = progress or (lambda stage, share: None)
        self.report = exact(spec)
        height = float(np.median(self.report["layers"]["heights_mm"]))
        own = held if isinstance(held, Held) else held(self.report, height)
        self.trials = Trials(exact, self.report, own)

    def left(self) -> float:
        """Seconds that are left."""
        return self.aim.seconds - (time.perf_counter() - self.begun)

    def singles(self) -> list[Proposal]:
        """Changes that are worth it by themselves."""
        found: list[Proposal] = []
        if not self.aim.single:
            return found
        queue = Queue(self.exact, self.spec, self.report, self.trials.held)
        while (option := queue.next()) is not None:
            if found and self.left() <= 0.55 * self.aim.seconds:
                break
            one = self._tried(option)
            if one is None:
                queue.refused(option)
            elif self._worth_it(one):
                found.append(one)
            self.tell("next changes", min(0.05 + 0.02 * self.exact.count, 0.45))
        return found

    def other_nozzles(self) -> list[Proposal]:
        """Other nozzles that are worth it."""
        found = []
        families = self.trials.held.families
        if not families or "nozzle" in families:
            for other in self.aim.alternatives:
                if self.left() <= 0.5 * self.aim.seconds:
                    break
                option = Option("nozzle", other.words, other.change, "finer details are lost")
                one = self._tried(option, other.spec)
                if one is not None and self._worth_it(one):
                    found.append(one)
        return found

    def ways_up(self) -> list[Proposal]:
        """Other ways up that are worth it."""
        found: list[Proposal] = []
        if not self.aim.single or self.left() <= 0.4 * self.aim.seconds:
            return found
        self.tell("ways up", 0.45)

        def late() -> bool:
            return self.left() <= 0.3 * self.aim.seconds

        held = self.trials.held
        for option in standing(self.exact, self.spec, held, self._worth(), late):
            if late():
                break
            one = self._tried(option)
            if one is not None and self._worth_it(one):
                found.append(one)
        return found

    def chain(self) -> tuple[list[Proposal], PlanSpec, Report]:
        """Changes on top of each other, and the plan they end at."""
        steps: list[Proposal] = []
        now, state = self.spec, self.report
        while self.aim.chain and len(steps) < STEPS and self.left() > 0:
            step = self.trials.best(now, state, self._worth(), self.left)
            if step is None:
                break
            proposal, now, state = step
            steps.append(proposal)
            self.tell("chain", min(0.45 + 0.06 * len(steps), 0.98))
        return steps, now, state

    def _tried(self, option: Option, spec: PlanSpec | None = None) -> Proposal | None:
        found = self.trials.tried(self.spec, self.report, option, spec)
        return found.proposal if found else None

    def _worth(self) -> float:
        """Seconds that are worth a sentence."""
        return WORTH * self.report["time_s"]["total"]

    def _worth_it(self, one: Proposal) -> bool:
        return one.seconds < -self._worth()
