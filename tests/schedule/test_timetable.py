"""Schedules: small ones are as good as the best of all possible ones, and no random one breaks a
rule.
"""

import itertools
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.errors import InputError
from northpace.schedule.floor import Floor
from northpace.schedule.plan_of_day import at_once, scheduled
from northpace.schedule.problem import BedTime, FloorSpool, Problem
from northpace.schedule.timetable import cost
from northpace.schedule.week import HandHours, Week
from northpace.spec.validated import validated
from tests.schedule.made import HOUR, OFFICE, bed, faults, machine, order, problem


def least(asked):
    """The least cost of all schedules in which every bed holds one piece: every sequence of the
    pieces is tried with every choice of machines.
    """
    pieces = [(o.key, line) for o in asked.orders for line in o.lines for _ in range(line.pieces)]
    best = float("inf")
    for row in itertools.permutations(range(len(pieces))):
        for choice in itertools.product(*(pieces[k][1].beds for k in row)):
            floor, beds = Floor(asked), []
            for k, way in zip(row, choice, strict=True):
                key, line = pieces[k]
                laid = floor.tried(key, line.key, way, 1)
                floor.put(laid)
                beds.append(laid)
            best = min(best, cost(asked, floor.presence, beds, []))
    return best


class Small(unittest.TestCase):
    def test_equal_brute_force(self):
        two = (bed("a", 2), bed("b", 3))
        for week in (Week(), OFFICE):
            for asked in (
                problem(
                    [
                        order("x", (1, two), due_h=4),
                        order("y", (2, two), due_h=6),
                        order("z", (1, (bed("a", 5),)), due_h=6),
                    ],
                    [machine("a"), machine("b")],
                    week=week,
                ),
                problem(
                    [
                        order("x", (1, (bed("a", 8),))),
                        order("y", (1, (bed("a", 1),)), (1, two), due_h=20, urgency=3),
                        order("z", (1, two), due_h=3, urgency=1),
                    ],
                    [machine("a", clear=False, free_s=600), machine("b", bed_change_s=1800)],
                    week=week,
                ),
            ):
                table = scheduled(asked)
                self.assertEqual(faults(asked, table), [])
                self.assertAlmostEqual(table.cost_h, least(asked), places=6)
                self.assertLessEqual(table.bound_h, table.cost_h + 1e-9)

    def test_the_same_for_the_same_problem(self):
        asked = problem(
            [order(f"o{k}", (3, (bed("a", 1 + k % 3, 2), bed("b", 2, 4))), due_h=9 + k)
             for k in range(6)],
            [machine("a"), machine("b")],
            week=OFFICE,
        )  # fmt: skip
        one, other = scheduled(asked), scheduled(asked)
        self.assertEqual(one, other)
        self.assertLessEqual(one.cost_h, at_once(asked).cost_h)

    def test_a_bed_that_ends_at_night_is_cleared_in_the_morning(self):
        asked = problem([order("x", (2, (bed("a", 9),)))], week=OFFICE)
        one, two = scheduled(asked).beds
        # begun at 10:00, ends 19:00, cleared at 08:00 of the next day
        self.assertEqual((one.begin_s, one.end_s), (0, 9 * HOUR))
        self.assertEqual((one.off_s, two.begin_s), (22 * HOUR + 300, 22 * HOUR + 300))
        self.assertTrue(two.cleared)

    def test_a_machine_that_clears_itself_goes_on_at_night(self):
        asked = problem(
            [order("x", (2, (bed("a", 9),)))], [machine(clears_itself=True)], week=OFFICE
        )
        one, two = scheduled(asked).beds
        self.assertEqual((one.off_s, two.begin_s, two.off_s), (9 * HOUR, 9 * HOUR, 18 * HOUR))

    def test_an_urgent_order_goes_first_where_both_would_be_late(self):
        asked = problem(
            [
                order("calm", (1, (bed("a", 4),)), due_h=4, urgency=1),
                order("urgent", (1, (bed("a", 4),)), due_h=4, urgency=3),
            ]
        )
        self.assertEqual([laid.order for laid in scheduled(asked).beds], ["urgent", "calm"])


class Spools(unittest.TestCase):
    def test_one_with_too_little_left_is_changed_for_another(self):
        asked = problem(
            [order("x", (3, (bed("a", 1, grams=100),)))],
            spools=[
                FloorSpool(key="s-a", material="PLA", grams=150),
                FloorSpool(key="more", material="PLA", grams=500),
            ],
        )
        beds = scheduled(asked).beds
        self.assertEqual([laid.spool for laid in beds], ["s-a", "more", "more"])
        self.assertEqual([laid.changed for laid in beds], [False, True, False])

    def test_it_may_be_taken_from_a_machine_that_has_finished(self):
        asked = problem(
            [order("x", (1, (bed("a", 1),))), order("y", (1, (bed("b", 2),)))],
            [machine("a"), machine("b", spool=None)],
            spools=[FloorSpool(key="s-a", material="PLA", grams=500)],
        )
        one, two = scheduled(asked).beds
        self.assertEqual((one.machine, two.machine, two.spool), ("a", "b", "s-a"))
        self.assertEqual(two.begin_s, HOUR + 300)

    def test_grams_that_are_nowhere(self):
        asked = problem([order("x", (12, (bed("a", 1, 12, grams=100),)))])
        table = scheduled(asked)
        (none,) = table.unplaced
        self.assertEqual((none.pieces, table.orders[0].done_s), (2, None))
        self.assertIn("takes 100 g, and no spool of PLA has that much left", none.why)
        other = problem([order("x", (1, (bed("a", 1, material="TPU"),)))])
        self.assertIn("no spool", scheduled(other).unplaced[0].why)


class House(unittest.TestCase):
    def test_no_print_is_longer_than_the_house_allows(self):
        asked = problem([order("x", (10, (bed("a", 1, 10),)))], longest_h=4)
        table = scheduled(asked)
        self.assertEqual(faults(asked, table), [])
        self.assertEqual(max(laid.pieces for laid in table.beds), 4)
        short = problem([order("x", (1, (bed("a", 5),)))], longest_h=4)
        self.assertIn("no print may take over 4 h", scheduled(short).unplaced[0].why)

    def test_machines_run_only_while_somebody_is_there(self):
        asked = problem([order("x", (4, (bed("a", 3),)))], week=OFFICE, unattended=False)
        table = scheduled(asked)
        self.assertEqual(faults(asked, table), [])
        self.assertEqual(len(table.beds), 4)
        long = problem([order("x", (1, (bed("a", 10),)))], week=OFFICE, unattended=False)
        self.assertIn("while somebody is there", scheduled(long).unplaced[0].why)

    def test_nobody_ever_there(self):
        asked = problem([order("x", (2, (bed("a", 1),)))], week=Week(hours=(HandHours(days=()),)))
        self.assertIn("nobody is ever there", scheduled(asked).unplaced[0].why)

    def test_a_line_without_a_plan_is_said(self):
        table = scheduled(problem([order("x", (2, ()))]))
        self.assertIn("no plan", table.unplaced[0].why)
        self.assertIsNone(table.orders[0].done_s)

    def test_what_is_done_too_late_to_look_ahead_is_said(self):
        far = bed("a", 24 * 300)
        table = scheduled(problem([order("x", (2, (far,)))]))
        self.assertIn("not be done within 400 days", table.unplaced[0].why)
        self.assertEqual((len(table.beds), table.unplaced[0].pieces), (1, 1))

    def test_a_bed_that_nobody_clears_is_not_used(self):
        both = (bed("a", 1), bed("b", 1))
        asked = problem(
            [order("x", (4, both))],
            [machine("a", clears_itself=True), machine("b", clear=False)],
            week=Week(hours=(HandHours(days=()),)),
        )
        self.assertEqual({laid.machine for laid in scheduled(asked).beds}, {"a"})

    @staticmethod
    def large(key):
        line = {"key": key, "name": key, "pieces": 10_000}
        return {"key": key, "name": key, "lines": [line]}

    def test_times_of_beds_that_cannot_be_are_refused(self):
        good = {"plan": "p", "machine": "a", "material": "PLA"}
        for pieces, seconds, grams, words in (
            ([1, 4], [60, 50], [1, 4], "never take less"),
            ([2, 4], [60, 80], [1, 4], "begin with 1"),
            ([1, 4], [60], [1, 4], "same length"),
            ([1], [float("inf")], [1], "seconds of a bed lie between"),
            ([1, 10**30], [60, 70], [1, 4], "at most 10000"),
        ):
            with self.assertRaises(InputError) as caught:
                validated(BedTime, {**good, "pieces": pieces, "seconds": seconds, "grams": grams})
            self.assertIn(words, str(caught.exception))

    def test_what_is_wrong_with_a_problem_is_said(self):
        for change, words in (
            ({"now": "2026-12-02T10:00:00"}, "offset from UTC"),
            ({"now": "9999-12-02T10:00:00Z"}, "time of the present"),
            ({"machines": [{"key": "a", "name": "A"}] * 2}, "have the machine key 'a'"),
            ({"machines": [{"key": "a", "name": "A", "free_s": 1e300}]}, "free_s"),
            ({"orders": [{"key": "x", "name": "x", "due_s": float("nan")}]}, "due_s"),
            ({"orders": [self.large(key) for key in "abc"]}, "30000 pieces; at most 20000"),
            ({"longest_h": -1}, "longest_h"),
        ):
            with self.assertRaises(InputError) as caught:
                validated(Problem, {"now": "2026-12-02T10:00:00Z", **change})
            self.assertIn(words, str(caught.exception))


@st.composite
def asked_for(draw):
    machines = [
        machine(
            key,
            free_s=draw(st.sampled_from([0.0, 5 * HOUR])),
            clear=draw(st.booleans()),
            clears_itself=draw(st.booleans()),
            spool=draw(st.sampled_from([None, f"s-{key}"])),
            bed_change_s=draw(st.sampled_from([0.0, 300.0, 1200.0])),
        )
        for key in "abc"[: draw(st.integers(1, 3))]
    ]
    keys = [one.key for one in machines]
    ways = st.lists(
        st.builds(
            bed,
            st.sampled_from(keys),
            st.floats(0.1, 9),
            st.integers(1, 6),
            st.sampled_from(["PLA", "PETG"]),
            st.floats(1, 60),
        ),
        min_size=1,
        max_size=3,
        unique_by=lambda way: way.machine,
    )
    orders = [
        order(
            f"o{k}",
            *[(draw(st.integers(0, 9)), tuple(draw(ways))) for _ in range(draw(st.integers(1, 2)))],
            due_h=draw(st.one_of(st.none(), st.floats(-5, 200))),
            urgency=draw(st.integers(1, 3)),
        )
        for k in range(draw(st.integers(1, 4)))
    ]
    spools = [
        FloorSpool(key=f"s-{key}", material="PLA", grams=draw(st.floats(0, 600))) for key in keys
    ] + [FloorSpool(key="petg", material="PETG", grams=300)]
    return problem(
        orders,
        machines,
        spools,
        draw(st.sampled_from([Week(), OFFICE])),
        longest_h=draw(st.sampled_from([None, 12])),
        unattended=draw(st.booleans()),
    )


class Random(unittest.TestCase):
    @settings(max_examples=40, deadline=None, derandomize=True)
    @given(asked_for())
    def test_no_faults(self, asked):
        quick, best = at_once(asked), scheduled(asked, effort=0.05)
        self.assertEqual(faults(asked, quick), [])
        self.assertEqual(faults(asked, best), [])
        self.assertLessEqual(best.cost_h, quick.cost_h + 1e-6)
        self.assertLessEqual(best.bound_h, best.cost_h + 1e-6)
