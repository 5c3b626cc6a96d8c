"""What a deadline is answered in."""

from __future__ import annotations

from typing import Any

from service.jobs.rules.deadlines.room import Room
from service.jobs.rules.deadlines.turns import Turn
from service.jobs.rules.schedule import as_simulated
from service.plans.models import Plan, PlanVersion
from service.workshop.models import Spool
from service.workshop.rules.spools import reserved


def sentence(copies: int, alone: list[dict[str, Any]], shared: list[Turn]) -> str:
    if not alone:
        return "No machine of the workshop suits this plan."
    if shared:
        turns = " and ".join(f"{turn.copies} on {turn.machine}" for turn in shared)
        same = all(not turn.change for turn in shared)
        return (
            f"{_many(copies)}, {turns}: "
            f"{'the plan as it is' if same else 'layer heights fitted into the time'}, P95 "
            f"{max(turn.p95_um for turn in shared):.0f} µm."
        )
    best = alone[0]
    if best["fits"]:
        return (
            f"{_many(copies)} on {best['machine']}: {best['words']}, ≈ "
            f"{best['time_s'] / 60:.0f} min each at a P95 of {best['p95_um']:.0f} µm."
        )
    return f"{_many(copies)} {'does' if copies == 1 else 'do'} not fit before then."


def _many(copies: int) -> str:
    return f"{copies} {'copy' if copies == 1 else 'copies'}"


def simulated(rooms: list[Room]) -> str:
    """What to say of machines that do not run in real time; nothing where all do."""
    found = [as_simulated(room.name, room.factor) for room in rooms]
    return "; ".join(words for words in found if words)


def spool_words(plan: Plan, exact: PlanVersion, copies: int) -> str:
    """What the spool says to so many copies; nothing where it suffices."""
    spool = plan.latest.spool
    if spool is None or exact.report is None:
        return "no spool is chosen"
    each = float(exact.report["filament"]["mass_g"])
    free = spool.usable_mass - reserved(spool)
    if free >= copies * each:
        return ""
    others = Spool.objects.filter(material=spool.material_id).exclude(pk=spool.pk)
    enough = next(
        (other.label for other in others if other.usable_mass - reserved(other) >= copies * each),
        None,
    )
    return (
        f"{spool.label} has {free:.0f} g free and {copies * each:.0f} g are needed: it holds "
        f"{max(int(free / each), 0)} of {copies}" + (f"; {enough} has enough" if enough else "")
    )
