"""What would make a deadline possible."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np

from service.jobs.rules.deadlines.room import Room
from service.jobs.rules.deadlines.turns import spread
from service.plans.models import Plan, PlanVersion, Search


def needed(
    plan: Plan, exact: PlanVersion, rooms: list[Room], copies: int, until: datetime
) -> list[str]:
    """What would make it possible: fewer copies, a later time, or a quicker plan by so much."""
    found = []
    usable = [room for room in rooms if np.isfinite(room.fastest)]
    fitting, unchanged = (
        sum(room.most(each, copies) for room, each in zip(usable, seconds, strict=True))
        for seconds in ([room.fastest for room in usable], [room.as_is for room in usable])
    )
    if fitting:
        found.append(
            f"fewer copies: {fitting} with the fastest layers, {unchanged} with the plan as it is"
            if fitting > unchanged
            else f"fewer copies: {fitting}"
        )
    counts = spread(usable, copies, [room.fastest for room in usable], within=False)
    if counts:
        end = max(
            room.begin + timedelta(seconds=room.needs(count, room.fastest) / room.factor)
            for room, count in zip(usable, counts, strict=True)
            if count
        )
        where = " and ".join(
            f"{count} on {room.name}" for room, count in zip(usable, counts, strict=True) if count
        )
        found.append(
            f"more time: {later_by(end, until)}, "
            + where
            + (" with the fastest layers" if any(r.fastest < r.as_is for r in usable) else "")
        )
    best = max(usable, key=lambda room: room.each(copies) - room.fastest, default=None)
    if best is not None and best.each(copies) > 0:
        found.append(
            f"a quicker plan: {best.each(copies) / 60:.0f} min each on {best.name}, instead "
            f"of {best.fastest / 60:.0f}"
        )
        chain = _chain(plan, exact)
        if chain is not None:
            found.append(
                f"the chain of changes found for this plan comes to {chain / 60:.0f} min "
                f"each, which is {'' if chain <= best.each(copies) else 'not '}"
                "enough"
            )
    return found


def _chain(plan: Plan, exact: PlanVersion) -> float | None:
    """Seconds the last search's chain comes to, if it was made for what the plan is now."""
    search = plan.searches.filter(version=exact, state=Search.State.DONE).first()
    steps = (search.result or {}).get("chain", []) if search else []
    return float(steps[-1]["after"]["time_s"]) if steps else None


def later_by(at: datetime, until: datetime) -> str:
    """How much later than a time."""
    minutes = (at - until).total_seconds() / 60
    return f"{minutes:.0f} min later" if minutes < 120 else f"{minutes / 60:.1f} h later"
