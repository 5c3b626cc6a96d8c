"""Quick figures of time and filament are near the exact ones, wherever supports stand."""

import unittest

import manifold3d as m3
import numpy as np

from northpace.estimate.quick import correction_of, quick
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import PIPELINE, source
from tests.core.test_findings import mushroom, table

CUBE = m3.Manifold.cube
FORK = CUBE((30, 20, 5)) + CUBE((5, 20, 30)) + CUBE((30, 20, 5)).translate((0, 0, 25))
TEE = CUBE((8, 20, 30)) + CUBE((40, 20, 6)).translate((-16, 0, 30))
OFF, ON = (), ("supports.enabled=true",)
ON_BED = (*ON, "supports.origin=bed")


class QuickSupports(unittest.TestCase):
    def told(self, solid, before, after):
        """Quick seconds and filament of a plan with the settings ``after``, each divided by the
        exact figure. They are corrected by an exact plan with the settings ``before``.
        """
        part = source(solid)
        spec, other = (with_settings(PlanSpec(), list(pairs)) for pairs in (before, after))
        plan = PIPELINE.plan(part, spec).report
        known = correction_of(plan, PIPELINE.profile(part, spec), spec)
        exact = PIPELINE.plan(part, other).report
        heights = np.array(exact["layers"]["heights_mm"])
        found = quick(PIPELINE.profile(part, other), other, heights, known)
        return (
            sum(found.seconds.values()) / exact["time_s"]["total"],
            sum(found.filament.values()) / exact["filament"]["length_mm"],
        )

    def test_turning_them_on_or_off(self):
        for solid in (FORK, TEE, mushroom(70), table(25), m3.Manifold.sphere(12, 64)):
            for before, after in ((OFF, ON), (ON, OFF)):
                seconds, length = self.told(solid, before, after)
                self.assertAlmostEqual(seconds, 1, delta=0.16)
                self.assertAlmostEqual(length, 1, delta=0.1)

    def test_letting_them_stand_on_the_bed_only(self):
        # supports of the fork's upper prong can stand only on the lower one
        for solid in (FORK, TEE):
            seconds, length = self.told(solid, ON, ON_BED)
            self.assertAlmostEqual(seconds, 1, delta=0.05)
            self.assertAlmostEqual(length, 1, delta=0.05)
        seconds, length = self.told(FORK, ON_BED, ON)
        self.assertAlmostEqual(seconds, 1, delta=0.16)
        self.assertAlmostEqual(length, 1, delta=0.1)
