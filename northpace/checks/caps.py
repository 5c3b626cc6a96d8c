"""Caps a plan is over: by how much, and what would keep to them."""

from __future__ import annotations

from northpace.checks.check import check
from northpace.checks.facts import Facts, Relief
from northpace.checks.finding import Finding
from northpace.material.amounts import Amounts, cost_per_second, lost_factor
from northpace.spec import PlanSpec
from northpace.words import signed


def over(amounts: Amounts, spec: PlanSpec) -> bool:
    """Whether a plan is over one of its caps."""
    return any(taken > cap for _, taken, cap in _taken(amounts, spec))


def _taken(amounts: Amounts, spec: PlanSpec) -> list[tuple[str, float, float]]:
    limits = spec.limits
    rows = [
        ("time", amounts.seconds / 60, limits.time_min),
        ("mass", amounts.mass_g, limits.mass_g),
        ("cost", amounts.cost, limits.cost),
    ]
    return [(name, taken, cap) for name, taken, cap in rows if cap is not None]


@check(
    "amounts",
    "relief",
    codes=("over-time", "over-mass", "over-cost"),
    reads=("limits", "machine", "material"),
)
def caps(facts: Facts) -> list[Finding]:
    """One finding for every cap that is passed."""
    relief = facts.relief
    if relief is None:
        return []
    say = {"time": _over_time, "mass": _over_mass, "cost": _over_cost}
    return [
        say[name](taken, cap, facts, relief)
        for name, taken, cap in _taken(facts.amounts, facts.spec)
        if taken > cap
    ]


def _over_time(taken: float, cap: float, facts: Facts, relief: Relief) -> Finding:
    text = (
        f"The plan takes {taken:.1f} min; its time cap is {cap:g} min: {taken - cap:.1f} min over."
    )
    return _within_time("over-time", text, cap, relief.fastest_s)


def _over_mass(taken: float, cap: float, facts: Facts, relief: Relief) -> Finding:
    lighter = relief.lighter
    ways = "; ".join(f"{way.words}: {signed(way.grams, 1)} g" for way in lighter)
    return Finding(
        "over-mass",
        "look",
        f"The part takes {taken:.2f} g; its mass cap is {cap:g} g: {taken - cap:.2f} g over.",
        help=f"What would keep to it (≈): {ways}."
        if ways
        else "Neither thinner infill nor fewer walls keep to it; only a smaller part or a higher "
        "cap does.",
        change=dict(lighter[0].change) if lighter else {},
    )


def _over_cost(taken: float, cap: float, facts: Facts, relief: Relief) -> Finding:
    minutes = affordable_minutes(facts.amounts, facts.spec)
    text = f"The part costs {taken:.2f} €; its money cap is {cap:g} €: {taken - cap:.2f} € over."
    if minutes <= 0:
        help = "The filament alone costs more: less infill, fewer walls or a cheaper material."
        return Finding("over-cost", "look", text, help=help)
    if minutes == float("inf"):
        help = "Time costs nothing on this machine; only less filament helps."
        return Finding("over-cost", "look", text, help=help)
    return _within_time("over-cost", text, minutes, relief.fastest_s)


def affordable_minutes(amounts: Amounts, spec: PlanSpec) -> float:
    """Minutes a plan may take to cost no more than its money cap, its mass left as it is; below 0
    where the material alone costs more, infinite where time costs nothing.
    """
    left = (spec.limits.cost or 0.0) / lost_factor(
        spec.machine, spec.material
    ) - amounts.cost_material
    rate = 3600 * cost_per_second(spec.machine)
    return 60 * left / rate if rate > 0 else (float("inf") if left >= 0 else -1.0)


def _within_time(code: str, text: str, minutes: float, fastest_s: float) -> Finding:
    if fastest_s / 60 > minutes:
        return Finding(
            code,
            "look",
            text,
            help=f"Layer heights alone do not reach {minutes:.1f} min: the fastest stack takes "
            f"≈ {fastest_s / 60:.1f} min. Wider beads, fewer walls, less infill or higher speeds "
            "are needed, or a higher cap.",
        )
    return Finding(
        code,
        "look",
        text,
        help=f"The best fit within {minutes:.1f} min keeps the best surface that time allows.",
        change={"surface.kind": "best-fit", "surface.time_cap_min": round(minutes - 0.005, 2)},
    )
