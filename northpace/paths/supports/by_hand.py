"""What a maker paints on the part: held there, never touched there, or left to the angle again."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    difference,
    intersection,
    only_areas,
    rounded,
    together,
    union,
)
from northpace.outlines.sections import Outlines
from northpace.part.faces import marked_face, neighbours
from northpace.part.place import Placed
from northpace.part.stl import mesh_arrays
from northpace.spec import SupportMark, Supports

#: Corners of the circle a brush cuts out of a plane.
CORNERS = 48
#: Facets that lean out less than this (as -n_z) are upright: nothing is held under them.
UPRIGHT = 1e-3


class Painted(NamedTuple):
    """What is asked for and forbidden by hand, (N,) areas in the layers."""

    ask: np.ndarray
    forbid: np.ndarray


def painted(outlines: Outlines, placed: Placed, rules: Supports) -> Painted | None:
    """What marks ask for and forbid, each later one over those before; None where nothing is."""
    if not rules.marks or rules.decided == "itself":
        return None
    count = len(outlines.tops)
    out = Painted(np.full(count, EMPTY, object), np.full(count, EMPTY, object))
    vertices, faces, _ = mesh_arrays((placed.solid,))
    corners = np.asarray(vertices[faces], np.float64)
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-30)
    beside = neighbours(faces)
    leaning = normals[:, 2] < -UPRIGHT
    for mark in rules.marks:
        if mark.radius > 0:
            which, pieces = _brushed(corners, normals, leaning, _stroke(mark, placed), mark.radius)
        else:
            chosen = marked_face(corners, normals, beside, placed.affine, mark) & leaning
            which = np.flatnonzero(chosen)
            pieces = shapely.polygons(corners[which][:, :, :2])
        _paint(out, mark, outlines, corners[which][:, :, 2], pieces)
    over = np.full(count, EMPTY, object)
    over[1:] = intersection(difference(outlines.areas[1:], outlines.areas[:-1]), out.ask[1:])
    return out._replace(ask=only_areas(over))


def _paint(
    out: Painted, mark: SupportMark, outlines: Outlines, z: np.ndarray, pieces: np.ndarray
) -> None:
    """Take a mark in: pieces (P,) of facets with corners at z (P, 3) mm."""
    low, high = z.min(axis=1, initial=np.inf), z.max(axis=1, initial=-np.inf)
    first = np.searchsorted(outlines.tops, low - 1e-6)
    last = np.searchsorted(outlines.tops - outlines.heights, high + 1e-6, "right") - 1
    begin, end = max(int(first.min(initial=len(outlines.tops))), 1), int(last.max(initial=-1))
    for k in range(begin, end + 1):
        here = (first <= k) & (k <= last)
        if not here.any():
            continue
        face = together(rounded(pieces[here], 1e-3))
        if mark.want and not mark.erase:
            out.ask[k] = union(out.ask[k], face)
            out.forbid[k] = difference(out.forbid[k], face)
        else:
            # a slope moves sideways by its lean within a layer
            wide = rounded(face, outlines.heights[k])
            out.ask[k] = difference(out.ask[k], face)
            out.forbid[k] = (
                difference(out.forbid[k], wide) if mark.erase else union(out.forbid[k], wide)
            )


def _stroke(mark: SupportMark, placed: Placed) -> np.ndarray:
    """(S, 3) the points of a stroke on the bed, in mm."""
    points = np.array([(mark.x, mark.y, mark.z), *mark.along])
    return np.asarray(points @ placed.affine[:, :3].T + placed.affine[:, 3])


def _brushed(
    corners: np.ndarray,
    normals: np.ndarray,
    leaning: np.ndarray,
    stroke: np.ndarray,
    radius: float,
) -> tuple[np.ndarray, np.ndarray]:
    """Facets (P,) that a brush touches along a stroke (S, 3), and the piece of each it covers, seen
    from above: cut exactly, however large the facet is.
    """
    first, last = stroke[:-1], stroke[1:]
    if len(stroke) == 1:
        first = last = stroke
    low, high = corners.min(axis=1), corners.max(axis=1)
    pairs = []
    for n, (a, b) in enumerate(zip(first, last, strict=True)):  # strokes have few points
        near = leaning & (low <= np.maximum(a, b) + radius).all(axis=1)
        near &= (high >= np.minimum(a, b) - radius).all(axis=1)
        which = np.flatnonzero(near)
        pairs.append(np.stack([which, np.full(len(which), n)], axis=1))
    facet, step = np.concatenate(pairs).T
    rings = np.stack(
        [_circles(corners[facet, 0], normals[facet], ends[step], radius) for ends in (first, last)],
        axis=1,
    ).reshape(len(facet), -1, 2)
    touched = np.isfinite(rings).all(axis=2).any(axis=1)
    facet, rings = facet[touched], rings[touched]
    # an end that does not reach the plane adds nothing to the hull of the other's circle
    known = np.isfinite(rings[:, :, :1])
    some = np.take_along_axis(rings, known.argmax(axis=1)[:, None], axis=1)
    hulls = shapely.convex_hull(shapely.multipoints(np.where(known, rings, some)))
    pieces = intersection(hulls, shapely.polygons(corners[facet][:, :, :2]))
    kept = shapely.area(pieces) > 0
    return facet[kept], pieces[kept]


def _circles(
    on_plane: np.ndarray, normals: np.ndarray, middles: np.ndarray, radius: float
) -> np.ndarray:
    """(P, C, 2) what balls around ``middles`` (P, 3) cut out of planes, seen from above; NaN where
    a ball does not reach its plane.
    """
    away = ((middles - on_plane) * normals).sum(axis=1)
    with np.errstate(invalid="ignore"):
        within = np.sqrt(radius**2 - away**2)
    # the polygon has the area of the circle it stands for
    within = within * np.sqrt(2 * np.pi / CORNERS / np.sin(2 * np.pi / CORNERS))
    foot = middles - away[:, None] * normals
    across = np.cross(normals, np.where(np.abs(normals[:, :1]) < 0.9, [[1, 0, 0]], [[0, 1, 0]]))
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    along = np.cross(normals, across)
    angle = np.linspace(0, 2 * np.pi, CORNERS, endpoint=False)
    ring = (
        np.cos(angle)[None, :, None] * across[:, None]
        + np.sin(angle)[None, :, None] * along[:, None]
    )
    return np.asarray((foot[:, None] + within[:, None, None] * ring)[:, :, :2])


def asked_and_forbidden(
    want: np.ndarray, areas: np.ndarray, ask: np.ndarray | None, forbid: np.ndarray | None
) -> np.ndarray:
    """Demands (N,) for support with those of regions added, where the part (N,) hangs over its
    layer below, and taken away.
    """
    want = want.copy()
    if ask is not None:
        over = np.full(len(areas), EMPTY, object)
        over[1:] = intersection(difference(areas[1:], areas[:-1]), ask[1:])
        want = union(want, only_areas(over))
    return want if forbid is None else difference(want, forbid)
