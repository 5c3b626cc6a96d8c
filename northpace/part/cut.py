"""A part cut in two by a plane, each half standing on the cut."""

from __future__ import annotations

import manifold3d as m3
import numpy as np

from northpace.errors import InputError
from northpace.part.place import rotation_between

DOWN = np.array([0.0, 0.0, -1.0])
#: A half with less than this share of the whole is a slip of the hand, not a part.
LEAST = 1e-6


def cut(solid: m3.Manifold, normal: np.ndarray, offset: float) -> tuple[m3.Manifold, m3.Manifold]:
    """What lies behind and before a plane (``normal`` (3,), ``offset`` mm from the origin along
    it), each turned so that the cut points down, and moved onto the plate. Raises `InputError`
    where the plane misses the part.
    """
    length = float(np.linalg.norm(normal))
    if not length > 0:
        raise InputError("the plane of a cut needs a direction; 0, 0, 0 is none", "cut")
    unit = np.asarray(normal, float) / length
    before, behind = solid.split_by_plane(tuple(unit), offset)
    if min(before.volume(), behind.volume()) <= LEAST * solid.volume():
        corners = np.asarray(solid.to_mesh64().vert_properties)[:, :3] @ unit
        raise InputError(
            f"the plane at {offset:.2f} mm misses the part; along that direction it lies between "
            f"{corners.min():.2f} and {corners.max():.2f} mm",
            "cut",
        )
    return _standing(behind, unit), _standing(before, -unit)


def _standing(half: m3.Manifold, outward: np.ndarray) -> m3.Manifold:
    turned = half.transform(np.c_[rotation_between(outward, DOWN), np.zeros(3)])
    box = np.array(turned.bounding_box())
    middle = (box[:3] + box[3:]) / 2
    return turned.translate((-middle[0], -middle[1], -box[2]))
