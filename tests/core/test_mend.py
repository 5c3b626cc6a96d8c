"""Mending: every known defect with its known volume."""

import unittest

import manifold3d as m3
import numpy as np

from northpace.part.lastresort import solid_from_sections
from northpace.part.solid import load_part
from northpace.part.stl import binary_stl
from tests.core.shapes import arrays, cube

BALL = m3.Manifold.sphere(20.0, 64)
V, F = arrays(BALL)
VOLUME = BALL.volume()


def both(*meshes):
    vertices, faces, shift = [], [], 0
    for v, f in meshes:
        vertices.append(v)
        faces.append(f + shift)
        shift += len(v)
    return np.concatenate(vertices), np.concatenate(faces)


class Mending(unittest.TestCase):
    def check(self, mesh, volume, note="", bodies=1, within=1e-6):
        part = load_part(binary_stl(*mesh), "a.stl")
        self.assertAlmostEqual(part.volume / volume, 1, delta=within)
        self.assertEqual(len(part.bodies), bodies)
        self.assertFalse(part.doubtful)
        if note:
            self.assertIn(note, "; ".join(part.mended))
        else:
            self.assertEqual(part.mended, ())
        return part

    def test_a_good_file_is_left_alone(self):
        self.check((V, F), VOLUME)

    def test_openings(self):
        self.check((V, F[6:]), VOLUME, "closed", within=2e-3)
        part = self.check(self.open_box(), 8000, "closed 1 opening")
        self.assertAlmostEqual(part.widest_opening, 20 * np.sqrt(2), 3)

    @staticmethod
    def open_box():
        v, f = arrays(cube())
        return v, f[~(v[f][:, :, 2] == 20).all(axis=1)]

    def test_a_third_of_the_facets_missing(self):
        rng = np.random.default_rng(7)
        part = load_part(binary_stl(V, F[rng.random(len(F)) > 1 / 3]), "a.stl")
        self.assertAlmostEqual(part.volume / VOLUME, 1, delta=0.01)

    def test_a_third_of_the_facets_flipped(self):
        rng = np.random.default_rng(7)
        faces = F.copy()
        wrong = rng.random(len(F)) < 1 / 3
        faces[wrong] = faces[wrong][:, ::-1]
        self.check((V, faces), VOLUME, f"turned {wrong.sum():,} triangles")

    def test_inside_out(self):
        self.check((V, F[:, ::-1]), VOLUME, "outside out")

    def test_duplicate_faces(self):
        self.check((V, np.r_[F, F[:100]]), VOLUME, "lay on each other")

    def test_edges_shared_by_four_faces(self):
        v, f = arrays(cube(10))
        self.check(both((v, f), (v + [10, 10, 0], f)), 2000, bodies=2)

    def test_cavity_nested_and_inverted_shells(self):
        small = 0.5 * V
        self.check(both((V, F), (small, F[:, ::-1])), VOLUME * 7 / 8, "cavity", within=1e-5)
        self.check(both((V, F), (small, F)), VOLUME)
        self.check(both((V, F), (V + [50, 0, 0], F[:, ::-1])), 2 * VOLUME, "outside out", bodies=2)

    def test_overlapping_shells_are_united(self):
        v, f = arrays(cube(10))
        self.check(both((v, f), (v + [5, 0, 0], f)), 1500)

    def test_a_gap_between_bodies_stays(self):
        v, f = arrays(cube(10))
        self.check(both((v, f), (v + [10.002, 0, 0], f)), 2000, bodies=2)

    def test_rounded_corners_are_welded(self):
        rng = np.random.default_rng(3)
        corners = V[F] + rng.uniform(-2e-5, 2e-5, (len(F), 3, 3))
        part = load_part(
            binary_stl(corners.reshape(-1, 3), np.arange(3 * len(F)).reshape(-1, 3)), "a.stl"
        )
        self.assertAlmostEqual(part.volume / VOLUME, 1, delta=1e-3)

    def test_last_resort_rebuilds_from_sections(self):
        rng = np.random.default_rng(5)
        solid = solid_from_sections(V, F[rng.random(len(F)) > 0.03])
        self.assertAlmostEqual(solid.volume() / VOLUME, 1, delta=0.05)
