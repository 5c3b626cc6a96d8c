"""A better schedule of the same beds: constraint programming (CP-SAT) looks for other machines and
another sequence.
"""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil, isinf

from ortools.sat.python import cp_model

from northpace.schedule.floor import Floor, LaidBed
from northpace.schedule.problem import BedTime, FloorMachine, Problem
from northpace.schedule.timetable import LATE

#: The solver counts in minutes.
MINUTE = 60.0
#: How much the solver may do, in its own unit, which does not depend on the clock, so that the same
#: problem has the same answer. This is at most about 15 s on one core.
WORK = 0.5
#: Seconds after which it ends in any case, for very slow machines.
LONGEST_S = 60.0
#: The solver is asked if there are at most so many choices, counted as plans that may be used for
#: each bed. With more, other sequences of lines lead further in the same time (measured with 105
#: beds on 3 machines: a cost of 909 h against 1,182 h).
MOST_CHOICES = 240


def solved(
    problem: Problem, floor: Floor, beds: Sequence[LaidBed], work: float = WORK
) -> tuple[list[tuple[LaidBed, BedTime]], float] | None:
    """Look for a better schedule of the same beds.

    The solver knows when somebody is there to clear a bed, and knows nothing of spools. A real
    schedule therefore takes as long as the solver's or longer, and the bound holds for it too.

    Returns
    -------
    The beds in the sequence in which they are to be put on machines, each with the plan to use; and
    a cost in hours that no schedule of these beds can be below. None if there is nothing to choose,
    or too much.
    """
    asked = _Model(problem, floor, beds)
    if len(beds) < 2 or sum(len(some) for some in asked.choices) > MOST_CHOICES:
        return None
    asked.build()
    solver = cp_model.CpSolver()
    # its ways of searching take turns on one core, so that the answer does not depend on the clock
    solver.parameters.num_workers = 8
    solver.parameters.interleave_search = True
    solver.parameters.random_seed = 1
    solver.parameters.max_deterministic_time = work
    solver.parameters.max_time_in_seconds = LONGEST_S
    if solver.solve(asked.model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None

    def rank(k: int) -> tuple[int, float, int]:
        return solver.value(asked.begins[k]), beds[k].begin_s, k

    found = []
    for k in sorted(range(len(beds)), key=rank):
        picks = zip(asked.choices[k], asked.picks[k], strict=True)
        found.append((beds[k], next(bed for bed, pick in picks if solver.boolean_value(pick))))
    return found, solver.best_objective_bound / 60


class _Model:
    """The beds as the solver sees them: intervals on machines, each with a choice of plans."""

    def __init__(self, problem: Problem, floor: Floor, beds: Sequence[LaidBed]) -> None:
        self.problem, self.floor, self.beds = problem, floor, beds
        lines = {line.key: line for order in problem.orders for line in order.lines}
        #: for each bed the plans that may be used
        self.choices = [
            [
                bed
                for bed in lines[laid.line].beds
                if bed.holds >= laid.pieces and not floor.refused(bed, laid.pieces)
            ]
            for laid in beds
        ]
        self.model = cp_model.CpModel()
        ends = [2 * bed.off_s for bed in beds] + [order.under_way_s for order in problem.orders]
        self.horizon = ceil(max(ends, default=0.0) / MINUTE) + 2
        self.begins: list[cp_model.IntVar] = []
        self.offs: list[cp_model.IntVar] = []
        self.picks: list[list[cp_model.IntVar]] = []
        self.on: dict[str, list[cp_model.IntervalVar]] = {one.key: [] for one in problem.machines}

    def build(self) -> None:
        """Add all variables, all rules, and the cost to be minimised."""
        machines = {one.key: one for one in self.problem.machines}
        for k, laid in enumerate(self.beds):
            begin = self.model.new_int_var(0, self.horizon, f"begin {k}")
            off = self.model.new_int_var(0, self.horizon, f"off {k}")
            self.model.add_hint(begin, int(laid.begin_s / MINUTE))
            self.begins.append(begin)
            self.offs.append(off)
            picks = [self._choice(k, bed, machines[bed.machine]) for bed in self.choices[k]]
            self.model.add_exactly_one(picks)
            self.picks.append(picks)
        for intervals in self.on.values():
            self.model.add_no_overlap(intervals)
        # two beds of a line with the same number of pieces are alike, so their sequence is fixed
        for k, laid in enumerate(self.beds):
            same = (j for j in range(k + 1, len(self.beds)) if _same(self.beds[j], laid))
            if (j := next(same, None)) is not None:
                self.model.add(self.begins[k] <= self.begins[j])
        self.model.minimize(sum(self._terms()))

    def _choice(self, k: int, bed: BedTime, machine: FloorMachine) -> cp_model.IntVar:
        """Add one plan of a bed; returns the variable that says whether it is used."""
        model, laid = self.model, self.beds[k]
        pick = model.new_bool_var(f"{k} on {bed.machine}")
        model.add_hint(pick, bed.machine == laid.machine and bed.plan == laid.plan)
        whole = int(bed.takes(laid.pieces) / MINUTE)  # rounded down, so that the bound holds
        hands = 0 if machine.clears_itself else int(machine.bed_change_s / MINUTE)
        end = model.new_int_var(0, self.horizon, "")
        model.add(end >= self.begins[k] + whole).only_enforce_if(pick)
        model.add(self.offs[k] == end + hands).only_enforce_if(pick)
        if hands:
            clearing = _clearing(self.floor, hands, self.horizon)
            model.add_linear_expression_in_domain(end, clearing).only_enforce_if(pick)
        free = machine.free_s
        if not (machine.clear or machine.clears_itself):
            free = self.floor.presence.ready(free, machine.bed_change_s)
        if free > self.horizon * MINUTE:
            model.add(pick == 0)  # it is free too late, or never cleared
        else:
            model.add(self.begins[k] >= int(free / MINUTE)).only_enforce_if(pick)
        size = model.new_int_var(0, self.horizon, "")
        self.on[bed.machine].append(
            model.new_optional_interval_var(self.begins[k], size, self.offs[k], pick, "")
        )
        return pick

    def _terms(self) -> list[cp_model.LinearExpr]:
        """The cost of every order in minutes, as in `timetable.order_cost`."""
        model, terms = self.model, []
        for order in self.problem.orders:
            pairs = zip(self.beds, self.offs, strict=True)
            mine = [off for laid, off in pairs if laid.order == order.key]
            if not mine:
                continue
            done = model.new_int_var(int(order.under_way_s / MINUTE), self.horizon, order.key)
            for off in mine:
                model.add(done >= off)
            terms.append(order.urgency * done)
            if order.due_s is not None:
                late = model.new_int_var(0, self.horizon, "")
                model.add(late >= done - int(max(order.due_s, 0.0) / MINUTE) - 1)
                terms.append(int(LATE) * order.urgency * late)
        return terms


def _same(one: LaidBed, other: LaidBed) -> bool:
    return (one.line, one.pieces) == (other.line, other.pieces)


def _clearing(floor: Floor, hands: int, horizon: int) -> cp_model.Domain:
    """The minutes at which a person can begin to clear a bed."""
    spans = floor.presence.spans
    if not len(spans):
        return cp_model.Domain(0, horizon)
    hands = int(min(hands, floor.presence.longest / MINUTE))
    intervals = []
    for begin, end in spans[spans[:, 0] < horizon * MINUTE]:
        last = horizon if isinf(end) else min(int(end / MINUTE) + 1 - hands, horizon)
        if last >= int(begin / MINUTE):
            intervals.append([int(begin / MINUTE), last])
    return cp_model.Domain.from_intervals(intervals or [[0, horizon]])
