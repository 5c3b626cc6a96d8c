"""What has to be made, on what, by when. Times are seconds from now."""

from __future__ import annotations

from bisect import bisect_left
from datetime import datetime

import numpy as np
from pydantic import model_validator

from northpace.schedule.week import Week
from northpace.spec.declare import Group, setting

#: Most pieces of a line, and most orders and machines of a schedule.
MOST_PIECES = 10_000
MOST_ORDERS = 500
MOST_MACHINES = 200


class FloorSpool(Group):
    """A spool of the workshop."""

    key: str
    material: str
    grams: float = setting(0.0, "Left", help="What no job has claimed yet.", unit="g", ge=0)


class FloorMachine(Group):
    """A machine as it will be once what was sent to it is laid."""

    key: str
    name: str
    free_s: float = setting(0.0, "Free", help="When its last job ends, from now.", unit="s", ge=0)
    clear: bool = setting(True, "Clear", help="Whether the bed is clear when it is free.")
    spool: str | None = setting(None, "Spool", help="Which one hangs there when it is free.")
    clears_itself: bool = setting(False, "Clears itself", help="Its bed needs no hand.")
    bed_change_s: float = setting(300.0, "Bed change", help="Work by hand.", unit="s", ge=0)
    spool_change_s: float = setting(300.0, "Spool change", help="Work by hand.", unit="s", ge=0)
    ratio: float = setting(
        1.0, "Ratio", help="Actual time by estimate, from its jobs.", ge=0.1, le=10
    )
    spread: float = setting(0.0, "Spread", help="One standard deviation of that ratio.", ge=0, le=2)


class BedTime(Group):
    """What beds with so many pieces of a plan take on the plan's machine.

    ``pieces`` ascend from 1 to the most a bed holds; what lies between them is interpolated.
    """

    plan: str
    machine: str
    material: str
    pieces: tuple[int, ...]
    seconds: tuple[float, ...]
    grams: tuple[float, ...]

    @model_validator(mode="after")
    def _ascending(self) -> BedTime:
        if not len(self.pieces) == len(self.seconds) == len(self.grams) > 0:
            raise ValueError("pieces, seconds and grams of a bed go together, one of each")
        if self.pieces[0] != 1 or any(np.diff(self.pieces) <= 0):
            raise ValueError("pieces of a bed ascend from 1")
        if min(self.seconds) <= 0 or not np.isfinite([*self.seconds, *self.grams]).all():
            raise ValueError("seconds of a bed are above 0, and finite as its grams are")
        return self

    @property
    def holds(self) -> int:
        """The most pieces on a bed."""
        return self.pieces[-1]

    def takes(self, count: int) -> float:
        """Seconds of a bed with so many pieces."""
        return between(count, self.pieces, self.seconds)

    def weighs(self, count: int) -> float:
        """Grams of a bed with so many pieces."""
        return between(count, self.pieces, self.grams)


def between(count: int, pieces: tuple[int, ...], values: tuple[float, ...]) -> float:
    """The value for so many pieces, on the straight line between those that are known."""
    row = min(max(bisect_left(pieces, count), 1), len(pieces) - 1)
    if len(pieces) == 1 or count >= pieces[-1]:
        return values[-1]
    share = (count - pieces[row - 1]) / (pieces[row] - pieces[row - 1])
    return values[row - 1] + share * (values[row] - values[row - 1])


class WantedPieces(Group):
    """A line of an order: so many pieces of a part that are still to be laid."""

    key: str
    name: str
    pieces: int = setting(1, "Pieces", help="Still to be laid.", ge=0, le=MOST_PIECES)
    beds: tuple[BedTime, ...] = setting((), "Beds", help="The plans that may be used.")
    fails: float = setting(0.0, "Fails", help="Share of pieces that fail.", ge=0, le=0.9)


class WantedOrder(Group):
    """An order."""

    key: str
    name: str
    due_s: float | None = setting(None, "Due", help="From now; below 0 is in the past.", unit="s")
    urgency: int = setting(2, "Urgency", help="3 is urgent, 1 can wait.", ge=1, le=3)
    lines: tuple[WantedPieces, ...] = ()
    #: when the last of what was sent to machines already is taken off
    under_way_s: float = 0.0


class Problem(Group):
    """All that a schedule is made of."""

    now: datetime
    week: Week = Week()
    machines: tuple[FloorMachine, ...] = ()
    spools: tuple[FloorSpool, ...] = ()
    orders: tuple[WantedOrder, ...] = ()
    longest_h: float | None = setting(
        None, "Longest print", help="No bed takes longer.", unit="h", ge=0.1, le=1000
    )
    unattended: bool = setting(True, "Unattended", help="Machines go on when nobody is there.")

    @model_validator(mode="after")
    def _sound(self) -> Problem:
        if self.now.tzinfo is None:
            raise ValueError("now: a moment with its offset from UTC is needed")
        for name, found, most in (
            ("orders", self.orders, MOST_ORDERS),
            ("machines", self.machines, MOST_MACHINES),
        ):
            if len(found) > most:
                raise ValueError(f"{len(found)} {name}; at most {most} are scheduled at once")
        for name, keys in (
            ("machine", [one.key for one in self.machines]),
            ("spool", [one.key for one in self.spools]),
            ("order", [one.key for one in self.orders]),
            ("line", [line.key for order in self.orders for line in order.lines]),
        ):
            twice = {key for key in keys if keys.count(key) > 1} if len(keys) < 2000 else set()
            if twice:
                raise ValueError(f"there are two of {name} '{min(twice)}'")
        return self
