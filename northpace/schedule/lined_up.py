"""When the prints that wait for one machine begin and end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from northpace.schedule.week import Presence


@dataclass(frozen=True)
class Print:
    """One print of a queue, in the order they are printed."""

    #: how long it takes, or still takes if it is on the machine; s
    seconds: float
    #: key of its spool; None if it is printed from whatever spool hangs there
    spool: int | None
    #: whether it is on the machine already
    running: bool = False


@dataclass(frozen=True)
class Turnover:
    """What is done between two prints of a machine, in s."""

    bed_change: float
    spool_change: float
    #: whether the machine itself takes the pieces off its bed
    clears_itself: bool = False


@dataclass(frozen=True)
class PrintTimes:
    """When a print begins and ends, in s from now."""

    begin: float
    end: float


def lined_up(
    prints: Sequence[Print], turnover: Turnover, presence: Presence, hangs: int | None = None
) -> list[PrintTimes]:
    """When the prints of a queue begin and end.

    Before every print but the first the bed is cleared, and before any print its spool is hung up
    if it is another one than ``hangs``. What a person does is done while somebody is there.
    """
    out: list[PrintTimes] = []
    at = 0.0
    for k, one in enumerate(prints):
        hands = 0.0
        if not one.running:
            hands = turnover.spool_change if one.spool not in (None, hangs) else 0.0
            if turnover.clears_itself:
                at += turnover.bed_change if k else 0.0
            else:
                hands += turnover.bed_change if k else 0.0
        begin = presence.ready(at, hands)
        at = begin + one.seconds
        out.append(PrintTimes(begin, at))
        hangs = one.spool if one.spool is not None else hangs
    return out
