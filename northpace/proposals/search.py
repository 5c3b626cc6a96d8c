"""Proposed next changes and the chain of them: ranked by the quick figures, computed exactly, every
limit checked on the exact plan.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import asdict, dataclass, field, replace
from typing import Any, NamedTuple

import numpy as np

from northpace.errors import InputError
from northpace.estimate.quick import correction_of
from northpace.estimate.rates import Correction
from northpace.figures import Report
from northpace.motion.derive import derived
from northpace.plan.pipeline import Cancelled, Pipeline, Source
from northpace.proposals.held import Held, broken
from northpace.proposals.options import Option, options
from northpace.proposals.rank import Ranker, rank
from northpace.spec import PlanSpec, digest, spec_from
from northpace.words import signed

#: A change that saves less than this share of the plan's time is not worth a sentence.
WORTH = 0.004
#: Exact plans that may do computed for each step of the chain, and steps at most.
TRIED, STEPS = 4, 12
#: Options of a family tried for one step at most; after a refusal, the next one promises at most
#: this share of what was refused.
EACH, WEAKER = 3, 0.75


@dataclass(frozen=True)
class Proposal:
    """A change with its exact effect on the plan it is proposed for."""

    #: what kind of change it is
    family: str
    #: the change in words, and settings by name
    words: str
    change: dict[str, Any]
    #: what it does, in a sentence
    sentence: str
    #: what it gives up
    gives_up: str
    #: differences it makes: s, g, €
    seconds: float
    grams: float
    cost: float
    #: 95th percentile of the step error after it in µm
    p95_um: float
    #: mean stiffness after it, as a share of before
    stiffness: float
    #: totals of the plan after it
    after: dict[str, float]
    #: codes of findings that come with it
    brings: tuple[str, ...] = ()
    #: content key of the spec it makes
    checksum: str = ""

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)


@dataclass(frozen=True)
class Proposed:
    """What came of a search."""

    #: totals of the plan as it was
    before: dict[str, float]
    #: what stays
    held: Held
    #: single changes, the best first
    singles: tuple[Proposal, ...]
    #: changes on top of each other, in order
    chain: tuple[Proposal, ...]
    #: candidates the quick figures ranked, and how long that took in s
    ranked: int
    ranked_s: float
    #: what keeps the rest of the time, in a sentence
    rest: str
    #: how long the search took in s
    elapsed_s: float = 0.0
    #: what was tried and why it did not do
    refused: tuple[str, ...] = field(default=())

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)


class _Exact:
    """Exact reports of a plan's variants. They all use the correction the plan itself was made
    with, so that any of them taken up later, one by one or together, comes out as it was proposed.
    """

    def __init__(
        self,
        pipeline: Pipeline,
        source: Source,
        correction: Correction | None,
        cancelled: Callable[[], bool] | None,
    ) -> None:
        self.pipeline, self.source, self.correction, self.cancelled = (
            pipeline,
            source,
            correction,
            cancelled,
        )
        self.count = 0

    def __call__(self, spec: PlanSpec) -> Report:
        if self.cancelled and self.cancelled():
            raise Cancelled
        self.count += 1
        return self.pipeline.plan(
            self.source, spec, correction=self.correction, cancelled=self.cancelled
        ).report


def changed(spec: PlanSpec, change: dict[str, Any]) -> PlanSpec:
    """The spec with a change, checked, and speeds derived where they are; raises `InputError` for
    what contradicts.
    """
    data = spec.model_dump()
    for name, value in change.items():
        group, _, key = name.partition(".")
        data[group][key] = value
    return derived(spec_from(data))


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
    search = _Search(_Exact(pipeline, source, correction, cancelled), spec, aim, progress)
    report = search.report
    height = float(np.median(report["layers"]["heights_mm"]))
    search.limits = held if isinstance(held, Held) else held(report, height)
    search.tell("ranking", 0.05)
    clock = time.perf_counter()
    found = rank(
        pipeline.profile(source, spec),
        pipeline.settled(source, spec, correction),
        np.array(report["layers"]["heights_mm"]),
        search.limits,
        _own(search.exact, spec, report),
    )
    ranked_s = time.perf_counter() - clock
    singles = [*search.singles(), *search.other_nozzles()]
    singles.sort(key=lambda one: one.seconds)
    steps, now, state = search.chain()
    return Proposed(
        _totals(report),
        search.limits,
        tuple(_best_of_family(singles)),
        tuple(steps),
        len(found),
        ranked_s,
        _rest(state, now),
        time.perf_counter() - search.begun,
        tuple(dict.fromkeys(search.refused))[:12],
    )


class _Search:
    """A search that is under way."""

    limits: Held

    def __init__(
        self,
        exact: _Exact,
        spec: PlanSpec,
        aim: Aim,
        progress: Callable[[str, float], None] | None,
    ) -> None:
        self.begun = time.perf_counter()
        self.exact, self.spec, self.aim = exact, spec, aim
        self.tell = progress or (lambda stage, share: None)
        self.report = exact(spec)
        #: what was tried and why it did not do
        self.refused: list[str] = []

    def left(self) -> float:
        """Seconds that are left."""
        return self.aim.seconds - (time.perf_counter() - self.begun)

    def singles(self) -> list[Proposal]:
        """Changes that are worth it by themselves."""
        found: list[Proposal] = []
        if not self.aim.single:
            return found
        queue = _Queue(self.exact, self.spec, self.report, self.limits)
        while (option := queue.next()) is not None:
            if found and self.left() <= 0.55 * self.aim.seconds:
                break
            gain, one = queue.last_gain, self._tried(option)
            if one is None:
                queue.refused(option, gain)
            elif self._worth_it(one):
                found.append(one)
            self.tell("next changes", min(0.05 + 0.02 * self.exact.count, 0.45))
        return found

    def other_nozzles(self) -> list[Proposal]:
        """Other nozzles that are worth it."""
        found = []
        if not self.limits.families or "nozzle" in self.limits.families:
            for other in self.aim.alternatives:
                if self.left() <= 0.5 * self.aim.seconds:
                    break
                option = Option("nozzle", other.words, other.change, "finer details are lost")
                one = self._tried(option, other.spec)
                if one is not None and self._worth_it(one):
                    found.append(one)
        return found

    def chain(self) -> tuple[list[Proposal], PlanSpec, Report]:
        """Changes on top of each other, and the plan they end at."""
        steps: list[Proposal] = []
        now, state = self.spec, self.report
        while self.aim.chain and len(steps) < STEPS and self.left() > 0:
            step = _next_step(
                self.exact, now, state, self.report, self.limits, self.refused, self.left
            )
            if step is None:
                break
            proposal, now, state = step
            steps.append(proposal)
            self.tell("chain", min(0.45 + 0.06 * len(steps), 0.98))
        return steps, now, state

    def _tried(self, option: Option, spec: PlanSpec | None = None) -> Proposal | None:
        first = self.report
        found = _tried(self.exact, self.spec, first, first, self.limits, option, self.refused, spec)
        return found[0] if found else None

    def _worth_it(self, one: Proposal) -> bool:
        return one.seconds < -WORTH * self.report["time_s"]["total"]


def _own(exact: _Exact, spec: PlanSpec, report: Report) -> Correction:
    """How far the quick figures of a plan are off in its own exact report: ranking counts with
    that.
    """
    settled = exact.pipeline.settled(exact.source, spec, exact.correction)
    return correction_of(report, exact.pipeline.profile(exact.source, spec), settled)


class _Queue:
    """Options in the order they are worth trying: the best of every family by the quick figures,
    heights first, because only a solver can tell. What is refused is followed by a clearly weaker
    option of its family, since its neighbours would most likely be refused too.
    """

    def __init__(self, exact: _Exact, spec: PlanSpec, report: Report, held: Held) -> None:
        heights = np.array(report["layers"]["heights_mm"])
        settled = exact.pipeline.settled(exact.source, spec, exact.correction)
        ranker = Ranker(
            exact.pipeline.profile(exact.source, spec),
            settled,
            heights,
            _own(exact, spec, report),
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

    def refused(self, option: Option, gain: float) -> None:
        """Leave out what promises about as much as an option that was refused, and its family's
        turn is not used up.
        """
        self.waiting = [
            entry
            for entry in self.waiting
            if entry[1].family != option.family or entry[0] > WEAKER * gain
        ]


def _tried(
    exact: _Exact,
    spec: PlanSpec,
    report: Report,
    first: Report,
    held: Held,
    option: Option,
    refused: list[str],
    there: PlanSpec | None = None,
) -> tuple[Proposal, PlanSpec, Report] | None:
    """An option computed exactly, with the plan it makes; None with its reason where it breaks what
    is held, cannot be planned, or would not print. ``first`` is the plan the search began with;
    ``there`` the plan with the option, where it is more than settings.
    """
    try:
        there = changed(spec, option.change) if there is None else there
        after = exact(there)
    except InputError as error:
        refused.append(f"{option.words}: {error.message}")
        return None
    wrong = [
        *broken(held, there, float(np.median(after["layers"]["heights_mm"])), after),
        *_new(first, after, ("stop",)),
    ]
    if wrong:
        refused.append(f"{option.words}: {'; '.join(wrong)}")
        return None
    return _proposal(option, there, report, after), there, after


def _next_step(
    exact: _Exact,
    spec: PlanSpec,
    report: Report,
    first: Report,
    held: Held,
    refused: list[str],
    left: Callable[[], float],
) -> tuple[Proposal, PlanSpec, Report] | None:
    """The best of the most promising options of a plan, and the plan with it."""
    best: tuple[Proposal, PlanSpec, Report] | None = None
    queue, good = _Queue(exact, spec, report, held), 0
    while (option := queue.next()) is not None and left() > 0 and (good < TRIED or best is None):
        gain = queue.last_gain
        found = _tried(exact, spec, report, first, held, option, refused)
        if found is None:
            queue.refused(option, gain)
            continue
        good += 1
        total, worth = found[2]["time_s"]["total"], WORTH * first["time_s"]["total"]
        if total < (best[2]["time_s"]["total"] if best else report["time_s"]["total"] - worth):
            best = found
    return best


def _proposal(option: Option, spec: PlanSpec, before: Report, after: Report) -> Proposal:
    differences = {
        "seconds": after["time_s"]["total"] - before["time_s"]["total"],
        "grams": after["filament"]["mass_g"] - before["filament"]["mass_g"],
        "cost": after["filament"]["cost"] - before["filament"]["cost"],
        "p95_um": after["surface"]["p95_um"] - before["surface"]["p95_um"],
    }
    brings = tuple(_new(before, after, ("look",)))
    firm = after["strength"]["mean_stiffness"] / max(before["strength"]["mean_stiffness"], 1e-9)
    found = Proposal(
        option.family,
        option.words,
        option.change,
        "",
        option.gives_up,
        stiffness=firm,
        after=_totals(after),
        brings=brings,
        checksum=digest(spec),
        **differences,
    )
    return replace(found, sentence=_sentence(found))


def _sentence(found: Proposal) -> str:
    surface = (
        "surface unchanged" if abs(found.p95_um) < 1 else f"step error {signed(found.p95_um)} µm"
    )
    parts = [_time(found.seconds), surface]
    if abs(found.grams) >= 0.05:
        parts.append(f"{signed(found.grams, 1)} g")
    if abs(found.stiffness - 1) >= 0.005:
        parts.append(f"stiffness {signed(100 * (found.stiffness - 1), 1)} %")
    if found.gives_up:
        parts.append(found.gives_up)
    parts += [f"new to look at: {text.rstrip('.')}" for text in found.brings[:2]]
    return f"{found.words}: {', '.join(parts)}"


def _time(seconds: float) -> str:
    return f"{signed(seconds)} s" if abs(seconds) < 100 else f"{signed(seconds / 60)} min"


def _new(before: Report, after: Report, levels: tuple[str, ...]) -> list[str]:
    """Findings of some severities that were not there before, by their code."""
    known = {
        finding["code"]
        for finding in before["findings"]
        if finding["severity"] in (*levels, "stop")
    }
    return [
        finding["message"]
        for finding in after["findings"]
        if finding["severity"] in levels and finding["code"] not in known
    ]


def _totals(report: Report) -> dict[str, float]:
    return {
        "time_s": report["time_s"]["total"],
        "mass_g": report["filament"]["mass_g"],
        "cost": report["filament"]["cost"],
        "p95_um": report["surface"]["p95_um"],
        "stiffness": report["strength"]["mean_stiffness"],
        "wall_mm": report["paths"]["wall_thickness_mm"],
        "flow_floor": report["time_s"]["flow_floor"],
        "stops": float(sum(finding["severity"] == "stop" for finding in report["findings"])),
    }


def _best_of_family(found: list[Proposal]) -> list[Proposal]:
    """The best two of each family, so that one family does not fill the list."""
    taken: dict[str, int] = {}
    out = []
    for one in found:
        taken[one.family] = taken.get(one.family, 0) + 1
        if taken[one.family] <= 2:
            out.append(one)
    return out


def _rest(report: Report, spec: PlanSpec) -> str:
    """What the time that is left consists of, and what would have to give for less."""
    total, start = report["time_s"]["total"], report["time_s"]["by_feature"].get("start", 0.0)
    floor, slowed = (
        report["time_s"]["flow_floor"],
        sum(1 for share in report["layers"]["slowed"] if share < 0.995),
    )
    parts = [
        f"{floor / 60:.0f} of {total / 60:.0f} min is what {spec.material.name} needs to melt "
        "through this nozzle",
        f"{start / 60:.0f} min heating and homing",
    ]
    travel = sum(report["time_s"]["by_feature"].get(name, 0.0) for name in ("travel", "retraction"))
    if travel > 0.05 * total:
        parts.append(f"{travel / 60:.0f} min travel")
    if slowed > 0.1 * len(report["layers"]["slowed"]):
        parts.append(f"{slowed} layers are slowed to set")
    return "; ".join(parts) + "."
