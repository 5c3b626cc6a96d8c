"""Taking orders, changing and closing them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from northpace.errors import InputError
from northpace.schedule.problem import MOST_ORDERS, MOST_PIECES, MOST_PLANS
from service.orders.models import Order, OrderBed, OrderLine
from service.orders.rules import searching
from service.orders.rules.plate_times import ask_for, exact_versions
from service.parts.models import Part
from service.plans.models import Plan
from service.workshop.models import Workshop

#: Most lines of an order.
MOST_LINES = 100


@dataclass(frozen=True)
class LineWish:
    """A line that is to be ordered: a part, its pieces in a kit, and the plans that may be used. If
    none are given, `set_plans` chooses them.
    """

    part: Part
    pieces: int
    plans: Sequence[Plan] = ()


def take(workshop: Workshop, lines: Sequence[LineWish], **said: Any) -> Order:
    """Take an order with its lines; a schedule with it is searched for. Raises `InputError` for
    what cannot be ordered.
    """
    order = enter(workshop, lines, **said)
    searching.see_to(workshop)
    return order


def enter(workshop: Workshop, lines: Sequence[LineWish], **said: Any) -> Order:
    """The same for one of many orders: nothing is searched for yet."""
    checked(lines, said.get("kits", 1))
    _ahead(said.get("due"))
    with transaction.atomic():
        number = _next_number(workshop)
        order = Order.objects.create(workshop=workshop, number=number, **said)
        for wish in lines:
            line = OrderLine.objects.create(order=order, part=wish.part, pieces=wish.pieces)
            set_plans(line, wish.plans)
    return order


def change(order: Order, lines: Sequence[LineWish] | None = None, **said: Any) -> Order:
    """Change an open order. Raises `InputError` as `take` does, and if a line is left out for which
    beds were made already.
    """
    if "due" in said and said["due"] != order.due:
        _ahead(said["due"])
    with transaction.atomic():
        order = _open(order)
        for name, value in said.items():
            setattr(order, name, value)
        kept = order.lines.select_related("part")
        asked = [LineWish(line.part, line.pieces) for line in kept] if lines is None else lines
        checked(asked, order.kits)
        if lines is not None:
            _replace_lines(order, lines)
        order.save()
    searching.see_to(order.workshop)
    return order


def close(order: Order, how: str) -> Order:
    """Close an order as delivered or cancelled; nothing is scheduled for it any more."""
    with transaction.atomic():
        order = _open(order)
        order.closed, order.closed_at = how, timezone.now()
        order.save(update_fields=["closed", "closed_at"])
    searching.see_to(order.workshop)
    return order


def remove(order: Order) -> None:
    """Remove an order; raises `InputError` if beds were made for it, so that what was printed can
    be traced.
    """
    if OrderBed.objects.filter(line__order=order).exists():
        raise InputError("beds were made for it; close it instead", str(order))
    order.delete()
    searching.see_to(order.workshop)


def reopen(order: Order) -> Order:
    """Open a closed order again. Raises `InputError` if too many are open."""
    with transaction.atomic():
        _next_number(order.workshop)
        order.closed, order.closed_at = "", None
        order.save(update_fields=["closed", "closed_at"])
    searching.see_to(order.workshop)
    return order


def _next_number(workshop: Workshop) -> int:
    """The number of the next order. The workshop stays locked until the transaction ends, so that
    no other order gets it. Raises `InputError` if too many orders are open.
    """
    Workshop.objects.select_for_update(no_key=True).get(pk=workshop.pk)
    orders = Order.objects.filter(workshop=workshop)
    if orders.filter(closed="").count() >= MOST_ORDERS:
        raise InputError(
            f"{MOST_ORDERS} orders are open; close those that are delivered first", "orders"
        )
    return int(orders.aggregate(last=Max("number"))["last"] or 0) + 1


def checked(lines: Sequence[LineWish], kits: int) -> None:
    """Raise `InputError` for lines that cannot be ordered."""
    if not lines:
        raise InputError("an order has at least one part", "lines")
    if len(lines) > MOST_LINES:
        raise InputError(f"an order has at most {MOST_LINES} parts", "lines")
    seen: set[int] = set()
    for line in lines:
        name = line.part.name
        if line.part.pk in seen:
            raise InputError(f"{name} is listed twice; add its pieces up", "lines")
        seen.add(line.part.pk)
        if not 1 <= line.pieces * kits <= MOST_PIECES:
            raise InputError(
                f"{name}: {line.pieces * kits} pieces in all; 1 to {MOST_PIECES} can be ordered",
                "pieces",
            )
        if len(line.plans) > MOST_PLANS:
            raise InputError(f"{name}: at most {MOST_PLANS} plans may be used", "plans")
        for plan in line.plans:
            if plan.part_id != line.part.pk:
                raise InputError(f"{plan} is not of {name}", "plans")


def _ahead(due: datetime | None) -> None:
    """Raise `InputError` for a due time that has passed already."""
    if due is not None and due <= timezone.now():
        raise InputError("the due time has passed already; take a later one, or none", "due")


def _open(order: Order) -> Order:
    """The order, locked; raises `InputError` if it is closed."""
    found = Order.objects.select_related("workshop").select_for_update(no_key=True, of=("self",))
    order = found.get(pk=order.pk)
    if order.closed:
        raise InputError(f"{order} is {order.closed}; open it again to change it", str(order))
    return order


def _replace_lines(order: Order, lines: Sequence[LineWish]) -> None:
    """Give an order other lines. A line whose part is ordered as before is changed instead of made
    anew, so that it keeps its beds.
    """
    now = {line.part_id: line for line in order.lines.select_related("part")}
    for part, line in now.items():
        if part not in {wish.part.pk for wish in lines}:
            if line.beds.exists():
                raise InputError(
                    f"beds were made for {line.part.name} already; set its pieces lower instead",
                    "lines",
                )
            line.delete()
    for wish in lines:
        line = now.get(wish.part.pk) or OrderLine(order=order, part=wish.part)
        line.pieces = wish.pieces
        line.save()
        set_plans(line, wish.plans)


def set_plans(line: OrderLine, plans: Sequence[Plan]) -> None:
    """Set the plans that may be used for a line, and have the times of their beds computed. If none
    are given, the newest exact plan of the part for each nozzle is taken.
    """
    workshop = line.order.workshop_id
    chosen = list(plans)
    if not chosen:
        newest: dict[int, Plan] = {}
        every = Plan.objects.filter(workshop=workshop, part=line.part_id, slice_of=None)
        for version in exact_versions(list(every)):
            kept = newest.get(version.nozzle_id)
            if kept is None or version.plan.number > kept.number:
                newest[version.nozzle_id] = version.plan
        chosen = list(newest.values())
    line.plans.set(chosen)
    ask_for(exact_versions(chosen), workshop)
