"""Cuts through meshes, the thinning of their outlines, and what growing an area makes of it."""

import unittest
from unittest import mock

import manifold3d as m3
import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.geometry.growing import short_of
from northpace.geometry.nesting import areas_of_rings
from northpace.geometry.polygons import Rings, offset, rings_of
from northpace.geometry.sheets import areas_of
from northpace.geometry.thinning import thin_rings, thinned
from northpace.outlines import sections as module
from northpace.outlines import slicing
from northpace.outlines.sections import SIMPLIFY, sections
from tests.core.shapes import cube, organic, torus


def by_kernel(solid, levels):
    return areas_of(np.array([solid.slice(float(z)) for z in levels], object))


def through_each_other(solids):
    """Solids as one that nobody united."""
    points, facets, count = [], [], 0
    for solid in solids:
        mesh = solid.to_mesh64()
        points.append(np.asarray(mesh.vert_properties)[:, :3])
        facets.append(np.asarray(mesh.tri_verts) + np.uint64(count))
        count += len(points[-1])
    return m3.Manifold(m3.Mesh64(np.concatenate(points), np.concatenate(facets)))


def one(area):
    return np.array([area], object)


class Cuts(unittest.TestCase):
    def same(self, solid, levels):
        found, whole = sections(solid, levels), by_kernel(solid, levels)
        self.assertTrue(shapely.is_valid(found).all())
        off = shapely.area(shapely.symmetric_difference(found, whole))
        self.assertTrue((off <= SIMPLIFY * shapely.length(whole) + 1e-6).all())
        return found

    def test_they_are_those_of_the_kernel(self):
        for solid in (torus(), organic(40, 40), torus().rotate((20, 30, 0)), cube() - torus(8, 3)):
            low, high = solid.bounding_box()[2], solid.bounding_box()[5]
            self.same(solid, np.linspace(low + 0.01, high - 0.01, 60))

    @settings(max_examples=40)
    @given(
        st.lists(
            st.tuples(
                st.sampled_from(("box", "ball", "cylinder")),
                st.tuples(*3 * (st.floats(0.5, 12),)),
                st.tuples(*3 * (st.floats(0, 360),)),
                st.tuples(*3 * (st.floats(-6, 6),)),
            ),
            min_size=1,
            max_size=4,
        ),
        st.booleans(),
    )
    def test_of_any_bodies_united_or_not(self, bodies, united):
        shapes = {
            "box": m3.Manifold.cube((1, 1, 1), True),
            "ball": m3.Manifold.sphere(0.5, 24),
            "cylinder": m3.Manifold.cylinder(1, 0.5, 0.3, 24, True),
        }
        solids = [
            shapes[kind].scale(size).rotate(turn).translate(at) for kind, size, turn, at in bodies
        ]
        # put together without being united, bodies pass through each other
        solid = m3.Manifold.batch_boolean(solids, m3.OpType.Add)
        levels = np.linspace(*np.array(solid.bounding_box())[[2, 5]], 9)[1:-1] + 1e-4
        if united:
            self.same(solid, levels)
            return
        found = sections(through_each_other(solids), levels)
        self.assertTrue(shapely.is_valid(found).all())
        want = shapely.area(by_kernel(solid, levels))
        loose = 3 * SIMPLIFY * shapely.length(by_kernel(solid, levels))
        self.assertTrue((np.abs(shapely.area(found) - want) <= loose + 1e-6).all())

    def test_the_kernel_is_asked_only_where_bodies_meet(self):
        both = through_each_other([cube(10), cube(10).translate((5, 5, 5))])
        levels = np.array([2.0, 4.0, 7.0, 12.0])
        asked = []

        def areas(sheets):
            asked.extend(sheets)
            return areas_of(sheets)

        with mock.patch.object(module, "areas_of", areas):
            found = sections(both, levels)
        np.testing.assert_allclose(shapely.area(found), [100, 100, 175, 100], rtol=1e-6)
        self.assertEqual(len(asked), 1)

    def test_an_upright_side_is_the_same_at_every_height(self):
        found = sections(cube(20).rotate((0, 0, 17)), np.linspace(0.5, 19.5, 7))
        self.assertTrue(shapely.equals_exact(found, found[0], 0.0).all())
        self.assertEqual(shapely.get_num_coordinates(found).tolist(), [5] * 7)

    def test_in_how_many_stretches_makes_no_difference(self):
        levels = np.linspace(0.5, 29, 40)
        with mock.patch.object(slicing, "WINDOW", 10**9):
            whole = sections(organic(40, 30), levels)
        for name in ("MOST", "WINDOW"):
            with (
                mock.patch.object(slicing, name, 500),
                mock.patch.object(slicing, "_cut", wraps=slicing._cut) as cut,
            ):
                found = sections(organic(40, 30), levels)
            self.assertGreater(cut.call_count, 2, name)
            self.assertTrue(shapely.equals_exact(found, whole).all(), name)

    def test_nothing_to_cut(self):
        self.assertEqual(len(sections(cube(), np.empty(0))), 0)
        self.assertTrue(shapely.is_empty(sections(m3.Manifold(), np.array([1.0, 2.0]))).all())

    def test_sides_meet_across_a_corner_of_very_many(self):
        # the tip of a cone: looked for from the rim, or this takes hours
        mesh = slicing._mesh(m3.Manifold.cylinder(10, 5, 0, 200_000))
        self.assertGreaterEqual(mesh.across.min(), 0)
        ends = mesh.facets[:, [1, 2, 0]].ravel()
        np.testing.assert_array_equal(ends, mesh.facets.ravel()[mesh.across.ravel()])

    def test_levels_come_back_in_the_order_they_were_asked_in(self):
        cone = m3.Manifold.cylinder(10, 5, 1, 64)
        found = shapely.area(sections(cone, np.array([8.0, 1.0, 8.0])))
        self.assertEqual(found[0], found[2])
        self.assertLess(found[0], found[1])


class Nesting(unittest.TestCase):
    def rings(self, *rings):
        starts = np.r_[0, np.cumsum([len(ring) for ring in rings])]
        return Rings(np.concatenate(rings).astype(float), starts, np.zeros(len(rings), np.int64))

    def square(self, low, high, hole=False):
        ring = np.array([(low, low), (high, low), (high, high), (low, high)])
        return ring[::-1] if hole else ring

    def test_islands_in_holes_in_islands(self):
        rings = (self.square(4, 5), self.square(1, 8, True), self.square(0, 9))
        rings += (self.square(2, 7), self.square(3, 6, True))
        areas, stray = areas_of_rings(self.rings(*rings), 1)
        self.assertFalse(stray[0])
        self.assertTrue(shapely.is_valid(areas[0]))
        self.assertAlmostEqual(areas[0].area, 81 - 49 + 25 - 9 + 1)

    def test_a_hole_in_nothing_is_said(self):
        areas, stray = areas_of_rings(self.rings(self.square(0, 1), self.square(3, 4, True)), 1)
        self.assertEqual(stray.tolist(), [True])
        self.assertAlmostEqual(areas[0].area, 1)


class Thinning(unittest.TestCase):
    @given(st.integers(3, 60), st.integers(0, 10**6), st.sampled_from((0.0, 0.01, 0.3)))
    def test_nothing_is_further_off_than_the_detail(self, count, seed, detail):
        rng = np.random.default_rng(seed)
        turn = np.sort(rng.uniform(0, 2 * np.pi, count))
        ring = rng.uniform(2, 4, (count, 1)) * np.column_stack([np.cos(turn), np.sin(turn)])
        found, starts = thin_rings(ring, np.array([0, count]), detail)
        self.assertEqual(starts[0], 0)
        if starts[1] == 0:
            return  # so narrow that nothing is left of it
        self.assertTrue({tuple(point) for point in found} <= {tuple(point) for point in ring})
        line = shapely.LinearRing(found)
        self.assertLessEqual(shapely.distance(shapely.points(ring), line).max(), detail + 1e-12)
        self.assertEqual(tuple(found[0]), min(tuple(point) for point in found))

    def test_what_lies_on_a_side_is_no_corner(self):
        side = np.linspace(0, 9, 10)
        ring = np.concatenate([np.column_stack([side, 0 * side]), [(9, 9), (0, 9)]])
        found, _ = thin_rings(ring, np.array([0, len(ring)]), 1e-9)
        self.assertEqual(found.tolist(), [[0, 0], [9, 0], [9, 9], [0, 9]])

    def test_areas_keep_their_holes_and_lose_what_is_too_narrow(self):
        ring = shapely.Point(0, 0).buffer(5, 64).difference(shapely.Point(0, 0).buffer(3, 64))
        sliver = shapely.box(10, 0, 10.01, 5)
        areas = np.array([shapely.MultiPolygon([ring, sliver]), shapely.Polygon()], object)
        found = thinned(areas, 0.05)
        self.assertEqual(shapely.get_num_geometries(found)[0], 1)
        self.assertEqual(len(rings_of(found).owner), 2)
        self.assertAlmostEqual(found[0].area, ring.area, delta=0.05 * ring.length)
        self.assertTrue(found[1].is_empty)

    def test_outlines_that_would_touch_are_thinned_by_the_kernel(self):
        # a tooth too tall to be left out, in a hollow that is not: without it they would cross
        low = shapely.Polygon([(0, 0), (2, 0), (2, 1), (1.1, 1), (1, 1.1), (0.9, 1), (0, 1)])
        hollow = [(2, 1.05), (1.12, 1.05), (1, 1.105), (0.88, 1.05), (0, 1.05)]
        both = one(shapely.MultiPolygon([low, shapely.Polygon([(0, 2), (2, 2), *hollow])]))
        self.assertTrue(both[0].is_valid)
        with mock.patch.object(shapely, "simplify", wraps=shapely.simplify) as kernel:
            found = thinned(both, 0.06)
        self.assertEqual(kernel.call_count, 1)
        self.assertTrue(shapely.is_valid(found).all())


class Growing(unittest.TestCase):
    def test_a_formula_for_corners(self):
        for area in (
            shapely.box(0, 0, 8, 5),
            shapely.Polygon([(0, 0), (9, 0), (9, 3), (3, 3), (3, 9), (0, 9)]),
            shapely.box(0, 0, 9, 9).difference(shapely.box(3, 3, 6, 6)),
            shapely.Point(0, 0).buffer(4, 40),
        ):
            inner = offset(one(area), -0.4)
            self.assertAlmostEqual(float(short_of(one(area), inner, 0.4)[0]), 0.0, 6)
            wide = offset(one(area), 0.3)
            self.assertAlmostEqual(float(short_of(wide, one(area), 0.3)[0]), 0.0, 6)

    def test_what_does_not_come_back_is_missing(self):
        tongue = shapely.box(0, 0, 8, 5).union(shapely.box(8, 2, 10, 2.5))
        found = short_of(one(tongue), offset(one(tongue), -0.4), 0.4)
        self.assertAlmostEqual(float(found[0]), 2 * 0.5, 6)

    def test_a_neck_and_a_broken_hole_are_told_by_their_pieces(self):
        dumbbell = shapely.box(0, 0, 5, 5).union(shapely.box(5, 2, 5.1, 2.7))
        dumbbell = dumbbell.union(shapely.box(5.1, 0, 10, 5))
        thin = shapely.box(0, 0, 9, 9).difference(shapely.box(0.5, 3, 6, 6))
        for area in (dumbbell, thin):
            self.assertEqual(short_of(one(area), offset(one(area), -0.4), 0.4)[0], np.inf)
        slot = shapely.box(0, 0, 9, 9).difference(shapely.box(4, -1, 4.3, 5))
        self.assertLess(short_of(offset(one(slot), 0.2), one(slot), 0.2)[0], -0.1)

    @given(st.integers(4, 30), st.integers(0, 10**6))
    def test_nothing_missing_means_that_opening_takes_nothing(self, count, seed):
        rng = np.random.default_rng(seed)
        turn = np.sort(rng.uniform(0, 2 * np.pi, count))
        area = shapely.Polygon(
            rng.uniform(1, 5, (count, 1)) * np.column_stack([np.cos(turn), np.sin(turn)])
        )
        if not area.is_valid:
            return
        inner = offset(one(area), -0.4)
        if short_of(one(area), inner, 0.4)[0] <= 0.02:
            opened = offset(inner, 0.4 + 1e-4, 1.5)
            self.assertLess(area.area - opened[0].area, 0.05)


if __name__ == "__main__":
    unittest.main()
