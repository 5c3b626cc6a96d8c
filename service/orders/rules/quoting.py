"""What an order costs: all pieces that were ordered, also those that are printed already."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.utils import timezone

from northpace.errors import InputError
from northpace.schedule.pricing import parts_of, quote_of, unpriced
from northpace.schedule.problem import Problem, WantedOrder, WantedPieces
from northpace.schedule.quote import Quote, breaks
from service.orders.models import Order
from service.orders.rules.line_plans import bed_time
from service.orders.rules.machines_now import floor_machine, floor_spools
from service.orders.rules.shop import Shop, shop_of


@dataclass(frozen=True)
class PricedOrder:
    """The price of an order."""

    quote: Quote
    #: by the name of the part: what a piece costs in € if another number of them is ordered
    by_number: dict[str, list[tuple[int, Decimal]]]
    #: parts without a price, because no plan of them has times yet
    missing: list[str]


def quote_for(order: Order) -> PricedOrder:
    """What an order costs with today's plans, prices and rates. A simulated machine that runs
    faster than a real one counts with the times of a real one.
    """
    shop = shop_of(order.workshop, timezone.now(), only=[order])
    floor = Problem(
        **shop.house.model_dump(),
        now=shop.now,
        machines=tuple(floor_machine(one, real=True) for one in shop.machines.values()),
        spools=tuple(floor_spools(shop.spools, shop.machines.values())),
    )
    wanted = _whole(shop)
    quote = quote_of(floor, wanted)
    by_number = {
        part.name: breaks(part, floor.rates) for part in parts_of(floor, wanted) if part.beds
    }
    return PricedOrder(quote, by_number, unpriced(wanted, quote))


def _whole(shop: Shop) -> WantedOrder:
    """The order as if none of its pieces were printed yet."""
    (order,) = shop.wanted

    def line(known: WantedPieces) -> WantedPieces:
        key = int(known.key)
        beds = tuple(bed_time(plan) for plan in shop.plans[key] if plan.timed)
        pieces = {"pieces": shop.counts[key].wanted, "spare": 0}
        return known.model_copy(update={**pieces, "beds": beds})

    return order.model_copy(update={"lines": tuple(line(known) for known in order.lines)})


def as_dict(found: PricedOrder) -> dict[str, Any]:
    """The quote as plain values; amounts in € as text, so that no cent is lost."""

    def terms(rows: Any) -> list[dict[str, str]]:
        return [
            {"name": term.name, "words": term.words, "amount": str(term.amount)} for term in rows
        ]

    return {
        "total": str(found.quote.total),
        "missing": found.missing,
        "terms": terms(found.quote.terms),
        "parts": [
            {
                "name": part.name,
                "pieces": part.pieces,
                "total": str(part.total),
                "each": str(round(part.total / part.pieces, 2)),
                "beds": part.beds,
                "a_bed": part.a_bed,
                "machine": part.machine,
                "hours": part.hours,
                "grams": part.grams,
                "terms": terms(part.terms),
                "by_number": [
                    {"pieces": count, "each": str(price)}
                    for count, price in found.by_number[part.name]
                ],
            }
            for part in found.quote.parts
        ],
    }


def promise(order: Order, promised: datetime | None) -> Order:
    """Keep what the customer is promised: the quote as it is now, and a time. Raises `InputError`
    for an order that has no price.
    """
    if order.closed:
        raise InputError(f"{order} is {order.closed}; open it again to change it", str(order))
    found = quote_for(order)
    if found.missing:
        raise InputError(f"there is no price for {', '.join(found.missing)} yet", "quote")
    order.promised, order.quote, order.quoted_at = promised, as_dict(found), timezone.now()
    order.save(update_fields=["promised", "quote", "quoted_at"])
    return order
