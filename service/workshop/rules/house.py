"""The rules of a workshop for all its orders: when somebody is there, and what work costs."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.db import transaction

from northpace.schedule.house import House
from northpace.schedule.week import Presence
from northpace.spec.validated import validated
from service.workshop.models import Workshop


def house_of(workshop: Workshop) -> House:
    """The hours, rates and rules of a workshop. The price of an hour of work is the one that the
    workshop uses everywhere (`Workshop.labour_rate`).
    """
    kept = validated(House, workshop.house)
    rates = kept.rates.model_copy(update={"hands_h": workshop.labour_rate})
    return kept.model_copy(update={"rates": rates})


def keep_house(workshop: Workshop, values: dict[str, Any]) -> None:
    """Keep what is named of hours, rates and rules; what is not named stays, also if somebody else
    changes it at this moment. Raises `InputError` that says what is wrong.
    """
    with transaction.atomic():
        kept = Workshop.objects.select_for_update(no_key=True).get(pk=workshop.pk)
        house = validated(House, _named(kept.house, values))
        kept.house = house.model_dump(mode="json", exclude_defaults=True)
        kept.house.get("rates", {}).pop("hands_h", None)
        kept.save(update_fields=["house"])
    workshop.house = kept.house


def _named(kept: dict[str, Any], values: dict[str, Any]) -> dict[str, Any]:
    """The values that are kept, with those that are named in their place."""
    out = {**kept, **values}
    for group in ("week", "rates"):
        if isinstance(values.get(group), dict):
            out[group] = {**kept.get(group, {}), **values[group]}
    return out


def presence_of(workshop: Workshop, now: datetime) -> Presence:
    """When somebody is there, in s from ``now``."""
    return Presence(house_of(workshop).week.spans(now))
