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

#: Days that are looked ahead, and the same in seconds. What is not done within them counts as never
#: done.
AHEAD_DAYS = 400
AHEAD_S = AHEAD_DAYS * 86400.0
#: Most entries of hours in a week.
MOST_HOURS = 50


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

    @field_validator("hours")
    @classmethod
    def _few(cls, hours: tuple[HandHours, ...]) -> tuple[HandHours, ...]:
        if len(hours) > MOST_HOURS:
            raise ValueError(f"{len(hours)} entries of hours; a week has at most {MOST_HOURS}")
        return hours

    @field_validator("zone")
    @classmethod
    def _known(cls, zone: str) -> str:
        if zone not in available_timezones():
            raise ValueError(f"there is no time zone '{zone}'; take one such as Europe/Oslo")
        return zone

    def spans(self, now: datetime, days: int = AHEAD_DAYS) -> np.ndarray:
        """When somebody is there without a break, over the days that are looked ahead.

        Returns
        -------
        (n, 2) beginning and end of each such time in seconds from ``now``, ascending. A day on
        which the clocks change has 23 or 25 hours.
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
    """Answers when work by hand can be done.

    Parameters
    ----------
    spans
        (n, 2) times in which somebody is there, in seconds, as `Week.spans` returns them.
    """

    def __init__(self, spans: np.ndarray) -> None:
        self.spans = spans
        # one moment is looked up faster in a list than in an array
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
        """When work by hand can begin that takes so many seconds, at ``at`` or later.

        The work has to be finished before the person leaves. Work that takes longer than anybody
        ever stays begins at the start of one of the longest stays. The answer is infinite if nobody
        comes within the days that are looked ahead.
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
        """When work by hand is finished that could begin at ``at`` at the earliest. Work of 0 s
        needs nobody, and is finished at once.
        """
        return self.begins(at, seconds) + seconds if seconds > 0 else at

    def all_begin(self, at: np.ndarray, seconds: np.ndarray) -> np.ndarray:
        """The same as `begins`, for arrays of moments and durations (n,)."""
        if not len(self.spans):
            return np.full(len(at), inf)
        need = np.minimum(seconds, self.longest) - 1e-6
        found = np.full(len(at), inf)
        row = np.searchsorted(self.spans[:, 1], at, side="right")
        while True:
            open_ = np.isinf(found) & (row < len(self.spans))
            if not open_.any():
                return found
            begin = np.maximum(self.spans[row[open_], 0], at[open_])
            fits = begin + need[open_] <= self.spans[row[open_], 1]
            found[np.flatnonzero(open_)[fits]] = begin[fits]
            row = row + 1

    def all_ready(self, at: np.ndarray, seconds: float) -> np.ndarray:
        """The same as `ready`, for an array of moments (n,) and one duration."""
        return self.all_begin(at, np.full(len(at), seconds)) + seconds if seconds > 0 else at

    def there(self, at: float) -> bool:
        """Whether somebody is there at a moment."""
        row = bisect_right(self._ends, at)
        return row < len(self._ends) and self._begins[row] <= at

    def leaves(self, at: float) -> float:
        """When the person who is there at a moment leaves; that moment if nobody is there."""
        return self._ends[bisect_right(self._ends, at)] if self.there(at) else at

    def comes(self, at: float) -> float:
        """When somebody comes next after a moment; infinite if nobody does."""
        row = bisect_right(self._begins, at)
        return self._begins[row] if row < len(self._begins) else inf
