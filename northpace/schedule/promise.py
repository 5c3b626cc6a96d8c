"""By when an order can be promised: the schedule is replayed many times, with print times and
failures drawn at random as often as machines and plans have shown them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from northpace.schedule.floor import Floor, LaidBed
from northpace.schedule.problem import BedTime, Problem, WantedPieces
from northpace.schedule.timetable import Timetable
from northpace.schedule.week import AHEAD_S

#: How often a schedule is replayed, and in what share of the replays a promise has to be kept.
REPLAYS, KEPT = 1000, 0.95
#: How often pieces that failed are printed again; what fails even then is left out.
ROUNDS = 8
#: A print takes at least this share of its estimated time, whatever is drawn.
LEAST = 0.2


@dataclass(frozen=True)
class Promise:
    """When an order is likely to be done, in seconds from now."""

    order: str
    #: when it is done in half of the replays, and in 95 % of them; None if that is later than the
    #: days that are looked ahead
    likely_s: float | None
    promise_s: float | None
    #: in what share of the replays it is on time; None if it has no due time
    on_time: float | None


def promises(problem: Problem, table: Timetable, seed: int = 1) -> list[Promise]:
    """By when each order can be promised, without orders that cannot be printed completely."""
    lacking = {one.order for one in table.unplaced}
    done = Replay(problem, table, seed).done
    found = []
    for order in problem.orders:
        if order.key in lacking:
            continue
        at = done[order.key]
        found_at = np.quantile(at, [0.5, KEPT], method="higher")
        likely, late = (float(one) if one <= AHEAD_S else None for one in found_at)
        on_time = None if order.due_s is None else float(np.mean(at <= order.due_s))
        found.append(Promise(order.key, likely, late, on_time))
    return found


class Replay:
    """Many replays of one schedule.

    Every bed keeps its machine and its spool, and the beds keep their sequence. In each replay the
    time of every bed is drawn, and every piece may fail. If more pieces of a line failed than were
    printed to spare, the missing ones are printed directly after its last bed, on the same machine.

    Attributes
    ----------
    done
        for every order the times at which its last piece is taken off, (count,) seconds from now,
        one for each replay
    """

    def __init__(self, problem: Problem, table: Timetable, seed: int, count: int = REPLAYS) -> None:
        self.chance, self.count = np.random.default_rng(seed), count
        self.attended = not problem.unattended
        self.presence = Floor(problem).presence
        self.machines = {one.key: one for one in problem.machines}
        self.free = {one.key: np.full(count, one.free_s) for one in problem.machines}
        self.clear = {one.key: one.clear or one.clears_itself for one in problem.machines}
        hung = {one.spool: one.free_s for one in problem.machines}
        self.until = {one.key: np.full(count, hung.get(one.key, 0.0)) for one in problem.spools}
        self.done = {order.key: np.full(count, order.under_way_s) for order in problem.orders}
        lines = {line.key: line for order in problem.orders for line in order.lines}
        last = {bed.line: k for k, bed in enumerate(table.beds)}
        failed = {key: np.zeros(count, int) for key in last}
        for k, laid in enumerate(table.beds):
            line = lines[laid.line]
            failed[laid.line] += self._lay(laid, line, np.full(count, laid.pieces), laid.changed)
            if last[laid.line] == k:
                self._again(laid, line, np.maximum(failed[laid.line] - line.spare, 0))

    def _again(self, laid: LaidBed, line: WantedPieces, failed: np.ndarray) -> None:
        """Print the pieces of a line that failed again, on as many beds as they need."""
        holds = _plan_of(line, laid).holds
        for _ in range(ROUNDS):
            if not failed.any():
                return
            now = np.minimum(failed, holds)
            failed = failed - now + self._lay(laid, line, now, False)

    def _lay(
        self, laid: LaidBed, line: WantedPieces, pieces: np.ndarray, changed: bool
    ) -> np.ndarray:
        """Print a bed in every replay, with ``pieces`` (count,) on it; where that is 0 nothing is
        printed. Returns (count,) how many pieces failed.
        """
        machine, bed, some = self.machines[laid.machine], _plan_of(line, laid), pieces > 0
        hands = 0.0 if self.clear[machine.key] else machine.bed_change_s
        free = self.free[machine.key]
        if changed:
            hands += machine.spool_change_s
            free = np.maximum(free, self.until[laid.spool])
        begin = self.presence.all_ready(free, hands)
        planned = np.interp(pieces, bed.pieces, bed.seconds)
        seconds = planned * np.maximum(self.chance.normal(1, machine.spread, self.count), LEAST)
        if self.attended:
            begin = self.presence.all_begin(begin, planned)
        end = np.where(some, begin + seconds, free)
        off = end if machine.clears_itself else self.presence.all_ready(end, machine.bed_change_s)
        self.free[machine.key], self.until[laid.spool] = end, end
        self.clear[machine.key] = machine.clears_itself
        done = self.done[laid.order]
        self.done[laid.order] = np.where(some, np.maximum(done, off), done)
        return self.chance.binomial(pieces, line.fails)


def _plan_of(line: WantedPieces, laid: LaidBed) -> BedTime:
    return next(bed for bed in line.beds if (bed.plan, bed.machine) == (laid.plan, laid.machine))
