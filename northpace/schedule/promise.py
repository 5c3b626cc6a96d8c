"""By when an order can be promised: the schedule replayed many times, with times and failures drawn
from what machines and plans have shown so far.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from northpace.schedule.floor import Floor, LaidBed
from northpace.schedule.problem import BedTime, FloorMachine, Problem, WantedPieces
from northpace.schedule.timetable import Timetable

#: Replays of a schedule, and the share of them in which a promise is kept.
REPLAYS, KEPT = 1000, 0.95
#: Rounds of beds for what failed in the round before; what fails then too is left out.
ROUNDS = 8


@dataclass(frozen=True)
class Promise:
    """When an order is likely to be done; seconds from now."""

    order: str
    #: half of all replays are done by then, and 95 %
    likely_s: float
    promise_s: float
    #: share of replays that are on time; None without a due time
    on_time: float | None


def promises(problem: Problem, table: Timetable, seed: int = 1) -> list[Promise]:
    """What can be promised of every order that finds its place in the schedule."""
    lacking = {one.order for one in table.unplaced}
    done = Replay(problem, table, seed).done
    found = []
    for order in problem.orders:
        if order.key in lacking:
            continue
        at = done[order.key]
        likely, late = np.quantile(at, [0.5, KEPT], method="higher")
        on_time = None if order.due_s is None else float(np.mean(at <= order.due_s))
        found.append(Promise(order.key, float(likely), float(late), on_time))
    return found


class Replay:
    """A schedule replayed ``count`` times at once.

    Beds keep their machines, their spools and their order. Actual times are drawn for each bed; a
    piece fails by itself; what failed of a line is laid again right after its last bed, on that
    bed's machine.

    Attributes
    ----------
    done
        of every order: (count,) seconds from now at which its last piece is taken off
    """

    def __init__(self, problem: Problem, table: Timetable, seed: int, count: int = REPLAYS) -> None:
        self.chance, self.count = np.random.default_rng(seed), count
        self.attended = not problem.unattended
        self.presence = Floor(problem).presence
        self.machines = {one.key: one for one in problem.machines}
        self.free = {one.key: np.full(count, one.free_s) for one in problem.machines}
        self.clear = {one.key: one.clear or one.clears_itself for one in problem.machines}
        self.until = {one.key: np.zeros(count) for one in problem.spools}
        self.done = {order.key: np.full(count, order.under_way_s) for order in problem.orders}
        lines = {line.key: line for order in problem.orders for line in order.lines}
        last = {bed.line: k for k, bed in enumerate(table.beds)}
        failed = {key: np.zeros(count, int) for key in last}
        for k, laid in enumerate(table.beds):
            line = lines[laid.line]
            failed[laid.line] += self._lay(laid, line, np.full(count, laid.pieces), laid.changed)
            if last[laid.line] == k:
                self._again(laid, line, failed[laid.line])

    def _again(self, laid: LaidBed, line: WantedPieces, failed: np.ndarray) -> None:
        """Lay what failed of a line, in as many beds as it takes."""
        holds = _plan_of(line, laid).holds
        for _ in range(ROUNDS):
            if not failed.any():
                return
            now = np.minimum(failed, holds)
            failed = failed - now + self._lay(laid, line, now, False)

    def _lay(
        self, laid: LaidBed, line: WantedPieces, pieces: np.ndarray, changed: bool
    ) -> np.ndarray:
        """Lay a bed with so many pieces in every replay (none where 0); returns (count,) how many
        failed.
        """
        machine, bed, some = self.machines[laid.machine], _plan_of(line, laid), pieces > 0
        hands = 0.0 if self.clear[machine.key] else machine.bed_change_s
        free = self.free[machine.key]
        if changed:
            hands += machine.spool_change_s
            free = np.maximum(free, self.until[laid.spool])
        begin = self.presence.all_ready(free, hands)
        seconds = np.interp(pieces, bed.pieces, bed.seconds) * self._ratios(machine)
        if self.attended:
            begin = self.presence.all_ready(begin, float(bed.takes(laid.pieces))) - bed.takes(
                laid.pieces
            )
        end = np.where(some, begin + seconds, free)
        off = end if machine.clears_itself else self.presence.all_ready(end, machine.bed_change_s)
        self.free[machine.key], self.until[laid.spool] = end, end
        self.clear[machine.key] = machine.clears_itself
        done = self.done[laid.order]
        self.done[laid.order] = np.where(some, np.maximum(done, off), done)
        return self.chance.binomial(pieces, line.fails)

    def _ratios(self, machine: FloorMachine) -> np.ndarray:
        """(count,) actual time by estimate, never under a fifth of what is usual."""
        drawn = self.chance.normal(machine.ratio, machine.spread, self.count)
        return np.maximum(drawn, machine.ratio / 5)


def _plan_of(line: WantedPieces, laid: LaidBed) -> BedTime:
    return next(bed for bed in line.beds if (bed.plan, bed.machine) == (laid.plan, laid.machine))
