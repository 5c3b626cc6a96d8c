"""Reading mesh files: every format, units, and hostile input."""

import ctypes
import io
import struct
import unittest
import zipfile

import lib3mf
import manifold3d as m3
import numpy as np
import trimesh

from northpace.errors import InputError
from northpace.part.load import load_bodies
from northpace.part.solid import load_part
from tests.core.shapes import arrays, cube, stl

NAMESPACE = 'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"'


def text_stl(solid):
    vertices, faces = arrays(solid)
    lines = ["solid block"]
    for corner in vertices[faces]:
        lines += [
            "facet normal 0 0 0",
            "outer loop",
            *(f"vertex {x:g} {y:g} {z:g}" for x, y, z in corner),
            "endloop",
            "endfacet",
        ]
    return "\n".join([*lines, "endsolid block"]).encode()


def mesh_xml(solid):
    vertices, faces = arrays(solid)
    points = "".join(f'<vertex x="{x}" y="{y}" z="{z}"/>' for x, y, z in vertices)
    triangles = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in faces)
    return f"<mesh><vertices>{points}</vertices><triangles>{triangles}</triangles></mesh>"


def written_by_lib3mf(unit, components, item):
    """A 3MF file with a box of 1 × 2 × 3, and the two corners (2, 3) between which it then lies, in
    the file's unit. The box is placed by nested components, the innermost first, and by a build
    item; each is a transform (4, 3).
    """
    made = lib3mf.get_wrapper().CreateModel()
    made.SetUnit(getattr(lib3mf.ModelUnit, unit))
    mesh = m3.Manifold.cube((1.0, 2.0, 3.0)).to_mesh()
    corners = np.asarray(mesh.vert_properties, np.float64)[:, :3]
    found = made.AddMeshObject()
    found.SetGeometry(
        [lib3mf.Position(tuple(map(float, point))) for point in corners],
        [lib3mf.Triangle(tuple(map(int, face))) for face in mesh.tri_verts],
    )
    for matrix in components:
        outer = made.AddComponentsObject()
        outer.AddComponent(found, transform(matrix))
        found, corners = outer, np.c_[corners, np.ones(len(corners))] @ matrix
    made.AddBuildItem(found, transform(item))
    corners = np.c_[corners, np.ones(len(corners))] @ item
    data = bytes(made.QueryWriter("3mf").WriteToBuffer())
    return data, np.stack([corners.min(axis=0), corners.max(axis=0)])


def transform(matrix):
    rows = [(ctypes.c_float * 3)(*row) for row in matrix.tolist()]
    return lib3mf.Transform((ctypes.c_float * 3 * 4)(*rows))


def threemf(model, name="3D/3dmodel.model"):
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("[Content_Types].xml", "<Types/>")
        archive.writestr(name, model)
    return stream.getvalue()


def model(resources, build, unit="millimeter"):
    return (
        f'<?xml version="1.0"?><model unit="{unit}" '
        f"{NAMESPACE}><resources>{resources}</resources><build>{build}</build></model>"
    )


class Formats(unittest.TestCase):
    def test_every_format_gives_the_cube(self):
        vertices, faces = arrays(cube(10))
        mesh = trimesh.Trimesh(vertices, faces, process=False)
        files = {
            "a.stl": stl(cube(10)),
            "text.stl": text_stl(cube(10)),
            "a.obj": mesh.export(file_type="obj").encode(),
            "a.ply": mesh.export(file_type="ply"),
            "ascii.ply": mesh.export(file_type="ply", encoding="ascii"),
            "a.3mf": threemf(
                model(f'<object id="1">{mesh_xml(cube(10))}</object>', '<item objectid="1"/>')
            ),
        }
        for name, data in files.items():
            part = load_part(data, name)
            self.assertAlmostEqual(part.volume, 1000, 3, name)
            self.assertEqual(part.triangles_in_file, 12, name)
            self.assertEqual(part.mended, (), name)

    def test_the_content_decides_and_not_the_name(self):
        self.assertAlmostEqual(load_part(stl(cube(10)), "wrong.obj").volume, 1000, 3)
        self.assertAlmostEqual(load_part(text_stl(cube(10)), "wrong.ply").volume, 1000, 3)

    def test_binary_that_begins_with_the_word_solid(self):
        data = b"solid but binary".ljust(80) + stl(cube(10))[80:]
        self.assertAlmostEqual(load_part(data, "a.stl").volume, 1000, 3)


class ThreeMf(unittest.TestCase):
    def test_units(self):
        for unit, factor in (
            ("micron", 0.001),
            ("centimeter", 10),
            ("inch", 25.4),
            ("foot", 304.8),
            ("meter", 1000),
        ):
            data = threemf(
                model(f'<object id="1">{mesh_xml(cube(1))}</object>', '<item objectid="1"/>', unit)
            )
            self.assertAlmostEqual(load_part(data, "a.3mf").volume / factor**3, 1, 5, unit)

    def test_components_and_transforms_multiply(self):
        resources = (
            f'<object id="1">{mesh_xml(cube(10))}</object>'
            '<object id="2"><components><component objectid="1" transform="2 0 0 0 2 0 0 0 2 '
            '0 0 0"/>'
            '<component objectid="1" transform="1 0 0 0 1 0 0 0 1 100 0 0"/></components></object>'
        )
        part = load_part(
            threemf(model(resources, '<item objectid="2" transform="1 0 0 0 1 0 0 0 3 0 0 0"/>')),
            "a.3mf",
        )
        self.assertEqual(len(part.bodies), 2)
        self.assertAlmostEqual(part.volume, 3 * (8000 + 1000), 3)
        np.testing.assert_allclose(part.box, [[0, 0, 0], [110, 20, 60]], atol=1e-6)

    def test_every_unit_and_transform_as_the_reference_library_writes_them(self):
        units = {
            "MicroMeter": 0.001,
            "MilliMeter": 1,
            "CentiMeter": 10,
            "Inch": 25.4,
            "Foot": 304.8,
            "Meter": 1000,
        }
        plain = np.eye(4)[:, :3]
        shift = np.r_[np.eye(3), [[3.0, -2.0, 1.5]]]
        turned = np.array([[0.0, 1, 0], [-1, 0, 0], [0, 0, 1], [4, 5, 6]])
        mirrored = np.array([[-1.0, 0, 0], [0, 1, 0], [0, 0, 1], [7, 0, 2]])
        scaled = np.array([[2.0, 0, 0], [0, 3, 0], [0, 0, 0.5], [-3, 8, 1]])
        every = (plain, shift, turned, mirrored, scaled)
        for unit, factor in units.items():
            for component in every:
                for item in every:
                    data, box = written_by_lib3mf(unit, (component, shift), item)
                    part = load_part(data, "a.3mf")
                    np.testing.assert_allclose(part.box, factor * box, rtol=1e-5, atol=1e-4)
                    self.assertEqual(part.mended, ())

    def test_bytes_behind_the_last_triangle_are_left(self):
        data = stl(cube(10))
        self.assertAlmostEqual(load_part(data + b"made by hand", "a.stl").volume, 1000, 3)
        with self.assertRaisesRegex(InputError, "cut short"):
            load_part(data[:-60], "a.stl")

    def test_a_mirrored_item_is_not_inside_out(self):
        data = threemf(
            model(
                f'<object id="1">{mesh_xml(cube(10))}</object>',
                '<item objectid="1" transform="-1 0 0 0 1 0 0 0 1 0 0 0"/>',
            )
        )
        part = load_part(data, "a.3mf")
        self.assertAlmostEqual(part.volume, 1000, 3)
        self.assertEqual(part.mended, ())

    def test_only_what_is_on_the_build_comes_in(self):
        resources = (
            f'<object id="1">{mesh_xml(cube(10))}</object><object '
            f'id="2">{mesh_xml(cube(20))}</object>'
        )
        self.assertAlmostEqual(
            load_part(threemf(model(resources, '<item objectid="2"/>')), "a.3mf").volume, 8000, 2
        )

    def test_what_an_extension_calls_a_vertex_is_none_of_ours(self):
        sliced = (
            '<s:slicestack xmlns:s="urn:slices" id="7"><s:slice ztop="1"><s:vertices>'
            '<s:vertex x="0" y="0"/></s:vertices></s:slice></s:slicestack>'
        )
        resources = f'{sliced}<object id="1">{mesh_xml(cube(10))}</object>'
        data = threemf(model(resources, '<item objectid="1"/>'))
        self.assertAlmostEqual(load_part(data, "a.3mf").volume, 1000, 3)
        # without any namespace too
        plain = model(f'<object id="1">{mesh_xml(cube(10))}</object>', "").replace(NAMESPACE, "")
        self.assertAlmostEqual(load_part(threemf(plain), "a.3mf").volume, 1000, 3)

    def test_attacks_are_refused(self):
        bomb = (
            '<?xml version="1.0"?><!DOCTYPE m [<!ENTITY a "aaaa"><!ENTITY b '
            '"&a;&a;&a;">]><model>&b;</model>'
        )
        circle = '<object id="1"><components><component objectid="1"/></components></object>'
        doubling = (
            "".join(
                f'<object id="{k}"><components><component objectid="{k + 1}"/><component '
                f'objectid="{k + 1}"/></components></object>'
                for k in range(1, 15)
            )
            + f'<object id="15">{mesh_xml(cube(1))}</object>'
        )
        for data, words in (
            (threemf(bomb), "entities"),
            (threemf(" " * 60_000_000 + "<model/>"), "unpack from"),
            (threemf(model(circle, '<item objectid="1"/>')), "contain each other"),
            (threemf(model(doubling, '<item objectid="1"/>')), "more objects"),
            (threemf(model("", '<item objectid="9"/>')), "does not define"),
            (threemf("<model"), "not well-formed"),
            (threemf("<x/>", "readme.txt"), "no 3D model"),
            (threemf("<model/>")[:-30], "damaged"),
        ):
            with self.assertRaises(InputError) as caught:
                load_part(data, "a.3mf")
            self.assertIn(words, str(caught.exception))


class Hostile(unittest.TestCase):
    def refused(self, data, words, name="a.stl"):
        with self.assertRaises(InputError) as caught:
            load_part(data, name)
        self.assertIn(words, str(caught.exception))

    def test_truncated_and_lying_files(self):
        whole = stl(cube())
        self.refused(b"", "empty")
        self.refused(whole[:-30], "cut short")
        self.refused(
            b"x" * 80 + struct.pack("<I", 10_000_000) + b"\0" * 900, "declares 10,000,000 triangles"
        )
        self.refused(text_stl(cube())[:-200], "cut short")
        self.refused(b"hello there, this is a letter", "no STL")
        ply = b"ply\nformat ascii 1.0\nelement vertex 10000000\nproperty float x\nend_header\n0\n"
        self.refused(ply, "declares 10,000,000", "a.ply")
        self.refused(b"v 1 2\nf 1 2 3\n" + b"v " * 10, "a.obj", "a.obj")

    def test_numbers_that_are_none(self):
        for value in (np.nan, np.inf, -np.inf):
            data = bytearray(stl(cube()))
            data[84 + 12 : 84 + 16] = struct.pack("<f", value)
            self.refused(bytes(data), "not numbers")
        self.refused(stl(cube().translate((2e6, 0, 0))), "from the origin")

    def test_what_cannot_be_a_solid(self):
        vertices, faces = arrays(cube())
        flat = vertices.copy()
        flat[:, 2] = 0
        from northpace.part.stl import binary_stl

        self.refused(binary_stl(flat, faces), "one plane")
        self.refused(binary_stl(vertices, faces[:2]), "fewer than four")

    def test_every_prefix_of_a_file_is_read_or_refused(self):
        for data, name in ((stl(cube()), "a.stl"), (text_stl(cube()), "t.stl")):
            for end in range(0, len(data), 97):
                try:
                    load_bodies(data[:end], name)
                except InputError as error:
                    self.assertTrue(error.message)
