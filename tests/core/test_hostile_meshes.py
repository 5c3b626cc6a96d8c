"""Files made to stop a service, and files damaged at random: a part or one line, soon."""

import io
import random
import resource
import unittest
import zipfile

import manifold3d as m3
import numpy as np
import trimesh

from northpace.errors import InputError
from northpace.part.shells import shells_of, united
from northpace.part.solid import load_part
from northpace.part.stl import binary_stl
from tests.core.shapes import arrays, cube, stl, torus
from tests.core.test_load import mesh_xml, model, text_stl, threemf

#: Files of the random kind.
DAMAGED = 500


def rows(count, step=2.0):
    """(N, 8, 3) corners of cubes of 1 mm in a cubic grid, and (12, 3) triangles of one."""
    vertices, faces = arrays(cube(1))
    side = round(count ** (1 / 3))
    at = np.stack(np.meshgrid(*3 * [np.arange(side)], indexing="ij"), -1).reshape(-1, 3)
    return vertices[None] + step * at[:, None], faces


def many(count, step=2.0):
    vertices, faces = rows(count, step)
    shift = len(vertices[0]) * np.arange(len(vertices))[:, None, None]
    return vertices.reshape(-1, 3), (faces[None] + shift).reshape(-1, 3)


def ring(count):
    angle = np.linspace(0, 2 * np.pi, count, endpoint=False)
    return np.stack([30 * np.cos(angle), 30 * np.sin(angle), np.full(count, 10.0)], axis=1)


class Many(unittest.TestCase):
    """Each of these took minutes: what is done for a body must not look at all others."""

    def test_thousands_of_bodies(self):
        vertices, faces = many(8000)
        part = load_part(binary_stl(vertices, faces), "a.stl")
        self.assertEqual(len(part.bodies), 8000)
        self.assertAlmostEqual(part.volume, 8000, 3)

    def test_thousands_of_bodies_turned_inside_out(self):
        vertices, faces = many(3375)
        part = load_part(binary_stl(vertices, faces[:, ::-1]), "a.stl")
        self.assertAlmostEqual(part.volume, 3375, 3)
        self.assertIn("turned 3375 shells outside out", part.mended)

    def test_thousands_of_cavities(self):
        vertices, faces = many(1000)
        outer, triangles = arrays(m3.Manifold.cube((40.0, 40.0, 40.0), True))
        every = np.concatenate([outer + 9.5, vertices])
        both = np.concatenate([triangles, faces[:, ::-1] + len(outer)])
        part = load_part(binary_stl(every, both), "a.stl")
        self.assertEqual(len(part.bodies), 1)
        self.assertAlmostEqual(part.volume, 64000 - 1000, 2)

    def test_bodies_that_meet_are_one_and_others_are_not(self):
        vertices, faces = rows(27, step=0.9)
        apart = vertices[:, :, :] + np.where(np.arange(len(vertices)) >= 9, 50.0, 0)[:, None, None]
        shift = 8 * np.arange(len(apart))[:, None, None]
        data = binary_stl(apart.reshape(-1, 3), (faces[None] + shift).reshape(-1, 3))
        self.assertEqual(len(load_part(data, "a.stl").bodies), 2)

    def test_shells_that_enclose_nothing_are_no_fault_of_the_program(self):
        self.assertEqual(shells_of(m3.Manifold()), [])
        self.assertEqual(united([]), [])
        # two closed leaves without thickness, one above the other
        sheet = np.array([[0, 0, 0], [9, 0, 0], [9, 9, 1], [0, 9, 0]], float)
        leaf = np.array([[0, 1, 2], [0, 2, 3], [0, 2, 1], [0, 3, 2]])
        vertices = np.concatenate([sheet, sheet + [0, 0, 5]])
        faces = np.concatenate([leaf, leaf + 4])
        self.refused(binary_stl(vertices, faces), "enclose")

    def test_objects_of_a_text_file(self):
        vertices, faces = rows(3375)
        text = io.StringIO()
        for number, corners in enumerate(vertices):
            text.write(f"o body{number}\n")
            text.writelines(f"v {x:g} {y:g} {z:g}\n" for x, y, z in corners)
            text.writelines(f"f {a} {b} {c}\n" for a, b, c in faces + 8 * number + 1)
        part = load_part(text.getvalue().encode(), "a.obj")
        self.assertEqual(len(part.bodies), 3375)

    def test_pages_of_a_book(self):
        rim = ring(20_000)
        vertices = np.concatenate([[[0, 0, 0], [0, 0, 20]], rim])
        faces = np.stack([np.zeros(len(rim)), np.ones(len(rim)), 2 + np.arange(len(rim))], 1)
        self.refused(binary_stl(vertices, faces.astype(np.int64)), "there is no surface")

    def test_loose_triangles(self):
        corners = np.random.default_rng(1).uniform(0, 100, (60_000, 3))
        self.refused(binary_stl(corners, np.arange(60_000).reshape(-1, 3)), "there is no surface")

    def test_a_fan_of_thousands_is_closed(self):
        rim = ring(20_000)
        vertices = np.concatenate([[[0, 0, 30]], rim])
        around = np.arange(len(rim))
        faces = np.stack([np.zeros(len(rim), int), 1 + around, 1 + np.roll(around, -1)], 1)
        part = load_part(binary_stl(vertices, faces), "a.stl")
        self.assertAlmostEqual(part.volume / (np.pi * 900 * 20 / 3), 1, 3)

    def test_components_that_hold_components_and_no_body(self):
        objects = '<object id="16"/>' + "".join(
            f'<object id="{k}"><components>'
            + 4 * f'<component objectid="{k + 1}"/>'
            + "</components></object>"
            for k in range(1, 16)
        )
        self.refused(threemf(model(objects, '<item objectid="1"/>')), "more objects", "a.3mf")

    def refused(self, data, words, name="a.stl"):
        with self.assertRaises(InputError) as caught:
            load_part(data, name)
        self.assertIn(words, str(caught.exception))


class Large(unittest.TestCase):
    def test_a_long_word_costs_its_length_and_no_more(self):
        """One array of equally wide words came to gigabytes."""
        text = text_stl(torus()).replace(b"endsolid block", b"x" * 100_000 + b"\nendsolid block")
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        part = load_part(text, "a.stl")
        self.assertAlmostEqual(part.volume / torus().volume(), 1, 3)
        after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        self.assertLess((after - before) * 1024, 500e6 + 12 * len(text))

    def test_models_are_counted_together(self):
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
            for k in range(60):
                archive.writestr(f"3D/m{k}.model", "<model>" + " " * 4_000_000 + "</model>")
        with self.assertRaisesRegex(InputError, "unpack from"):
            load_part(stream.getvalue(), "a.3mf")


class Damaged(unittest.TestCase):
    """Five files of every format, damaged at random."""

    WORDS = (b"nan", b"inf", b"1e999", b"-1", b"99999999999", b"", b"\0", b"\xff\xfe", b"9" * 5000)

    def files(self):
        vertices, faces = arrays(torus(10, 3))
        mesh = trimesh.Trimesh(vertices, faces, process=False)
        xml = model(f'<object id="1">{mesh_xml(torus(10, 3))}</object>', '<item objectid="1"/>')
        return (
            (stl(torus(10, 3)), "a.stl"),
            (text_stl(cube(10)), "b.stl"),
            (mesh.export(file_type="obj").encode(), "c.obj"),
            (mesh.export(file_type="ply"), "d.ply"),
            (threemf(xml), "e.3mf"),
        )

    def damage(self, data, chance):
        """A copy with some of: bytes changed, a piece left out, doubled or moved, a word put in."""
        out = bytearray(data)
        for _ in range(chance.randint(1, 4)):
            a = chance.randrange(len(out))
            b = min(len(out), a + chance.choice((1, 4, 50, len(out) // 3)))
            kind = chance.randrange(5)
            if kind == 0:
                out[a:b] = bytes(chance.randrange(256) for _ in range(min(b - a, 50)))
            elif kind == 1:
                del out[a:b]
            elif kind == 2:
                out[a:a] = out[a:b]
            elif kind == 3:
                out[a:b] = chance.choice(self.WORDS)
            else:
                del out[a:]
            if not out:
                break
        return bytes(out)

    def test_a_part_or_one_line(self):
        chance = random.Random(7)
        files = self.files()
        read = 0
        for number in range(DAMAGED):
            data, name = files[number % len(files)]
            damaged = self.damage(data, chance)
            try:
                part = load_part(damaged, name)
            except InputError as error:
                self.assertNotIn("\n", str(error))
                self.assertLess(len(str(error)), 400, number)
            else:
                read += 1
                self.assertGreater(part.volume, 0, number)
        # damage that leaves a part, and damage that does not
        self.assertTrue(0.02 * DAMAGED < read < 0.9 * DAMAGED, read)
