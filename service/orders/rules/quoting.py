"""What an order costs, as it was ordered: all pieces, whatever of them is printed already."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.utils import timezone

from northpace.errors import InputError
from northpace.schedule.pricing import parts_of, quote_of, unpriced
from northpace.schedule.problem import WantedOrder, WantedPieces
from northpace.schedule.quote import Quote, breaks
from service.orders.models import Order, PlateTimes
from service.orders.rules.shop import PlanUse, Shop, bed_time, floor_machine, shop_of


@dataclass(frozen=True)
class OrderQuote:
    """The price of an order, and prices of a piece in € for other numbers of pieces, by part."""

    quote: Quote
    by_number: dict[str, list[tuple[int, Decimal]]]
    #: parts without a price, because no plan of them has times yet
    missing: list[str]


def quote_for(order: Order) -> OrderQuote:
    """The quote for an order as things are now, with the machines' real times."""
    shop = shop_of(order.workshop, timezone.now(), only=[order])
    problem = shop.problem.model_copy(
        update={"machines": tuple(floor_machine(held) for held in shop.machines)}
    )
    wanted = _whole(shop)
    quote = quote_of(problem, wanted)
    by_number = {
        part.name: breaks(part, problem.rates) for part in parts_of(problem, wanted) if part.beds
    }
    return OrderQuote(quote, by_number, unpriced(wanted, quote))


def _whole(shop: Shop) -> WantedOrder:
    (order,) = shop.wanted

    def line(known: WantedPieces) -> WantedPieces:
        key = int(known.key)
        beds = tuple(bed_time(use) for use in shop.plans[key] if _timed(use))
        pieces = {"pieces": shop.counts[key].wanted, "spare": 0}
        return known.model_copy(update={**pieces, "beds": beds})

    return order.model_copy(update={"lines": tuple(line(known) for known in order.lines)})


def _timed(use: PlanUse) -> bool:
    return use.times is not None and use.times.state == PlateTimes.State.DONE


def as_dict(found: OrderQuote) -> dict[str, Any]:
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
    """Keep what the customer is told: the quote as it is now, and a time. Raises `InputError` for
    an order that has no price.
    """
    if order.closed:
        raise InputError(f"{order} is {order.closed}; open it again to change it", str(order))
    found = quote_for(order)
    if found.missing:
        raise InputError(f"there is no price for {', '.join(found.missing)} yet", "quote")
    order.promised, order.quote, order.quoted_at = promised, as_dict(found), timezone.now()
    order.save(update_fields=["promised", "quote", "quoted_at"])
    return order
