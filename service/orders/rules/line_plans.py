"""The plans that may be used for the lines of orders, and what beds of them take."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from northpace.schedule.problem import BedTime
from northpace.schedule.week import AHEAD_S
from service.jobs.rules.schedule import factor_of
from service.orders.models import OrderLine, PlateTimes
from service.orders.rules.machines_now import MachineNow, clearing_s
from service.orders.rules.plate_times import exact_versions, known_times
from service.plans.models import PlanVersion

#: The shortest time of a bed that a schedule takes, in s.
SHORTEST_S = 0.01


@dataclass(frozen=True)
class UsablePlan:
    """A plan that may be used for a line, and why it cannot be scheduled now, if so."""

    #: key and number of the plan
    plan: int
    number: int
    #: its newest exact version, and the times of its beds; None if there are none
    version: PlanVersion | None
    times: PlateTimes | None
    #: why it cannot be scheduled now; empty if it can be
    why_not: str

    @property
    def computing(self) -> bool:
        """Whether the times of its beds are being computed at the moment."""
        if self.version is None:
            return False
        return self.times is None or self.times.state in PlateTimes.OPEN

    @property
    def timed(self) -> bool:
        """Whether the times of its beds are known."""
        return self.times is not None and self.times.state == PlateTimes.State.DONE


def usable_plans(
    lines: Iterable[OrderLine], machines: Mapping[int, MachineNow]
) -> dict[int, list[UsablePlan]]:
    """The plans of every line, by the key of the line. ``machines`` are all of the workshop, by
    their keys.
    """
    lines = list(lines)
    plans = {plan.pk: plan for line in lines for plan in line.plans.all()}
    versions = {version.plan_id: version for version in exact_versions(plans)}
    times = known_times(versions.values())

    def usable(key: int) -> UsablePlan:
        version = versions.get(key)
        known = times.get(version.pk) if version else None
        why_not = _why_not(version, known, machines)
        return UsablePlan(key, plans[key].number, version, known, why_not)

    return {line.pk: [usable(plan.pk) for plan in line.plans.all()] for line in lines}


def _why_not(
    version: PlanVersion | None, times: PlateTimes | None, machines: Mapping[int, MachineNow]
) -> str:
    """Why a version cannot be scheduled now; empty if it can be."""
    if version is None:
        return "its exact figures are not computed yet"
    if times is None or times.state in PlateTimes.OPEN:
        return "the times of its beds are being computed"
    if times.state != PlateTimes.State.DONE:
        return times.message or "the times of its beds could not be computed"
    now_on, nozzle = machines[version.nozzle.machine_id], version.nozzle
    machine = now_on.machine
    if machine.fitted_id not in (None, nozzle.pk):
        return f"it is for the {nozzle} nozzle, and {machine.fitted} is fitted on {machine.name}"
    return now_on.why_not


def bed_times(
    plans: Iterable[UsablePlan], machines: Mapping[int, MachineNow]
) -> tuple[BedTime, ...]:
    """What beds of those plans take on the clock that can be scheduled now."""
    out = []
    for plan in plans:
        if plan.version is not None and not plan.why_not:
            machine = machines[plan.version.nozzle.machine_id].machine
            out.append(bed_time(plan, factor_of(machine), clearing_s(machine)))
    return tuple(out)


def bed_time(plan: UsablePlan, quick: float = 1.0, clearing: float = 0.0) -> BedTime:
    """What beds of a plan take whose times are known. The machine runs ``quick`` times as fast as a
    real one, and is busy for ``clearing`` s more after each print.
    """
    assert plan.version is not None and plan.times is not None

    def on_clock(seconds: float) -> float:
        return min(max(seconds / quick, SHORTEST_S) + clearing, AHEAD_S)

    return BedTime(
        plan=str(plan.plan),
        machine=str(plan.version.nozzle.machine_id),
        material=plan.version.material.name,
        pieces=tuple(plan.times.copies),
        seconds=tuple(map(on_clock, plan.times.seconds)),
        grams=tuple(plan.times.grams),
    )
