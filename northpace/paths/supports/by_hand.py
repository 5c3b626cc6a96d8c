"""What a maker paints on the part: held there, never touched there, or left to the angle again."""

from __future__ import annotations

from collections import deque
from typing import NamedTuple

import numpy as np
import shapely
from typing_extensions import TypedDict

from northpace.geometry.polygons import (
    EMPTY,
    Pieces,
    difference,
    intersection,
    only_areas,
    rounded,
    together,
    union,
    united,
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


class PaintedArea(TypedDict):
    """What is painted of the part's surface (mm²)."""

    asked_mm2: float
    forbidden_mm2: float


class _Surface(NamedTuple):
    """Facets of a part as it stands, and what marks cover of them, which is asked again after every
    stroke.
    """

    placed: Placed

    #: (F, 3, 3) corners in mm, (F, 3) normals, neighbours of `neighbours`, (F,) what leans out
    corners: np.ndarray
    normals: np.ndarray
    beside: np.ndarray
    leaning: np.ndarray
    covered: dict[SupportMark, tuple[np.ndarray, np.ndarray]]


#: Surfaces that were painted last, and so many of them are kept.
_LAST: deque[_Surface] = deque(maxlen=2)


def _surface(placed: Placed) -> _Surface:
    for known in tuple(_LAST):
        if known.placed is placed:
            return known
    vertices, faces, _ = mesh_arrays((placed.solid,))
    corners = np.asarray(vertices[faces], np.float64)
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-30)
    leaning = normals[:, 2] < -UPRIGHT
    made = _Surface(placed, corners, normals, neighbours(faces), leaning, {})
    _LAST.append(made)
    return made


def _covered(mark: SupportMark, on: _Surface) -> tuple[np.ndarray, np.ndarray]:
    """Facets (P,) a mark covers, and the piece of each, seen from above."""
    if mark not in on.covered:
        on.covered[mark] = _cut_out(mark, on)
    return on.covered[mark]


def _cut_out(mark: SupportMark, on: _Surface) -> tuple[np.ndarray, np.ndarray]:
    if mark.radius > 0:
        stroke = _stroke(mark, on.placed)
        return _brushed(on.corners, on.normals, on.leaning, stroke, mark.radius)
    face = marked_face(on.corners, on.normals, on.beside, on.placed.affine, mark)
    which = np.flatnonzero(face & on.leaning)
    return which, shapely.polygons(on.corners[which][:, :, :2])


def painted_area(placed: Placed, rules: Supports) -> PaintedArea:
    """How much of the surface marks ask for and forbid, each later one over those before."""
    on = _surface(placed)
    ask, forbid = (np.full(len(on.corners), EMPTY, object) for _ in range(2))
    for mark in rules.marks:
        which, pieces = _covered(mark, on)
        facets, place = np.unique(which, return_inverse=True)
        face = united(Pieces(pieces, place), len(facets))
        wanted = mark.want and not mark.erase
        for kind, grows in ((ask, wanted), (forbid, not mark.want and not mark.erase)):
            kind[facets] = (union if grows else difference)(kind[facets], face)
    slope = np.abs(on.normals[:, 2])
    asked, forbidden = (
        float((shapely.area(kind[on.leaning]) / slope[on.leaning]).sum()) for kind in (ask, forbid)
    )
    return {"asked_mm2": asked, "forbidden_mm2": forbidden}


def painted(outlines: Outlines, placed: Placed, rules: Supports) -> Painted | None:
    """What marks ask for and forbid, each later one over those before; None where nothing is."""
    if not rules.marks or rules.decided == "itself":
        return None
    count = len(outlines.tops)
    out = Painted(np.full(count, EMPTY, object), np.full(count, EMPTY, object))
    on = _surface(placed)
    for mark in rules.marks:
        which, pieces = _covered(mark, on)
        _paint(out, mark, outlines, on.corners[which][:, :, 2], pieces)
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
    # a facet whose corners all lie within one step is covered whole: most are, of a fine mesh
    away = _from_step(corners[facet], first[step], last[step])
    whole = np.unique(facet[(away <= radius).all(axis=1)])
    cut = ~np.isin(facet, whole)
    facet, step = facet[cut], step[cut]
    rings = np.stack(
        [_circles(corners[facet, 0], normals[facet], ends[step], radius) for ends in (first, last)],
        axis=1,
    ).reshape(len(facet), -1, 2)
    touched = np.isfinite(rings).all(axis=2).any(axis=1)
    facet, rings = facet[touched], rings[touched]
    # an end that does not reach the plane adds nothing to the hull of the other's circle
    known = np.isfinite(rings[:, :, :1])
    some = np.take_along_axis(rings, known.argmax(axis=1)[:, None], axis=1)
    hulls = shapely.convex_hull(shapely.linestrings(np.where(known, rings, some)))
    pieces = intersection(hulls, shapely.polygons(corners[facet][:, :, :2]))
    kept = shapely.area(pieces) > 0
    return (
        np.r_[whole, facet[kept]],
        np.r_[shapely.polygons(corners[whole][:, :, :2]), pieces[kept]],
    )


def _from_step(corners: np.ndarray, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """(P, 3) distance in mm of the corners (P, 3, 3) of facets from steps between points (P, 3)."""
    way = last - first
    along = np.einsum("pcd,pd->pc", corners - first[:, None], way)
    share = np.clip(along / np.maximum((way * way).sum(axis=1), 1e-12)[:, None], 0, 1)
    near = first[:, None] + share[:, :, None] * way[:, None]
    return np.asarray(np.linalg.norm(corners - near, axis=2))


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
