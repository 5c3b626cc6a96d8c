"""When orders would be done if the workshop had one more machine, longer hours or another spool."""

from __future__ import annotations

from dataclasses import dataclass

from northpace.errors import InputError
from northpace.naming import lasting
from northpace.schedule.plan_of_day import scheduled
from northpace.schedule.problem import BedTime, FloorSpool, Problem, WantedOrder
from northpace.schedule.timetable import OrderEnd, Timetable
from northpace.schedule.week import HandHours, Week, minutes
from northpace.spec.validated import validated
from service.hands import apart
from service.limits import Limit

#: How long both schedules are searched for, as a share of the usual time.
EFFORT = 0.1
#: Key of the machine, and beginning of the keys of the spools, that the workshop does not have.
MORE = "more"
LIMIT = Limit("comparing two schedules", 60, 1000, "Fewer open orders would help.", lasts=120)


@dataclass(frozen=True)
class Otherwise:
    """What the workshop would have besides what it has."""

    #: key of a machine of which there would be one more
    like: str | None = None
    #: until when somebody would be there on every day that has hours, such as 22:00
    until: str | None = None
    #: whether somebody would be there on Saturdays and Sundays, too
    weekend: bool = False
    #: grams on one more spool, and its material
    spool_g: float = 0.0
    material: str = ""


@dataclass(frozen=True)
class Compared:
    """An order as it is, and as it would be."""

    order: str
    now: OrderEnd
    then: OrderEnd


def what_if(problem: Problem, asked: Otherwise) -> tuple[list[Compared], str]:
    """When orders are done and when they would be, and what that brings in a sentence. Both
    schedules are searched for in another process. Raises `InputError` if nothing would be
    otherwise.
    """
    other = changed(problem, asked)
    now, then = apart("exact", _both, (problem, other), LIMIT)
    before = {end.order: end for end in now.orders}
    rows = [Compared(end.order, before[end.order], end) for end in then.orders]
    return rows, _words(now, then)


def _both(problem: Problem, other: Problem) -> tuple[Timetable, Timetable]:
    return scheduled(problem, effort=EFFORT), scheduled(other, effort=EFFORT)


def changed(problem: Problem, asked: Otherwise) -> Problem:
    """The problem as it would be."""
    out = problem
    if asked.like is not None:
        out = _one_more(out, asked.like)
    if asked.until is not None or asked.weekend:
        out = out.model_copy(update={"week": _longer(out.week, asked)})
    if asked.spool_g and asked.material:
        spool = FloorSpool(key=f"{MORE} typed", material=asked.material, grams=asked.spool_g)
        out = out.model_copy(update={"spools": (*out.spools, spool)})
    if out is problem:
        raise InputError("say what would be otherwise: a machine, hours or a spool", "what-if")
    return out


def _one_more(problem: Problem, like: str) -> Problem:
    """The problem with one more machine like one that is there. It comes with a full spool of every
    material that is printed on that one.
    """
    machine = next((one for one in problem.machines if one.key == like), None)
    if machine is None:
        raise InputError("this machine is not there, or its queue is held", "like")
    twin = machine.model_copy(
        update={
            "key": MORE,
            "name": f"another {machine.name}",
            "free_s": 0.0,
            "clear": True,
            "spool": None,
        }
    )

    def with_twin(bed: BedTime) -> tuple[BedTime, ...]:
        also = bed.model_copy(update={"machine": MORE})
        return (bed, also) if bed.machine == like else (bed,)

    def order(one: WantedOrder) -> WantedOrder:
        lines = tuple(
            line.model_copy(
                update={"beds": tuple(use for bed in line.beds for use in with_twin(bed))}
            )
            for line in one.lines
        )
        return one.model_copy(update={"lines": lines})

    materials = {
        bed.material
        for one in problem.orders
        for line in one.lines
        for bed in line.beds
        if bed.machine == like
    }
    full = {spool.material: spool for spool in problem.spools if spool.material in materials}
    spools = [
        spool.model_copy(update={"key": f"{MORE} {name}", "grams": spool.full_g})
        for name, spool in sorted(full.items())
    ]
    return problem.model_copy(
        update={
            "machines": (*problem.machines, twin),
            "spools": (*problem.spools, *spools),
            "orders": tuple(order(one) for one in problem.orders),
        }
    )


def _longer(week: Week, asked: Otherwise) -> Week:
    if not week.hours:
        raise InputError("somebody is always there already, as the workshop says", "until")
    hours = [one.model_dump() for one in week.hours]
    if asked.until is not None:
        try:
            until = minutes(asked.until)
        except ValueError as error:
            raise InputError(str(error), "until") from error
        for one in hours:
            if minutes(one["end"]) < until:
                one["end"] = asked.until
    if asked.weekend:
        first = hours[0]
        days = HandHours(begin=first["begin"], end=first["end"], days=(5, 6))
        hours.append(days.model_dump())
    return validated(Week, {"hours": hours, "zone": week.zone})


def _words(now: Timetable, then: Timetable) -> str:
    """What it would bring, in a sentence."""
    late_now, late_then = (
        sum((end.late_s or 0) > 0 for end in table.orders) for table in (now, then)
    )
    ends = [
        max((end.done_s for end in table.orders if end.done_s is not None), default=0.0)
        for table in (now, then)
    ]
    lacking = [sum(one.pieces for one in table.unplaced) for table in (now, then)]
    said = []
    if lacking[0] != lacking[1]:
        said.append(f"{lacking[0] - lacking[1]} more pieces could be printed")
    if late_now != late_then:
        said.append(f"{late_then} instead of {late_now} orders would be late")
    moved = ends[0] - ends[1]
    if abs(moved) >= 60 and lacking[0] == lacking[1]:
        word = "earlier" if moved > 0 else "later"
        said.append(f"everything would be done {lasting(abs(moved))} {word}")
    return ("; ".join(said) or "it would bring next to nothing").capitalize() + "."
