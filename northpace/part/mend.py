"""Make a closed solid of whatever a file holds, and say what was done.

The order of the steps is what has been found to work on real scans; each step is tried only when
the one before did not give a valid solid, because the later ones change good files.
"""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np

from northpace.errors import InputError
from northpace.part.body import Body
from northpace.part.closing import Closing, cap_openings
from northpace.part.lastresort import solid_from_sections
from northpace.part.notes import Mending, Notes
from northpace.part.shells import order_shells
from northpace.part.triangles import (
    edge_numbers,
    face_numbers,
    make_consistent,
    most_at_a_corner,
    open_share,
    runs_forward,
    shell_of_each,
    welded_exactly,
)
from northpace.spec import Mesh

#: Share of open edges above which corners are welded with a tolerance.
OPEN_SHARE = 0.2
TOLERANCES = (1e-6, 5e-6, 3e-5)
#: Open edges at one corner beyond which the kernel's joining of corners takes minutes.
MOST_AT_A_CORNER = 500
#: Share of open edges above which there is no surface to close (real scans have at most 0.3).
NO_SURFACE = 0.6


@dataclass(frozen=True)
class Mended:
    """Valid solids, what was done to get them, the widest opening closed (mm) and the volume that
    closing added (mm³).
    """

    bodies: list[m3.Manifold]
    done: list[Mending]
    doubtful: bool = False
    widest_opening: float = 0.0
    added_volume: float = 0.0


def mend(body: Body, mesh: Mesh = Mesh()) -> Mended:
    """A closed solid of one body, its faults taken as ``mesh`` says; raises `InputError` when it
    cannot be one.
    """
    notes = Notes()
    vertices, faces = weld(body.vertices, body.faces, notes)
    _possible(vertices, faces)
    solid = to_solid(vertices, faces, notes)
    closing, doubtful = Closing(), False
    if solid is None:
        faces = _cancel_opposed(faces, notes)
        if not len(faces):
            raise InputError(
                "every triangle lies on one that faces the other way: the surface "
                "does not enclose a volume"
            )
        solid = to_solid(vertices, faces, notes)
    if solid is None and mesh.openings == "drop":
        faces = _without_open_shells(faces, notes)
        solid = to_solid(vertices, faces, notes)
    if solid is None:
        faces, turned = make_consistent(faces)
        if turned:
            notes.append(f"turned {turned:,} triangle{'s' * (turned > 1)} that faced the wrong way")
        solid = to_solid(vertices, faces, notes)
    if solid is None:
        vertices, faces, closing = cap_openings(vertices, faces)
        if closing.loops:
            notes.append(
                f"closed {closing.loops:,} opening{'s' * (closing.loops > 1)}, the widest "
                f"{closing.widest:.2f} mm across",
                closing.volume,
            )
        solid = to_solid(vertices, faces, notes)
    if solid is None:
        solid = _shell_by_shell(vertices, faces, notes)
    if solid is None:
        solid, doubtful = _rebuilt(vertices, faces, notes), True
    bodies = order_shells(solid, notes, mesh)
    if sum(body.volume() for body in bodies) <= 0:
        raise InputError("the triangles do not enclose a volume")
    return Mended(bodies, notes.done, doubtful, closing.widest, closing.volume)


def _possible(vertices: np.ndarray, faces: np.ndarray) -> None:
    """Raise `InputError` for what cannot become a solid."""
    if len(faces) < 4:
        raise InputError("fewer than four triangles with an area cannot enclose a solid")
    extent = np.ptp(vertices[faces.ravel()], axis=0)
    if extent.min() <= 1e-6 * max(extent.max(), 1e-9):
        raise InputError(
            "the triangles lie in one plane; a solid needs a thickness in every direction"
        )
    open_ = open_share(faces)
    if open_ > NO_SURFACE:
        raise InputError(
            f"{100 * open_:.0f} % of its edges belong to one triangle alone, so there is no "
            "surface; let the program it comes from join corners that lie on each other"
        )


def _rebuilt(vertices: np.ndarray, faces: np.ndarray, notes: Notes) -> m3.Manifold:
    solid = solid_from_sections(vertices, faces)
    if solid is None:
        raise InputError("the triangles do not enclose a volume, even after mending")
    notes.append(
        "rebuilt from sections because the surface could not be closed: compare it with "
        "what you meant"
    )
    return solid


def _without_open_shells(faces: np.ndarray, notes: Notes) -> np.ndarray:
    """Triangles of the shells that have no open edge."""
    shell = shell_of_each(faces)
    _, inverse, counts = np.unique(edge_numbers(faces), return_inverse=True, return_counts=True)
    alone = (counts[inverse.reshape(-1)] == 1).reshape(3, -1).any(axis=0)
    open_ = np.unique(shell[alone])
    kept = ~np.isin(shell, open_)
    if not kept.any():
        raise InputError("every shell of the file is open; close them instead", "mesh.openings")
    if len(open_):
        notes.append(
            f"dropped {len(open_):,} open shell{'s' * (len(open_) > 1)} of "
            f"{_triangles(int((~kept).sum()))}"
        )
    return faces[kept]


def weld(vertices: np.ndarray, faces: np.ndarray, notes: Notes) -> tuple[np.ndarray, np.ndarray]:
    """Join equal corners; with a tolerance only when most edges stay open (a text file with rounded
    digits). ``vertices`` is (V, 3), in mm, ``faces`` (F, 3).
    """
    welded, mapped = welded_exactly(vertices, faces)
    if open_share(mapped) > OPEN_SHARE:
        diagonal = float(np.linalg.norm(np.ptp(vertices, axis=0)))
        for tolerance in TOLERANCES:
            near, near_faces = welded_exactly(np.round(vertices / (tolerance * diagonal)), faces)
            if open_share(near_faces) <= OPEN_SHARE:
                welded, mapped = near * (tolerance * diagonal), near_faces
                notes.append(f"joined corners up to {tolerance * diagonal:.4f} mm apart")
                break
    flat = (
        (mapped[:, 0] == mapped[:, 1])
        | (mapped[:, 1] == mapped[:, 2])
        | (mapped[:, 2] == mapped[:, 0])
    )
    if flat.any():
        notes.append(f"dropped {_triangles(int(flat.sum()))} without area")
    return np.ascontiguousarray(welded, np.float64), mapped[~flat]


def to_solid(
    vertices: np.ndarray, faces: np.ndarray, notes: Notes | None = None
) -> m3.Manifold | None:
    """The solid of a directed surface, or None when it is not closed. ``vertices`` is (V, 3), in
    mm, ``faces`` (F, 3).
    """
    mesh = m3.Mesh64(vertices, np.ascontiguousarray(faces, np.uint64))
    solid = m3.Manifold(mesh)
    if solid.status() == m3.Error.NotManifold and most_at_a_corner(faces) <= MOST_AT_A_CORNER:
        # joins corners along open edges within the kernel's own precision; costly, so only when
        # needed
        mesh.merge()
        solid = m3.Manifold(mesh)
        if notes is not None and solid.status() == m3.Error.NoError and not solid.is_empty():
            notes.append("joined open edges that lie on each other")
    if solid.status() != m3.Error.NoError or solid.is_empty():
        return None
    return solid


def _cancel_opposed(faces: np.ndarray, notes: Notes) -> np.ndarray:
    """Duplicate faces that oppose each other cancel, those that agree stand once."""
    _, first, inverse = np.unique(face_numbers(faces), return_index=True, return_inverse=True)
    if len(first) == len(faces):
        return faces
    sign = np.where(runs_forward(faces), 1, -1)
    balance = np.bincount(inverse.reshape(-1), sign)
    kept = np.sort(faces[first[balance != 0]], axis=1)
    kept[balance[balance != 0] < 0] = kept[balance[balance != 0] < 0][:, ::-1]
    notes.append(f"dropped {_triangles(len(faces) - len(kept))} that lay on each other")
    return kept


def _shell_by_shell(vertices: np.ndarray, faces: np.ndarray, notes: Notes) -> m3.Manifold | None:
    """Build every connected shell on its own and put together those that close."""
    shell = shell_of_each(faces)
    order = np.argsort(shell, kind="stable")
    shells = np.split(order, np.flatnonzero(np.diff(shell[order])) + 1)
    closed = [
        own
        for own in shells
        # fewer than four triangles enclose nothing
        if len(own) >= 4 and to_solid(vertices, faces[own]) is not None
    ]
    kept = np.zeros(len(faces), bool)
    kept[np.concatenate([*closed, np.empty(0, np.int64)])] = True
    lost = int((~kept).sum())
    if not closed or lost > 0.02 * len(faces):
        return None
    if lost:
        notes.append(f"left out {lost:,} loose triangles that enclose nothing")
    # shells that do not touch close together when each of them closes; directions are sorted out by
    # `order_shells`
    return to_solid(vertices, faces[kept])


def _triangles(count: int) -> str:
    return f"{count:,} triangle{'s' * (count != 1)}"
