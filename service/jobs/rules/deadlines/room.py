"""The machines asked for a deadline: from when on they are free, and what a copy takes."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

import numpy as np

from northpace.errors import InputError
from northpace.spec import PlanSpec
from service.jobs.rules.schedule import factor_of, next_slot
from service.plans.models import Plan
from service.plans.rules import figures, resolving
from service.workshop.models import Machine, Nozzle


@dataclass
class Room:
    """A machine until the deadline; seconds are infinite where the plan does not suit it."""

    #: the nozzle, and the plan for it
    nozzle: Nozzle
    spec: PlanSpec
    #: from when on it is free
    begin: datetime
    #: machine seconds there are, and seconds a change of bed takes
    seconds: float
    change_s: float
    #: one standard deviation of its estimates as a share
    spread: float
    #: how many times faster than real it runs, 1 unless simulated
    factor: float
    #: ≈ figures of the plan as it is
    now: dict[str, Any] = field(default_factory=dict)
    #: seconds a copy takes as the plan is, and with the fastest layers
    as_is: float = np.inf
    fastest: float = np.inf
    #: why the plan does not suit the machine
    why: str = ""

    @property
    def name(self) -> str:
        return self.nozzle.machine.name

    def copies_of(self, copies: Any) -> Any:
        """The copies whose time so many are counted as: two standard deviations of all together
        more.
        """
        return copies + 2 * self.spread * copies**0.5

    def needs(self, copies: int, each: float) -> float:
        """Machine seconds for so many copies, with the bed changes between them."""
        return self.copies_of(copies) * each + max(copies - 1, 0) * self.change_s

    def each(self, copies: int) -> float:
        """Seconds there are for each of so many copies."""
        return (self.seconds - (copies - 1) * self.change_s) / self.copies_of(copies)

    def most(self, each: float, copies: int) -> int:
        """How many of some copies fit, if each takes so many seconds."""
        many = np.arange(1, copies + 1)
        taken = self.copies_of(many) * each + (many - 1) * self.change_s
        return int(np.count_nonzero(taken <= self.seconds))

    def done(self, copies: int, each: float) -> datetime:
        return self.begin + timedelta(
            seconds=(copies * each + max(copies - 1, 0) * self.change_s) / self.factor
        )


def free_at(machine: Machine, start: datetime, spool: int | None = None) -> datetime:
    """From when on a machine can take the first copy: after what is on it and waits for it, once a
    person has cleared its bed, and hung up the spool of that key if another one hangs there by
    then.
    """
    return max(start, next_slot(machine, 0.0, spool).begin)


def nozzles(plan: Plan, own: Nozzle) -> list[Nozzle]:
    """The plan's own nozzle first, then one of the same bore on every other machine: another bore
    is another plan.
    """
    others = (
        Nozzle.objects.filter(machine__workshop=plan.workshop, bore=own.bore)
        .select_related("machine")
        .order_by("machine_id", "pk")
    )
    one_each = {own.machine_id: own}
    for nozzle in others:
        if not nozzle.machine.held:
            one_each.setdefault(nozzle.machine_id, nozzle)
    return list(one_each.values())


def room_of(plan: Plan, nozzle: Nozzle, start: datetime, until: datetime) -> Room | None:
    """A machine until the deadline, None where the plan does not suit it at all."""
    latest, machine = plan.latest, nozzle.machine
    try:
        spec = resolving.resolve(latest.settings, nozzle, latest.material, latest.spool)
    except InputError:
        return None
    begin, factor = free_at(machine, start, latest.spool_id), factor_of(machine)
    return Room(
        nozzle,
        spec,
        begin,
        (until - begin).total_seconds() * factor,
        60 * machine.bed_change_min,
        float((machine.learnt or {}).get("spread", 0.0)),
        factor,
    )


def measure(plan: Plan, room: Room) -> None:
    """≈ seconds of a copy on a machine, as it is and with the fastest layers."""
    try:
        room.now = figures.quick_figures(plan, room.spec)
    except InputError as error:
        room.why = error.message
        return
    room.as_is = room.fastest = float(room.now["time_s"]["total"])
    try:
        points = figures.frontier_points(plan, room.spec, "mean", 2)["points"]
        room.fastest = min([room.as_is, *(float(point["time_s"]) for point in points)])
    except InputError as error:
        room.why = error.message
