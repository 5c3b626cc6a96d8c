"""Heights change no more often than they must, and a hand shapes them within the rules."""

import unittest

import manifold3d as m3
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.heights.calm import calm_of
from northpace.plan.pipeline import Pipeline
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import organic, source

M = m3.Manifold
CAPSULE = M.sphere(12, 64) + M.cylinder(20, 12, 12, 64) + M.sphere(12, 64).translate((0, 0, 20))
PARTS = {"organic": source(organic(40, 30)), "capsule": source(CAPSULE)}
WISHES = (
    ["surface.kind=adaptive", "surface.target_um=130"],
    ["surface.kind=best-fit", "surface.target_um=100"],
    ["surface.kind=best-fit", "surface.measure=mean", "surface.target_um=45"],
    ["surface.kind=best-fit", "surface.measure=mean", "surface.time_cap_min=60"],
)
PIPE = Pipeline()


def stack(part, *pairs):
    return PIPE.stack(PARTS[part], with_settings(PlanSpec(), list(pairs)))


def asked_of(found, pairs):
    """The error in mm that a wish is about."""
    if "surface.kind=adaptive" in pairs:
        return found.error.max
    return found.error.of("mean" if "surface.measure=mean" in pairs else "p95")


class Calm(unittest.TestCase):
    def test_changes_and_turns_are_counted_above_the_first_layer(self):
        self.assertEqual(calm_of(np.array([9, 2, 2, 3, 3, 2, 2])), (2, 1))
        self.assertEqual(calm_of(np.array([9, 2, 3, 4])), (2, 0))
        self.assertEqual(calm_of(np.array([5])), (0, 0))

    def test_turns_fall_by_half_for_half_a_percent(self):
        turns = np.zeros(2)
        for part in PARTS:
            for pairs in WISHES:
                quick, calm = (stack(part, *pairs, f"surface.calm={c}") for c in (0, 0.5))
                turns += (quick.calm["turns"], calm.calm["turns"])
                self.assertEqual(calm.calm["turns_before"], quick.calm["turns"])
                self.assertAlmostEqual(calm.calm["cost_s"], calm.seconds - quick.seconds, 6)
                if "surface.time_cap_min=60" in pairs:
                    self.assertLessEqual(calm.seconds, max(60 * 60, quick.seconds) + 1e-6)
                    self.assertLessEqual(asked_of(calm, pairs), 1.01 * asked_of(quick, pairs))
                else:
                    self.assertLessEqual(calm.seconds, 1.005 * quick.seconds)
        self.assertLess(turns[1], turns[0] / 2)

    @settings(max_examples=12)
    @given(
        st.sampled_from(sorted(PARTS)),
        st.sampled_from(WISHES),
        st.floats(0.1, 15),
        st.floats(1.05, 2),
    )
    def test_what_was_asked_for_is_kept(self, part, pairs, calm, limit):
        pairs = [*pairs, f"surface.step_limit={limit}"]
        quick = stack(part, *pairs, "surface.calm=0")
        found = stack(part, *pairs, f"surface.calm={calm}")
        spec = with_settings(PlanSpec(), pairs)
        q = spec.machine.z_step
        self.assertAlmostEqual(found.heights.sum(), quick.heights.sum(), 9)
        steps = np.round(found.heights[1:] / q).astype(int)
        self.assertGreaterEqual(steps.min(), round(spec.machine.least_height / q))
        self.assertLessEqual(steps.max(), round(spec.machine.h_max / q))
        apart, smaller = np.abs(np.diff(steps)), np.minimum(steps[1:], steps[:-1])
        self.assertTrue((apart <= np.maximum(1, np.floor((limit - 1) * smaller + 1e-9))).all())
        self.assertLessEqual(
            (found.calm["turns"], found.calm["changes"]),
            (quick.calm["turns"], quick.calm["changes"]),
        )
        if spec.surface.time_cap_min is None:
            self.assertLessEqual(found.seconds, (1 + calm / 100) * quick.seconds + 1e-6)
            most = max(spec.surface.target_um / 1000, asked_of(quick, pairs))
            self.assertLessEqual(asked_of(found, pairs), most + 1e-9)
        else:
            self.assertLessEqual(found.seconds, max(60 * 60, quick.seconds) + 1e-6)


def stroke(from_, to, **said):
    pairs = ", ".join(
        f'"{key}": {value!r}'.replace("'", '"')
        for key, value in {"from_mm": from_, "to_mm": to, **said}.items()
    )
    return "{" + pairs + "}"


class Strokes(unittest.TestCase):
    def drawn(self, *strokes, pairs=(), part="capsule"):
        return stack(part, *pairs, f"surface.strokes=[{', '.join(strokes)}]")

    def test_a_stroke_makes_finer_where_it_passes(self):
        plain = stack("capsule")
        found = self.drawn(stroke(14, 26, by=-50))
        tops = np.cumsum(found.heights)
        middle = found.heights[(tops > 18) & (tops < 22)]
        self.assertTrue(np.allclose(middle, 0.1, atol=0.011), middle)
        self.assertTrue(np.allclose(found.heights[tops < 13][1:], 0.2, atol=1e-9))
        self.assertAlmostEqual(found.heights.sum(), plain.heights.sum(), 9)
        self.assertGreater(found.by_hand["seconds"], 0)
        self.assertAlmostEqual(found.by_hand["seconds"], found.seconds - plain.seconds, 6)
        said = [rule for rule, top in zip(found.layers["rule"], tops, strict=True) if 18 < top < 22]
        self.assertEqual(set(said), {"by-hand"})

    def test_taller_stops_at_what_the_machine_lays(self):
        found = self.drawn(stroke(14, 26, by=200))
        self.assertAlmostEqual(found.heights.max(), 0.3, 9)
        self.assertLess(found.by_hand["seconds"], 0)

    def test_evened_out_again_is_calmer_again(self):
        pairs = ["surface.kind=adaptive", "surface.target_um=130", "surface.calm=0"]
        rough = stack("capsule", *pairs)
        high = float(rough.heights.sum())
        swing = [np.abs(np.diff(rough.heights[2:])).sum()]
        for times in (1, 8, 40):
            found = self.drawn(stroke(0, high, kind="even-out", times=times), pairs=pairs)
            self.assertAlmostEqual(found.heights.sum(), high, 9)
            swing.append(np.abs(np.diff(found.heights[2:])).sum())
        self.assertLess(swing[3], swing[1])
        self.assertLess(swing[1], swing[0])

    @settings(max_examples=15)
    @given(
        st.lists(
            st.tuples(st.floats(0, 30), st.floats(0.5, 30), st.integers(-90, 200)),
            min_size=1,
            max_size=4,
        ),
        st.sampled_from(WISHES[:3]),
        st.booleans(),
    )
    def test_no_stroke_breaks_a_rule(self, strokes, pairs, pinned):
        pin = ['surface.pins=[{"z_mm": 15, "height_mm": 0.12}]'] if pinned else []
        made = [
            stroke(round(start, 2), round(start + long, 2), by=by) for start, long, by in strokes
        ]
        found = self.drawn(*made, pairs=[*pairs, *pin])
        plain = stack("capsule")
        self.assertAlmostEqual(found.heights.sum(), plain.heights.sum(), 9)
        steps = np.round(found.heights[1:] / 0.01).astype(int)
        self.assertTrue((steps >= 6).all() and (steps <= 30).all(), steps)
        apart, smaller = np.abs(np.diff(steps)), np.minimum(steps[1:], steps[:-1])
        self.assertTrue((apart <= np.maximum(1, np.floor(0.25 * smaller + 1e-9))).all())
        if pinned:
            at = np.searchsorted(np.cumsum(found.heights), 15 + 1e-9)
            self.assertAlmostEqual(found.heights[at], 0.12, 9)

    def test_heights_given_one_by_one_stay(self):
        heights = np.full(220, 0.2).tolist()
        found = self.drawn(stroke(10, 30, by=-50), pairs=[f"surface.stack={heights}"])
        self.assertTrue(np.allclose(found.heights, 0.2))
        self.assertIsNone(found.by_hand)

    def test_one_that_ends_below_its_begin_is_refused(self):
        with self.assertRaisesRegex(Exception, "stroke 1 ends at 3 mm"):
            self.drawn(stroke(8, 3))


if __name__ == "__main__":
    unittest.main()
