"""What came of a search: proposed changes with their exact effects, in figures and in sentences."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field, replace
from typing import Any

from northpace.checks.by_cause import cause_of
from northpace.figures import Report
from northpace.proposals.held import Held
from northpace.proposals.options import Option
from northpace.spec import PlanSpec, digest
from northpace.words import signed

#: A change that saves less than this share of the plan's time is not worth a sentence.
WORTH = 0.004


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


def proposal(option: Option, spec: PlanSpec, before: Report, after: Report) -> Proposal:
    differences = {
        "seconds": after["time_s"]["total"] - before["time_s"]["total"],
        "grams": after["filament"]["mass_g"] - before["filament"]["mass_g"],
        "cost": after["filament"]["cost"] - before["filament"]["cost"],
        "p95_um": after["surface"]["p95_um"] - before["surface"]["p95_um"],
    }
    brings = tuple(new_findings(before, after, ("look",)))
    firm = after["strength"]["mean_stiffness"] / max(before["strength"]["mean_stiffness"], 1e-9)
    found = Proposal(
        option.family,
        option.words,
        option.change,
        "",
        option.gives_up,
        stiffness=firm,
        after=totals(after),
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


def new_findings(before: Report, after: Report, levels: tuple[str, ...]) -> list[str]:
    """Messages of the findings, of the severities in ``levels``, that a change brings. A *stop* is
    new if there was none with its code. Any other finding is new if there was none with its cause.
    """
    worth = [one for one in before["findings"] if one["severity"] in (*levels, "stop")]
    stops = {one["code"] for one in worth if one["severity"] == "stop"}
    causes = {cause_of(one["code"]) for one in worth}
    return [
        one["message"]
        for one in after["findings"]
        if one["severity"] in levels
        and (
            one["code"] not in stops
            if one["severity"] == "stop"
            else cause_of(one["code"]) not in causes
        )
    ]


def totals(report: Report) -> dict[str, float]:
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


def best_of_family(found: list[Proposal]) -> list[Proposal]:
    """The best two of each family, so that one family does not fill the list."""
    taken: dict[str, int] = {}
    out = []
    for one in found:
        taken[one.family] = taken.get(one.family, 0) + 1
        if taken[one.family] <= 2:
            out.append(one)
    return out


def rest(report: Report, spec: PlanSpec) -> str:
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
