"""The workshop as a schedule sees it: its machines, its spools and its open orders."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property

from northpace.schedule.house import House, spare
from northpace.schedule.problem import MOST_PIECES, Problem, WantedOrder, WantedPieces
from northpace.schedule.week import AHEAD_S, Presence
from northpace.spec import digest
from northpace.spec.validated import validated
from service.jobs.models import Job
from service.orders.models import Order, OrderLine
from service.orders.rules.counted import Count, counts
from service.orders.rules.line_plans import UsablePlan, bed_times, usable_plans
from service.orders.rules.machines_now import (
    MachineNow,
    floor_machine,
    floor_spools,
    machines_now,
)
from service.workshop.models import Spool, Workshop
from service.workshop.rules.house import house_of

#: The furthest due time that a schedule takes, and the longest finishing of a piece.
FURTHEST_DUE_S, LONGEST_FINISHING_MIN = 1e9, 10_000.0


@dataclass
class Shop:
    """Everything that a schedule is computed from, and that screens show of it."""

    #: the workshop, the moment it was looked at, and its rules
    workshop: Workshop
    now: datetime
    house: House
    #: when somebody is there
    presence: Presence
    #: by the key of the machine
    machines: dict[int, MachineNow]
    spools: list[Spool]
    orders: list[Order]
    #: by the key of the line: how its pieces stand, and the plans that may be used
    counts: dict[int, Count]
    plans: dict[int, list[UsablePlan]]
    #: by the key of the plan: minutes of finishing that a piece takes, if results are known
    finishing: dict[int, float]

    @cached_property
    def lines(self) -> dict[int, OrderLine]:
        """All lines of the orders, by their keys."""
        return {line.pk: line for order in self.orders for line in order.lines.all()}

    @cached_property
    def wanted(self) -> list[WantedOrder]:
        """The orders as the core's schedule takes them."""
        ends = _ends(self.machines.values(), self.now)
        return [self._wanted(order, ends) for order in self.orders]

    @cached_property
    def problem(self) -> Problem:
        """What is scheduled. Raises `InputError` if that is more than can be scheduled at once."""
        machines = [now_on for now_on in self.machines.values() if not now_on.why_not]
        return validated(
            Problem,
            {
                **self.house.model_dump(),
                "now": self.now,
                "machines": [floor_machine(now_on) for now_on in machines],
                "spools": floor_spools(self.spools, self.machines.values()),
                "orders": self.wanted,
            },
        )

    @cached_property
    def facts(self) -> str:
        """Digest of everything a schedule depends on, except what changes all the time: the time of
        day, how far prints are, and what they have taken from their spools. Raises `InputError` as
        `problem` does.
        """
        said = self.problem.model_dump(mode="json", exclude={"now"})
        for machine in said["machines"]:
            del machine["free_s"]
        for spool in said["spools"]:
            del spool["grams"]
        for order in said["orders"]:
            del order["due_s"], order["under_way_s"]
        machines = self.machines.values()
        return digest(
            {
                "problem": said,
                "due": [order.due.isoformat() if order.due else "" for order in self.orders],
                "jobs": [[[job.pk, job.state] for job in now_on.jobs] for now_on in machines],
                "made": [[bed.row.pk for bed, _, _ in now_on.made] for now_on in machines],
            }
        )

    def _wanted(self, order: Order, ends: Mapping[tuple[str, int], float]) -> WantedOrder:
        mine = [self.counts[line.pk] for line in order.lines.all()]
        under_way = [("job", key) for count in mine for key in count.jobs]
        under_way += [("bed", bed.row.pk) for count in mine for bed in count.waiting]
        due = None if order.due is None else (order.due - self.now).total_seconds()
        return WantedOrder(
            key=str(order.pk),
            name=order.title,
            due_s=None if due is None else min(due, FURTHEST_DUE_S),
            urgency=order.urgency,
            lines=tuple(self._wanted_pieces(line) for line in order.lines.all()),
            under_way_s=min(max((ends.get(one, 0.0) for one in under_way), default=0.0), AHEAD_S),
        )

    def _wanted_pieces(self, line: OrderLine) -> WantedPieces:
        left, plans = self.counts[line.pk].left, list(line.plans.all())
        fails = self.house.failing(sum(p.told for p in plans), sum(p.good for p in plans))
        more = min(spare(left, fails), MOST_PIECES - left)
        spent = [self.finishing[plan.pk] for plan in plans if plan.pk in self.finishing]
        mean = min(sum(spent) / len(spent), LONGEST_FINISHING_MIN) if spent else None
        return WantedPieces(
            key=str(line.pk),
            name=line.part.name,
            pieces=left + more,
            spare=more,
            beds=bed_times(self.plans[line.pk], self.machines),
            fails=fails,
            finishing_min=mean,
        )


def shop_of(workshop: Workshop, now: datetime, only: Iterable[Order] | None = None) -> Shop:
    """The workshop as it is now, in a fixed number of queries. By default all open orders are
    looked at; ``only`` names others, open or closed.
    """
    house = house_of(workshop)
    presence = Presence(house.week.spans(now))
    orders = _orders(workshop, only)
    lines = [line for order in orders for line in order.lines.all()]
    counted = counts(lines)
    waiting = [bed for count in counted.values() for bed in count.waiting]
    machines = {
        now_on.machine.pk: now_on for now_on in machines_now(workshop, now, presence, waiting)
    }
    spools = Spool.objects.filter(material__workshop=workshop).select_related("material")
    return Shop(
        workshop=workshop,
        now=now,
        house=house,
        presence=presence,
        machines=machines,
        spools=list(spools.order_by("pk")),
        orders=orders,
        counts=counted,
        plans=usable_plans(lines, machines),
        finishing=_finishing(workshop, lines),
    )


def _orders(workshop: Workshop, only: Iterable[Order] | None) -> list[Order]:
    found = Order.objects.filter(workshop=workshop)
    if only is None:
        found = found.filter(closed="")
    else:
        found = found.filter(pk__in=[order.pk for order in only])
    return list(
        found.order_by("number").prefetch_related("lines__part", "lines__plans", "lines__order")
    )


def _ends(machines: Iterable[MachineNow], now: datetime) -> dict[tuple[str, int], float]:
    """When jobs and beds that wait to be committed end, in s from now, by ("job" or "bed", key)."""
    out = {}
    for now_on in machines:
        for job, slot in now_on.slots.items():
            out["job", job] = max((slot.end - now).total_seconds(), 0.0)
        for bed, _, end in now_on.made:
            out["bed", bed.row.pk] = end
    return out


def _finishing(workshop: Workshop, lines: Iterable[OrderLine]) -> dict[int, float]:
    """Minutes of work by hand that a piece took, by the key of the plan. Plans for which nobody has
    entered any are left out.
    """
    plans = {plan.pk for line in lines for plan in line.plans.all()}
    entered = Job.objects.filter(
        workshop=workshop, version__plan__in=plans, finishing_min__gt=0, state__in=Job.ENDED
    ).values_list("version__plan", "finishing_min", "copies")
    minutes: dict[int, float] = defaultdict(float)
    pieces: dict[int, int] = defaultdict(int)
    for plan, spent, copies in entered:
        minutes[plan] += spent
        pieces[plan] += max(len(copies), 1)
    return {plan: spent / pieces[plan] for plan, spent in minutes.items()}
