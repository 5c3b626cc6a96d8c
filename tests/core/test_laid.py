"""Everything that is laid rests on something, or the plan says what does not: looked at in the
moves.
"""

import unittest
from unittest import mock

import manifold3d as m3
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.errors import InputError
from northpace.geometry.crossing import crosses
from northpace.moves import FEATURES
from northpace.paths import resting
from northpace.spec import PlanSpec, with_settings
from tests.core.paths import lay_out
from tests.core.raster import Raster
from tests.core.shapes import PIPELINE, cube, source


def box(x, y, z, at=(0.0, 0.0, 0.0)) -> m3.Manifold:
    return m3.Manifold.cube((float(x), float(y), float(z))).translate([float(v) for v in at])


def plan_of(solid, *pairs):
    return PIPELINE.plan(source(solid), with_settings(PlanSpec(), list(pairs)))


def finding(plan, code):
    return next((f for f in plan.report["findings"] if f["code"] == code), None)


def plates(x, y):
    """Two plates of 20 mm joined by a neck."""
    return box(20, 20, 5) + box(x, y, 5, (10 - x / 2, 10 - y / 2, 5)) + box(20, 20, 5, (0, 0, 10))


class Floating(unittest.TestCase):
    def test_what_hangs_on_a_neck_too_thin_for_a_bead_stops(self):
        for neck in ((0.2, 20), (15, 0.24)):
            plan = plan_of(plates(*neck))
            found = finding(plan, "starts-in-air")
            self.assertEqual(found["severity"], "stop")
            self.assertAlmostEqual(found["z_mm"], 10.2, 6)
            # named with all that floats: a good half of the plate is laid
            volume = float(found["message"].split(" mm³")[0].split()[-1].replace(",", ""))
            upper = plan.moves.layer >= 50
            laid = plan.moves.filament[upper & (plan.moves.width > 0)].sum() * np.pi / 4 * 1.75**2
            self.assertAlmostEqual(volume, laid, delta=0.01 * laid)
            self.assertIn("too thin for any bead", found["help"])

    def test_beads_as_wide_as_the_widest_nozzle_lays_rest_too(self):
        wide = (
            *("machine.nozzle=3", "machine.nozzle_flow=200", "surface.layer_height=1.5"),
            *("surface.first_layer_height=1.5", "machine.greatest_height=2"),
            *("footing.skirt_width=4", "supports.width=4"),
            *(f"body.{name}_width=4" for name in ("outer", "inner", "solid", "top", "infill")),
        )
        plan = plan_of(cube(60), *wide)
        self.assertGreater(plan.moves.width.max(), 3.9)
        self.assertIsNone(finding(plan, "starts-in-air"))

    def test_a_neck_a_bead_wide_holds(self):
        self.assertIsNone(finding(plan_of(plates(15, 0.6)), "starts-in-air"))

    def test_what_supports_hold_does_not_float(self):
        island = box(10, 10, 10) + box(6, 6, 4, (-8, 2, 6)) + box(4, 6, 4, (-4, 2, 10))
        self.assertIsNotNone(finding(plan_of(island), "starts-in-air"))
        self.assertIsNone(finding(plan_of(island, "supports.enabled=true"), "starts-in-air"))


class OverVoids(unittest.TestCase):
    def test_a_roof_over_nothing_is_a_bridge_from_wall_to_wall(self):
        for density in (0, 1):
            plan = plan_of(cube(20), f"body.infill_density={density}")
            seen = Raster(plan)
            self.assertGreater(seen.laid(96, "bridge"), 600)
            self.assertLess(seen.laid(96, "solid"), 30)
            # the next layers lie on it
            for layer in (97, 98, 99):
                self.assertLess(seen.in_air(layer, ("solid", "top")), 15)
            self.assertEqual(finding(plan, "long-bridge")["severity"], "look")
            self.assertIsNone(finding(plan, "free-span"))

    def test_infill_over_an_empty_band_gets_a_floor(self):
        plan = plan_of(
            cube(20),
            'surface.bands=[{"from_mm":5,"to_mm":12,"changes":{"body.infill_density":0}}]',
        )
        seen = Raster(plan)
        self.assertGreater(seen.laid(60, "bridge"), 600)
        for layer in range(60, 70):
            self.assertLess(seen.in_air(layer, ("infill",)), 0.9 * seen.laid(layer, "infill") + 1)
        self.assertEqual(seen.laid(61, "infill"), 0)
        patches = plan.report["solid"]["patches"]
        floor = next(p for p in patches if abs(p["from_mm"] - 12) < 0.01)
        self.assertEqual(floor["kinds"], ["bottom"])
        self.assertGreater(seen.laid(64, "infill"), 50)

    def test_what_nothing_holds_stops_with_a_way_on(self):
        plan = plan_of(m3.Manifold.sphere(12, 64), "body.infill_density=0")
        found = finding(plan, "free-span")
        self.assertEqual(found["severity"], "stop")
        self.assertEqual(found["change"], {"body.infill_density": 10})
        held = plan_of(m3.Manifold.sphere(12, 64), "body.infill_density=10")
        self.assertNotEqual((finding(held, "free-span") or {}).get("severity"), "stop")


class WallsOverAir(unittest.TestCase):
    portal = box(5, 10, 15) + box(5, 10, 15, (35, 0, 0)) + box(40, 10, 4, (0, 0, 15))

    def test_walls_across_a_gap_are_bridges(self):
        plan = plan_of(self.portal)
        seen = Raster(plan)
        for wall in ("outer-wall", "inner-wall"):
            # what is left is the way on to the piers
            self.assertLess(seen.in_air(75, (wall,)), 12)
        moves = plan.moves
        bridge = (moves.feature == FEATURES.index("bridge")) & (moves.layer == 75)
        self.assertTrue((moves.width[bridge] == moves.height[bridge]).all())
        self.assertTrue((moves.speed[bridge] <= plan.spec.pace.bridge_speed + 1e-9).all())
        self.assertGreater(seen.laid(75, "bridge"), 6 * 29)

    def test_the_steps_of_a_slope_stay_walls(self):
        cone = m3.Manifold.cylinder(8.0, 6.0, 20.0, 96)
        self.assertNotIn("bridge", plan_of(cone).report["time_s"]["by_feature"])

    def test_some_layers_at_a_time_it_is_the_same_as_all_at_once(self):
        # a neck that floats, a drop in mid-air, stands on the part: what rests on layers far below
        shape = plates(15, 0.24) + box(3, 3, 3, (30, 8, 6)) + box(8, 8, 3, (-6, 6, 10))
        for pairs in ((), ("supports.enabled=true",)):
            rows = lay_out(shape, *pairs).rows
            found = []
            for at_once, worth in ((400, 0), (10**9, np.inf)):
                with (
                    mock.patch.object(resting, "AT_ONCE", at_once),
                    mock.patch.object(resting, "WORTH", worth),
                    mock.patch.object(resting, "found_of", wraps=resting.found_of) as looked,
                ):
                    found.append(resting.resting(rows, 0.25, 0.2))
                self.assertEqual(looked.call_count > 5, at_once == 400)
            self.assertGreater(len(found[0].runs), 0)
            for column in ("begins", "volume", "hanging", "runs", "length", "held"):
                one, two = (getattr(half, column) for half in found)
                np.testing.assert_array_equal(one, two, column)
            for column in ("share", "piece", "runs", "links"):
                one, two = (getattr(half.known.found, column) for half in found)
                np.testing.assert_array_equal(one, two, column)


class Stands(unittest.TestCase):
    def layers_in_air(self, plan, top):
        """Layers of stands whose beads lie on nothing of the layer below."""
        seen, out = Raster(plan), []
        features = ("support", "support-roof")
        for layer in range(1, top):
            mine = sum(seen.laid(layer, name) for name in features)
            if mine == 0 or seen.in_air(layer, features) > 0.97 * mine:
                out.append(layer)
        return out

    def test_narrow_stands_stand_in_every_layer(self):
        for width, strength in ((3, "ordinary"), (3, "light"), (1, "ordinary")):
            arm = box(5, 5, 9, (-5, -2.5, 0)) + box(8, width, 2, (0, -width / 2, 7))
            plan = plan_of(arm, "supports.enabled=true", f"supports.strength={strength}")
            self.assertEqual(self.layers_in_air(plan, 32), [], (width, strength))
            self.assertIsNone(finding(plan, "starts-in-air"))

    def test_roofs_cross_what_they_lie_on(self):
        for top in (8.4, 8.8, 9.2, 9.6):
            tee = box(6, 20, top, (-3, -10, 0)) + box(40, 20, 4, (-20, -10, top))
            plan = plan_of(tee, "supports.enabled=true")
            seen = Raster(plan, without=("footing",))
            layers = np.unique(
                seen.layer[plan.moves.feature[seen.row] == FEATURES.index("support-roof")]
            )
            first = int(layers.min())
            # between lines 3 mm apart, and nowhere along them
            share = seen.in_air(first, ("support-roof",)) / seen.laid(first, "support-roof")
            self.assertLess(share, 0.9)
            for layer in layers[1:].tolist():
                share = seen.in_air(layer, ("support-roof",)) / seen.laid(layer, "support-roof")
                self.assertLess(share, 0.1, (top, layer))

    def test_gaps_hold_in_all_directions(self):
        plan = plan_of(m3.Manifold.sphere(10, 64), "supports.enabled=true")
        gap, layers = plan.spec.supports.gap_top, plan.report["layers"]
        tops, heights = layers["tops_mm"], layers["heights_mm"]
        part = Raster(plan, without=("footing", "support", "support-roof"))
        stand = Raster(plan, without=tuple(set(FEATURES) - {"support", "support-roof"}))
        self.assertGreater(len(stand.layer), 0)
        for layer in np.unique(stand.layer).tolist():
            for above in range(layer, min(layer + 4, len(tops))):
                if tops[above] - heights[above] - tops[layer] >= gap - 1e-6:
                    break
                shared = (painted(stand, layer) & painted(part, above, stand)).sum()
                self.assertLess(shared * 0.01, 0.15, (layer, above))


def painted(seen, layer, like=None):
    """The cells a layer covers, in the frame of another raster."""
    image = seen.image(layer) > 0
    if like is None or like is seen:
        return image
    out = np.zeros(like.shape, bool)
    shift = np.round((seen.low - like.low) / 0.1).astype(int)
    x, y = np.nonzero(image)
    x, y = x + shift[0], y + shift[1]
    inside = (x >= 0) & (y >= 0) & (x < like.shape[0]) & (y < like.shape[1])
    out[x[inside], y[inside]] = True
    return out


class AnyShape(unittest.TestCase):
    """Unions of turned boxes, cylinders, balls and splinters end with a plan or with a sentence."""

    @given(
        st.lists(
            st.tuples(
                st.sampled_from(("box", "cylinder", "ball", "splinter")),
                st.tuples(*3 * (st.floats(0.3, 14),)),
                st.tuples(*3 * (st.floats(0, 360),)),
                st.tuples(st.floats(-9, 9), st.floats(-9, 9), st.floats(0, 12)),
            ),
            min_size=1,
            max_size=5,
        ),
        st.sampled_from(
            (
                (),
                ("supports.enabled=true", "body.infill_pattern=gyroid"),
                ("body.infill_density=0",),
                ("surface.kind=best-fit", "body.infill_density=100"),
                ("body.build=spiral",),
            )
        ),
    )
    @settings(max_examples=12)
    def test_it_ends_with_a_plan_or_a_sentence(self, bodies, pairs):
        whole = m3.Manifold()
        for kind, (a, b, c), turn, at in bodies:
            one = {
                "box": lambda a=a, b=b, c=c: m3.Manifold.cube((a, b, c), True),
                "cylinder": lambda a=a, b=b, c=c: m3.Manifold.cylinder(a, b / 2, c / 2, 24, True),
                "ball": lambda a=a, b=b, c=c: m3.Manifold.sphere(a / 2, 24),
                "splinter": lambda a=a, b=b, c=c: m3.Manifold.cube((a, 0.02 * b, c), True),
            }[kind]()
            whole += one.rotate(turn).translate(at)
        try:
            plan = plan_of(whole, *pairs)
        except InputError as error:
            self.assertGreater(len(error.message), 20)
            return
        self.assertGreater(len(plan.gcode), 100)


class Travels(unittest.TestCase):
    def test_a_way_through_a_corner_crosses(self):
        square = np.array([[0.0, 0, 4, 0], [4, 0, 4, 4], [4, 4, 0, 4], [0, 4, 0, 0]])
        for way, crossing in (
            ((2, 2, 6, 6), True),
            ((2, 2, 6, 2), True),
            ((1, 1, 3, 3), False),
            ((5, 3.5, 3.5, 5), False),
            ((-1, -1, 5, 5), True),
        ):
            self.assertEqual(crosses(square, 0, 4, *(float(v) for v in way)), crossing, way)

    def test_no_open_way_without_pulling_back_between_many_bodies(self):
        many = m3.Manifold()
        for k in range(25):
            many += m3.Manifold.cylinder(3, 1.5, 1.5, 24).translate((6 * (k % 5), 6 * (k // 5), 0))
        moves = plan_of(many).moves
        travel = moves.feature == FEATURES.index("travel")
        far = np.hypot(np.diff(moves.x, prepend=0), np.diff(moves.y, prepend=0))
        pulled = np.cumsum(np.where(moves.feature == FEATURES.index("retraction"), 1, 0)) % 2 == 1
        self.assertEqual(int((travel & (moves.layer > 0) & (far > 2.9) & ~pulled).sum()), 0)

    def test_between_stands_the_filament_is_pulled_back(self):
        roof = box(40, 6, 2, (0, 0, 10)) + box(4, 6, 10, (18, 0, 0))
        moves = plan_of(roof, "supports.enabled=true").moves
        stand = np.isin(moves.feature, [FEATURES.index("support"), FEATURES.index("support-roof")])
        laid = np.flatnonzero(moves.width > 0)
        one, two = laid[:-1], laid[1:]
        far = np.hypot(moves.x[two - 1] - moves.x[one], moves.y[two - 1] - moves.y[one])
        # from the column on one side of the post to that on the other
        side = moves.x > moves.x[laid].mean()
        other = side[one] != side[two]
        over = stand[one] & stand[two] & other & (far > 8) & (moves.layer[one] == moves.layer[two])
        self.assertGreater(int(over.sum()), 5)
        pulls = np.cumsum(moves.feature == FEATURES.index("retraction"))
        self.assertTrue((pulls[two[over]] - pulls[one[over]] >= 2).all())

    def test_the_file_says_what_z_really_does_and_lifts_at_its_end(self):
        plan = plan_of(cube(5))
        before, end = plan.gcode.decode().split(";end")
        self.assertNotIn("F60000", before)
        self.assertIn("G0 Z0.4 F720", before)
        self.assertLess(end.index("G1 E-1"), end.index("G0 Z6 "))
        self.assertLess(end.index("G0 Z6 "), end.index("G28"))
