"""A deadline: so many copies until a time, on the machines that are free, with the best surface
that fits; or what would be needed.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from django.utils import timezone

from northpace.errors import InputError
from northpace.spec import PlanSpec, spec_from
from service.jobs.rules.schedule import factor_of, open_jobs, schedule
from service.plans.models import Plan, PlanVersion, Search
from service.plans.rules import figures, resolving
from service.workshop.models import Machine, Nozzle, Spool
from service.workshop.rules.spools import reserved

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

    def needs(self, copies: int, each: float) -> float:
        """Machine seconds for so many copies: bed changes between them, and two standard deviations
        of all together.
        """
        return (copies + 2 * self.spread * copies**0.5) * each + max(copies - 1, 0) * self.change_s

    def each(self, copies: int) -> float:
        """Seconds there are for each of so many copies."""
        return (self.seconds - (copies - 1) * self.change_s) / (
            copies + 2 * self.spread * copies**0.5
        )

    def most(self, each: float, copies: int) -> int:
        """How many of some copies fit, if each takes so many seconds."""
        many = np.arange(1, copies + 1)
        return int(
            np.count_nonzero(
                (many + 2 * self.spread * np.sqrt(many)) * each + (many - 1) * self.change_s
                <= self.seconds
            )
        )

    def done(self, copies: int, each: float) -> datetime:
        return self.begin + timedelta(
            seconds=(copies * each + max(copies - 1, 0) * self.change_s) / self.factor
        )


def free_at(machine: Machine, start: datetime) -> datetime:
    """From when on a machine can take the first copy: after what is on it and waits for it, with a
    change of bed.
    """
    slots = schedule(machine, open_jobs(machine), timezone.now())
    if not slots:
        return start
    return max(
        start,
        max(slot.end for slot in slots.values())
        + timedelta(minutes=machine.bed_change_min / factor_of(machine)),
    )


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
    rooms = [_room(plan, nozzle, start, until) for nozzle in _nozzles(plan, exact.nozzle)]
    rooms = [room for room in rooms if room is not None]
    for room in rooms:
        _measure(plan, room)
    alone = [_alone(plan, room, copies) for room in rooms]
    alone.sort(
        key=lambda row: (not row["fits"], row["p95_um"] if row["fits"] else -row["minutes_each"])
    )
    shared = _shared(plan, rooms, copies) if len(rooms) > 1 else []
    # one machine is simplest, unless its layers would show more than when several share the copies
    worst = max((turn.p95_um for turn in shared), default=np.inf)
    together = bool(shared) and not (
        alone and alone[0]["fits"] and alone[0]["p95_um"] <= worst + 0.5
    )
    fits = bool(alone and alone[0]["fits"]) or bool(shared)
    cycle = float(exact.report["time_s"]["total"]) + 60 * exact.nozzle.machine.bed_change_min
    own = next((room for room in rooms if room.nozzle.pk == exact.nozzle_id), None)
    return {
        "fits": fits,
        "sentence": _sentence(copies, alone, shared if together else []),
        "spool": _spool(plan, exact, copies),
        "simulated": _simulated(rooms),
        "machines": alone,
        "shared": [asdict(turn) for turn in shared],
        "needed": [] if fits else _needed(plan, exact, rooms, copies, until),
        "pieces_a_day": 86400 / cycle,
        "run_done_at": (own.begin if own else start)
        + timedelta(
            seconds=(copies * cycle - 60 * exact.nozzle.machine.bed_change_min)
            / factor_of(exact.nozzle.machine)
        ),
    }


def _nozzles(plan: Plan, own: Nozzle) -> list[Nozzle]:
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


def _room(plan: Plan, nozzle: Nozzle, start: datetime, until: datetime) -> Room | None:
    """A machine until the deadline, None where the plan does not suit it at all."""
    latest, machine = plan.latest, nozzle.machine
    try:
        spec = resolving.resolve(latest.settings, nozzle, latest.material, latest.spool)
    except InputError:
        return None
    begin, factor = free_at(machine, start), factor_of(machine)
    return Room(
        nozzle,
        spec,
        begin,
        (until - begin).total_seconds() * factor,
        60 * machine.bed_change_min,
        float((machine.learnt or {}).get("spread", 0.0)),
        factor,
    )


def _measure(plan: Plan, room: Room) -> None:
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


def _turn(plan: Plan, room: Room, copies: int, each: float) -> Turn | None:
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


def _alone(plan: Plan, room: Room, copies: int) -> dict[str, Any]:
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
    turn = _turn(plan, room, copies, each) if each >= room.fastest else None
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


def _shared(plan: Plan, rooms: list[Room], copies: int) -> list[Turn]:
    """All copies spread over the machines: as the plan is where that is enough, else with the
    longest time a copy may take.
    """
    counts = _spread(rooms, copies, [room.as_is for room in rooms])
    if counts:
        return [
            turn
            for room, count in zip(rooms, counts, strict=True)
            if count and (turn := _turn(plan, room, count, room.as_is))
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
        counts = _spread(rooms, copies, each)
        turns = [
            _turn(plan, room, count, min(budget, room.as_is))
            for room, count in zip(rooms, counts, strict=True)
            if count
        ]
        return [turn for turn in turns if turn is not None] if all(turns) else []
    return []


def _spread(rooms: list[Room], copies: int, each: list[float], within: bool = True) -> list[int]:
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


def _simulated(rooms: list[Room]) -> str:
    """What to say of machines that do not run in real time; nothing where all do."""
    return "; ".join(
        f"{room.name} is simulated, {room.factor:g} times as fast as a real one"
        for room in rooms
        if room.factor != 1
    )


def _many(copies: int) -> str:
    return f"{copies} {'copy' if copies == 1 else 'copies'}"


def _sentence(copies: int, alone: list[dict[str, Any]], shared: list[Turn]) -> str:
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


def _needed(
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
    counts = _spread(usable, copies, [room.fastest for room in usable], within=False)
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
            f"more time: {_later(end, until)}, "
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


def _later(at: datetime, until: datetime) -> str:
    """How much later than a time."""
    minutes = (at - until).total_seconds() / 60
    return f"{minutes:.0f} min later" if minutes < 120 else f"{minutes / 60:.1f} h later"


def _spool(plan: Plan, exact: PlanVersion, copies: int) -> str:
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
