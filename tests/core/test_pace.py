"""Speeds: derived from limits, held by flow, temperature and short ways; what the pace table says
of them.
"""

import unittest

import manifold3d as m3
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.errors import InputError
from northpace.motion.derive import derived
from northpace.motion.dial import DIALLED, ends
from northpace.motion.from_limits import NEIGHBOURS, RUNS, SHOWN, reference_height, sections
from northpace.motion.heat import heat_by_layer
from northpace.motion.kinematics import Course, limits_of, peaks, pushed, run
from northpace.motion.speeds import safe_flow, short_loops
from northpace.motion.table import ROWS, pace_rows
from northpace.moves import FEATURES, INFILL, INNER, OUTER, TRAVEL
from northpace.plan.pipeline import Pipeline
from northpace.spec import Machine, PlanSpec, spec_from, with_settings
from tests.core.shapes import cube, source

PIPELINE = Pipeline()


def plan(*pairs, part=None):
    return PIPELINE.plan(
        source(cube(12) if part is None else part),
        with_settings(PlanSpec(), list(pairs)),
    )


def rows(found):
    return {row["name"]: row for row in found.report["pace"]["rows"]}


class Dial(unittest.TestCase):
    @settings(max_examples=40)
    @given(
        shares=st.lists(st.floats(0, 100), min_size=2, max_size=2).map(sorted),
        flow=st.floats(3, 30),
        outer=st.floats(5, 400),
        inner=st.floats(5, 400),
        machine=st.sampled_from(["", "Skua 220", "another"]),
        hand=st.sampled_from([[], ["infill_speed"]]),
    )
    def test_every_speed_goes_from_one_end_to_the_other(
        self, shares, flow, outer, inner, machine, hand
    ):
        own = {"machine": machine, "outer_wall_speed": outer, "inner_wall_speed": inner}

        def at(share):
            values = {
                "machine": {"name": "Skua 220"},
                "material": {"max_flow": flow, "quick": [own]},
                "pace": {"dial": share, "by_hand": hand},
            }
            return derived(spec_from(values))

        low, high = (at(share) for share in shares)
        both = ends(low)
        self.assertEqual(
            both.typed_quick,
            frozenset() if machine == "another" else {"outer_wall_speed", "inner_wall_speed"},
        )
        for spec in (low, high):
            section, safe = sections(spec, reference_height(spec)), safe_flow(spec)
            for name in set(RUNS) - set(hand):
                if getattr(spec.pace, name) > 1:
                    self.assertLessEqual(getattr(spec.pace, name) * section[name], safe + 1e-9)
            for name in SHOWN:
                self.assertLessEqual(
                    getattr(spec.pace, name),
                    min(spec.pace.inner_wall_speed, spec.pace.infill_speed),
                )
            self.assertEqual(derived(spec), spec)
        if hand:
            self.assertEqual(low.pace.infill_speed, PlanSpec().pace.infill_speed)
        for name in set(DIALLED) - set(hand) - set(SHOWN):
            if both.precise[name] <= both.quick[name]:
                self.assertLessEqual(getattr(low.pace, name), getattr(high.pace, name), name)

    def test_the_derived_ends_are_in_order(self):
        """At a low share of the flow the outer wall was asked to be quicker than the walls behind
        it.
        """
        slow = derived(with_settings(PlanSpec(), ["pace.derived=true", "pace.flow_share=30"]))
        self.assertEqual(slow.pace.outer_wall_speed, slow.pace.inner_wall_speed)
        precise, quick = (
            derived(with_settings(PlanSpec(), [f"pace.dial={share}"])).pace for share in (0, 100)
        )
        for name in DIALLED:
            self.assertLess(getattr(precise, name), getattr(quick, name), name)

    def test_a_plan_is_quicker_and_its_rows_say_that_they_follow(self):
        slow, fast = plan("pace.dial=10"), plan("pace.dial=90")
        self.assertLess(fast.report["time_s"]["total"], slow.report["time_s"]["total"])
        self.assertTrue(rows(fast)["outer wall"]["derived"])


class Derived(unittest.TestCase):
    @settings(max_examples=40)
    @given(
        aim=st.floats(20, 100),
        shown=st.floats(10, 100),
        step=st.floats(10, 300),
        calm=st.floats(20, 200),
        height=st.sampled_from([0.1, 0.2, 0.3]),
        flow=st.floats(3, 30),
        hand=st.sampled_from(["", "outer_wall_speed", "infill_speed"]),
    )
    def test_every_limit_is_kept(self, aim, shown, step, calm, height, flow, hand):
        spec = spec_from(
            {
                "pace": {
                    "derived": True,
                    "flow_share": aim,
                    "outer_share": shown,
                    "flow_step": step,
                    "calm_share": calm,
                    "by_hand": [hand] if hand else [],
                },
                "surface": {"layer_height": height},
                "material": {"max_flow": flow},
            }
        )
        found = derived(spec)
        section, safe = sections(found, reference_height(found)), safe_flow(found)
        speed = {name: getattr(found.pace, name) for name in RUNS}
        taken = {name: speed[name] * section[name] for name in RUNS}
        for name in RUNS:
            if name == hand:
                self.assertEqual(speed[name], getattr(spec.pace, name))
            elif speed[name] > 1:
                self.assertLessEqual(
                    taken[name], (shown if name in SHOWN else aim) / 100 * safe + 1e-9, name
                )
                self.assertLessEqual(
                    speed[name] ** 2,
                    spec.machine.calm_acceleration * calm / 100 * RUNS[name] + 1e-6,
                    name,
                )
        for one, two in NEIGHBOURS:
            for low, high in ((one, two), (two, one)):
                if high != hand and speed[high] > 1:
                    # rounded down to half a millimetre a second, the lower one may have lost a
                    # little
                    self.assertLessEqual(
                        taken[high],
                        (1 + step / 100) * (taken[low] + 0.5 * section[low]) + 1e-9,
                        (low, high),
                    )
        self.assertEqual(derived(found), found)
        if not hand:
            for name in SHOWN:
                self.assertLessEqual(speed[name], speed["inner_wall_speed"])
                self.assertLessEqual(speed[name], speed["infill_speed"])

    def test_typed_speeds_stay(self):
        spec = with_settings(PlanSpec(), ["pace.infill_speed=77"])
        self.assertIs(derived(spec), spec)

    def test_a_plan_runs_at_what_was_derived(self):
        found = plan("pace.derived=true")
        self.assertTrue(rows(found)["outer wall"]["derived"])
        outer = (found.moves.feature == OUTER) & (found.moves.layer > 0)
        self.assertAlmostEqual(
            found.moves.speed[outer].max(), derived(found.spec).pace.outer_wall_speed, 3
        )


class Flow(unittest.TestCase):
    POINTS = 'material.flow_points=[{"temp": 200, "flow": 4}, {"temp": 220, "flow": 8}]'

    def test_the_limit_follows_the_temperature(self):
        hot, cool = (
            plan(
                self.POINTS,
                f"air.nozzle_temp={t}",
                "pace.infill_speed=300",
                "body.infill_density=60",
                "air.first_nozzle_temp=220",
                "pace.least_layer_time=0",
            )
            for t in (220, 205)
        )
        for found, most in ((hot, 0.9 * 8), (cool, 0.9 * 5)):
            above = found.moves.layer > 0
            self.assertLessEqual(found.moves.flow[above].max(), most + 1e-3)
            self.assertGreater(found.moves.flow[above].max(), most - 0.05)
            self.assertAlmostEqual(found.report["pace"]["safe_flow"], most)
        # a band with its own temperature has its own limit
        band = plan(
            self.POINTS,
            "air.nozzle_temp=220",
            "pace.infill_speed=300",
            "body.infill_density=60",
            "pace.least_layer_time=0",
            'surface.bands=[{"from_mm": 4, "to_mm": 8, "changes": {"air.nozzle_temp": 205}}]',
        )
        inside = (band.outlines.tops > 4.1) & (band.outlines.tops <= 8)
        flows = np.array(band.report["lanes"]["flow"])
        self.assertLessEqual(flows[inside].max(), 0.9 * 5 + 1e-3)
        self.assertGreater(flows[~inside].max(), 0.9 * 7)

    def test_the_floor_is_what_is_laid_at_the_safe_flow(self):
        found = plan()
        self.assertAlmostEqual(
            found.report["time_s"]["flow_floor"], found.report["filament"]["volume_mm3"] / 9.9, 6
        )
        self.assertLess(found.report["time_s"]["flow_floor"], found.report["time_s"]["total"])

    def test_known_flow_of_a_bead(self):
        # computations §1: w 0.45, h 0.20 at 60 mm/s is 4.885 mm³/s
        self.assertAlmostEqual(60 * sections(PlanSpec(), 0.2)["outer_wall_speed"], 4.885, 3)


class Settings(unittest.TestCase):
    def test_accelerations_by_feature(self):
        found = plan(
            "pace.infill_acceleration=777",
            "pace.acceleration=1234",
            "pace.inner_wall_acceleration=999",
        )
        push = {
            code: set(
                found.moves.acceleration[
                    (found.moves.feature == code) & (found.moves.layer > 0)
                ].tolist()
            )
            for code in (INFILL, INNER, OUTER)
        }
        self.assertEqual(push, {INFILL: {777.0}, INNER: {999.0}, OUTER: {800.0}})

    def test_short_loops_have_a_speed_of_their_own(self):
        part = cube(12) + m3.Manifold.cylinder(6.0, 1.5, 1.5, 32).translate((20, 6, 0))
        found = plan(
            "pace.short_loop=12", "pace.short_loop_speed=11", "pace.least_layer_time=0", part=part
        )
        outer = (found.moves.feature == OUTER) & (found.moves.layer > 0)
        pin = outer & (found.moves.x - found.spec.machine.origin[0] > 5)
        self.assertEqual(found.moves.speed[pin].max(), 11)
        self.assertEqual(found.moves.speed[outer & ~pin].max(), 50)
        self.assertEqual(rows(found)["short loops"]["asked"], 11)

    def test_loops_are_told_by_their_length(self):
        feature = np.array([TRAVEL, OUTER, OUTER, OUTER, OUTER, TRAVEL, OUTER, OUTER])
        x, y = np.array([0, 2, 2, 0, 0, 9, 19, 19.0]), np.array([0, 0, 2, 2, 0, 0, 0, 10.0])
        laid = feature == OUTER
        self.assertEqual(
            short_loops(feature, laid, x, y, 8.0).tolist(),
            [False, True, True, True, True, False, False, False],
        )
        self.assertFalse(short_loops(feature, laid, x, y, 7.9).any())
        self.assertFalse(short_loops(feature, laid, x, y, 0.0).any())

    def test_speed_of_z_and_fan_by_height(self):
        slow, quick = (
            plan(f"pace.z_speed={speed}", "pace.least_layer_time=0").report["time_s"]["total"]
            for speed in (1, 12)
        )
        self.assertGreater(slow, quick + 5)
        stages = 'material.fan_stages=[{"above_mm": 1, "fan": 30}, {"above_mm": 4, "fan": 80}]'
        spec = with_settings(PlanSpec(), [stages, "air.fan_off_layers=0"])
        tops = np.arange(1, 31) * 0.2
        fan = heat_by_layer(spec, tops, np.full(30, 0.2)).fan
        self.assertEqual(fan[tops - 0.2 < 0.99].max(), 0)
        self.assertEqual(set(fan[(tops > 1.21) & (tops < 4.1)]), {30.0})
        self.assertEqual(set(fan[tops > 4.21]), {80.0})
        # what the plan says itself goes before
        self.assertEqual(
            set(heat_by_layer(with_settings(spec, ["air.fan=55"]), tops, np.full(30, 0.2)).fan),
            {55.0},
        )

    def test_floor_speed_comes_from_the_material(self):
        tiny = m3.Manifold.cube((4.0, 4.0, 6.0))
        for pairs, floor in (
            (("material.floor_speed=7",), 7),
            (("material.floor_speed=7", "pace.floor_speed=12"), 12),
        ):
            found = plan("pace.least_layer_time=200", *pairs, part=tiny)
            laid = (found.moves.width > 0) & (found.moves.layer > 0)
            self.assertAlmostEqual(found.moves.speed[laid].min(), floor, 3)


class Table(unittest.TestCase):
    def test_what_is_never_reached_says_what_is(self):
        found = plan("pace.travel_speed=900", "machine.max_speed_xy=1000")
        travel = rows(found)["travel"]
        self.assertEqual(travel["held_by"], "short moves")
        self.assertLess(travel["reached"], 0.9 * 900)
        finding = next(entry for entry in found.findings if entry.code == "never-reached")
        self.assertIn(f"travel asks for 900 and reaches {travel['reached']:.0f}", finding.message)

    def test_what_holds_a_speed(self):
        found = plan("pace.solid_speed=400", "pace.least_layer_time=0", "pace.acceleration=5000")
        self.assertEqual(rows(found)["solid"]["held_by"], "the flow")
        self.assertEqual(found.report["pace"]["first_at_limit"], "solid")
        self.assertGreater(rows(found)["solid"]["share"], 1)
        slowed = plan("pace.least_layer_time=120")
        self.assertEqual(rows(slowed)["outer wall"]["held_by"], "the least layer time")

    def test_shares_and_seconds_agree_with_the_moves(self):
        found = plan()
        report = found.report
        for row in report["pace"]["rows"]:
            self.assertAlmostEqual(row["flow"], row["section_mm2"] * row["asked"], 9)
            if row["section_mm2"]:
                self.assertAlmostEqual(row["share"], row["flow"] / report["pace"]["safe_flow"], 9)
        above = sum(
            found.moves.seconds[
                (found.moves.feature == FEATURES.index("infill")) & (found.moves.layer > 0)
            ]
        )
        self.assertAlmostEqual(rows(found)["infill"]["seconds"], above, 6)

    def test_every_row_is_what_its_moves_come_to(self):
        found = plan(
            "pace.short_loop=30", "footing.brim_reach=2", "material.max_flow=5", "pace.lift=0.4"
        )
        moves, spec = found.moves, found.facts.spec
        push = pushed(spec.machine, moves.acceleration)
        course = Course(moves.x, moves.y, moves.z, moves.filament, moves.speed, push)
        reached, length = peaks(course, limits_of(spec.machine)), moves.lengths()
        laid, rises = moves.width > 0, np.diff(moves.z, prepend=moves.z[0]) != 0
        loops = short_loops(moves.feature, laid, moves.x, moves.y, 30.0)
        told = {"outer wall": ~loops, "inner wall": ~loops, "short loops": loops}
        told |= {"travel": ~rises, "z": rises}
        every = np.ones(len(moves), bool)
        for name, _, codes in ROWS:
            mine = np.isin(moves.feature, codes) & (length > 0) & told.get(name, every)
            if name == "first layer":
                mine = laid & (moves.layer == 0) & (moves.feature != FEATURES.index("footing"))
            elif name != "footing" and (mine & (moves.layer > 0)).any():
                mine &= moves.layer > 0
            row = rows(found).get(name)
            self.assertEqual(bool(mine.any()), bool(row and row["reached"]), name)
            if not mine.any():
                continue
            self.assertEqual(row["reached"], reached[mine].max(), name)
            self.assertAlmostEqual(row["seconds"], moves.seconds[mine].sum(), 6, name)
            section = (moves.flow / moves.speed)[mine]
            if laid[mine].all():
                mean = np.average(section, weights=length[mine])
                self.assertAlmostEqual(row["section_mm2"], mean, 6, name)

    def test_quick_rows_say_what_the_settings_ask(self):
        found = {
            row["name"]: row
            for row in pace_rows(with_settings(PlanSpec(), ["pace.infill_speed=44"]))["rows"]
        }
        self.assertEqual((found["infill"]["asked"], found["infill"]["reached"]), (44, None))

    def test_peaks_are_those_of_the_timed_profile(self):
        limits = limits_of(Machine())
        x, y = np.array([0.0, 100.0, 100.0, 101.0]), np.array([0.0, 0.0, 0.0, 0.0])
        zero, speed, push = np.zeros(4), np.array([60.0, 60.0, 60.0, 60.0]), np.full(4, 1000.0)
        top = peaks(Course(x, y, zero, zero, speed, push), limits)
        self.assertAlmostEqual(top[1], 60)
        seconds = np.zeros(4)
        alone = Course(x[3:] - 100, y[3:], zero[3:], zero[3:], speed[3:], push[3:])
        run(alone, limits, 0, 1, seconds)
        # 1 mm from rest to rest: up and down in 0.0632 s, so 31.6 mm/s in the middle
        self.assertAlmostEqual(
            peaks(alone, limits)[0],
            np.sqrt(1000),
            6,
        )
        self.assertAlmostEqual(seconds[0], 0.0632, 4)


class Placement(unittest.TestCase):
    def test_sunk_and_trimmed(self):
        whole, less = plan(), plan("place.sink=2", "place.trim_top=3")
        self.assertEqual([round(v, 6) for v in less.report["part"]["size_mm"]], [12, 12, 7])
        self.assertAlmostEqual(less.report["part"]["volume_mm3"], 12 * 12 * 7, 6)
        self.assertLess(less.report["filament"]["mass_g"], whole.report["filament"]["mass_g"])
        with self.assertRaisesRegex(InputError, "nothing is left"):
            plan("place.sink=8", "place.trim_top=5")
