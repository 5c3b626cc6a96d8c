"""The schedule that is shown: the last one that was searched for, as long as it can be kept. Else
it is a first answer, which takes less than a second, and a better one is searched for in the queue.
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
from service.orders.models import ShopSchedule
from service.orders.rules.plate_times import ask_for as ask_for_times
from service.orders.rules.shop import Shop, shop_of
from service.queue import LARGE, later
from service.workshop.models import Workshop

log = logging.getLogger(__name__)
TASK = "orders.tasks.search_schedule"
#: A schedule is kept while no machine is later than this (s), and no spool has this much more or
#: less filament (g) than when it was made.
LATE_S, OTHER_G = 600.0, 1.0
#: An order that ends earlier or later by less than this (s) is no change worth a sentence.
WORTH_S = 600.0
LIMIT = Limit(
    "searching for a schedule",
    240,
    2000,
    "Fewer open orders would help; the first answer stands.",
    lasts=600,
)


@dataclass(frozen=True)
class ShownSchedule:
    """The schedule that is shown. Its times are in s from ``made``."""

    made: datetime
    table: Timetable
    promised: list[Promise]
    #: grams that were free on every spool when it was made, by the spool's key
    grams: dict[str, float]
    #: what it changed for orders against the schedule before it, in sentences
    changes: list[str]
    #: whether it was searched for; if not, it is a first answer
    searched: bool


#: The last first answer of each workshop, with the digest of its facts, so that who looks at it
#: every few seconds sees the same one.
_first_answers: dict[int, tuple[str, ShownSchedule]] = {}


def shown_schedule(shop: Shop) -> ShownSchedule:
    """The schedule of a workshop as it is now: the last one that was searched for if it can still
    be kept, else a first answer. Raises `InputError` as `Shop.problem` does.
    """
    last, key = _last_done(shop.workshop), shop.workshop.pk
    if last is not None and last.result and last.facts == shop.facts:
        kept = _read(last.result)
        if _can_be_kept(kept, shop):
            return kept
    facts, first = _first_answers.get(key, ("", None))
    if first is None or facts != shop.facts or not _can_be_kept(first, shop):
        table = at_once(shop.problem)
        promised = promises(shop.problem, table)
        first = ShownSchedule(shop.now, table, promised, _grams(shop), [], False)
        _first_answers[key] = (shop.facts, first)
    return first


def search_again(workshop: Workshop) -> None:
    """Have a schedule searched for because a person asks for it; beds whose times could not be
    computed are tried again, too.
    """
    shop = shop_of(workshop, timezone.now())
    uses = [plan for plans in shop.plans.values() for plan in plans]
    ask_for_times([plan.version for plan in uses if plan.version], workshop.pk, again=True)
    ask_for(shop)


def ask_for(shop: Shop) -> None:
    """Have a schedule searched for. A search that is under way is given up for it."""
    workshop = shop.workshop
    with transaction.atomic():
        Workshop.objects.select_for_update(no_key=True).get(pk=workshop.pk)
        last = _last_done(workshop)
        kept = [last.pk] if last else []
        workshop.schedules.exclude(pk__in=kept).delete()
        row = ShopSchedule.objects.create(workshop=workshop, facts=shop.facts)
        row.task = later(TASK, LARGE, workshop.pk, schedule_id=row.pk)
        row.save(update_fields=["task"])


def cancel(workshop: Workshop) -> None:
    """Stop searching; what is shown stays."""
    workshop.schedules.filter(state__in=ShopSchedule.OPEN).update(
        state=ShopSchedule.State.CANCELLED
    )


def is_wanted(shop: Shop) -> bool:
    """Whether a schedule should be searched for by itself. If the last search was stopped by a
    person or has failed, that is only so once something has changed.
    """
    lines = [line for order in shop.wanted for line in order.lines]
    if not any(line.pieces and line.beds for line in lines):
        return False
    if any(plan.computing for plans in shop.plans.values() for plan in plans):
        return False  # once the times are known it would have to be searched for again
    last = shop.workshop.schedules.first()
    if last is not None and last.state in ShopSchedule.OPEN:
        return False
    if last is not None and last.state != ShopSchedule.State.DONE:
        return last.facts != shop.facts
    return not shown_schedule(shop).searched


def see_to(workshop: Workshop) -> None:
    """Have a schedule searched for if the last one cannot be kept any more. If more is ordered than
    can be scheduled at once, nothing is done here; whoever looks at the schedule is told.
    """
    try:
        shop = shop_of(workshop, timezone.now())
        if is_wanted(shop):
            ask_for(shop)
    except InputError as error:
        log.warning("orders of %s are not scheduled: %s", workshop, error)


def compute(schedule_id: int) -> None:
    """Search for a schedule, in a process of its own."""
    open_ = ShopSchedule.objects.filter(pk=schedule_id, state__in=ShopSchedule.OPEN)
    if open_.exists():
        within_limits(open_, compute_here, LIMIT, "schedule", None)


def compute_here(schedule_id: int) -> None:
    """Search in this process; that may begin again after a worker was lost."""
    open_ = ShopSchedule.objects.filter(pk=schedule_id, state__in=ShopSchedule.OPEN)
    if not open_.update(state=ShopSchedule.State.COMPUTING, stage="searching", share=0):
        return
    row = ShopSchedule.objects.select_related("workshop").get(pk=schedule_id)
    mine = ShopSchedule.objects.filter(pk=schedule_id, state=ShopSchedule.State.COMPUTING)
    keep_result(mine, lambda: _searched(row, mine))


def _searched(row: ShopSchedule, mine: Any) -> dict[str, Any]:
    """What is kept of a schedule: ``row`` is its row, and ``mine`` finds it as long as it is
    wanted.
    """
    shop = shop_of(row.workshop, timezone.now())
    mine.update(facts=shop.facts)
    gone, noted = unwanted(mine), 0.0

    def tell(share: float) -> bool:
        nonlocal noted
        if share - noted < 0.02:
            return True
        noted = share
        mine.update(share=share)
        return not gone()

    before = _last_done(row.workshop)
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
            "grams": _grams(shop),
            "changes": changes,
        }
    }


def _grams(shop: Shop) -> dict[str, float]:
    return {spool.key: spool.grams for spool in shop.problem.spools}


def span(seconds: float) -> timedelta:
    """A duration, at most as many days as schedules look ahead."""
    return timedelta(seconds=min(seconds, AHEAD_S))


def _last_done(workshop: Workshop) -> ShopSchedule | None:
    return workshop.schedules.filter(state=ShopSchedule.State.DONE).first()


def _read(result: dict[str, Any]) -> ShownSchedule:
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
    return ShownSchedule(made, table, promised, result["grams"], result["changes"], True)


def _can_be_kept(kept: ShownSchedule, shop: Shop) -> bool:
    """Whether a schedule of the same facts can still be kept: its machines will be free in time for
    their first beds, no bed should have begun already, and the spools have as much as they had.
    """
    now = {spool.key: spool.grams for spool in shop.problem.spools}
    if any(abs(now[key] - grams) > OTHER_G for key, grams in kept.grams.items()):
        return False
    passed = (shop.now - kept.made).total_seconds()
    free = {one.key: one.free_s for one in shop.problem.machines}
    first = {bed.machine: bed.hands_s for bed in reversed(kept.table.beds)}
    return all(hands - passed >= free[key] - LATE_S for key, hands in first.items())


def _changes(shop: Shop, before: ShownSchedule, table: Timetable) -> list[str]:
    """What a new schedule changes for orders, in sentences."""
    later_s = (shop.now - before.made).total_seconds()
    was = {end.order: end.done_s for end in before.table.orders}
    titles, out = {str(one.pk): one.title for one in shop.orders}, []
    for end in table.orders:
        title = titles[end.order]
        old = was.get(end.order)
        if end.order not in was or (old is None and end.done_s is None):
            continue
        if end.done_s is None:
            out.append(f"{title} cannot be printed completely any more")
        elif old is None:
            out.append(f"{title} can be printed completely now")
        else:
            moved = end.done_s + later_s - old
            if abs(moved) >= WORTH_S:
                word = "later" if moved > 0 else "earlier"
                out.append(f"{title} is done {lasting(abs(moved))} {word}")
    return out
