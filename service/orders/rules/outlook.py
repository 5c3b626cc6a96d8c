"""How orders stand: when each is done, by when it can be promised, and which filament is needed."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from service.orders.rules.searching import ShownSchedule, span
from service.orders.rules.shop import Shop

#: An order that is late by less than this (s) counts as on time.
LATE_FROM_S = 60.0
State = Literal["waiting", "impossible", "late", "in-time", "no-due"]


@dataclass(frozen=True)
class OrderOutlook:
    """How an order stands. ``waiting`` means that the times of its beds are still being computed,
    ``impossible`` that not all of its pieces can be printed.
    """

    #: key of the order, and how it stands
    order: int
    state: State
    #: when it is done, and how many seconds after its due time; None if that is not known
    done: datetime | None
    late_s: float | None
    #: when it is likely to be done, the time that can be promised, and the chance to be on time
    likely: datetime | None
    promise: datetime | None
    on_time: float | None
    #: what cannot be printed, and why
    lacking: list[str]


@dataclass(frozen=True)
class FilamentNeed:
    """Filament of one material in g: for everything still to be printed, and free on spools."""

    material: str
    needed_g: float
    free_g: float


def outlooks(shop: Shop, shown: ShownSchedule) -> list[OrderOutlook]:
    """How every order of a schedule stands."""
    promised = {one.order: one for one in shown.promised}
    lacking: dict[str, list[str]] = defaultdict(list)
    for one in shown.table.unplaced:
        name = shop.lines[int(one.line)].part.name
        lacking[one.order].append(f"{one.pieces} × {name}: {one.why}")

    def at(seconds: float | None) -> datetime | None:
        return None if seconds is None else shown.made + span(seconds)

    out = []
    for end in shown.table.orders:
        promise, missing = promised.get(end.order), lacking[end.order]
        out.append(
            OrderOutlook(
                order=int(end.order),
                state=_state(_computing(shop, int(end.order)), missing, end.late_s),
                done=at(end.done_s),
                late_s=end.late_s,
                likely=at(promise.likely_s) if promise else None,
                promise=at(promise.promise_s) if promise else None,
                on_time=promise.on_time if promise else None,
                lacking=missing,
            )
        )
    return out


def _computing(shop: Shop, order: int) -> bool:
    mine = [key for key, line in shop.lines.items() if line.order_id == order]
    return any(plan.computing for key in mine for plan in shop.plans[key])


def _state(computing: bool, lacking: list[str], late_s: float | None) -> State:
    if lacking:
        return "waiting" if computing else "impossible"
    if late_s is None:
        return "no-due"
    return "late" if late_s > LATE_FROM_S else "in-time"


def filament_needed(shop: Shop) -> list[FilamentNeed]:
    """The filament of all pieces that are still to be printed, by material. A line counts with the
    plan that needs least for a piece on a full bed.
    """
    needed: dict[str, float] = defaultdict(float)
    for order in shop.wanted:
        for line in order.lines:
            if line.beds and line.pieces:
                best = min(line.beds, key=lambda bed: bed.grams[-1] / bed.holds)
                needed[best.material] += line.pieces * best.grams[-1] / best.holds
    free: dict[str, float] = defaultdict(float)
    for spool in shop.problem.spools:
        free[spool.material] += spool.grams
    return [FilamentNeed(name, grams, free[name]) for name, grams in sorted(needed.items())]
