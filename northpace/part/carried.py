"""Marks and regions go with the body they are on when it is moved, turned or mirrored."""

from __future__ import annotations

from typing import Any

import numpy as np

from northpace.part.bodies import moved_by
from northpace.part.solid import Part
from northpace.part.stl import mesh_arrays
from northpace.part.tree import distances, tree_of
from northpace.spec import BodyChange, PlanSpec

#: Settings that hold places in the file's coordinates.
PLACES = (
    ("surface", "marks"),
    ("surface", "seam_marks"),
    ("supports", "marks"),
    ("body", "regions"),
)
#: Fields of a place that hold further points.
FURTHER = ("along", "points")


def with_bodies_moved(
    spec: PlanSpec, part: Part, bodies: tuple[BodyChange, ...]
) -> dict[str, list[Any]]:
    """What of the settings of a spec changes when its bodies are to be changed so: the bodies, and
    every place on one that goes elsewhere. ``part`` has all bodies as they were drawn. A place
    belongs to the body whose surface is nearest to it.
    """
    moves = _moves(part, spec.mesh.bodies, bodies)
    out: dict[str, list[Any]] = {"mesh.bodies": [_said(one) for one in bodies]}
    for group, name in PLACES:
        places = getattr(getattr(spec, group), name)
        if not places or not moves:
            continue
        owners = _owners(part, spec.mesh.bodies, np.array([[p.x, p.y, p.z] for p in places]))
        if any(owner in moves for owner in owners):
            out[f"{group}.{name}"] = [
                _placed(_carried(place, moves[owner]) if owner in moves else place)
                for place, owner in zip(places, owners, strict=True)
            ]
    return out


def _said(one: Any) -> dict[str, Any]:
    """A value as it is typed: without what is as always."""
    return dict(one.model_dump(mode="json", exclude_defaults=True))


def _placed(place: Any) -> dict[str, Any]:
    """A place as it is kept: where it is, whole."""
    return {**_said(place), "x": place.x, "y": place.y, "z": place.z}


def _moves(
    part: Part, before: tuple[BodyChange, ...], after: tuple[BodyChange, ...]
) -> dict[str, np.ndarray]:
    """(3, 4) where points of every body go that does not stay where it is."""
    was, will = ({one.name: one for one in changes} for changes in (before, after))
    out = {}
    for name, body in zip(part.names, part.bodies, strict=True):
        if was.get(name) == will.get(name):
            continue
        old, new = (moved_by(body, said.get(name, BodyChange(name=name))) for said in (was, will))
        matrix = new[:, :3] @ np.linalg.inv(old[:, :3])
        move = np.c_[matrix, new[:, 3] - matrix @ old[:, 3]]
        if not np.allclose(move, np.eye(3, 4)):
            out[name] = move
    return out


def _owners(part: Part, changes: tuple[BodyChange, ...], points: np.ndarray) -> list[str]:
    """The body that is nearest to each of some points (N, 3), as bodies are now; those that are
    left out have none.
    """
    said = {one.name: one for one in changes}
    names, away = [], []
    for name, body in zip(part.names, part.bodies, strict=True):
        change = said.get(name, BodyChange(name=name))
        if change.left_out:
            continue
        vertices, faces, _ = mesh_arrays((body.transform(moved_by(body, change)),))
        names.append(name)
        away.append(distances(tree_of(vertices[faces]), points))
    return [names[k] for k in np.argmin(away, axis=0)] if names else [""] * len(points)


def _carried(place: Any, move: np.ndarray) -> Any:
    """A place moved (3, 4)."""

    def at(point: tuple[float, float, float]) -> tuple[float, ...]:
        moved = move[:, :3] @ np.array(point) + move[:, 3]
        return tuple(round(float(v), 3) for v in moved)

    x, y, z = at((place.x, place.y, place.z))
    changed: dict[str, Any] = {"x": x, "y": y, "z": z}
    for name in FURTHER:
        if points := getattr(place, name, ()):
            changed[name] = tuple(at(point) for point in points)
    return place.model_copy(update=changed)
