"""Bodies of a part that are left out, mirrored, turned and moved."""

from __future__ import annotations

from dataclasses import replace

import manifold3d as m3
import numpy as np

from northpace.errors import InputError
from northpace.part.place import turn
from northpace.part.solid import Part
from northpace.spec import BodyChange


def with_bodies(part: Part, changes: tuple[BodyChange, ...]) -> Part:
    """The part with its bodies changed. Raises `InputError` for a body there is not, and where
    nothing would be left.
    """
    said = {change.name: change for change in changes}
    unknown = [name for name in said if name not in part.names]
    if unknown:
        known = ", ".join(f"'{name}'" for name in part.names[:8])
        raise InputError(
            f"there is no body '{unknown[0]}' in the file; there is {known}"
            + " …" * (len(part.names) > 8),
            "mesh.bodies",
        )
    kept = [
        (_changed(body, said[name]) if name in said else body, name)
        for name, body in zip(part.names, part.bodies, strict=True)
        if name not in said or not said[name].left_out
    ]
    if not kept:
        raise InputError("every body is left out; keep one", "mesh.bodies")
    bodies, names = zip(*kept, strict=True)
    return replace(part, bodies=bodies, names=names)


def moved_by(body: m3.Manifold, change: BodyChange) -> np.ndarray:
    """(3, 4) where points of a body go, from where it was drawn (mm)."""
    matrix = np.eye(3)
    if change.mirror:
        axis = "xyz".index(change.mirror)
        matrix[axis, axis] = -1
    for axis, degrees in enumerate((change.turn_x, change.turn_y, change.turn_z)):
        matrix = turn(axis, degrees) @ matrix
    box = np.array(body.bounding_box())
    middle = (box[:3] + box[3:]) / 2
    shift = np.array([change.shift_x, change.shift_y, change.shift_z])
    return np.c_[matrix, middle - matrix @ middle + shift]


def _changed(body: m3.Manifold, change: BodyChange) -> m3.Manifold:
    return body.transform(moved_by(body, change))
