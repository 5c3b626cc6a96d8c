"""Findings about what a plan may take at most, and about what does not suit each other in the
workshop.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from northpace.checks.finding import Finding
from northpace.spec import Machine, Material, PlanSpec
from northpace.words import signed


def over(figures: dict[str, Any], spec: PlanSpec) -> bool:
    """Whether a plan's report is over one of its caps."""
    return any(taken > cap for _, taken, cap in _taken(figures, spec))


def _taken(figures: dict[str, Any], spec: PlanSpec) -> list[tuple[str, float, float]]:
    limits = spec.limits
    rows = [
        ("time", figures["time_s"]["total"] / 60, limits.time_min),
        ("mass", figures["filament"]["mass_g"], limits.mass_g),
        ("cost", figures["filament"]["cost"], limits.cost),
    ]
    return [(name, taken, cap) for name, taken, cap in rows if cap is not None]


def affordable_minutes(figures: dict[str, Any], spec: PlanSpec) -> float:
    """Minutes a plan may take to cost no more than its money cap, its mass left as it is; below 0
    where the material alone costs more.
    """
    shares, cap = figures["filament"]["cost_shares"], spec.limits.cost or 0.0
    lost = (1 - spec.machine.failed_share / 100) * (1 - spec.material.failed_share / 100)
    rate = spec.machine.hourly_rate + spec.machine.power / 1000 * spec.machine.tariff
    left = cap * lost - shares["material"]
    return 60 * left / rate if rate > 0 else (float("inf") if left >= 0 else -1.0)


def limit_findings(
    figures: dict[str, Any], spec: PlanSpec, fastest_s: float, lighter: Sequence[Any]
) -> list[Finding]:
    """Caps a plan is over, by how much, and the best fit within them: ``fastest_s`` is the time of
    the fastest stack its rules allow, ``lighter`` the changes that keep to the mass cap
    (`northpace.tradeoff.lighter`).
    """
    found = []
    for name, taken, cap in _taken(figures, spec):
        if taken <= cap:
            continue
        if name == "time":
            found.append(
                _within_time(
                    "over-time",
                    f"The plan takes {taken:.1f} min; its time cap is {cap:g} min: "
                    f"{taken - cap:.1f} min over.",
                    cap,
                    fastest_s,
                )
            )
        elif name == "mass":
            ways = "; ".join(f"{way.words}: {signed(way.grams, 1)} g" for way in lighter)
            found.append(
                Finding(
                    "over-mass",
                    "look",
                    f"The part takes {taken:.2f} g; its mass cap is {cap:g} g: "
                    f"{taken - cap:.2f} g over.",
                    help=f"What would keep to it (≈): {ways}."
                    if ways
                    else "Neither thinner infill nor fewer walls keep to it; only a smaller "
                    "part or a higher cap does.",
                    change=dict(lighter[0].change) if lighter else {},
                )
            )
        else:
            minutes = affordable_minutes(figures, spec)
            text = (
                f"The part costs {taken:.2f} €; its money cap is {cap:g} €: "
                f"{taken - cap:.2f} € over."
            )
            if minutes <= 0:
                found.append(
                    Finding(
                        "over-cost",
                        "look",
                        text,
                        help="The filament alone costs more: less infill, fewer walls or a "
                        "cheaper material.",
                    )
                )
            elif minutes == float("inf"):
                found.append(
                    Finding(
                        "over-cost",
                        "look",
                        text,
                        help="Time costs nothing on this machine; only less filament helps.",
                    )
                )
            else:
                found.append(_within_time("over-cost", text, minutes, fastest_s))
    return found


def _within_time(code: str, text: str, minutes: float, fastest_s: float) -> Finding:
    # a layer's worth of slack: a stack within the cap is found by the quick figures
    if fastest_s / 60 > minutes:
        return Finding(
            code,
            "look",
            text,
            help=f"Layer heights alone do not reach {minutes:.1f} min: the fastest stack "
            f"takes ≈ {fastest_s / 60:.1f} min. "
            "Wider beads, fewer walls, less infill or higher speeds are needed, or a higher cap.",
        )
    return Finding(
        code,
        "look",
        text,
        help=f"The best fit within {minutes:.1f} min keeps the best surface that time allows.",
        change={"surface.kind": "best-fit", "surface.time_cap_min": round(minutes - 0.005, 2)},
    )


def suits(machine: Machine, material: Material) -> list[Finding]:
    """What does not fit between a machine with its nozzle and a material, said before anything is
    planned.
    """
    found = []
    hot = max(material.nozzle_temp, material.first_nozzle_temp)
    if hot > machine.hottest_nozzle:
        found.append(
            Finding(
                "too-hot",
                "stop",
                f"{material.name} needs {hot:g} °C at the nozzle; {machine.name} reaches "
                f"{machine.hottest_nozzle:g} °C.",
                help="Another machine, or a material that melts cooler.",
            )
        )
    warm = max(material.bed_temp, material.first_bed_temp)
    if warm > machine.hottest_bed:
        found.append(
            Finding(
                "bed-too-cool",
                "stop",
                f"{material.name} needs a bed of {warm:g} °C; that of {machine.name} reaches "
                f"{machine.hottest_bed:g} °C.",
                help="Another machine, or a material that holds on a cooler bed.",
            )
        )
    if material.abrasive and not machine.nozzle_hard:
        found.append(
            Finding(
                "abrasive",
                "look",
                f"{material.name} is abrasive and wears the soft {machine.nozzle:g} mm nozzle of "
                f"{machine.name}: beads get wider and the surface rough.",
                help="Take a hard nozzle.",
            )
        )
    return found
