"""When somebody is there: the hours of the week at which beds are cleared and spools changed."""

from __future__ import annotations

from bisect import bisect_right
from datetime import date, datetime, time, timedelta
from functools import cached_property
from math import inf
from zoneinfo import ZoneInfo, available_timezones

import numpy as np
from pydantic import field_validator, model_validator

from northpace.spec.declare import Group, setting

#: Days that are looked ahead. What does not end within them counts as never done.
AHEAD_DAYS = 400


class HandHours(Group):
    """Hours at which somebody is there, on some days of the week."""

    days: tuple[int, ...] = setting(
        (0, 1, 2, 3, 4), "Days", help="0 is Monday, 6 is Sunday.", kind="numbers"
    )
    begin: str = setting("08:00", "From", help="Hour and minute, such as 08:00.")
    end: str = setting("18:00", "Until", help="Hour and minute, at most 24:00.")

    @field_validator("days")
    @classmethod
    def _days(cls, days: tuple[int, ...]) -> tuple[int, ...]:
        if any(not 0 <= day <= 6 for day in days):
            raise ValueError("days go from 0 (Monday) to 6 (Sunday)")
        return tuple(sorted(set(days)))

    @model_validator(mode="after")
    def _in_order(self) -> HandHours:
        if minutes(self.begin) >= minutes(self.end):
            raise ValueError(f"hours from {self.begin} until {self.end} end before they begin")
        return self


class Week(Group):
    """The hours of a week at which somebody is there. Without any, somebody is always there."""

    hours: tuple[HandHours, ...] = setting((), "Hours", help="When somebody is there.")
    zone: str = setting("UTC", "Time zone", help="Of the workshop, such as Europe/Oslo.")

    @field_validator("zone")
    @classmethod
    def _known(cls, zone: str) -> str:
        if zone not in available_timezones():
            raise ValueError(f"there is no time zone '{zone}'; take one such as Europe/Oslo")
        return zone

    def spans(self, now: datetime, days: int = AHEAD_DAYS) -> np.ndarray:
        """(n, 2) seconds from ``now`` between which somebody is there without a break, ascending.
        A day with a change of the clock is as long as it is.
        """
        if not self.hours:
            return np.array([[0.0, np.inf]])
        zone = ZoneInfo(self.zone)
        first = now.astimezone(zone).date()
        found = []
        for ahead in range(-1, days):
            day = first + timedelta(days=ahead)
            for hours in self.hours:
                if day.weekday() in hours.days:
                    at = [_moment(day, text, zone) for text in (hours.begin, hours.end)]
                    found.append([(moment - now).total_seconds() for moment in at])
        merged: list[list[float]] = []
        for begin, end in sorted(found):
            if end <= 0:
                continue
            if merged and begin <= merged[-1][1]:
                merged[-1][1] = max(merged[-1][1], end)
            else:
                merged.append([max(begin, 0.0), end])
        return np.array(merged).reshape(-1, 2)


def minutes(text: str) -> int:
    """Minutes since midnight of a time such as 08:30; raises `ValueError` for anything else."""
    hour, colon, minute = text.partition(":")
    if colon and hour.isdecimal() and minute.isdecimal() and len(minute) == 2:
        found = int(hour) * 60 + int(minute)
        if int(minute) < 60 and len(hour) <= 2 and found <= 24 * 60:
            return found
    raise ValueError(f"'{text}' is no time of day; write it as 08:30")


def _moment(day: date, text: str, zone: ZoneInfo) -> datetime:
    found = minutes(text)
    midnight = datetime.combine(day + timedelta(days=found // (24 * 60)), time(), zone)
    return midnight.replace(hour=found // 60 % 24, minute=found % 60)


class Presence:
    """The spans in which somebody is there, and what can be done by when.

    Parameters
    ----------
    spans
        (n, 2) seconds, as `Week.spans` finds them.
    """

    def __init__(self, spans: np.ndarray) -> None:
        self.spans = spans
        # plain lists are asked one moment at a time faster than arrays
        self._begins, self._ends = spans[:, 0].tolist(), spans[:, 1].tolist()

    @cached_property
    def longest(self) -> float:
        """Seconds of the longest span; 0 where nobody ever comes."""
        return float((self.spans[:, 1] - self.spans[:, 0]).max(initial=0.0))

    @property
    def always(self) -> bool:
        """Whether somebody is there day and night."""
        return self._begins == [0.0] and self._ends == [np.inf]

    def begins(self, at: float, seconds: float) -> float:
        """The first moment, not before ``at``, at which work by hand of so many seconds begins that
        is finished before the hands leave. Work longer than any span may be cut short by the end of
        one that is as long as any. Infinite where nobody ever comes again.
        """
        need = min(seconds, self.longest) - 1e-6
        row = bisect_right(self._ends, at)
        while row < len(self._ends):
            begin = max(self._begins[row], at)
            if begin + need <= self._ends[row]:
                return begin
            row += 1
        return inf

    def ready(self, at: float, seconds: float) -> float:
        """When work by hand that is asked for at a moment is finished."""
        return self.begins(at, seconds) + seconds if seconds > 0 else at

    def all_ready(self, at: np.ndarray, seconds: float) -> np.ndarray:
        """`ready` for many moments at once, each (n,) s."""
        if seconds <= 0:
            return at
        need = min(seconds, self.longest) - 1e-6
        fits = self.spans[self.spans[:, 1] - self.spans[:, 0] >= need]
        last = fits[:, 1] - need
        row = np.searchsorted(last, at, side="left")
        begins = np.append(fits[:, 0], inf)[row]
        return np.maximum(begins, at) + seconds

    def there(self, at: float) -> bool:
        """Whether somebody is there at a moment."""
        row = bisect_right(self._ends, at)
        return row < len(self._ends) and self._begins[row] <= at

    def leaves(self, at: float) -> float:
        """When who is there at a moment leaves; the moment itself if nobody is."""
        return self._ends[bisect_right(self._ends, at)] if self.there(at) else at

    def comes(self, at: float) -> float:
        """When somebody comes next after a moment; infinite if nobody does."""
        row = bisect_right(self._begins, at)
        return self._begins[row] if row < len(self._begins) else inf
