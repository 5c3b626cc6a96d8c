"""Read 3MF: units honoured, several objects, components and transforms, against hostile
archives.
"""

from __future__ import annotations

import io
import posixpath
import zipfile

import numpy as np
from lxml import etree

from northpace.errors import InputError
from northpace.part.body import FARTHEST, MOST_TRIANGLES, Body

UNITS = {
    "micron": 0.001,
    "millimeter": 1.0,
    "centimeter": 10.0,
    "inch": 25.4,
    "foot": 304.8,
    "meter": 1000.0,
}
#: A model part that unpacks to more than this, or is packed tighter than text ever is, is an attack
#: and not a part.
MOST_UNPACKED = 1_500_000_000
TIGHTEST = 200
DEEPEST = 16
MOST_PLACED = 2000


def read_3mf(data: bytes) -> list[Body]:
    """Bodies of every build item (of every object when nothing is on the build), transformed, in
    mm.
    """
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
    except zipfile.BadZipFile as error:
        raise InputError("the 3MF archive is damaged or cut short") from error
    models = {}
    for info in archive.infolist():
        if not info.filename.lower().endswith(".model"):
            continue
        packed = max(info.compress_size, 1)
        if info.file_size > MOST_UNPACKED or (
            info.file_size > 5_000_000 and info.file_size / packed > TIGHTEST
        ):
            raise InputError(
                f"'{info.filename}' unpacks from {packed:,} to {info.file_size:,} bytes; that "
                "is refused"
            )
        models["/" + info.filename.lstrip("/")] = _parse(archive, info)
    if not models:
        raise InputError("the archive holds no 3D model")
    root = next(
        (name for name in models if name.lower() == "/3d/3dmodel.model"), next(iter(models))
    )
    return _Reader(models).build(root)


def _parse(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> etree._Element:
    with archive.open(info) as stream:
        text = stream.read(info.file_size + 1)
    if len(text) > info.file_size:
        raise InputError(f"'{info.filename}' is longer than the archive says; that is refused")
    if b"<!DOCTYPE" in text or b"<!ENTITY" in text or b"<!doctype" in text:
        raise InputError(
            f"'{info.filename}' declares XML entities, which no 3MF needs; that is refused"
        )
    parser = etree.XMLParser(
        resolve_entities=False,
        no_network=True,
        load_dtd=False,
        huge_tree=True,
        remove_comments=True,
    )
    try:
        return etree.fromstring(text, parser)
    except etree.XMLSyntaxError as error:
        raise InputError(f"'{info.filename}' is not well-formed XML: {error.msg}") from error


def _transform(text: str | None) -> np.ndarray:
    if not text:
        return np.eye(4)
    numbers = np.array(text.split(), np.float64)
    if len(numbers) != 12 or not np.isfinite(numbers).all():
        raise InputError("a transform of the 3MF file is not twelve numbers")
    matrix = np.eye(4)
    matrix[:, :3] = numbers.reshape(4, 3)  # row vectors: point · matrix
    return matrix


class _Reader:
    """Walks items and components; holds the parsed models because a component may name an object of
    another one.
    """

    def __init__(self, models: dict[str, etree._Element]) -> None:
        self.models = models
        self.bodies: list[Body] = []
        self.meshes: dict[tuple[str, str], tuple[np.ndarray, np.ndarray]] = {}
        self.objects = {
            name: {item.get("id"): item for item in model.iterfind(".//{*}resources/{*}object")}
            for name, model in models.items()
        }

    def build(self, root: str) -> list[Body]:
        items = self.models[root].findall("{*}build/{*}item")
        if items:
            for item in items:
                self._place(
                    self._path(item, root),
                    item.get("objectid"),
                    _transform(item.get("transform")),
                    0,
                )
        else:
            for key in self.objects[root]:
                self._place(root, key, np.eye(4), 0)
        return self.bodies

    def _path(self, element: etree._Element, base: str) -> str:
        for key, value in element.attrib.items():
            if str(key).endswith("}path"):
                return posixpath.normpath("/" + str(value).lstrip("/"))
        return base

    def _place(self, model: str, key: str | None, matrix: np.ndarray, depth: int) -> None:
        if depth > DEEPEST:
            raise InputError("components of the 3MF file contain each other")
        item = self.objects.get(model, {}).get(key)
        if item is None:
            raise InputError(f"the 3MF file places object '{key}', which it does not define")
        if item.get("type", "model") not in ("model", "solidsupport"):
            return
        if item.find("{*}mesh") is not None:
            vertices, faces = self._mesh(model, str(key), item)
            points = np.c_[vertices, np.ones(len(vertices))] @ matrix
            if np.linalg.det(matrix[:3, :3]) < 0:  # a mirrored item would come in inside out
                faces = faces[:, ::-1]
            self.bodies.append(Body(points[:, :3], faces, item.get("name") or f"object {key}"))
            if (
                len(self.bodies) > MOST_PLACED
                or sum(len(body.faces) for body in self.bodies) > MOST_TRIANGLES
            ):
                raise InputError("the 3MF file places more objects or triangles than any bed holds")
        for part in item.iterfind("{*}components/{*}component"):
            self._place(
                self._path(part, model),
                part.get("objectid"),
                _transform(part.get("transform")) @ matrix,
                depth + 1,
            )

    def _mesh(self, model: str, key: str, item: etree._Element) -> tuple[np.ndarray, np.ndarray]:
        if (model, key) not in self.meshes:
            unit = self.models[model].get("unit", "millimeter").lower()
            if unit not in UNITS:
                raise InputError(f"the 3MF file is in '{unit}'; known units are {', '.join(UNITS)}")
            points = [
                np.array(
                    item.xpath(f"*[local-name()='mesh']/*[local-name()='vertices']/*/@{axis}"),
                    np.float64,
                )
                for axis in "xyz"
            ]
            corners = [
                np.array(
                    item.xpath(f"*[local-name()='mesh']/*[local-name()='triangles']/*/@{name}"),
                    np.int64,
                )
                for name in ("v1", "v2", "v3")
            ]
            if (
                len({len(column) for column in points}) != 1
                or len({len(column) for column in corners}) != 1
            ):
                raise InputError(
                    f"object '{key}' of the 3MF file has incomplete vertices or triangles"
                )
            vertices = np.stack(points, axis=1) * UNITS[unit]
            if (
                len(vertices)
                and np.isfinite(vertices).all()
                and np.abs(vertices).max() > 1000 * FARTHEST
            ):
                raise InputError(f"object '{key}' of the 3MF file is larger than any machine")
            self.meshes[model, key] = vertices, np.stack(corners, axis=1)
        return self.meshes[model, key]
