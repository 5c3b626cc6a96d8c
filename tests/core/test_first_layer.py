"""Targets and time caps of parts whose first layer misses the target alone: the rest of the surface
still gets what was asked for, and the time that is left is used.
"""

import unittest

import manifold3d as m3
import numpy as np

from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import PIPELINE, source

#: A dome so shallow that its first layer shows, and a ring whose underside does.
DOME = m3.Manifold.sphere(30, 128).trim_by_plane((0, 0, 1), 22)
RING = m3.Manifold.revolve(m3.CrossSection.circle(6, 48).translate((15, 0)), 96)
CONE = m3.Manifold.cylinder(20, 20, 0.01, 128)


def stack(solid, *pairs):
    spec = with_settings(PlanSpec(), ["surface.kind=best-fit", *pairs])
    return PIPELINE.stack(source(solid), spec)


def even(solid, height):
    spec = with_settings(PlanSpec(), [f"surface.layer_height={height}"])
    return PIPELINE.stack(source(solid), spec)


class FirstLayer(unittest.TestCase):
    def test_calm_gives_up_no_place_that_keeps_the_target(self):
        for solid in (DOME, RING):
            asked = ("surface.measure=max", "surface.target_um=90")
            plain = stack(solid, *asked, "surface.calm=0")
            calm = stack(solid, *asked)
            kept = [
                found.heights[1:][found.error.layer_max[1:] <= 0.0901].sum()
                for found in (plain, calm)
            ]
            # as much of the height keeps the target, but for a layer
            self.assertGreater(kept[1], kept[0] - 0.3)
            self.assertLess(calm.error.mean, plain.error.mean + 0.002)

    def test_a_percentile_that_the_first_layer_misses_is_that_of_the_rest(self):
        found = stack(RING, "surface.target_um=80")
        tall = even(RING, 0.2)
        self.assertFalse(found.reached)
        self.assertAlmostEqual(found.error.p95, tall.error.p95, delta=0.004)
        self.assertLess(found.error.mean, 0.75 * tall.error.mean)
        self.assertIn(
            "the first layer",
            found.missed(
                with_settings(PlanSpec(), ["surface.kind=best-fit", "surface.target_um=80"])
            ),
        )
        # a target that is easier to keep takes less time
        times = [stack(RING, f"surface.target_um={um}").seconds for um in (80, 110, 150)]
        self.assertEqual(times, sorted(times, reverse=True))

    def test_what_is_left_of_a_cap_is_used(self):
        for height in (0.14, 0.17):
            beside = even(RING, height)
            found = stack(RING, f"surface.time_cap_min={beside.seconds / 60:.4f}")
            self.assertLessEqual(found.seconds, 1.05 * beside.seconds)
            self.assertLessEqual(found.error.p95, 1.02 * beside.error.p95)
            self.assertLessEqual(found.error.mean, beside.error.mean + 1e-4)

    def test_even_stacks_are_compared_whatever_their_last_layer_breaks(self):
        plain = with_settings(PlanSpec(), ["surface.layer_height=0.14"])
        beside = PIPELINE.plan(source(CONE), plain)
        seconds = beside.report["time_s"]["total"]
        for more in (0.0, 18.0):
            capped = with_settings(
                PlanSpec(),
                ["surface.kind=best-fit", f"surface.time_cap_min={(seconds + more) / 60 + 1e-4}"],
            )
            made = PIPELINE.plan(source(CONE), capped)
            self.assertLessEqual(made.report["time_s"]["total"], seconds + more + 0.01)
            self.assertLessEqual(
                made.report["surface"]["p95_um"], beside.report["surface"]["p95_um"] + 0.05
            )


class Heights(unittest.TestCase):
    def test_the_rules_hold_all_the_same(self):
        found = stack(RING, "surface.target_um=80")
        self.assertAlmostEqual(float(found.heights.sum()), 12.0, delta=0.006)
        steps = found.heights[2:] / found.heights[1:-1]
        self.assertLess(float(np.maximum(steps, 1 / steps).max()), 1.25 + 0.15)
