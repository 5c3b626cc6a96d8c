"""Ways up: which there are, what they come to, and in what order."""

import unittest

import numpy as np
from scipy.stats import spearmanr

from demo.shapes import sample_stl
from northpace.estimate.quick import correction_of
from northpace.part.solid import load_part
from northpace.spec import Placement, PlanSpec, with_settings
from northpace.ways.candidates import candidates, centre_of_mass, stable_faces
from northpace.ways.rank import Weights, ranked
from tests.core.shapes import PIPELINE, source, stl
from tests.ways.shapes import BRACKET, CONE, ELL, HOLE, TEE, M, standing_so, ways_of

FORK = M.cube((30, 20, 5)) + M.cube((5, 20, 30)) + M.cube((30, 20, 5)).translate((0, 0, 25))


class Candidates(unittest.TestCase):
    def test_a_box_stands_on_its_six_faces(self):
        found = stable_faces(load_part(stl(M.cube((30, 20, 10))), "box.stl"), np.ones(3))
        np.testing.assert_allclose(found[0] @ found[1], -1)
        self.assertEqual(len(found), 6)
        self.assertEqual(
            sorted(map(tuple, np.round(np.abs(found), 6))),
            sorted(2 * [(0, 0, 1), (0, 1, 0), (1, 0, 0)]),
        )

    def test_a_face_beside_the_centre_of_mass_does_not_carry(self):
        slanted = M.cube((10, 10, 40)).warp(lambda p: (p[0] + 0.5 * p[2], p[1], p[2]))
        found = stable_faces(load_part(stl(slanted), "slanted.stl"), np.ones(3))
        self.assertFalse(any(normal[2] < -0.99 for normal in found))

    def test_the_present_way_comes_first_and_is_not_there_twice(self):
        part = load_part(stl(M.cube((30, 20, 10))), "box.stl")
        now = Placement(turn_x=90, turn_z=30)
        found = candidates(part, now)
        self.assertIs(found[0].placement, now)
        np.testing.assert_allclose(
            found[0].down, [0, 1, 0] if found[0].down[1] > 0 else [0, -1, 0], atol=1e-9
        )
        downs = np.array([one.down / np.linalg.norm(one.down) for one in found])
        near = (downs @ downs.T) > np.cos(np.radians(3))
        self.assertEqual(int(near.sum()), len(found))
        self.assertEqual(len(found), 26)

    def test_the_centre_of_mass_of_a_hollow_body(self):
        two = M.cube((10, 10, 10)) + M.cube((10, 10, 10)).translate((20, 0, 0))
        np.testing.assert_allclose(centre_of_mass([two]), [15, 5, 5], atol=1e-6)


class AsAMakerWould(unittest.TestCase):
    """Parts that come turned somehow stand as they should."""

    def way(self, solid, **said):
        ways = ways_of(solid, **said)
        return ways[ranked(ways, Weights())[0]["way"]]

    def test_a_cone_on_its_base(self):
        way = self.way(CONE, turned=(70, 0, 0))
        self.assertAlmostEqual(way["size_mm"][2], 30, delta=0.1)
        self.assertGreater(way["contact_mm2"], 400)
        self.assertEqual(way["support_mm3"], 0)

    def test_a_cube_with_its_hole_upright(self):
        way = self.way(HOLE)
        self.assertAlmostEqual(abs(way["down"][1]), 1)
        self.assertLess(way["mean_um"], 1)

    def test_a_tee_and_an_ell_lie_flat(self):
        for solid, low in ((TEE, 10), (ELL, 20)):
            way = self.way(solid)
            self.assertAlmostEqual(way["size_mm"][2], low)
            self.assertEqual((way["support_mm3"], way["starts_in_air"]), (0, 0))

    def test_a_bracket_on_a_plate_of_its_own_without_supports(self):
        way = self.way(BRACKET, turned=(0, 90, 0))
        self.assertLess(way["scar_mm2"], 70)
        self.assertAlmostEqual(way["size_mm"][2], 40, delta=0.1)

    def test_turned_to_fit_the_bed(self):
        bar = M.cube((260, 20, 10))
        ways = ways_of(bar)
        flat = [way for way in ways if abs(way["size_mm"][2] - 10) < 0.1]
        self.assertTrue(flat)
        self.assertEqual(flat[-1]["change"]["place.turn_z"], 45.0)
        self.assertEqual(flat[-1]["misfit"], "")
        upright = [way for way in ways if way["size_mm"][2] > 259]
        self.assertTrue(all("tall" in way["misfit"] for way in upright))


class Figures(unittest.TestCase):
    def test_a_way_says_what_the_exact_plan_says(self):
        spec = with_settings(PlanSpec(), ["supports.enabled=true"])
        for solid in (TEE, BRACKET):
            found = ways_of(solid)[0]
            report = PIPELINE.plan(source(solid), spec).report
            self.assertAlmostEqual(found["time_s"] / report["time_s"]["total"], 1, delta=0.15)
            self.assertAlmostEqual(found["mass_g"] / report["filament"]["mass_g"], 1, delta=0.12)
            self.assertAlmostEqual(found["mean_um"], report["surface"]["mean_um"], delta=1)

    def test_quick_and_exact_minutes_put_ways_in_the_same_order(self):
        plain, pairs = PlanSpec(), []
        for solid in (ELL, HOLE, BRACKET):
            # as in the workshop: corrected by the exact plan there is
            part = source(solid)
            now = PIPELINE.plan(part, plain).report
            correction = correction_of(now, PIPELINE.profile(part, plain), plain)
            ways = ways_of(solid, correction=correction)
            ways = [way for way in ways if way["tips_at_deg"] > 0][:6] + ways[-2:]
            exact = []
            for way in ways:
                spec = standing_so(with_settings(plain, ["supports.enabled=true"]), way)
                plan = PIPELINE.plan(part, spec)
                exact.append(plan.report["time_s"]["total"])
            quick = np.array([way["time_s"] for way in ways])
            pairs += list(zip(quick / quick[0], np.array(exact) / exact[0], strict=True))
            self.assertLess(np.abs(np.log(quick / np.array(exact))).max(), np.log(1.15))
        self.assertGreaterEqual(spearmanr(*np.array(pairs).T)[0], 0.9)

    def test_the_present_way_takes_what_its_exact_plan_takes(self):
        spec = with_settings(PlanSpec(), ["supports.enabled=true"])
        for solid in (TEE, FORK, BRACKET):
            part = source(solid)
            now = PIPELINE.plan(part, spec).report
            correction = correction_of(now, PIPELINE.profile(part, spec), spec)
            way = ways_of(solid, "supports.enabled=true", correction=correction)[0]
            self.assertAlmostEqual(way["time_s"] / now["time_s"]["total"], 1, delta=0.04)
            self.assertAlmostEqual(way["mass_g"] / now["filament"]["mass_g"], 1, delta=0.02)
            self.assertIsNone(way["bare_time_s"])

    def test_a_plan_without_supports_is_told_its_own_time_too(self):
        plain = PlanSpec()
        now = PIPELINE.plan(source(TEE), plain).report
        correction = correction_of(now, PIPELINE.profile(source(TEE), plain), plain)
        way = ways_of(TEE, correction=correction)[0]
        self.assertAlmostEqual(way["bare_time_s"] / now["time_s"]["total"], 1, delta=0.02)
        self.assertGreater(way["time_s"], way["bare_time_s"] + 60)

    def test_a_load_across_the_layers_is_seen(self):
        ways = ways_of(M.cube((10, 10, 40)), pull=np.array([0.0, 0.0, 1.0]))
        self.assertAlmostEqual(ways[0]["load_deg"], 90)
        lying = min(ways, key=lambda way: way["size_mm"][2])
        self.assertAlmostEqual(lying["load_deg"], 0)
        order = ranked(ways, Weights(time=0, scars=0, surface=0, strength=1))
        self.assertLess(ways[order[0]["way"]]["load_deg"], 1)


class Change(unittest.TestCase):
    """A way says all that has to change, and nothing else."""

    def test_what_was_cut_off_goes_and_supports_come_where_needed(self):
        ways = ways_of(TEE, "place.sink=2", "place.scale_x=50", "place.turn_z=20")
        self.assertEqual(ways[0]["change"], {"supports.enabled": True, "supports.decided": "both"})
        flat = next(way for way in ways if way["support_mm3"] == 0 and way["kind"] == "face")
        self.assertEqual(flat["change"]["place.sink"], 0)
        self.assertEqual(flat["change"]["place.turn_z"], 0)
        self.assertFalse(any("scale" in key or "supports" in key for key in flat["change"]))

    def test_on_the_bed_only_says_what_hangs(self):
        way = ways_of(FORK, "supports.enabled=true", "supports.origin=bed")[0]
        self.assertAlmostEqual(way["hanging_mm2"], 500, delta=15)
        self.assertEqual((way["support_mm3"], way["change"]), (0, {}))

    def test_a_start_that_nothing_holds_ranks_last(self):
        # a tooth below the upper prong begins above the lower one
        tooth = FORK + M.cube((4, 20, 10)).translate((24, 0, 16))
        held = ways_of(tooth, "supports.enabled=true")
        self.assertEqual((held[0]["starts_in_air"], held[0]["loose_starts"]), (1, 0))
        ways = ways_of(tooth, "supports.enabled=true", "supports.origin=bed")
        self.assertEqual(ways[0]["loose_starts"], 1)
        order = ranked(ways, Weights())
        loose = [ways[one["way"]]["loose_starts"] > 0 for one in order]
        self.assertEqual(loose, sorted(loose))
        self.assertFalse(order[-1]["unbeaten"])


class WaysInOrder(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.WAYS = ways_of(HOLE)

    def test_weights_move_the_order_and_unbeaten_ways_are_marked(self):
        quick = ranked(self.WAYS, Weights(time=10, scars=0, surface=0))
        steady = [way["time_s"] for way in self.WAYS if way["tips_at_deg"] > 12]
        self.assertAlmostEqual(self.WAYS[quick[0]["way"]]["time_s"], min(steady), delta=5)
        smooth = ranked(self.WAYS, Weights(time=0, scars=0, surface=10))
        self.assertLess(self.WAYS[smooth[0]["way"]]["mean_um"], 1)
        # an L is quickest on another face than it is smoothest on
        ways = ways_of(ELL)
        best = [ranked(ways, Weights(time=10 - k, scars=0, surface=k))[0]["way"] for k in (0, 10)]
        self.assertNotEqual(*best)
        for one in ranked(self.WAYS, Weights()):
            way = self.WAYS[one["way"]]
            beaten = any(
                other["time_s"] < way["time_s"] - 1
                and other["scar_weighted_mm2"] < way["scar_weighted_mm2"] - 1
                and other["mean_um"] < way["mean_um"] - 0.2
                and other["tips_at_deg"] > 0
                for other in self.WAYS
            )
            self.assertFalse(one["unbeaten"] and beaten)
        self.assertTrue(any(one["unbeaten"] for one in quick))

    def test_a_face_said_to_be_seen_gets_no_scar(self):
        mark = 'surface.marks=[{"x": 10, "y": 10, "z": 15, "attention": "seen", "spread": 40}]'
        ways = ways_of(HOLE, mark)
        self.assertTrue(any(way["scar_seen_mm2"] > 1 for way in ways))
        clear = ranked(ways, Weights(keep_seen=True))
        self.assertLess(len(clear), len(ways))
        self.assertTrue(all(ways[one["way"]]["scar_seen_mm2"] <= 0.5 for one in clear))

    def test_samples_stand_as_they_were_drawn(self):
        for name in ("sensor-case", "mast-clamp"):
            ways = ways_of(sample_stl(name))
            self.assertEqual(ranked(ways, Weights())[0]["way"], 0, name)


if __name__ == "__main__":
    unittest.main()
