"""What can be had by a deadline."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from django.utils import timezone

from northpace.errors import InputError
from service.jobs.rules.deadlines.needed import needed
from service.jobs.rules.deadlines.plated import later, plated
from service.jobs.rules.deadlines.room import measure, nozzles, room_of
from service.jobs.rules.deadlines.turns import alone, shared
from service.jobs.rules.deadlines.words import sentence, simulated, spool_words
from service.jobs.rules.schedule import factor_of
from service.plans.models import Plan
from service.plans.rules import figures


def answer(
    plan: Plan, until: datetime, copies: int, start: datetime | None = None
) -> dict[str, Any]:
    """What can be had by a deadline; raises `InputError` for one that makes no sense."""
    now = timezone.now()
    start = max(start or now, now)
    exact = figures.last_exact(plan)
    if exact is None or exact.report is None:
        raise InputError("the exact figures are not computed yet", str(plan))
    if until <= start:
        raise InputError(
            "the deadline lies before the first copy could begin; take a later one", "until"
        )
    asked = (room_of(plan, nozzle, start, until) for nozzle in nozzles(plan, exact.nozzle))
    rooms = [room for room in asked if room is not None]
    for room in rooms:
        measure(plan, room)
    rows = [alone(plan, room, copies) for room in rooms]
    rows.sort(
        key=lambda row: (not row["fits"], row["p95_um"] if row["fits"] else -row["minutes_each"])
    )
    turns = shared(plan, rooms, copies) if len(rooms) > 1 else []
    # one machine is simplest, unless its layers would show more than when several share the copies
    worst = max((turn.p95_um for turn in turns), default=np.inf)
    one_does = bool(rows and rows[0]["fits"])
    together = bool(turns) and not (one_does and rows[0]["p95_um"] <= worst + 0.5)
    own = next((room for room in rooms if room.nozzle.pk == exact.nozzle_id), None)
    on_plates = plated(plan, exact, own, copies)
    plates_do = on_plates is not None and on_plates["fits"]
    fits = one_does or bool(turns) or plates_do
    machine = exact.nozzle.machine
    change_s = 60 * machine.bed_change_min
    cycle = float(exact.report["time_s"]["total"]) + change_s
    said = sentence(copies, rows, turns if together else [])
    if plates_do and not (one_does or turns):
        assert on_plates is not None
        said = f"{on_plates['words'].capitalize()} on {on_plates['machine']}: the plan as it is."
    return {
        "fits": fits,
        "sentence": said,
        "plates": on_plates,
        "spool": spool_words(plan, exact, copies),
        "simulated": simulated(rooms),
        "machines": rows,
        "shared": [asdict(turn) for turn in turns],
        "needed": []
        if fits
        else [*later(on_plates, until), *needed(plan, exact, rooms, copies, until)],
        "pieces_a_day": 86400 / cycle,
        "run_done_at": (own.begin if own else start)
        + timedelta(seconds=(copies * cycle - change_s) / factor_of(machine)),
    }
