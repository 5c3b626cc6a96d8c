"""The workshop floor while a schedule is built: how every machine and spool stands after the beds
that were put on so far, and when the next bed can begin.
"""

from __future__ import annotations

from copy import copy
from dataclasses import dataclass, replace
from math import inf, isfinite

from northpace.schedule.problem import BedTime, FloorMachine, FloorSpool, Problem
from northpace.schedule.week import AHEAD_S, Presence

#: A spool may be short by this many grams, so that rounding does not ask for another one.
LEEWAY_G = 1e-6


@dataclass(frozen=True)
class LaidBed:
    """A bed in a schedule: what is printed, where and when. Times are in seconds from now."""

    #: keys of the order, of its line and of the plan
    order: str
    line: str
    plan: str
    #: keys of the machine and of the spool
    machine: str
    spool: str
    #: how many pieces are on it, and how many grams of filament they take together
    pieces: int
    grams: float
    #: when a person begins to make the machine ready; the same as ``begin_s`` if nobody has to
    hands_s: float
    begin_s: float
    end_s: float
    #: when its pieces have been taken off
    off_s: float
    #: whether a person clears the bed before it begins, and hangs up another spool
    cleared: bool
    changed: bool


@dataclass
class _MachineState:
    """A machine after its last bed: when it is free, whether the bed is clear, what hangs there."""

    machine: FloorMachine
    free: float
    clear: bool
    spool: str | None


@dataclass
class _SpoolState:
    """A spool: how many grams are left, and when the last bed printed from it ends."""

    spool: FloorSpool
    grams: float
    until: float


class Floor:
    """How all machines and spools stand after the beds that were put on so far.

    Attributes
    ----------
    presence
        when somebody is there
    longest
        s, how long a bed may take at most
    """

    def __init__(self, problem: Problem) -> None:
        self.problem = problem
        self.presence = Presence(problem.week.spans(problem.now))
        self.machines = {
            one.key: _MachineState(one, one.free_s, one.clear or one.clears_itself, one.spool)
            for one in problem.machines
        }
        self.spools = {one.key: _SpoolState(one, one.grams, 0.0) for one in problem.spools}
        for machine in self.machines.values():
            if machine.spool in self.spools:
                self.spools[machine.spool].until = machine.free
        self.house = inf if problem.longest_h is None else problem.longest_h * 3600
        self.longest = self.house
        if not problem.unattended:
            self.longest = min(self.longest, self.presence.longest)

    def copy(self) -> Floor:
        """A floor of its own that stands as this one does now."""
        out = copy(self)
        out.machines = {key: replace(state) for key, state in self.machines.items()}
        out.spools = {key: replace(state) for key, state in self.spools.items()}
        return out

    def most_grams(self, material: str) -> float:
        """How many grams are left on the spool of a material that has most."""
        left = (one.grams for one in self.spools.values() if one.spool.material == material)
        return max(left, default=0.0)

    def refused(self, bed: BedTime, pieces: int) -> str:
        """Why a bed with so many pieces cannot be printed here at any time; empty if it can."""
        seconds, grams = bed.takes(pieces), bed.weighs(pieces)
        takes = f"it takes {seconds / 3600:.1f} h"
        if bed.machine not in self.machines:
            return "its machine is not in use"
        if seconds > self.house:
            return f"{takes}, and no print may take over {self.house / 3600:g} h"
        if seconds > self.longest:
            return (
                f"{takes}, and machines run only while somebody is there, at most "
                f"{self.longest / 3600:.1f} h"
            )
        if grams > self.most_grams(bed.material) + LEEWAY_G:
            return f"it takes {grams:.0f} g, and no spool of {bed.material} has that much left"
        return ""

    def tried(self, order: str, line: str, bed: BedTime, pieces: int) -> LaidBed | None:
        """The bed at the earliest time at which its machine can print it after all it has; None if
        it cannot at all.
        """
        state, grams = self.machines.get(bed.machine), bed.weighs(pieces)
        if state is None or bed.takes(pieces) > self.longest:
            return None
        hung = {other.spool for other in self.machines.values()}
        best: tuple[tuple[float, bool, bool, float, str], float] | None = None
        for key, spool in self.spools.items():
            if spool.spool.material != bed.material or spool.grams + LEEWAY_G < grams:
                continue
            ready, _ = self._ready(state, key)
            changed = key != state.spool
            # first the spool that hangs here, then one that hangs nowhere, then the one with least
            # left
            rank = (ready, changed, changed and key in hung, spool.grams, key)
            if best is None or rank < best[0]:
                best = rank, ready
        if best is None:
            return None
        return self._laid((order, line), bed, pieces, best[0][-1])

    def put(self, laid: LaidBed) -> None:
        """Put a bed on its machine, as it was `tried`."""
        state, spool = self.machines[laid.machine], self.spools[laid.spool]
        for other in self.machines.values():
            if other.spool == laid.spool:
                other.spool = None
        state.free, state.clear, state.spool = laid.end_s, state.machine.clears_itself, laid.spool
        spool.grams -= laid.grams
        spool.until = laid.end_s

    def _ready(self, state: _MachineState, spool: str) -> tuple[float, float]:
        """When a machine is ready with a spool, and how many seconds of work by hand that takes."""
        hands, free = 0.0 if state.clear else state.machine.bed_change_s, state.free
        if spool != state.spool:
            hands += state.machine.spool_change_s
            # a spool comes off another machine once that one has ended what it prints from it
            free = max(free, self.spools[spool].until)
        return self.presence.ready(free, hands), hands

    def _laid(self, of: tuple[str, str], bed: BedTime, pieces: int, spool: str) -> LaidBed | None:
        """The bed with this spool, for an order and its line; None if it would be done too late."""
        state, seconds = self.machines[bed.machine], bed.takes(pieces)
        ready, hands = self._ready(state, spool)
        begin = ready
        if not self.problem.unattended:
            begin = self.presence.begins(ready, seconds)
        end = off = begin + seconds
        if not state.machine.clears_itself and isfinite(end):
            off = self.presence.ready(end, state.machine.bed_change_s)
        if off > AHEAD_S:
            return None
        return LaidBed(
            order=of[0],
            line=of[1],
            plan=bed.plan,
            machine=bed.machine,
            spool=spool,
            pieces=pieces,
            grams=bed.weighs(pieces),
            hands_s=ready - hands if hands else begin,
            begin_s=begin,
            end_s=end,
            off_s=off,
            cleared=not state.clear,
            changed=spool != state.spool,
        )
