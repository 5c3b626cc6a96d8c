"""The workshop as schedules see it: machines with what waits for them, spools, and open orders."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime
from functools import cached_property

from pydantic import ValidationError

from northpace.material.amounts import cost_per_second
from northpace.schedule.house import House, spare
from northpace.schedule.problem import (
    MOST_PIECES,
    BedTime,
    FloorMachine,
    FloorSpool,
    Problem,
    WantedOrder,
    WantedPieces,
)
from northpace.schedule.week import AHEAD_S, Presence
from northpace.spec import Machine as MachineSpec
from northpace.spec import Material as MaterialSpec
from northpace.spec import digest
from northpace.spec.validated import validated
from service.jobs.models import Job
from service.jobs.rules.schedule import HEAVY, Slot, factor_of, in_queue, schedule, turnover_of
from service.orders.models import Order, OrderBed, OrderLine, PlateTimes
from service.orders.rules.counted import Count, counts
from service.orders.rules.plate_times import exact_versions, known_times
from service.plans.models import PlanVersion
from service.workshop.models import Machine, Spool, Workshop, material_spec
from service.workshop.rules.house import house_of

#: g of filament on a new spool of which nobody has said it.
FULL_G = 1000.0
#: What a printer says of itself while the last pieces lie on its bed.
NOT_CLEAR = ("done", "failed", "cancelled")


@dataclass
class Held:
    """A machine with what is on it and waits for it."""

    machine: Machine
    jobs: list[Job]
    slots: dict[int, Slot]
    #: when it is free, in s from now
    free_s: float
    #: beds that were made for orders and are not committed yet, with when they begin and end
    made: list[tuple[OrderBed, float, float]] = field(default_factory=list)
    #: why nothing is scheduled on it; empty if something can be
    why: str = ""


@dataclass
class PlanUse:
    """A plan that may be used for a line, and whether it can be scheduled."""

    plan: int
    number: int
    #: its newest exact version; None if it has none
    version: PlanVersion | None
    times: PlateTimes | None
    #: why it cannot be scheduled now; empty if it can
    why: str

    @property
    def computing(self) -> bool:
        """Whether the times of its beds are being computed."""
        return self.version is not None and (
            self.times is None or self.times.state in PlateTimes.OPEN
        )


@dataclass
class Shop:
    """Everything that a schedule is computed from, and what screens say of it."""

    #: whose it is, when it was looked at, and its rules
    workshop: Workshop
    now: datetime
    house: House
    #: when somebody is there
    presence: Presence
    machines: list[Held]
    spools: list[Spool]
    #: grams of spools that jobs and beds that were made will take, by the spool's key
    taken: dict[int | None, float]
    orders: list[Order]
    #: the orders as schedules see them, in the same order
    wanted: list[WantedOrder]
    #: by the key of a line: its pieces, and the plans that may be used
    counts: dict[int, Count]
    plans: dict[int, list[PlanUse]]

    @property
    def lines(self) -> dict[int, OrderLine]:
        """All lines of the orders by their keys."""
        return {line.pk: line for order in self.orders for line in order.lines.all()}

    @cached_property
    def problem(self) -> Problem:
        """What is scheduled; raises `InputError` where more is ordered than can be scheduled at
        once.
        """
        return validated(
            Problem,
            {
                **self.house.model_dump(),
                "now": self.now,
                "machines": [_floor_machine(held) for held in self.machines if not held.why],
                "spools": _floor_spools(self.spools, self.taken),
                "orders": self.wanted,
            },
        )

    @cached_property
    def facts(self) -> str:
        """Digest of what a schedule depends on, without the time of day."""
        return _facts(self.problem, self.orders, self.machines)


def shop_of(workshop: Workshop, now: datetime, only: Iterable[Order] | None = None) -> Shop:
    """The workshop as it is now, in a fixed number of queries. ``only`` are the orders that are
    looked at, open or not, instead of all open ones.
    """
    house = house_of(workshop)
    presence = Presence(house.week.spans(now))
    orders = _orders(workshop, only)
    lines = [line for order in orders for line in order.lines.all()]
    counted = counts(lines)
    machines = _machines(workshop, now, presence)
    spools = list(
        Spool.objects.filter(material__workshop=workshop).select_related("material").order_by("pk")
    )
    by_key = {held.machine.pk: held for held in machines}
    waiting = [bed for count in counted.values() for bed in count.waiting]
    for bed in sorted(waiting, key=lambda bed: (bed.begin, bed.pk)):
        _put_made(by_key[bed.bed.nozzle.machine_id], bed, now, presence)
    known = _Known(
        house,
        counted,
        _plans(lines, by_key),
        by_key,
        _finishing(workshop, lines),
        _ends(by_key, now),
    )
    wanted = [_wanted(order, known, now) for order in orders]
    taken = _taken(machines, waiting)
    return Shop(
        *(workshop, now, house, presence, machines, spools, taken),
        *(orders, wanted, counted, known.plans),
    )


@dataclass(frozen=True)
class _Known:
    """What orders are told of while they are made ready for a schedule."""

    house: House
    counts: dict[int, Count]
    plans: dict[int, list[PlanUse]]
    machines: dict[int, Held]
    #: minutes of finishing a piece by plan
    finishing: dict[int, float]
    #: when jobs and beds that are not committed yet end, in s from now, by ("job" or "bed", key)
    ends: dict[tuple[str, int], float]


def _ends(machines: dict[int, Held], now: datetime) -> dict[tuple[str, int], float]:
    out = {}
    for held in machines.values():
        for job, slot in held.slots.items():
            out["job", job] = max((slot.end - now).total_seconds(), 0.0)
        for bed, _, end in held.made:
            out["bed", bed.pk] = end
    return out


def _orders(workshop: Workshop, only: Iterable[Order] | None) -> list[Order]:
    found = Order.objects.filter(workshop=workshop)
    if only is None:
        found = found.filter(closed="")
    else:
        found = found.filter(pk__in=[order.pk for order in only])
    return list(
        found.order_by("number").prefetch_related("lines__part", "lines__plans", "lines__order")
    )


def _machines(workshop: Workshop, now: datetime, presence: Presence) -> list[Held]:
    machines = (
        Machine.objects.filter(workshop=workshop)
        .select_related("workshop", "loaded", "fitted")
        .prefetch_related("nozzles__machine")
    )
    jobs: dict[int | None, list[Job]] = defaultdict(list)
    open_ = Job.objects.filter(workshop=workshop, state__in=Job.OPEN)
    for job in open_.select_related("bed", "spool", "version").defer(*NOT_NEEDED):
        jobs[job.machine_id].append(job)
    out = []
    for machine in machines:
        mine = in_queue(jobs[machine.pk])
        slots = schedule(machine, mine, now, presence)
        free = max([0.0, *((slot.end - now).total_seconds() for slot in slots.values())])
        free += _clearing_s(machine) if mine else 0.0
        why = f"the queue of {machine.name} is held" if machine.held else ""
        out.append(Held(machine, mine, slots, min(free, AHEAD_S), why=why))
    return out


#: What is large and not needed of jobs.
NOT_NEEDED = ("checks", *(name for name in HEAVY if "part" not in name))


def _put_made(held: Held, bed: OrderBed, now: datetime, presence: Presence) -> None:
    """Put a bed that is not committed yet behind what waits for its machine."""
    machine, quick = held.machine, factor_of(held.machine)
    busy = bool(held.jobs or held.made)
    hands = 60 * machine.bed_change_min / quick if busy and not machine.clears_itself else 0.0
    begin = presence.ready(max(held.free_s, (bed.begin - now).total_seconds() - hands), hands)
    begin = min(begin, AHEAD_S)
    end = begin + bed.seconds / quick
    held.free_s = min(end + _clearing_s(machine), AHEAD_S)
    held.made.append((bed, begin, min(end, AHEAD_S)))


def _clearing_s(machine: Machine) -> float:
    """How long a machine is busy after each print, because it takes the pieces off itself."""
    return turnover_of(machine).bed_change if machine.clears_itself else 0.0


def _floor_machine(held: Held) -> FloorMachine:
    """A machine as schedules see it; one that is simulated faster takes less of the clock."""
    quick = factor_of(held.machine)
    return floor_machine(held, quick)


def floor_machine(held: Held, quick: float = 1.0) -> FloorMachine:
    """A machine that does everything so many times as fast as it is."""
    machine = held.machine
    phase = (machine.contact.get("state") or {}).get("phase")
    busy = bool(held.jobs or held.made)
    hung = [job.spool_id for job in held.jobs] + [bed.bed.spool_id for bed, _, _ in held.made]
    hangs = next((key for key in reversed(hung) if key is not None), machine.loaded_id)
    spec = _spec_of(machine)
    hour = 3600 * cost_per_second(spec) if spec else 0.0
    return FloorMachine(
        key=str(machine.pk),
        name=machine.name,
        free_s=held.free_s,
        clear=not busy and phase not in NOT_CLEAR,
        spool=None if hangs is None else str(hangs),
        clears_itself=machine.clears_itself,
        bed_change_s=60 * machine.bed_change_min / quick,
        spool_change_s=60 * machine.spool_change_min / quick,
        hour=hour or None,
        spread=min((spec.estimate_spread if spec else 0.0) / 100, 2.0),
    )


def _spec_of(machine: Machine) -> MachineSpec | None:
    """The machine as the core has it; None if it was kept by an older program, or has no nozzle."""
    try:
        return next((MachineSpec(**nozzle.spec()) for nozzle in machine.nozzles.all()), None)
    except ValidationError:
        return None


def _taken(machines: list[Held], waiting: list[OrderBed]) -> dict[int | None, float]:
    taken: dict[int | None, float] = defaultdict(float)
    for held in machines:
        for job in held.jobs:
            taken[job.spool_id] += job.still_taken_g
    for bed in waiting:
        taken[bed.bed.spool_id] += bed.grams
    return taken


def _floor_spools(spools: list[Spool], taken: dict[int | None, float]) -> list[FloorSpool]:
    """Spools with the grams that nothing else will take from them."""
    prices: dict[int, float] = {}
    for spool in spools:
        if spool.material_id not in prices:
            prices[spool.material_id] = _price(spool)
    return [
        FloorSpool(
            key=str(spool.pk),
            material=spool.material.name,
            grams=max(spool.usable_mass - taken.get(spool.pk, 0.0), 0.0),
            price=prices[spool.material_id],
            purge_g=spool.material.purge_g,
            full_g=max(spool.net or FULL_G, 1.0),
        )
        for spool in spools
    ]


def _price(spool: Spool) -> float:
    try:
        return float(MaterialSpec(**material_spec(spool.material, spool)).price)
    except ValidationError:  # kept by an older program
        return 0.0


def _plans(lines: list[OrderLine], machines: dict[int, Held]) -> dict[int, list[PlanUse]]:
    """The plans of every line, by the line's key."""
    plans = {plan.pk: plan for line in lines for plan in line.plans.all()}
    versions = {version.plan_id: version for version in exact_versions(plans)}
    times = known_times(versions.values())

    def use(key: int) -> PlanUse:
        version = versions.get(key)
        known = times.get(version.pk) if version else None
        return PlanUse(key, plans[key].number, version, known, _why(version, known, machines))

    return {line.pk: [use(plan.pk) for plan in line.plans.all()] for line in lines}


def _why(version: PlanVersion | None, times: PlateTimes | None, machines: dict[int, Held]) -> str:
    """Why a version cannot be scheduled now; empty if it can."""
    if version is None:
        return "its exact figures are not computed yet"
    held, nozzle = machines[version.nozzle.machine_id], version.nozzle
    if times is None or times.state in PlateTimes.OPEN:
        return "the times of its beds are being computed"
    if times.state != PlateTimes.State.DONE:
        return times.message or "the times of its beds could not be computed"
    if held.machine.fitted_id not in (None, nozzle.pk):
        return (
            f"it is for the {nozzle} nozzle, and {held.machine.fitted} is fitted on "
            f"{held.machine.name}"
        )
    return held.why


def _finishing(workshop: Workshop, lines: list[OrderLine]) -> dict[int, float]:
    """Minutes of work by hand on a piece, by plan, of plans for which somebody has told any."""
    plans = {plan.pk for line in lines for plan in line.plans.all()}
    told = Job.objects.filter(
        workshop=workshop, version__plan__in=plans, finishing_min__gt=0, state__in=Job.ENDED
    ).values_list("version__plan", "finishing_min", "copies")
    minutes: dict[int, list[float]] = defaultdict(lambda: [0.0, 0.0])
    for plan, spent, copies in told:
        minutes[plan][0] += spent
        minutes[plan][1] += max(len(copies), 1)
    return {plan: spent / pieces for plan, (spent, pieces) in minutes.items()}


def _wanted(order: Order, shop: _Known, now: datetime) -> WantedOrder:
    """An order as schedules see it."""
    under_way = 0.0
    lines = []
    for line in order.lines.all():
        count = shop.counts[line.pk]
        plans = list(line.plans.all())
        fails = shop.house.failing(sum(p.told for p in plans), sum(p.good for p in plans))
        more = spare(count.left, fails)
        spent = [shop.finishing[plan.pk] for plan in plans if plan.pk in shop.finishing]
        lines.append(
            WantedPieces(
                key=str(line.pk),
                name=line.part.name,
                pieces=min(count.left + more, MOST_PIECES),
                spare=min(more, MOST_PIECES - count.left),
                beds=_bed_times(shop.plans[line.pk], shop.machines),
                fails=fails,
                finishing_min=sum(spent) / len(spent) if spent else None,
            )
        )
        mine = [("job", key) for key in count.jobs] + [("bed", bed.pk) for bed in count.waiting]
        under_way = max([under_way, *(shop.ends.get(one, 0.0) for one in mine)])
    return WantedOrder(
        key=str(order.pk),
        name=order.title,
        due_s=None if order.due is None else min((order.due - now).total_seconds(), 1e9),
        urgency=order.urgency,
        lines=tuple(lines),
        under_way_s=min(under_way, AHEAD_S),
    )


def _bed_times(uses: list[PlanUse], machines: dict[int, Held]) -> tuple[BedTime, ...]:
    """What beds of the plans take that can be scheduled now."""
    usable = [use for use in uses if not use.why and use.version]
    owners = {key: held.machine for key, held in machines.items()}

    def time(use: PlanUse, machine: Machine) -> BedTime:
        return bed_time(use, factor_of(machine), _clearing_s(machine))

    return tuple(time(use, owners[use.version.nozzle.machine_id]) for use in usable if use.version)


def bed_time(use: PlanUse, quick: float = 1.0, more_s: float = 0.0) -> BedTime:
    """What beds of a plan take whose times are known, on a machine so many times as fast that is
    busy for some seconds more with each.
    """
    assert use.version is not None and use.times is not None
    return BedTime(
        plan=str(use.plan),
        machine=str(use.version.nozzle.machine_id),
        material=use.version.material.name,
        pieces=tuple(use.times.copies),
        seconds=tuple(max(seconds / quick, 0.01) + more_s for seconds in use.times.seconds),
        grams=tuple(use.times.grams),
    )


def _facts(problem: Problem, orders: list[Order], machines: list[Held]) -> str:
    """Digest of what a schedule depends on. What changes by itself while time passes and prints go
    on is left out: how far they are, and what they have taken from their spools.
    """
    said = problem.model_dump(mode="json", exclude={"now"})
    for machine in said["machines"]:
        del machine["free_s"]
    for spool in said["spools"]:
        del spool["grams"]
    for order in said["orders"]:
        del order["due_s"], order["under_way_s"]
    return digest(
        {
            "problem": said,
            "due": [order.due.isoformat() if order.due else "" for order in orders],
            "jobs": [[[job.pk, job.state] for job in held.jobs] for held in machines],
            "made": [[bed.pk for bed, _, _ in held.made] for held in machines],
        }
    )
