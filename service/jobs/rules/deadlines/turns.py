"""What machines do for a deadline, alone and together."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

import numpy as np

from northpace.errors import InputError
from northpace.spec import PlanSpec, spec_from
from service.jobs.rules.deadlines.room import Room
from service.plans.models import Plan
from service.plans.rules import figures

#: A cap is set this many minutes below the room there is, because exact times differ from ≈ ones by
#: seconds.
BELOW = 0.05


@dataclass
class Turn:
    """What one machine does for a deadline."""

    #: its name, the nozzle's id, and how many copies
    machine: str
    nozzle: int
    copies: int
    #: a change of the plan in words and by setting; empty for as it is
    words: str
    change: dict[str, Any]
    #: ≈ seconds a copy and its surface error in µm
    time_s: float
    p95_um: float
    #: when the last copy is done, and how far to either side that may come out in s
    done_at: datetime
    give_s: float


def turn_of(plan: Plan, room: Room, copies: int, each: float) -> Turn | None:
    """So many copies on a machine, none taking longer than ``each`` seconds; None where the layers
    cannot be fitted into that.
    """
    found, change, words = room.now, {}, "the plan as it is"
    if room.as_is > each:
        change = {"surface.kind": "best-fit", "surface.time_cap_min": round(each / 60 - BELOW, 1)}
        try:
            found = figures.quick_figures(plan, _capped(room.spec, change))
        except InputError:
            return None
        words = f"layer heights fitted into {each / 60:.0f} min each"
    total = float(found["time_s"]["total"])
    return Turn(
        room.name,
        room.nozzle.pk,
        copies,
        words,
        change,
        total,
        float(found["surface"]["p95_um"]),
        room.done(copies, total),
        2 * room.spread * total * copies**0.5 / room.factor,
    )


def alone(plan: Plan, room: Room, copies: int) -> dict[str, Any]:
    """What one machine does about all copies."""
    each = room.each(copies)
    row: dict[str, Any] = {
        "machine": room.name,
        "nozzle": room.nozzle.pk,
        "free_at": room.begin,
        "minutes_each": each / 60,
        "fits": False,
        "words": "",
        "change": {},
        "time_s": None,
        "p95_um": None,
        "done_at": None,
        "give_s": 0.0,
        "most": room.most(room.fastest, copies),
    }
    turn = turn_of(plan, room, copies, each) if each >= room.fastest else None
    if turn is not None:
        return {
            **row,
            "fits": True,
            **{name: value for name, value in asdict(turn).items() if name in row},
        }
    if not np.isfinite(room.as_is):
        return {**row, "words": room.why}
    if room.seconds <= 0:
        return {**row, "words": "not free before then"}
    layers = (
        f"the fastest layers take ≈ {room.fastest / 60:.0f} min each"
        if room.fastest < room.as_is
        else f"a copy takes ≈ {room.as_is / 60:.0f} min"
    )
    there_are = (
        f"there are {each / 60:.0f}" if each > 0 else "there is no time left beside the bed changes"
    )
    return {**row, "words": f"{layers}, {there_are}"}


def shared(plan: Plan, rooms: list[Room], copies: int) -> list[Turn]:
    """All copies spread over the machines: as the plan is where that is enough, else with the
    longest time a copy may take.
    """
    counts = spread(rooms, copies, [room.as_is for room in rooms])
    if counts:
        return [
            turn
            for room, count in zip(rooms, counts, strict=True)
            if count and (turn := turn_of(plan, room, count, room.as_is))
        ]
    budgets = sorted(
        {
            room.each(k)
            for room in rooms
            for k in range(1, copies + 1)
            if room.each(k) >= room.fastest
        },
        reverse=True,
    )
    for budget in budgets:
        each = [min(budget, room.as_is) if room.fastest <= budget else np.inf for room in rooms]
        if (
            sum(room.most(seconds, copies) for room, seconds in zip(rooms, each, strict=True))
            < copies
        ):
            continue
        counts = spread(rooms, copies, each)
        turns = [
            turn_of(plan, room, count, min(budget, room.as_is))
            for room, count in zip(rooms, counts, strict=True)
            if count
        ]
        return [turn for turn in turns if turn is not None] if all(turns) else []
    return []


def spread(rooms: list[Room], copies: int, each: list[float], within: bool = True) -> list[int]:
    """Copies for each machine, one after the other to the machine that would have it done first;
    empty where they do not fit.
    """
    counts = [0] * len(rooms)
    for _ in range(copies):
        takers = [
            (room.done(counts[k] + 1, each[k]), k)
            for k, room in enumerate(rooms)
            if np.isfinite(each[k])
            and (not within or room.needs(counts[k] + 1, each[k]) <= room.seconds)
        ]
        if not takers:
            return []
        counts[min(takers)[1]] += 1
    return counts


def _capped(spec: PlanSpec, change: dict[str, Any]) -> PlanSpec:
    return spec_from(
        {
            **spec.model_dump(),
            "surface": {
                **spec.surface.model_dump(),
                "kind": "best-fit",
                "time_cap_min": change["surface.time_cap_min"],
                "stack": (),
            },
        }
    )
