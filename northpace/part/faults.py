"""What is wrong with the mesh of a file, with its places, before anything is mended."""

from __future__ import annotations

from typing import Literal

import numpy as np
import scipy.sparse as sparse
from typing_extensions import TypedDict

from northpace.part.body import Body
from northpace.part.mend import weld
from northpace.part.notes import Notes
from northpace.part.shells import holding, too_small
from northpace.part.tree import crossings, tree_of
from northpace.part.triangles import (
    edge_numbers,
    face_numbers,
    make_consistent,
    shell_of_each,
)

Kind = Literal[
    "open",
    "turned",
    "double",
    "crowded",
    "flat",
    "crossing",
    "splinter",
    "cavity",
    "nested",
    "inward",
    "unit",
]
#: Most places that are listed of one kind, the largest first.
MOST_PLACES = 60
#: A triangle this much lower than it is long is thin as nothing.
FLAT = 1e-5
#: Greatest extents (mm) below and above which a file was hardly drawn in millimetres.
SMALL, LARGE = 3.0, 2000.0
#: Up to so many shells it is looked at what lies in what.
MOST_SHELLS = 3000


class Fault(TypedDict):
    """One kind of fault: how often, the largest (mm), where, largest first."""

    kind: Kind
    words: str
    count: int
    size_mm: float
    #: x, y, z in the file, mm
    places: list[list[float]]


def faults_of(bodies: list[Body]) -> list[Fault]:
    """What is wrong with the bodies of a file, each kind once."""
    found: dict[Kind, list[tuple[float, np.ndarray]]] = {}
    for body in bodies:
        for kind, size, place in _looked_at(body):
            found.setdefault(kind, []).extend(zip(size.tolist(), place, strict=True))
    out: list[Fault] = []
    for kind, entries in found.items():
        if not entries:
            continue
        entries.sort(key=lambda entry: -entry[0])
        largest = entries[0][0]
        places = [[round(float(v), 3) for v in place] for _, place in entries[:MOST_PLACES]]
        out.append(
            {
                "kind": kind,
                "words": _words(kind, len(entries), largest),
                "count": len(entries),
                "size_mm": largest,
                "places": places,
            }
        )
    return out + _unit(bodies)


def _words(kind: Kind, count: int, size: float) -> str:
    """What a maker reads."""
    many = "s" * (count > 1)
    return {
        "open": f"open edges in {count:,} place{many}, the widest {size:.2f} mm across",
        "turned": f"{count:,} triangle{many} that face{'s' * (count == 1)} the other way than "
        "those beside",
        "double": f"{count:,} triangle{many} that lie{'s' * (count == 1)} on another",
        "crowded": f"{count:,} edge{many} where more than two triangles meet",
        "flat": f"{count:,} triangle{many} thin as nothing",
        "crossing": f"{count:,} place{many} where the surface runs through itself",
        "splinter": f"{count:,} stray splinter{many}, the largest {size:.2f} mm",
        "cavity": f"{count:,} shell{many} inside another, facing inwards: a cavity or a fault",
        "nested": f"{count:,} shell{many} inside another, facing outwards: solid in solid",
        "inward": f"{count:,} shell{many} turned outside in",
        "unit": "",
    }[kind]


Found = tuple[Kind, np.ndarray, np.ndarray]


def _looked_at(body: Body) -> list[Found]:
    """Kind, sizes (N,) in mm and places (N, 3) of the faults of a body."""
    corners = body.vertices[body.faces]
    whole = max(float(np.ptp(corners.reshape(-1, 3), axis=0).max()), 1e-9)
    vertices, faces = weld(body.vertices, body.faces, Notes())
    found: list[Found] = [_flat(corners)]
    if len(faces) < 4:
        return found
    corners = vertices[faces]
    middle = corners.mean(axis=1)
    length = np.linalg.norm(np.ptp(corners, axis=1), axis=1)
    double = _double(faces)
    found.append(("double", length[double], middle[double]))
    found += _edges(vertices, faces)
    turned = _turned(faces)
    found.append(("turned", length[turned], middle[turned]))
    pairs = crossings(tree_of(vertices[faces]))
    where = np.unique(pairs[:, 0])
    found.append(("crossing", length[where], middle[where]))
    return found + _shells(vertices, faces, whole)


def _flat(corners: np.ndarray) -> Found:
    """Triangles without an area to speak of, or with two corners in one."""
    sides = corners - np.roll(corners, 1, axis=1)
    longest = np.linalg.norm(sides, axis=2).max(axis=1)
    double = np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1)
    flat = double <= FLAT * longest**2
    return "flat", longest[flat], corners[flat].mean(axis=1)


def _double(faces: np.ndarray) -> np.ndarray:
    """(F,) whether a triangle has the corners of one before it."""
    _, first = np.unique(face_numbers(faces), return_index=True)
    out = np.ones(len(faces), bool)
    out[first] = False
    return out


def _edges(vertices: np.ndarray, faces: np.ndarray) -> list[Found]:
    """Openings, each a chain of edges that belong to one triangle alone; and crowded edges."""
    size = np.int64(faces.max() + 1)
    keys, counts = np.unique(edge_numbers(faces), return_counts=True)
    alone, crowded = (
        np.stack([some // size, some % size], axis=1)
        for some in (keys[counts == 1], keys[counts > 2])
    )
    ends = vertices[crowded]
    out: list[Found] = [
        ("crowded", np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1), ends.mean(axis=1))
    ]
    if not len(alone):
        return out
    names, local = np.unique(alone, return_inverse=True)
    local = local.reshape(-1, 2)
    graph = sparse.coo_matrix(
        (np.ones(len(local), np.int8), (local[:, 0], local[:, 1])), shape=(len(names), len(names))
    )
    count, label = sparse.csgraph.connected_components(graph, directed=False)
    points = vertices[names]
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    np.minimum.at(low, label, points)
    np.maximum.at(high, label, points)
    return [*out, ("open", np.linalg.norm(high - low, axis=1), (low + high) / 2)]


def _turned(faces: np.ndarray) -> np.ndarray:
    """(F,) whether a triangle faces the other way than those beside it."""
    consistent, count = make_consistent(faces)
    return (consistent != faces).any(axis=1) if count else np.zeros(len(faces), bool)


def _shells(vertices: np.ndarray, faces: np.ndarray, whole: float) -> list[Found]:
    """Splinters, shells in others, and shells that face inwards."""
    shell = shell_of_each(faces)
    count = int(shell.max()) + 1
    corners = vertices[faces]
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    np.minimum.at(low, shell, corners.min(axis=1))
    np.maximum.at(high, shell, corners.max(axis=1))
    extent, middle = (high - low).max(axis=1), (low + high) / 2
    about = corners - middle[shell][:, None]
    volume = (
        np.bincount(
            shell,
            weights=np.einsum("ij,ij->i", about[:, 0], np.cross(about[:, 1], about[:, 2])),
            minlength=count,
        )
        / 6
    )
    small = (count > 1) & too_small(extent, volume, whole)
    out: list[Found] = [("splinter", extent[small], middle[small])]
    if count > MOST_SHELLS:
        return out
    inside = _inside(corners, shell, np.concatenate([low, high], axis=1))
    for kind, which in (
        ("cavity", inside & (volume < 0)),
        ("nested", inside & (volume > 0)),
        ("inward", ~inside & (volume < 0)),
    ):
        which = which & ~small
        out.append((kind, extent[which], middle[which]))  # type: ignore[arg-type]
    return out


def _inside(corners: np.ndarray, shell: np.ndarray, boxes: np.ndarray) -> np.ndarray:
    """(S,) whether a shell lies in another. ``corners`` is (F, 3, 3), ``shell`` (F,) the number of
    the one each triangle belongs to, ``boxes`` (S, 6) are theirs.
    """
    order = np.argsort(shell, kind="stable")
    own = np.split(order, np.cumsum(np.bincount(shell))[:-1])
    out = np.zeros(len(boxes), bool)
    for inner in range(len(boxes)):
        point = corners[own[inner][0], 0]
        around = holding(boxes, boxes[inner])
        out[inner] = any(
            abs(_winding(corners[own[outer]], point)) > 0.5
            for outer in around[around != inner].tolist()
        )
    return out


def _winding(corners: np.ndarray, point: np.ndarray) -> float:
    """How often a surface, triangles (F, 3, 3), goes around a point (3,): the sum of the solid
    angles of its triangles.

    Source: van Oosterom & Strackee, "The solid angle of a plane triangle", IEEE Transactions on
    Biomedical Engineering 30(2), 1983.
    """
    a, b, c = (corners - point).transpose(1, 0, 2)
    la, lb, lc = (np.linalg.norm(side, axis=1) for side in (a, b, c))
    above = np.einsum("ij,ij->i", a, np.cross(b, c))
    below = (
        la * lb * lc
        + np.einsum("ij,ij->i", a, b) * lc
        + np.einsum("ij,ij->i", b, c) * la
        + np.einsum("ij,ij->i", c, a) * lb
    )
    return float(2 * np.arctan2(above, below).sum() / (4 * np.pi))


def _unit(bodies: list[Body]) -> list[Fault]:
    """A word where the size of the file can hardly be millimetres."""
    every = np.concatenate([body.vertices[body.faces.ravel()] for body in bodies])
    extent = float(np.ptp(every, axis=0).max())
    if SMALL <= extent <= LARGE:
        return []
    guess = (
        f"taken as inches it would be {25.4 * extent:.1f} mm, as metres {1000 * extent:,.0f} mm"
        if extent < SMALL
        else f"a thousandth of it would be {extent / 1000:.1f} mm"
    )
    return [
        {
            "kind": "unit",
            "words": f"its longest side is {extent:,.3g} mm: is that its unit? {guess}",
            "count": 1,
            "size_mm": extent,
            "places": [],
        }
    ]
