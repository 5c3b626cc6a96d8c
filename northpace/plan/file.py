"""A plan as a file: a 3MF with the part as it stands, the mesh file it was made from, and every
setting, so that it is read back to the same plan.

Any program that reads 3MF sees the part standing on the bed. What is ours lies beside the model:
`Metadata/plan.json` and the part's own file, bit by bit, because coordinates written anew would be
other coordinates.
"""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from pathlib import PurePath
from typing import Any, NamedTuple

import manifold3d as m3
import numpy as np

from northpace import VERSION
from northpace.errors import InputError
from northpace.estimate.rates import Correction
from northpace.part.body import MOST_BYTES
from northpace.part.place import Placed
from northpace.plan.source import Source
from northpace.spec import PlanSpec
from northpace.spec.kept import VERSION as SPEC_VERSION
from northpace.spec.kept import spec_kept

FORMAT = "north-pace-plan"
PLAN = "Metadata/plan.json"
PART = "Metadata/part/"
MODEL = "3D/3dmodel.model"
#: What settings take at most, unpacked (bytes): strokes and marks by the thousand are far less.
MOST_SETTINGS = 20_000_000
#: What is unpacked takes at most so many times what it takes packed, and so many bytes more:
#: meshes and settings are far from that, an archive that is made to fill the memory is not.
MOST_RATIO, LITTLE = 100, 1_000_000

TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" '
    'ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" '
    'ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/>'
    '<Default Extension="json" ContentType="application/json"/>'
    "{more}</Types>"
)
RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    f'<Relationship Target="/{MODEL}" Id="model" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
)
#: The archive says the same whenever it is written.
WHEN = (1980, 1, 1, 0, 0, 0)


class PlanFile(NamedTuple):
    """What a plan's file holds."""

    source: Source
    spec: PlanSpec
    name: str
    #: how far quick figures were off when its heights were chosen
    correction: Correction | None


def write_plan(file: PlanFile, placed: Placed) -> bytes:
    """The file of a plan; ``placed``: its part as it stands."""
    inner = PART + (PurePath(file.source.filename).name or "part.stl")
    suffix = PurePath(inner).suffix.lstrip(".").lower() or "stl"
    more = (
        ""
        if suffix in ("rels", "model", "json")
        else f'<Default Extension="{suffix}" ContentType="application/octet-stream"/>'
    )
    plan = {
        "format": FORMAT,
        "core": VERSION,
        "spec_version": SPEC_VERSION,
        "name": file.name,
        "part": inner,
        "sha256": file.source.checksum,
        "correction": file.correction,
        "spec": file.spec.model_dump(mode="json"),
    }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in (
            ("[Content_Types].xml", TYPES.format(more=more).encode()),
            ("_rels/.rels", RELATIONS.encode()),
            (MODEL, _model(placed.bodies, file.spec.machine.origin)),
            (PLAN, json.dumps(plan, indent=1, ensure_ascii=False).encode()),
            (inner, file.source.read()),
        ):
            info = zipfile.ZipInfo(name, WHEN)
            info.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(info, data)
    return out.getvalue()


def _model(bodies: tuple[m3.Manifold, ...], origin: tuple[float, float]) -> bytes:
    """The bodies as they stand, a 3MF object each, from the corner of the bed."""
    out = io.BytesIO()
    out.write(
        b'<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xml:lang="en" '
        b'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">\n<resources>\n'
    )
    for k, body in enumerate(bodies, 1):
        mesh = body.to_mesh()
        out.write(f'<object id="{k}" type="model"><mesh><vertices>\n'.encode())
        points = np.asarray(mesh.vert_properties, np.float64)[:, :3] + [*origin, 0.0]
        np.savetxt(out, points, '<vertex x="%.6g" y="%.6g" z="%.6g"/>')
        out.write(b"</vertices><triangles>\n")
        np.savetxt(out, mesh.tri_verts, '<triangle v1="%d" v2="%d" v3="%d"/>')
        out.write(b"</triangles></mesh></object>\n")
    items = "".join(f'<item objectid="{k}"/>' for k in range(1, len(bodies) + 1))
    out.write(f"</resources>\n<build>{items}</build>\n</model>\n".encode())
    return out.getvalue()


def read_plan(data: bytes) -> PlanFile | None:
    """The plan in a file; nothing where it is a mesh file like any other. Raises `InputError` for a
    plan's file that is damaged or made to do harm.
    """
    if not data.startswith(b"PK"):
        return None
    try:
        return _read(data)
    except (InputError, MemoryError):
        raise
    except zipfile.BadZipFile as error:
        raise InputError("the 3MF archive is damaged or cut short") from error
    except Exception as error:  # packing, JSON and settings of strangers may fail in any way
        raise InputError(
            f"the plan in the file cannot be read ({type(error).__name__}); the part alone can, "
            "saved as a mesh by the program that opens it"
        ) from error


def _read(data: bytes) -> PlanFile | None:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        if PLAN not in archive.namelist():
            return None
        try:
            plan = json.loads(_unpacked(archive, PLAN, MOST_SETTINGS))
        except ValueError as error:
            raise InputError(f"the settings in the plan's file are no JSON ({error})") from error
        if not isinstance(plan, dict) or plan.get("format") != FORMAT:
            return None
        inner = str(plan.get("part", ""))
        if not inner.startswith(PART):
            raise InputError("the plan's file does not say which part it is for")
        part = _unpacked(archive, inner, MOST_BYTES)
    if hashlib.sha256(part).hexdigest() != plan.get("sha256"):
        raise InputError("the part in the plan's file is not the one it was made for")
    spec, version = plan.get("spec"), plan.get("spec_version")
    if not isinstance(spec, dict) or not all(isinstance(own, dict) for own in spec.values()):
        raise InputError("the plan's file holds no settings")
    return PlanFile(
        Source.of(part, PurePath(inner).name),
        spec_kept(spec, version if isinstance(version, int) and version > 0 else 0),
        str(plan.get("name", ""))[:120],
        _correction(plan.get("correction")),
    )


def _unpacked(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    """An entry, never more than what is allowed, whatever the archive says of it."""
    try:
        packed = archive.getinfo(name).compress_size
    except KeyError as error:
        raise InputError(f"the plan's file lacks '{name}'") from error
    most = min(most, LITTLE + MOST_RATIO * packed)
    with archive.open(name) as stream:
        data = stream.read(most + 1)
    if len(data) > most:
        raise InputError(f"'{name}' unpacks to over {most / 1e6:.0f} MB; that is refused")
    return data


def _correction(value: Any) -> Correction | None:
    """Ratios by kind and name, if that is what it is."""
    if not isinstance(value, dict):
        return None
    return {
        str(kind): {
            str(name): float(ratio)
            for name, ratio in ratios.items()
            if isinstance(ratio, int | float) and 0 < ratio < 1000
        }
        for kind, ratios in value.items()
        if isinstance(ratios, dict)
    }
