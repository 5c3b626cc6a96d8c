"""Read 3MF: units honoured, several objects, components and transforms, against hostile
archives. Models are read as a stream, so that what is kept is the numbers and not the text.
"""

from __future__ import annotations

import io
import posixpath
import zipfile
from array import array
from dataclasses import dataclass, field
from typing import NoReturn
from xml.parsers import expat

import numpy as np

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
#: Models that together unpack to more than this, or are packed tighter than text ever is, are an
#: attack and not a part.
MOST_UNPACKED = 1_500_000_000
TIGHTEST, SMALL = 200, 5_000_000
DEEPEST = 16
#: Bodies, and objects with or without one, that a build comes to.
MOST_PLACED, MOST_VISITED = 2000, 20_000
#: What is read at a time (bytes).
PIECE = 1 << 20


@dataclass
class _Object:
    """An object of a model: a mesh (x y z and corner numbers in a row), or components of others."""

    kind: str
    name: str
    points: array = field(default_factory=lambda: array("d"))
    corners: array = field(default_factory=lambda: array("q"))
    meshed: bool = False
    parts: list[_Placing] = field(default_factory=list)


@dataclass(frozen=True)
class _Placing:
    """An object, of this model or of the one at a path, with its transform."""

    path: str
    key: str | None
    matrix: np.ndarray


@dataclass
class _Model:
    """What a model file says."""

    unit: str = "millimeter"
    objects: dict[str, _Object] = field(default_factory=dict)
    items: list[_Placing] = field(default_factory=list)


def read_3mf(data: bytes) -> list[Body]:
    """Bodies of every build item (of every object when nothing is on the build), transformed, in
    mm.
    """
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
    except zipfile.BadZipFile as error:
        raise InputError("the 3MF archive is damaged or cut short") from error
    entries = [info for info in archive.infolist() if info.filename.lower().endswith(".model")]
    if not entries:
        raise InputError("the archive holds no 3D model")
    packed = max(sum(info.compress_size for info in entries), 1)
    unpacked = sum(info.file_size for info in entries)
    if unpacked > MOST_UNPACKED or (unpacked > SMALL and unpacked / packed > TIGHTEST):
        raise InputError(
            f"its models unpack from {packed:,} to {unpacked:,} bytes; that is refused"
        )
    models = {"/" + info.filename.lstrip("/"): _read(archive, info) for info in entries}
    root = next(
        (name for name in models if name.lower() == "/3d/3dmodel.model"), next(iter(models))
    )
    return _Build(models).bodies_of(root)


def _read(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> _Model:
    """One model of the archive."""
    reader = _Reader(info.filename)
    length = 0
    try:
        with archive.open(info) as stream:
            for piece in iter(lambda: stream.read(PIECE), b""):
                length += len(piece)
                if length > info.file_size:
                    raise InputError(
                        f"'{info.filename}' is longer than the archive says; that is refused"
                    )
                reader.parser.Parse(piece, False)
        reader.parser.Parse(b"", True)
    except expat.ExpatError as error:
        raise InputError(
            f"'{info.filename}' is not well-formed XML: {expat.errors.messages[error.code]}, "
            f"line {error.lineno}"
        ) from error
    return reader.model


class _Reader:
    """Takes in the elements of a model as they come."""

    def __init__(self, filename: str) -> None:
        self.filename = filename
        self.model = _Model()
        self._key, self._object = "", _Object("", "")
        self._before: str | None = None
        self.parser = expat.ParserCreate(namespace_separator="}")
        self.parser.StartElementHandler = self._begin
        self.parser.StartDoctypeDeclHandler = self._refuse

    def _refuse(self, *_: object) -> NoReturn:
        raise InputError(
            f"'{self.filename}' declares XML entities, which no 3MF needs; that is refused"
        )

    def _begin(self, name: str, values: dict[str, str]) -> None:
        if self._before is None:
            # the root's own names alone: extensions have vertices and triangles of other kinds
            self._before = name[: name.rfind("}") + 1]
        if not name.startswith(self._before):
            return
        take = self._TAKE.get(name[len(self._before) :])
        if take is None:
            return
        try:
            take(self, values)
        except KeyError as error:
            raise InputError(
                f"object '{self._key}' of the 3MF file has incomplete vertices or triangles"
            ) from error

    def _take_model(self, values: dict[str, str]) -> None:
        self.model.unit = values.get("unit", "millimeter").lower()
        if self.model.unit not in UNITS:
            raise InputError(
                f"the 3MF file is in '{self.model.unit}'; known units are {', '.join(UNITS)}"
            )

    def _take_object(self, values: dict[str, str]) -> None:
        self._key = values.get("id", "")
        self._object = _Object(values.get("type", "model"), values.get("name", ""))
        self.model.objects[self._key] = self._object

    def _take_mesh(self, values: dict[str, str]) -> None:
        self._object.meshed = True

    def _take_vertex(self, values: dict[str, str]) -> None:
        self._object.points.extend((float(values["x"]), float(values["y"]), float(values["z"])))

    def _take_triangle(self, values: dict[str, str]) -> None:
        self._object.corners.extend((int(values["v1"]), int(values["v2"]), int(values["v3"])))
        if len(self._object.corners) > 3 * MOST_TRIANGLES:
            raise InputError(f"the file has more than {MOST_TRIANGLES:,} triangles")

    def _take_component(self, values: dict[str, str]) -> None:
        self._object.parts.append(_placing(values))

    def _take_item(self, values: dict[str, str]) -> None:
        self.model.items.append(_placing(values))

    _TAKE = {
        "model": _take_model,
        "object": _take_object,
        "mesh": _take_mesh,
        "vertex": _take_vertex,
        "triangle": _take_triangle,
        "component": _take_component,
        "item": _take_item,
    }


def _placing(values: dict[str, str]) -> _Placing:
    path = next((value for key, value in values.items() if key.endswith("}path")), "")
    return _Placing(
        posixpath.normpath("/" + path.lstrip("/")) if path else "",
        values.get("objectid"),
        _transform(values.get("transform")),
    )


def _transform(text: str | None) -> np.ndarray:
    if not text:
        return np.eye(4)
    numbers = np.array(text.split(), np.float64)
    if len(numbers) != 12 or not np.isfinite(numbers).all():
        raise InputError("a transform of the 3MF file is not twelve numbers")
    matrix = np.eye(4)
    matrix[:, :3] = numbers.reshape(4, 3)  # row vectors: point · matrix
    return matrix


class _Build:
    """Walks items and components; holds all models because a component may name an object of
    another one.
    """

    def __init__(self, models: dict[str, _Model]) -> None:
        self.models = models
        self.bodies: list[Body] = []
        self._visited = self._triangles = 0

    def bodies_of(self, root: str) -> list[Body]:
        """Bodies of a model's build."""
        model = self.models[root]
        every = [_Placing("", key, np.eye(4)) for key in model.objects]
        for item in model.items or every:
            self._place(item.path or root, item.key, self._in_mm(item, root), 0)
        return self.bodies

    def _place(self, model: str, key: str | None, matrix: np.ndarray, depth: int) -> None:
        if depth > DEEPEST:
            raise InputError("components of the 3MF file contain each other")
        found = self.models[model].objects.get(key or "") if model in self.models else None
        if found is None:
            raise InputError(f"the 3MF file places object '{key}', which it does not define")
        if found.kind not in ("model", "solidsupport"):
            return
        self._visited += 1
        self._triangles += len(found.corners) // 3
        if (
            self._visited > MOST_VISITED
            or len(self.bodies) > MOST_PLACED
            or self._triangles > MOST_TRIANGLES
        ):
            raise InputError("the 3MF file places more objects or triangles than any bed holds")
        if found.meshed:
            self._add(found, str(key), UNITS[self.models[model].unit], matrix)
        for part in found.parts:
            own = self._in_mm(part, model)
            self._place(part.path or model, part.key, own @ matrix, depth + 1)

    def _in_mm(self, placing: _Placing, model: str) -> np.ndarray:
        """(4, 4) a transform with its shift in mm. The file gives it in the unit of the ``model``
        that the transform stands in.
        """
        matrix = placing.matrix.copy()
        matrix[3, :3] *= UNITS[self.models[model].unit]
        return matrix

    def _add(self, found: _Object, key: str, unit: float, matrix: np.ndarray) -> None:
        vertices = np.frombuffer(found.points, np.float64).reshape(-1, 3) * unit
        faces = np.frombuffer(found.corners, np.int64).reshape(-1, 3)
        if (
            len(vertices)
            and np.isfinite(vertices).all()
            and np.abs(vertices).max() > 1000 * FARTHEST
        ):
            raise InputError(f"object '{key}' of the 3MF file is larger than any machine")
        points = np.c_[vertices, np.ones(len(vertices))] @ matrix
        if np.linalg.det(matrix[:3, :3]) < 0:  # a mirrored item would come in inside out
            faces = faces[:, ::-1]
        self.bodies.append(Body(points[:, :3], faces, found.name or f"object {key}"))
