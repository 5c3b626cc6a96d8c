"""Order, travel and seams: shorter ways, around walls instead of over them, starts where they
belong.
"""

import unittest

import manifold3d as m3
import numpy as np
import shapely

from northpace.moves import INNER, OUTER, RETRACTION, START, TRAVEL
from northpace.plan.pipeline import Pipeline
from northpace.spec import PlanSpec, with_settings
from tests.core.paths import lay_out
from tests.core.shapes import cube, source


def lettering() -> m3.Manifold:
    """A plate with eighteen raised letters: rings, bars and corners in a row that jumps about."""
    plate = m3.Manifold.cube((96.0, 40.0, 1.0))
    out = plate
    for k in range(18):
        # the order of the file is not the order on the plate
        place = (k * 7) % 18
        x, y = 4.0 + 10.0 * (place % 9), 5.0 + 17.0 * (place // 9)
        bar = m3.Manifold.cube((1.6, 12.0, 1.0))
        if k % 3 == 0:
            letter = (
                bar
                + m3.Manifold.cube((6.0, 1.6, 1.0))
                + m3.Manifold.cube((6.0, 1.6, 1.0)).translate((0, 10.4, 0))
            )
        elif k % 3 == 1:
            letter = (
                m3.Manifold.cylinder(1.0, 4.0, 4.0, 32) - m3.Manifold.cylinder(1.0, 2.4, 2.4, 32)
            ).translate((4, 6, 0))
        else:
            letter = (
                bar
                + bar.translate((5.0, 0, 0))
                + m3.Manifold.cube((6.0, 1.6, 1.0)).translate((0, 5.2, 0))
            )
        out = out + letter.translate((x, y, 0.99))
    return out


class PathsInOrder(unittest.TestCase):
    def test_the_plate_of_lettering_is_travelled_30_percent_shorter(self):
        straight = "pace.longest_detour=0"
        naive = lay_out(lettering(), "pace.order=as-cut", straight)
        nearest = lay_out(lettering(), "pace.order=nearest", straight)
        improved = lay_out(lettering(), straight)
        self.assertLess(improved.travel(), 0.7 * naive.travel())
        self.assertLess(improved.travel(), nearest.travel())
        self.assertGreater(improved.rows.saved, 0)
        # everything that was laid before is still laid
        features = range(13)
        self.assertAlmostEqual(improved.volume(*features) / naive.volume(*features), 1, delta=0.002)

    def test_saving_is_what_was_saved(self):
        nearest = lay_out(lettering(), "pace.order=nearest", "pace.longest_detour=0")
        self.assertEqual(nearest.rows.saved, 0)


def pierced() -> m3.Manifold:
    """A plate with 48 holes."""
    drill = m3.Manifold.cylinder(5, 3.2, 3.2, 48)
    rows = [(8.0 + 12 * i, 10.0 + 12 * j) for i in range(8) for j in range(6)]
    return m3.Manifold.cube((100.0, 80.0, 1.6)) - m3.Manifold.compose(
        [drill.translate((x, y, -1)) for x, y in rows]
    )


def pins() -> m3.Manifold:
    """200 cylinders that stand in no order."""
    pin = m3.Manifold.cylinder(1.0, 2.0, 2.0, 32)
    spots = np.random.default_rng(1).permutation(200)
    return m3.Manifold.compose([pin.translate((9.0 * (k % 20), 9.0 * (k // 20), 0)) for k in spots])


class Tours(unittest.TestCase):
    """One tour over islands, holes and what lies inside."""

    def pieces(self, laid) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Where everything that is laid without a break begins and ends (P, 2), and its layer."""
        rows, ends = laid.rows, laid.ends()
        on = np.isin(rows.feature, (TRAVEL, RETRACTION, START), invert=True)
        edge = np.diff(np.r_[0, on.astype(int), 0])
        first, end = np.flatnonzero(edge == 1), np.flatnonzero(edge == -1)
        return ends[first - 1], ends[end - 1], rows.layer[first]

    def to_the_nearest(self, begin: np.ndarray, end: np.ndarray, head: np.ndarray) -> float:
        """Way in mm over pieces (P, 2) to (P, 2) from a head, always to the nearest end left."""
        ring = np.hypot(*(begin - end).T) < 1.0
        left, way = np.ones(len(begin), bool), 0.0
        for _ in begin:
            there = np.hypot(*(begin - head).T)
            back = np.where(ring, np.inf, np.hypot(*(end - head).T))
            k = int(np.where(left, np.minimum(there, back), np.inf).argmin())
            left[k], way = False, way + min(there[k], back[k])
            head = end[k] if there[k] <= back[k] else begin[k]
        return way

    def test_the_way_is_that_of_a_tour_to_the_nearest_piece(self):
        """A tour that may lay everything in any order, walls after what they hold; issue 15."""
        for name, solid in (("holes", pierced()), ("letters", lettering()), ("pins", pins())):
            for seam in ("bearing", "nearest"):
                laid = lay_out(solid, "pace.longest_detour=0", f"surface.seam={seam}")
                begin, end, layer = self.pieces(laid)
                way = np.hypot(*(begin[1:] - end[:-1]).T)
                ours = bound = 0.0
                for k in range(1, len(laid.outlines.tops)):
                    here = np.flatnonzero(layer == k)
                    ours += way[here - 1].sum()
                    bound += self.to_the_nearest(begin[here], end[here], end[here[0] - 1])
                with self.subTest(name, seam=seam):
                    self.assertLess(ours, 1.15 * bound)

    def test_walls_of_a_hole_keep_their_order(self):
        for order, before in (("outside-last", INNER), ("outside-first", OUTER)):
            laid = lay_out(pierced(), f"body.wall_order={order}", "pace.longest_detour=0")
            ends, rows = laid.ends(), laid.rows
            for layer in range(len(laid.outlines.tops)):
                here = np.flatnonzero((rows.layer == layer) & (rows.width > 0))
                for i in range(8):
                    for j in range(6):
                        spot = np.array([8.0 + 12 * i, 10.0 + 12 * j]) - (50, 40)
                        near = here[np.hypot(*(ends[here] - spot).T) < 4.4]
                        kinds = rows.feature[near]
                        walls = kinds[np.isin(kinds, (OUTER, INNER))]
                        self.assertEqual(np.count_nonzero(np.diff(walls)), 1, (order, i, j))
                        self.assertEqual(walls[0], before)


class Crossings(unittest.TestCase):
    def frame(self):
        return m3.Manifold.cube((40.0, 40.0, 2.0)) - m3.Manifold.cube((34.0, 34.0, 2.0)).translate(
            (3, 3, 0)
        )

    def crossed(self, laid) -> int:
        """Travels over an outline, counted by intersecting."""
        rows = laid.rows
        chosen = np.flatnonzero(
            (rows.feature == TRAVEL) & (rows.layer >= 0) & (laid.lengths() > 0.05)
        )
        chosen = chosen[1:]  # the first comes from home
        edges = shapely.boundary(laid.outlines.areas)[rows.layer[chosen]]
        return int(shapely.crosses(laid.lines(chosen), edges).sum())

    def test_none_where_a_detour_exists(self):
        settings = ("footing.skirt_loops=0", "body.infill_density=30")
        straight = lay_out(self.frame(), *settings, "pace.longest_detour=0")
        around = lay_out(self.frame(), *settings, "pace.longest_detour=200")
        self.assertGreater(self.crossed(straight), 0)
        self.assertEqual(straight.rows.crossings, self.crossed(straight))
        self.assertEqual(self.crossed(around), 0)
        self.assertEqual(around.rows.crossings, 0)
        self.assertGreater(around.rows.around, 0)

    def test_a_detour_is_at_most_as_long_as_stated(self):
        for longest in (5, 20, 60):
            straight = lay_out(self.frame(), "footing.skirt_loops=0", "pace.longest_detour=0")
            around = lay_out(
                self.frame(), "footing.skirt_loops=0", f"pace.longest_detour={longest}"
            )
            self.assertLessEqual(
                around.travel() - straight.travel(), longest * around.rows.around + 1e-6
            )

    def test_two_parts_leave_what_cannot_be_avoided(self):
        solid = cube(10) + cube(10).translate((20, 0, 0))
        laid = lay_out(solid, "footing.skirt_loops=0", "pace.longest_detour=100")
        self.assertGreater(laid.rows.crossings, 0)
        plan = Pipeline().plan(source(solid), PlanSpec())
        self.assertEqual(
            plan.report["paths"]["outer_wall_crossings"], lay_out(solid).rows.crossings
        )


class Retraction(unittest.TestCase):
    def test_only_where_a_string_would_show_or_always(self):
        shown, always = (
            lay_out(lettering(), f"pace.retract_where={where}") for where in ("shown", "always")
        )
        pulls = [(laid.rows.pull < 0).sum() for laid in (shown, always)]
        self.assertGreater(pulls[1], pulls[0])
        rows = shown.rows
        # each stands right before a travel that leaves the outline, and is given back after it
        self.assertEqual((rows.pull < 0).sum(), (rows.pull > 0).sum())
        self.assertTrue((rows.feature[np.flatnonzero(rows.pull < 0) + 1] == TRAVEL).all())

    def test_restart_feeds_more(self):
        plan = Pipeline().plan(
            source(lettering()),
            with_settings(PlanSpec(), ["pace.restart_extra=0.1"]),
        )
        fed = plan.moves.filament[plan.moves.feature == RETRACTION]
        self.assertAlmostEqual(float(fed[fed > 0].mean() + fed[fed < 0].mean()), 0.1, 4)

    def test_lift_raises_and_costs_time(self):
        flat, lifted = (
            Pipeline().plan(
                source(lettering()),
                with_settings(PlanSpec(), [f"pace.lift={lift}"]),
            )
            for lift in (0, 0.5)
        )
        self.assertGreater(float(lifted.moves.z.max()), float(flat.moves.z.max()) + 0.4)
        self.assertTrue(
            np.isin(
                np.round(lifted.moves.z[lifted.moves.width > 0], 3),
                np.r_[np.round(flat.outlines.tops, 3), 0],
            ).all()
        )
        self.assertGreater(
            lifted.report["time_s"]["by_feature"]["travel"],
            flat.report["time_s"]["by_feature"]["travel"],
        )


class Seams(unittest.TestCase):
    def starts(self, laid, feature=OUTER) -> np.ndarray:
        """(L, 2) where the outer wall of every layer starts."""
        rows = laid.rows
        mine = rows.feature == feature
        first = np.flatnonzero(mine & ~np.r_[False, mine[:-1]])
        return laid.ends()[first - 1]

    def turns(self, laid) -> np.ndarray:
        return np.degrees(np.arctan2(*self.starts(laid).T[::-1])) % 360

    def test_bearing(self):
        drum = m3.Manifold.cylinder(3.0, 10.0, 10.0, 96)
        for bearing in (0, 90, 215):
            found = self.turns(lay_out(drum, f"surface.seam_bearing={bearing}"))
            self.assertLess(np.abs((found - bearing + 180) % 360 - 180).max(), 4)

    def test_spread_does_not_line_up(self):
        found = self.turns(
            lay_out(m3.Manifold.cylinder(3.0, 10.0, 10.0, 96), "surface.seam=spread")
        )
        apart = np.abs((np.diff(found) + 180) % 360 - 180)
        self.assertGreater(apart.min(), 90)

    def test_corner_hides_it(self):
        # a drop: round but for its tip
        circle = [
            (8 * np.cos(t), 8 * np.sin(t)) for t in np.linspace(0, 2 * np.pi, 96, endpoint=False)
        ]
        laid = lay_out(
            m3.Manifold.extrude(
                m3.CrossSection([[*circle]]).hull()
                + m3.CrossSection([[(0.0, 8.0), (-12.0, 12.0), (-8.0, 0.0)]]),
                2.0,
            ),
            "surface.seam=corner",
        )
        outline = shapely.get_coordinates(laid.outlines.areas[3])
        tip = outline[np.argmax(outline[:, 1] - outline[:, 0])]
        self.assertLess(np.hypot(*(self.starts(laid) - tip).T).max(), 1.0)

    def test_marks_attract_and_repel(self):
        drum = m3.Manifold.cylinder(3.0, 10.0, 10.0, 96)
        at = '{"x": 10, "y": 0, "z": 1.5, "radius": 4, "want": true}'
        off = '{"x": 0, "y": 10, "z": 1.5, "radius": 6, "want": false}'
        near = self.turns(lay_out(drum, f"surface.seam_marks=[{at}]"))
        self.assertLess(np.abs((near + 180) % 360 - 180).max(), 25)
        clear = self.starts(lay_out(drum, f"surface.seam_marks=[{off}]"))
        self.assertGreater(np.hypot(clear[:, 0], clear[:, 1] - 10).min(), 5.5)

    def test_joined_walls_start_and_stop_once(self):
        drum = m3.Manifold.cylinder(2.0, 10.0, 10.0, 96)
        apart, joined = (
            lay_out(
                drum,
                "body.infill_density=0",
                "body.top_thickness=0",
                "body.top_layers=0",
                "body.bottom_thickness=0",
                "body.bottom_layers=0",
                f"body.joined_walls={joined}",
            )
            for joined in ("false", "true")
        )

        def runs(laid):
            mine = np.isin(laid.rows.feature, (OUTER, INNER)) & (laid.rows.layer == 5)
            return int((np.diff(np.r_[0, mine.astype(int)]) == 1).sum())

        self.assertEqual(runs(apart), 3)
        self.assertEqual(runs(joined), 1)
        # no bead is lost or laid twice where one wall goes on into the next
        self.assertAlmostEqual(
            joined.volume(OUTER, INNER) / apart.volume(OUTER, INNER), 1, delta=0.01
        )
