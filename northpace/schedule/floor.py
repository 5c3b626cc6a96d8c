"""The floor of the workshop: what can begin when on which machine, under hands' hours, beds to be
cleared and spools that hang somewhere.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from northpace.schedule.problem import BedTime, FloorMachine, FloorSpool, Problem
from northpace.schedule.week import Presence

#: g by which a spool may be short; rounding is no reason to take another one.
LEEWAY_G = 1e-6


@dataclass(frozen=True)
class LaidBed:
    """A bed in a schedule; moments are seconds from now."""

    #: keys of what it is of
    order: str
    line: str
    plan: str
    #: keys of where it is laid, and from which spool
    machine: str
    spool: str
    #: how many pieces, and g of filament for all of them
    pieces: int
    grams: float
    #: when hands begin to make the machine ready; the beginning itself where none are needed
    hands_s: float
    begin_s: float
    end_s: float
    #: when its pieces are taken off
    off_s: float
    #: whether the bed before it is cleared, and the spool is changed, before it begins
    cleared: bool
    changed: bool


@dataclass
class _Stand:
    """How a machine stands."""

    machine: FloorMachine
    free: float
    clear: bool
    spool: str | None


@dataclass
class _Roll:
    """How a spool stands: what is left, and until when the bed it was taken for last is laid."""

    spool: FloorSpool
    grams: float
    until: float


class Floor:
    """Machines and spools, as they stand while beds are put on one after the other."""

    def __init__(self, problem: Problem, presence: Presence | None = None) -> None:
        self.problem = problem
        self.presence = presence or Presence(problem.week.spans(problem.now))
        self.stands = {
            one.key: _Stand(one, one.free_s, one.clear or one.clears_itself, one.spool)
            for one in problem.machines
        }
        self.rolls = {one.key: _Roll(one, one.grams, 0.0) for one in problem.spools}
        for stand in self.stands.values():
            if stand.spool in self.rolls:
                self.rolls[stand.spool].until = stand.free
        self.longest = np.inf if problem.longest_h is None else problem.longest_h * 3600
        self.most_g: dict[str, float] = {}
        for roll in self.rolls.values():
            key = roll.spool.material
            self.most_g[key] = max(self.most_g.get(key, 0.0), roll.grams)

    def copy(self) -> Floor:
        """The same floor, to try something on."""
        out = object.__new__(Floor)
        out.__dict__.update(self.__dict__)
        out.stands = {key: replace(stand) for key, stand in self.stands.items()}
        out.rolls = {key: replace(roll) for key, roll in self.rolls.items()}
        return out

    def refused(self, bed: BedTime, pieces: int) -> str:
        """Why a bed with so many pieces can never be laid; empty if it can."""
        stand, hours = self.stands.get(bed.machine), bed.takes(pieces) / 3600
        if stand is None:
            return "its machine is not in use"
        if 3600 * hours > self.longest:
            return f"it takes {hours:.1f} h, and no print may take over {self.longest / 3600:g} h"
        if not self.problem.unattended and 3600 * hours > self.presence.longest:
            return (
                f"it takes {hours:.1f} h, and machines run only while somebody is there, at most "
                f"{self.presence.longest / 3600:.1f} h"
            )
        if bed.weighs(pieces) > self.most_g.get(bed.material, 0.0) + LEEWAY_G:
            return f"no spool of its material has the {bed.weighs(pieces):.0f} g it takes"
        return ""

    def tried(self, order: str, line: str, bed: BedTime, pieces: int) -> LaidBed | None:
        """The bed as soon as its machine can lay it after what it has; None if it never can."""
        stand = self.stands.get(bed.machine)
        seconds, grams = bed.takes(pieces), bed.weighs(pieces)
        if stand is None or seconds > self.longest:
            return None
        machine, best = stand.machine, None
        hung = {other.spool for other in self.stands.values()}
        for key, roll in self.rolls.items():
            if roll.spool.material != bed.material or roll.grams + LEEWAY_G < grams:
                continue
            changed = key != stand.spool
            hands = 0.0 if stand.clear else machine.bed_change_s
            hands += machine.spool_change_s if changed else 0.0
            # a spool can be taken off another machine once that one has done with it
            free = max(stand.free, roll.until) if changed else stand.free
            ready = self.presence.ready(free, hands)
            begin = self._attended(ready, seconds)
            if not np.isfinite(begin):
                continue
            # of two spools the one that hangs there, then one that hangs nowhere, then the one with
            # least left
            rank = (begin, changed, changed and key in hung, roll.grams, key)
            if best is None or rank < best[0]:
                end = begin + seconds
                off = end if machine.clears_itself else self._off(end, machine)
                best = (
                    rank,
                    LaidBed(
                        *(order, line, bed.plan, bed.machine, key, pieces, grams),
                        hands_s=ready - hands if hands else begin,
                        begin_s=begin,
                        end_s=end,
                        off_s=off,
                        cleared=not stand.clear,
                        changed=changed,
                    ),
                )
        return None if best is None or not np.isfinite(best[1].off_s) else best[1]

    def put(self, laid: LaidBed) -> None:
        """Put a bed that was tried on its machine."""
        stand, roll = self.stands[laid.machine], self.rolls[laid.spool]
        stand.free, stand.clear, stand.spool = laid.end_s, stand.machine.clears_itself, laid.spool
        for other in self.stands.values():
            if other is not stand and other.spool == laid.spool:
                other.spool = None
        roll.grams -= laid.grams
        roll.until = laid.end_s

    def _off(self, end: float, machine: FloorMachine) -> float:
        return self.presence.ready(end, machine.bed_change_s)

    def _attended(self, ready: float, seconds: float) -> float:
        """When a bed begins that is ready: at once, unless somebody has to be there until its
        end.
        """
        if self.problem.unattended or not np.isfinite(ready):
            return ready
        if seconds > self.presence.longest:
            return np.inf
        return self.presence.begins(ready, seconds)
