"""Read STL, OBJ, PLY and 3MF into bodies: vertices in mm and triangles, nothing mended yet.

Every reader distrusts its file: sizes are checked against the bytes present before anything is
allocated.
"""

from __future__ import annotations

import io
import re
from typing import Any

import numpy as np

from northpace.errors import InputError
from northpace.part.body import FARTHEST, MOST_BYTES, MOST_TRIANGLES, Body
from northpace.part.threemf import read_3mf

#: A corner of a text file, and the word that begins it.
VERTEX = re.compile(rb"\bvertex\s+(\S{1,40})\s+(\S{1,40})\s+(\S{1,40})(?=\s)")
OBJECT = re.compile(rb"^\s*o\s", re.MULTILINE)
WORD = re.compile(rb"(?:^|\s)vertex\s")
#: With more objects than this a file is read as one, and its bodies are told apart afterwards.
MOST_OBJECTS = 500


def load_bodies(data: bytes, filename: str) -> list[Body]:
    """Bodies of a mesh file; the format is told by its content, and the name only decides between
    text formats.

    Raises `InputError` saying what is wrong with the file.
    """
    if not data:
        raise InputError("the file is empty", filename)
    if len(data) > MOST_BYTES:
        raise InputError(
            f"the file has {len(data) / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are read",
            filename,
        )
    reader = _reader_for(data, filename)
    try:
        bodies = reader(data)
    except InputError as error:
        raise InputError(error.message, filename) from error
    except MemoryError:
        raise
    except Exception as error:  # a third-party reader may fail in any way on a hostile file
        raise InputError(
            f"the file is damaged and cannot be read ({type(error).__name__})", filename
        ) from error
    kept = [body for body in bodies if len(body.faces)]
    if not kept:
        raise InputError("the file holds no triangles", filename)
    if sum(len(body.faces) for body in kept) > MOST_TRIANGLES:
        raise InputError(
            f"the file has more than {MOST_TRIANGLES:,} triangles; thin it out first", filename
        )
    for body in kept:
        _check_numbers(body, filename)
    return kept


def _reader_for(data: bytes, filename: str):  # type: ignore[no-untyped-def]
    head = data[:1024]
    suffix = filename.rsplit(".", 1)[-1].lower() if "." in filename else ""
    if head[:2] == b"PK":
        return read_3mf
    if head[:3] == b"ply":
        return _read_ply
    if _is_binary_stl(data):
        return _read_binary_stl
    if head.lstrip()[:5].lower() == b"solid" and b"facet" in data[:4096].lower():
        return _read_text_stl
    if suffix == "stl" and len(data) >= 84 and b"\0" in head:
        return _read_binary_stl
    if suffix == "obj" or any(line.startswith((b"v ", b"vn ")) for line in head.splitlines()):
        return _read_obj
    raise InputError("this is no STL, OBJ, PLY or 3MF file by its content", filename)


def _is_binary_stl(data: bytes) -> bool:
    return len(data) >= 84 and len(data) == 84 + 50 * int.from_bytes(data[80:84], "little")


def _read_binary_stl(data: bytes) -> list[Body]:
    count = int.from_bytes(data[80:84], "little")
    present = (len(data) - 84) // 50
    # some programs write bytes of their own behind the last triangle, which does no harm
    if count > present:
        raise InputError(
            f"the file declares {count:,} triangles but holds bytes for {present:,}; it is "
            "cut short or damaged"
        )
    record = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
    with np.errstate(invalid="ignore"):  # what is no number is refused below, by its place
        corners = np.frombuffer(data, record, count, 84)["corners"].astype(np.float64)
    return [Body(corners.reshape(-1, 3), np.arange(3 * count).reshape(-1, 3))]


def _read_text_stl(data: bytes) -> list[Body]:
    if b"endsolid" not in data[-4096:].lower():
        raise InputError("the text file ends before 'endsolid'; it is cut short")
    bodies = []
    for number, block in enumerate(data.lower().split(b"endsolid")[:-1]):
        # no number is longer: one word of any length would widen all others
        words = VERTEX.findall(block)
        if not words:
            continue
        if len(words) % 3 or len(words) != len(WORD.findall(block)):
            raise InputError("a facet of the text file has no three corners")
        corners = np.array(words).astype(np.float64)
        bodies.append(Body(corners, np.arange(len(corners)).reshape(-1, 3), f"body {number + 1}"))
    return bodies


def _read_ply(data: bytes) -> list[Body]:
    head, found, rest = data.partition(b"end_header")
    if not found:
        raise InputError("the PLY header has no end")
    for line in head.splitlines():
        words = line.split()
        if (
            len(words) == 3
            and words[0] == b"element"
            and words[2].isdigit()
            and int(words[2]) > len(rest)
        ):
            raise InputError(
                f"the file declares {int(words[2]):,} of '{words[1].decode(errors='replace')}' "
                f"but is only {len(data):,} bytes long"
            )
    return _through_trimesh(data, "ply")


def _read_obj(data: bytes) -> list[Body]:
    # each object would hold all corners of the file
    split = len(OBJECT.findall(data)) <= MOST_OBJECTS
    return _through_trimesh(
        data, "obj", split_objects=split, group_material=False, skip_materials=True
    )


def _through_trimesh(data: bytes, kind: str, **options: Any) -> list[Body]:
    # a third of a second and 30 MB, which no process needs that reads other formats
    import trimesh

    scene = trimesh.load_scene(
        io.BytesIO(data), file_type=kind, process=False, maintain_order=True, **options
    )
    return [
        Body(np.asarray(mesh.vertices, np.float64), np.asarray(mesh.faces, np.int64), str(name))
        for name, mesh in scene.geometry.items()
        if isinstance(mesh, trimesh.Trimesh)
    ]


def _check_numbers(body: Body, filename: str) -> None:
    wrong = ~np.isfinite(body.vertices).all(axis=1)
    if wrong.any():
        raise InputError(
            f"{int(wrong.sum()):,} corners are not numbers (first at corner "
            f"{int(wrong.argmax()):,})",
            filename,
        )
    if body.faces.min() < 0 or body.faces.max() >= len(body.vertices):
        raise InputError("triangles name corners that the file does not have", filename)
    farthest = float(np.abs(body.vertices).max())
    if farthest > FARTHEST:
        raise InputError(
            f"a corner lies {farthest:.3g} mm from the origin; at most {FARTHEST:,.0f} mm are "
            "allowed",
            filename,
        )
