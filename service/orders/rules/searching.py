"""The schedule that is shown: the last one that was searched for, as long as it still holds, else a
first answer that takes less than a second.
"""

from __future__ import annotations

import logging
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from northpace.errors import InputError
from northpace.naming import lasting
from northpace.plan.pipeline import Cancelled
from northpace.schedule.floor import LaidBed
from northpace.schedule.plan_of_day import at_once, scheduled
from northpace.schedule.promise import Promise, promises
from northpace.schedule.timetable import OrderEnd, Timetable, Unplaced
from northpace.schedule.week import AHEAD_S
from service.computed import keep_result, unwanted, within_limits
from service.limits import Limit
from service.orders.models import PlateTimes, ShopSchedule
from service.orders.rules.shop import Shop, shop_of
from service.queue import LARGE, later
from service.workshop.models import Workshop

log = logging.getLogger(__name__)
TASK = "orders.tasks.search_schedule"
#: Schedules of a workshop that are kept.
KEPT = 5
#: A schedule holds while nothing in it is later than planned by so much (s), and no spool lacks
#: more than so many grams.
LATE_S, SHORT_G = 600.0, 1.0
#: Orders whose end moves by less than this (s) are not told of.
WORTH_S = 600.0
LIMIT = Limit(
    "searching for a schedule",
    240,
    2000,
    "Fewer open orders would help; the first answer stands.",
    lasts=600,
)


@dataclass(frozen=True)
class Standing:
    """The schedule as it stands now; times are in s from ``made``."""

    made: datetime
    table: Timetable
    promised: list[Promise]
    #: how orders moved against the schedule before, in words
    changes: list[str]
    #: whether it was searched for, and is not only the first answer
    searched: bool


def standing(shop: Shop) -> Standing:
    """The schedule of a workshop as it stands now."""
    found = _last(shop.workshop)
    if found is not None and found.result and found.facts == shop.facts:
        kept = _read(found.result)
        if _holds(kept, shop):
            return kept
    table = at_once(shop.problem)
    return Standing(shop.now, table, promises(shop.problem, table), [], False)


def ask_for(workshop: Workshop) -> ShopSchedule:
    """Queue the search for a better schedule; one that runs already goes on if nothing has changed
    since it began.
    """
    with transaction.atomic():
        Workshop.objects.select_for_update(no_key=True).get(pk=workshop.pk)
        workshop.schedules.filter(state__in=ShopSchedule.OPEN).update(
            state=ShopSchedule.State.SUPERSEDED
        )
        row = ShopSchedule.objects.create(workshop=workshop)
        row.task = later(TASK, LARGE, workshop.pk, schedule_id=row.pk)
        row.save(update_fields=["task"])
        kept = workshop.schedules.values_list("pk", flat=True)[:KEPT]
        workshop.schedules.exclude(pk__in=list(kept)).delete()
    return row


def cancel(workshop: Workshop) -> None:
    """Stop searching; what is shown stays."""
    workshop.schedules.filter(state__in=ShopSchedule.OPEN).update(
        state=ShopSchedule.State.CANCELLED
    )


def under_way(workshop: Workshop) -> ShopSchedule | None:
    """The search that runs or waits."""
    return workshop.schedules.filter(state__in=ShopSchedule.OPEN).first()


def is_wanted(shop: Shop) -> bool:
    """Whether a schedule should be searched for, because the last one does not hold any more. A
    person who cancelled a search, or a search that failed, is not overruled until something
    changes.
    """
    if not any(line.pieces for order in shop.problem.orders for line in order.lines):
        return False
    times = [use.times for uses in shop.plans.values() for use in uses if use.times]
    if any(row.state in PlateTimes.OPEN for row in times):
        return False  # it would be searched for again once they are known
    last = shop.workshop.schedules.first()
    if last is not None and last.state in ShopSchedule.OPEN:
        return False
    if last is not None and last.state != ShopSchedule.State.DONE:
        return bool(last.facts) and last.facts != shop.facts
    return not standing(shop).searched


def see_to(workshop: Workshop) -> None:
    """Have a schedule searched for if the last one does not hold any more. Where more is ordered
    than can be scheduled this does nothing: who looks at the schedule is told.
    """
    try:
        if is_wanted(shop_of(workshop, timezone.now())):
            ask_for(workshop)
    except InputError as error:
        log.warning("orders of %s are not scheduled: %s", workshop, error)


def compute(schedule_id: int) -> None:
    """Search for a schedule, in a process of its own."""
    open_ = ShopSchedule.objects.filter(pk=schedule_id, state__in=ShopSchedule.OPEN)
    if open_.exists():
        within_limits(open_, compute_here, LIMIT, "schedule", None)


def compute_here(schedule_id: int) -> None:
    """The same here; safe to run again after a worker was lost in the middle."""
    open_ = ShopSchedule.objects.filter(pk=schedule_id, state__in=ShopSchedule.OPEN)
    if not open_.update(state=ShopSchedule.State.COMPUTING, stage="searching", share=0):
        return
    row = ShopSchedule.objects.select_related("workshop").get(pk=schedule_id)
    mine = ShopSchedule.objects.filter(pk=schedule_id, state=ShopSchedule.State.COMPUTING)
    keep_result(mine, lambda: _searched(row, mine))


def _searched(row: ShopSchedule, mine: Any) -> dict[str, Any]:
    shop = shop_of(row.workshop, timezone.now())
    mine.update(facts=shop.facts)
    gone, told = unwanted(mine), [0.0]

    def tell(share: float) -> bool:
        if share - told[0] < 0.02:
            return True
        told[0] = share
        mine.update(share=share)
        return not gone()

    before = _last(row.workshop)
    table = scheduled(shop.problem, tell)
    if gone():
        raise Cancelled
    promised = promises(shop.problem, table)
    changes = _changes(shop, _read(before.result), table) if before and before.result else []
    return {
        "result": {
            "made": shop.now.isoformat(),
            "table": asdict(table),
            "promised": [asdict(one) for one in promised],
            "changes": changes,
        }
    }


def span(seconds: float) -> timedelta:
    """A duration; what never comes counts as the end of the days that are looked ahead."""
    return timedelta(seconds=min(seconds, AHEAD_S))


def _last(workshop: Workshop) -> ShopSchedule | None:
    return workshop.schedules.filter(state=ShopSchedule.State.DONE).first()


def _read(result: dict[str, Any]) -> Standing:
    kept = result["table"]
    table = Timetable(
        tuple(LaidBed(**bed) for bed in kept["beds"]),
        tuple(Unplaced(**one) for one in kept["unplaced"]),
        tuple(OrderEnd(**one) for one in kept["orders"]),
        kept["cost_h"],
        kept["bound_h"],
        kept["found_by"],
    )
    promised = [Promise(**one) for one in result["promised"]]
    made = datetime.fromisoformat(result["made"])
    return Standing(made, table, promised, result["changes"], True)


def _holds(kept: Standing, shop: Shop) -> bool:
    """Whether a schedule can still be kept: no bed should have begun already, its machines are free
    in time, and its spools hold what it takes from them.
    """
    passed = (shop.now - kept.made).total_seconds()
    free = {one.key: one.free_s for one in shop.problem.machines}
    left = {one.key: one.grams for one in shop.problem.spools}
    seen: set[str] = set()
    for bed in kept.table.beds:
        if bed.machine not in seen:
            seen.add(bed.machine)
            ready = free.get(bed.machine, float("inf"))
            if bed.hands_s - passed < max(ready, 0.0) - LATE_S:
                return False
        left[bed.spool] = left.get(bed.spool, 0.0) - bed.grams
    return all(grams >= -SHORT_G for grams in left.values())


def _changes(shop: Shop, before: Standing, table: Timetable) -> list[str]:
    """What a new schedule changes for orders, in words."""
    later_s = (shop.now - before.made).total_seconds()
    was = {end.order: end.done_s for end in before.table.orders}
    out = []
    for end in table.orders:
        order = next(one for one in shop.orders if str(one.pk) == end.order)
        old = was.get(end.order)
        if end.order not in was or (old is None and end.done_s is None):
            continue
        if end.done_s is None:
            out.append(f"{order.title} cannot be printed completely any more")
        elif old is None:
            out.append(f"{order.title} can be printed completely now")
        else:
            moved = end.done_s + later_s - old
            if abs(moved) >= WORTH_S:
                word = "later" if moved > 0 else "earlier"
                out.append(f"{order.title} is done {lasting(abs(moved))} {word}")
    return out
