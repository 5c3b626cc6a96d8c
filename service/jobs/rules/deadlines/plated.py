"""Copies by a deadline on plates that hold several."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from northpace.errors import InputError
from service.beds.rules.plates import plates_of
from service.jobs.rules.deadlines.needed import later_by
from service.jobs.rules.deadlines.room import Room
from service.plans.models import Plan, PlanVersion


def plated(plan: Plan, exact: PlanVersion, room: Room | None, copies: int) -> dict[str, Any] | None:
    """What the plan's own machine does with all copies on plates, the plan as it is; None for one
    copy, and where plates hold no more than one.
    """
    if room is None or copies < 2:
        return None
    try:
        found = plates_of(plan, exact, copies)
    except InputError:
        return None
    if found.holds < 2:
        return None
    each = found.seconds
    seconds = sum(each) + room.change_s * (len(each) - 1)
    give = 2 * room.spread * sum(each) / max(len(each), 1) ** 0.5
    done = room.begin + timedelta(seconds=seconds / room.factor)
    fits = seconds + give <= room.seconds
    on = f"{len(each)} plates of up to {found.holds}" if len(each) > 1 else "one plate"
    one_by_one = room.needs(copies, room.as_is)
    return {
        "machine": room.name,
        "holds": found.holds,
        "plates": len(each),
        "time_s": seconds,
        "done_at": done,
        "give_s": give / room.factor,
        "fits": fits,
        "saved_s": one_by_one - seconds,
        "exact": found.exact,
        "words": f"{copies} on {on}, laid together",
    }


def later(found: dict[str, Any] | None, until: datetime) -> list[str]:
    """How much later plates would be done, where that is what it takes."""
    if found is None:
        return []
    at = found["done_at"] + timedelta(seconds=found["give_s"])
    return [f"more time: {later_by(at, until)}, {found['words']} on {found['machine']}"]
