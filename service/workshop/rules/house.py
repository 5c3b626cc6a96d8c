"""What a workshop says once about its orders: its hours, and what work costs."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from northpace.schedule.house import House
from northpace.schedule.week import Presence
from northpace.spec.validated import validated
from service.workshop.models import Workshop


def house_of(workshop: Workshop) -> House:
    """The workshop's hours, rates and rules. An hour of work costs what the workshop says of it
    everywhere (`Workshop.labour_rate`).
    """
    kept = validated(House, workshop.house)
    rates = kept.rates.model_copy(update={"hands_h": workshop.labour_rate})
    return kept.model_copy(update={"rates": rates})


def keep_house(workshop: Workshop, values: Any) -> None:
    """Keep hours, rates and rules; raises `InputError` that says what is wrong in them. The caller
    saves the workshop.
    """
    house = validated(House, values)
    workshop.house = house.model_dump(mode="json", exclude_defaults=True)
    workshop.house.get("rates", {}).pop("hands_h", None)


def presence_of(workshop: Workshop, now: datetime) -> Presence:
    """When somebody is there, in s from ``now``."""
    return Presence(house_of(workshop).week.spans(now))
