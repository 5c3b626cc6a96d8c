"""The exact facts of the bead, of motion and of material: the numbers that must come out."""

import math
import unittest
from itertools import pairwise

import numpy as np

from northpace.material.amounts import amounts, parts_per_spool
from northpace.motion.kinematics import WINDOW, Course, junction, limits_of, peaks, run
from northpace.paths.bead import area, filament_length, spacing, width_for
from northpace.spec import Machine, Material


def seconds(points, speed, acceleration=1000.0, deviation=0.013, machine=None):
    """Times of straight moves through points (M, 3) from the origin at rest."""
    machine = machine or Machine(
        max_acceleration_xy=100000, max_speed_xy=2000, junction_deviation=deviation
    )
    p = np.asarray(points, float)
    out = np.zeros(len(p))
    course = Course(
        *(p[:, k].copy() for k in range(3)),
        np.zeros(len(p)),
        np.full(len(p), float(speed)),
        np.full(len(p), float(acceleration)),
    )
    run(course, limits_of(machine), 0, len(p), out)
    return out


class ManyMoves(unittest.TestCase):
    def test_all_at_once_are_timed_as_from_stop_to_stop(self):
        # more moves than are looked at together, with a stop every hundred or so
        chance = np.random.default_rng(7)
        count = int(2.5 * WINDOW)
        stops = np.flatnonzero(chance.random(count) < 0.01)
        steps = chance.normal(0, 2, (count, 2))
        steps[stops] = 0.0
        x, y = np.cumsum(steps, axis=0).T.copy()
        fed = np.where(np.isin(np.arange(count), stops), -1.0, 0.05)
        zero, speed, push = np.zeros(count), np.full(count, 60.0), np.full(count, 900.0)
        course, limits = Course(x, y, zero, fed, speed, push), limits_of(Machine())
        whole, parts = np.zeros(count), np.zeros(count)
        total = run(course, limits, 0, count, whole)
        for first, last in pairwise([0, *stops.tolist(), count]):
            run(course, limits, first, last, parts)
        np.testing.assert_array_equal(whole, parts)
        self.assertAlmostEqual(total, parts.sum(), 6)
        # as quick as from stop to stop, too
        window = slice(stops[-2], stops[-1])
        alone = Course(*(np.r_[column[stops[-2] - 1], column[window]] for column in course))
        np.testing.assert_allclose(peaks(course, limits)[window][1:], peaks(alone, limits)[2:])

    def test_without_any_stop_none_is_left_out(self):
        count = int(1.5 * WINDOW)
        x = np.arange(1.0, count + 1)
        zero, speed, push = np.zeros(count), np.full(count, 50.0), np.full(count, 1000.0)
        course, out = Course(x, zero, zero, zero, speed, push), np.zeros(count)
        total = run(course, limits_of(Machine()), 0, count, out)
        # at 50 mm/s all the way, and v/a more for speeding up and braking
        self.assertAlmostEqual(total, count / 50 + 50 / 1000, 6)


class Bead(unittest.TestCase):
    def test_section_and_spacing(self):
        self.assertAlmostEqual(area(0.45, 0.20), 0.081416, 6)
        self.assertAlmostEqual(spacing(0.45, 0.20), 0.407080, 6)
        self.assertAlmostEqual(area(0.45, 0.20) * 60, 4.885, 3)

    def test_touching_beads_fill_the_height(self):
        for width, height in ((0.45, 0.2), (0.6, 0.3), (1.2, 0.08)):
            self.assertAlmostEqual(area(width, height) / spacing(width, height), height, 12)
            self.assertAlmostEqual(width_for(spacing(width, height), height), width, 12)

    def test_filament_of_the_cube(self):
        length = filament_length(8000.0, 1.75)
        self.assertAlmostEqual(length, 3326.0, 1)
        self.assertAlmostEqual(8.0 * 1.24, 9.92, 6)
        self.assertAlmostEqual(amounts(length, 0, Material(), Machine()).mass_g, 9.92, 6)


class Motion(unittest.TestCase):
    def test_rest_to_rest(self):
        for length, expected in ((100, 1.7267), (1, 0.0632), (0.1, 0.0200)):
            self.assertAlmostEqual(seconds([[length, 0, 0]], 60)[0], expected, 4)

    def test_junction_speeds(self):
        for turn, expected in ((90, 5.602), (45, 12.56), (10, 58.34)):
            angle = math.radians(turn)
            v = math.sqrt(junction(math.cos(angle), 1000.0, 0.013))
            self.assertAlmostEqual(v, expected, 2 if turn != 90 else 3)

    def test_straight_on_has_no_limit(self):
        one = seconds([[100, 0, 0]], 60)[0]
        two = seconds([[40, 0, 0], [100, 0, 0]], 60).sum()
        self.assertAlmostEqual(one, two, 9)

    def test_corner_costs_what_the_model_says(self):
        v, a, vj = 60.0, 1000.0, 5.602
        each = 100 / v + v / (2 * a) + (v - vj) ** 2 / (2 * a * v)
        self.assertAlmostEqual(seconds([[100, 0, 0], [100, 100, 0]], v).sum(), 2 * each, 3)

    def test_look_ahead_brakes_over_many_short_moves(self):
        # 200 moves of 0.1 mm, then a reversal: from rest to rest over 20 mm
        points = [[0.1 * (k + 1), 0, 0] for k in range(200)]
        self.assertAlmostEqual(seconds(points, 150).sum(), seconds([[20, 0, 0]], 150)[0], 6)

    def test_finely_divided_circle_is_held_by_its_radius(self):
        turn = np.linspace(0, 2 * np.pi, 721)[1:]
        radius = 2.0
        points = np.stack([radius * np.cos(turn) - radius, radius * np.sin(turn), 0 * turn], 1)
        time = seconds(points, 200).sum()
        cruising = 2 * np.pi * radius / math.sqrt(1000 * radius)
        self.assertGreater(time, cruising)
        self.assertLess(time, cruising * 1.25)

    def test_axis_limits(self):
        machine = Machine(max_speed_z=5, max_acceleration_z=100000, max_acceleration_xy=100000)
        self.assertAlmostEqual(seconds([[0, 0, 10]], 100, 1e6, machine=machine)[0], 2.0, 2)


class MaterialFacts(unittest.TestCase):
    def test_cost_adds_up(self):
        machine = Machine(hourly_rate=2.0, power=200, tariff=0.5, failed_share=20)
        found = amounts(filament_length(10000.0, 1.75), 7200, Material(price=30), machine)
        # 12.4 g at 30 €/kg, 2 h at 2 €, 0.4 kWh at 0.5 €, a fifth of the prints lost
        self.assertAlmostEqual(found.cost, (0.372 + 4.0 + 0.2) / 0.8, 9)

    def test_parts_per_spool(self):
        share = parts_per_spool(412, 31.4)
        self.assertEqual(share.parts, 13)
        self.assertAlmostEqual(share.left_over_g, 412 - 13 * 31.4, 9)
        self.assertAlmostEqual(31.4 - share.lighter_for_one_more_g, 412 / 14, 9)
