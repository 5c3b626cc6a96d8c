"""A test slice: a stretch of a part on a foot of its own, with the layers and layer times of the
whole.
"""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np

from northpace.errors import InputError
from northpace.part.place import Placed
from northpace.part.stl import binary_stl

#: How far the foot reaches beyond the slice (mm), and how many layers it has.
FOOT_REACH = 3.0
FOOT_LAYERS = 3


@dataclass(frozen=True)
class Slice:
    """A sample part as binary STL, its layer heights (n,) in mm and least layer times (n,) in s,
    and the stretch it stands for.
    """

    stl: bytes
    heights: np.ndarray
    seconds: np.ndarray
    from_mm: float
    to_mm: float
    layers: tuple[int, int]


def test_slice(
    placed: Placed,
    heights: np.ndarray,
    seconds: np.ndarray,
    low: float,
    high: float,
    first: float,
    usual: float,
) -> Slice:
    """Cut the layers (N,) that touch ``low`` to ``high`` mm out of a placed part and set them on a
    foot.

    ``first`` and ``usual`` (mm) are the heights of the foot's layers. ``seconds`` (N,) of the whole
    part become least times, so that the slice cools as the part will. Raises `InputError` for a
    stretch without a layer.
    """
    tops = np.cumsum(heights)
    inside = np.flatnonzero((tops > low + 1e-6) & (tops - heights < high - 1e-6))
    if high <= low or not len(inside):
        raise InputError(
            f"between {low:g} and {high:g} mm there is no layer; the part ends at "
            f"{tops[-1]:.2f} mm",
            "from_mm",
        )
    k, end = int(inside[0]), int(inside[-1])
    bottom, top = float(tops[k] - heights[k]), float(tops[end])
    body = placed.solid.trim_by_plane((0.0, 0.0, 1.0), bottom) if bottom > 1e-6 else placed.solid
    body = body.trim_by_plane((0.0, 0.0, -1.0), -top)
    outline = placed.solid.slice(min(bottom + float(heights[k]) / 2, placed.height))
    if body.is_empty() or outline.is_empty():
        raise InputError(f"between {low:g} and {high:g} mm there is nothing of the part", "from_mm")
    foot = [first] + [usual] * (FOOT_LAYERS - 1)
    tall = sum(foot)
    # sunk a little into the slice, so that both become one body
    plate = outline.offset(FOOT_REACH, m3.JoinType.Round, 2.0, 48).extrude(tall + 0.01)
    whole = plate + body.translate((0.0, 0.0, tall - bottom))
    mesh = whole.to_mesh()
    data = binary_stl(
        np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts).astype(np.int64)
    )
    return Slice(
        data,
        np.r_[foot, heights[k : end + 1]],
        np.r_[np.zeros(FOOT_LAYERS), seconds[k : end + 1]],
        bottom,
        top,
        (k, end),
    )
