"""Made-up weeks: the first schedule against taking orders as they come."""

import unittest
from collections import Counter

import numpy as np

from northpace.schedule.floor import Floor
from northpace.schedule.plan_of_day import at_once
from northpace.schedule.problem import FloorSpool
from northpace.schedule.timetable import cost
from tests.schedule.made import OFFICE, bed, faults, machine, order, problem


def week(seed, orders, machines):
    """Orders of 3 to 59 pieces that three of the machines may print, 12 on a bed."""
    chance = np.random.default_rng(seed)
    floor = [machine(f"m{k}", spread=0.1) for k in range(machines)]
    wanted = []
    for k in range(orders):
        own = chance.choice(machines, size=3, replace=False)
        hours = float(chance.uniform(0.3, 2.0))
        beds = tuple(bed(f"m{j}", hours, 12, grams=5) for j in own)
        due = float(chance.uniform(10, 300))
        wanted.append(order(f"o{k}", (int(chance.integers(3, 60)), beds), due_h=due))
    spools = [FloorSpool(key=f"s-{one.key}", material="PLA", grams=20000) for one in floor]
    return problem(wanted, floor, spools, week=OFFICE)


def as_they_come(asked, most):
    """Every order in turn on the machine that can begin soonest, so many pieces on a bed."""
    floor, beds = Floor(asked), []
    for one in asked.orders:
        for line in one.lines:
            left = line.pieces
            while left:
                tried = [floor.tried(one.key, line.key, b, min(left, most)) for b in line.beds]
                laid = min(filter(None, tried), key=lambda laid: laid.begin_s)
                floor.put(laid)
                beds.append(laid)
                left -= laid.pieces
    return cost(asked, floor.presence, beds, [])


class Weeks(unittest.TestCase):
    def test_three_weeks_cost_far_less_than_orders_as_they_come(self):
        for seed, orders, machines in ((2, 10, 3), (3, 20, 6), (4, 60, 12)):
            asked = week(seed, orders, machines)
            table = at_once(asked)
            self.assertEqual(faults(asked, table), [])
            self.assertLess(table.cost_h, 0.5 * as_they_come(asked, 12))
            self.assertLess(table.cost_h, 0.25 * as_they_come(asked, 1))

    def test_hardly_a_bed_holds_a_single_piece(self):
        table = at_once(week(4, 60, 12))
        sizes = Counter(laid.pieces for laid in table.beds)
        self.assertLess(sizes[1], 0.3 * len(table.beds))


if __name__ == "__main__":
    unittest.main()
