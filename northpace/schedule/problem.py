"""What a schedule is made from: orders, machines and spools. Times are in seconds from now."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from datetime import datetime
from itertools import pairwise

from pydantic import model_validator

from northpace.schedule.house import House
from northpace.schedule.week import AHEAD_S
from northpace.spec.declare import Group, setting

#: Most pieces of a line, most plans that may be used for it, and most pieces of all lines.
MOST_PIECES, MOST_PLANS, MOST_IN_ALL = 10_000, 50, 20_000
#: Most orders, machines and spools of a schedule.
MOST_ORDERS, MOST_MACHINES, MOST_SPOOLS = 500, 200, 2000
#: Years in which a schedule can begin.
YEARS = range(2000, 2200)


class FloorSpool(Group):
    """A spool of the workshop."""

    key: str
    material: str
    grams: float = setting(
        0.0, "Left", help="Grams that are not needed by jobs already sent.", unit="g", ge=0, le=1e6
    )
    price: float = setting(0.0, "Price", help="Of its filament.", unit="€/kg", ge=0, le=1e5)
    purge_g: float = setting(
        0.0,
        "Lost",
        help="Filament that is laid after a change of spool until it runs clean.",
        unit="g",
        ge=0,
        le=1000,
    )
    full_g: float = setting(1000.0, "Full", help="On a new spool of it.", unit="g", ge=1, le=1e5)


class FloorMachine(Group):
    """A machine, as it will be when the jobs that were sent to it have ended."""

    key: str
    name: str
    free_s: float = setting(
        0.0, "Free", help="When its last job ends, from now.", unit="s", ge=0, le=AHEAD_S
    )
    clear: bool = setting(True, "Bed is clear", help="Whether its bed is clear at that time.")
    spool: str | None = setting(
        None, "Spool", help="Key of the spool that hangs there at that time."
    )
    clears_itself: bool = setting(
        False, "Clears itself", help="Whether pieces come off its bed without a person."
    )
    bed_change_s: float = setting(
        300.0, "Bed change", help="Time a person needs to clear its bed.", unit="s", ge=0, le=86400
    )
    spool_change_s: float = setting(
        300.0,
        "Spool change",
        help="Time a person needs to hang up another spool.",
        unit="s",
        ge=0,
        le=86400,
    )
    hour: float | None = setting(
        None, "Hour", help="What an hour of it costs.", unit="€/h", ge=0, le=1e5, source="rates"
    )
    spread: float = setting(
        0.0,
        "Spread",
        help="How far its actual times lie from the estimated ones: one standard deviation, as a "
        "share of the estimate.",
        ge=0,
        le=2,
    )


class BedTime(Group):
    """How long a bed takes with different numbers of pieces of one plan, and how much filament.

    ``pieces`` lists the numbers for which time and filament are known, from 1 up to the most that
    fit on the bed. For numbers between two of these, time and filament are interpolated linearly.
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
            raise ValueError("pieces, seconds and grams of a bed are lists of the same length")
        if self.pieces[0] != 1 or any(b <= a for a, b in pairwise(self.pieces)):
            raise ValueError("pieces of a bed ascend, and begin with 1")
        if self.pieces[-1] > MOST_PIECES:
            raise ValueError(f"pieces of a bed are at most {MOST_PIECES}")
        for name, values, least in (("seconds", self.seconds, 1e-3), ("grams", self.grams, 0.0)):
            inside = all(least <= value <= AHEAD_S for value in values)
            if not inside or any(b < a for a, b in pairwise(values)):
                raise ValueError(
                    f"{name} of a bed lie between {least:g} and {AHEAD_S:g}, and more pieces never "
                    "take less"
                )
        return self

    @property
    def holds(self) -> int:
        """The most pieces on a bed."""
        return self.pieces[-1]

    def takes(self, count: int) -> float:
        """How many seconds a bed takes with ``count`` pieces on it."""
        return between(count, self.pieces, self.seconds)

    def weighs(self, count: int) -> float:
        """How many grams of filament a bed takes with ``count`` pieces on it."""
        return between(count, self.pieces, self.grams)


def between(count: int, pieces: tuple[int, ...], values: tuple[float, ...]) -> float:
    """The value at ``count`` pieces, interpolated linearly. For a single number this is several
    times as fast as NumPy's function, and a search asks for it a million times.
    """
    row = min(max(bisect_left(pieces, count), 1), len(pieces) - 1)
    if len(pieces) == 1 or count >= pieces[-1]:
        return values[-1]
    share = (count - pieces[row - 1]) / (pieces[row] - pieces[row - 1])
    return values[row - 1] + share * (values[row] - values[row - 1])


class WantedPieces(Group):
    """One line of an order: how many pieces of a part still have to be printed."""

    key: str
    name: str
    pieces: int = setting(1, "Pieces", help="Still to be printed.", ge=0, le=MOST_PIECES)
    spare: int = setting(
        0,
        "Spare",
        help="How many of these pieces are printed only in case others fail.",
        ge=0,
        le=MOST_PIECES,
    )
    beds: tuple[BedTime, ...] = setting((), "Beds", help="The plans that may be used for it.")
    fails: float = setting(0.0, "Fails", help="Share of its pieces that fail.", ge=0, le=0.9)
    finishing_min: float | None = setting(
        None,
        "Finishing",
        help="Work by hand on each piece, as results have shown.",
        unit="min",
        ge=0,
        le=10000,
        source="rates",
    )


class WantedOrder(Group):
    """An order with the lines that still have to be printed."""

    key: str
    name: str
    due_s: float | None = setting(
        None,
        "Due",
        help="From now; a negative number is in the past.",
        unit="s",
        ge=-1e9,
        le=1e9,
    )
    urgency: int = setting(2, "Urgency", help="3 is urgent, 1 can wait.", ge=1, le=3)
    lines: tuple[WantedPieces, ...] = ()
    under_way_s: float = setting(
        0.0,
        "Under way",
        help="When the last piece is taken off that was sent to a machine already, from now.",
        unit="s",
        ge=0,
        le=AHEAD_S,
    )


class Problem(House):
    """Everything a schedule is computed from."""

    now: datetime
    machines: tuple[FloorMachine, ...] = ()
    spools: tuple[FloorSpool, ...] = ()
    orders: tuple[WantedOrder, ...] = ()

    @model_validator(mode="after")
    def _sound(self) -> Problem:
        if self.now.tzinfo is None or self.now.year not in YEARS:
            raise ValueError(
                "now: a time of the present is needed, with its offset from UTC, such as "
                "2026-12-02T10:00:00Z"
            )
        lines = [line for order in self.orders for line in order.lines]
        for name, count, most in (
            ("orders", len(self.orders), MOST_ORDERS),
            ("machines", len(self.machines), MOST_MACHINES),
            ("spools", len(self.spools), MOST_SPOOLS),
            ("plans for a line", max((len(line.beds) for line in lines), default=0), MOST_PLANS),
            ("pieces", sum(line.pieces for line in lines), MOST_IN_ALL),
        ):
            if count > most:
                raise ValueError(f"{count} {name}; at most {most} are scheduled at once")
        for name, keys in (
            ("machine", [one.key for one in self.machines]),
            ("spool", [one.key for one in self.spools]),
            ("order", [one.key for one in self.orders]),
            ("line", [line.key for line in lines]),
        ):
            twice = [key for key, count in Counter(keys).items() if count > 1]
            if twice:
                raise ValueError(f"two entries have the {name} key '{min(twice)}'")
        return self
