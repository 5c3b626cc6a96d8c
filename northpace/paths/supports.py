"""Supports: where the part leans out too far, columns under it, and how they are laid."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.moves import ROOF, SUPPORT
from northpace.outlines.polygons import (
    EMPTY,
    Pieces,
    collect,
    difference,
    explode,
    intersection,
    offset,
    only_areas,
    rings_of,
    union,
)
from northpace.outlines.sections import Outlines
from northpace.outlines.stacks import stacked
from northpace.part.faces import marked_face, neighbours
from northpace.part.solid import Placed, mesh_arrays
from northpace.paths.bead import spacing, width_for
from northpace.paths.scanline import fill_lines
from northpace.paths.skins import span_direction
from northpace.paths.table import PathTable, path_table
from northpace.spec import Supports

#: Layers after which ordinary supports turn by 90°.
TURN = 8
#: Rank of supports among what has no island: after the footing.
RANK = 1000
#: Strips under a slope smaller than this (mm²) are the grain of corners.
SLOPE = 0.3
#: Overhangs are measured over at least this height (mm), and against this much grain (mm) of the
#: outlines.
BASIS, GRAIN = 0.3, 0.02


@dataclass(frozen=True)
class Stands:
    """Columns of support. areas (N,) laid in every layer, roofs (N,) the solid part of it, held
    (N,) what each layer of the part is held up by; for every stand (T,): where (x, y, z), lowest
    and highest z, contact area (mm²) with the part above, whether it holds an island that starts in
    mid-air, whether it stands on the part, and the area (mm²) of seen faces it touches.
    """

    areas: np.ndarray
    roofs: np.ndarray
    held: np.ndarray
    paths: PathTable
    at: np.ndarray
    low: np.ndarray
    high: np.ndarray
    contact: np.ndarray
    island: np.ndarray
    on_part: np.ndarray
    seen: np.ndarray

    @property
    def nbytes(self) -> int:
        return self.paths.nbytes + 96 * int(shapely.get_num_coordinates(self.areas).sum())


def no_stands(count: int) -> Stands:
    """What a plan without supports has."""
    nothing, none = np.full(count, EMPTY, object), np.empty(0)
    return Stands(
        nothing,
        nothing,
        nothing,
        PathTable.joined([]),
        np.empty((0, 3)),
        none,
        none,
        none,
        np.empty(0, bool),
        np.empty(0, bool),
        none,
    )


def overhangs(outlines: Outlines, placed: Placed, angle: float, least: float) -> np.ndarray:
    """(N,) what of every layer leans out over the ones below it by more than ``angle`` degrees from
    upright; islands whole.

    Facets say in which layers to look. There a layer is compared with one at least `BASIS` below
    it, so that thin layers, whose steps are hardly more than the grain of the outlines, show the
    same angle as tall ones.
    """
    areas, tops, heights = outlines.areas, outlines.tops, outlines.heights
    out = np.full(len(areas), EMPTY, object)
    middle = tops - heights / 2
    low, high = _leaning(placed, angle)
    # between the middles of which layers a leaning facet lies
    first, last = np.searchsorted(middle, low - 1e-6), np.searchsorted(middle, high + 1e-6)
    marked = np.zeros(len(areas) + 2, np.int64)
    np.add.at(marked, np.minimum(first, len(areas)), 1)
    np.add.at(marked, np.minimum(last, len(areas)) + 1, -1)
    index = np.flatnonzero(np.cumsum(marked)[: len(areas)] > 0)
    index = index[index > 0]
    index = index[~shapely.is_empty(areas[index])]
    if len(index) == 0:
        return out
    base = np.minimum(
        np.maximum(np.searchsorted(middle, middle[index] - BASIS + 1e-6, "right") - 1, 0), index - 1
    )
    reach = (middle[index] - middle[base]) * np.tan(np.radians(angle)) + GRAIN
    beyond = difference(difference(areas[index], offset(areas[base], reach)), areas[index - 1])
    pieces = explode(beyond, 0.0)
    big = shapely.area(pieces.polygons) >= max(least, 1e-3)
    # narrow strips of neighbouring layers add up: what is dropped is judged as a body over all
    # layers
    layer = index[pieces.owner]
    count, label = stacked(offset(pieces.polygons, 0.3), layer)
    whole = np.bincount(label, shapely.area(pieces.polygons), count)[label] >= least
    keep = big | whole
    out[index] = collect(Pieces(pieces.polygons[keep], pieces.owner[keep]), len(index))
    return out


def _leaning(placed: Placed, angle: float) -> tuple[np.ndarray, np.ndarray]:
    """Lowest and highest z (mm) of the facets that lean out further than an angle from upright,
    those on the bed left out.
    """
    vertices, faces, _ = mesh_arrays((placed.solid,))
    corners = np.asarray(vertices[faces], np.float64)
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    chosen = -normal[:, 2] > np.sin(np.radians(angle)) * np.linalg.norm(normal, axis=1)
    z = corners[chosen][:, :, 2]
    off = z.max(axis=1, initial=-1.0) > 1e-3
    return z[off].min(axis=1, initial=np.inf), z[off].max(axis=1, initial=-1.0)


def stands(
    outlines: Outlines,
    placed: Placed,
    rules: Supports,
    seen: tuple[np.ndarray, np.ndarray] | None = None,
    ask: np.ndarray | None = None,
    forbid: np.ndarray | None = None,
) -> Stands:
    """Supports of a part; ``seen`` are points (K, 3) on its seen faces and the area (K,) each
    stands for; ``ask`` and ``forbid`` (N,) areas in which regions want support or none.
    """
    tops, heights = outlines.tops, outlines.heights
    bottoms, count = tops - heights, len(tops)
    want = overhangs(outlines, placed, rules.angle, rules.least_area)
    want = asked_and_forbidden(_by_hand(want, outlines, placed, rules), outlines.areas, ask, forbid)
    want = _spared(want, outlines, rules)
    # the layer a demand ends at: the last one that leaves the clearance below the part
    ends_at = np.searchsorted(tops, bottoms - rules.gap_top + 1e-6, "right") - 1
    demand = np.full(count, EMPTY, object)
    grown = offset(want, rules.width)
    for k in np.flatnonzero(~shapely.is_empty(want) & (ends_at >= 0)).tolist():
        demand[ends_at[k]] = shapely.union(demand[ends_at[k]], grown[k])
    beside = _beside(outlines, rules)
    areas = np.full(count, EMPTY, object)
    running = EMPTY
    for k in range(count - 1, -1, -1):  # each layer needs the one above it
        if not shapely.is_empty(demand[k]):
            running = shapely.union(running, demand[k])
        if shapely.is_empty(running):
            continue
        running = shapely.simplify(shapely.difference(running, beside[k]), 0.05)
        areas[k] = running
    for back in range(1, count):
        under = bottoms[back:] - tops[:-back] < rules.gap_bottom - 1e-6
        if not under.any():
            break
        index = np.flatnonzero(under) + back
        areas[index] = difference(areas[index], outlines.areas[index - back])
    if rules.origin == "bed":
        running = areas[0]
        for k in range(1, count):
            running = (
                EMPTY
                if shapely.is_empty(running)
                else shapely.intersection(areas[k], shapely.buffer(running, 0.05))
            )
            areas[k] = running
    areas = only_areas(offset(offset(only_areas(areas), -rules.width / 2), rules.width / 2))
    areas = _worth_it(areas, outlines, ends_at, rules.least_area)
    roofs = demand.copy()
    for step in range(1, count):
        near = tops[step:] - tops[:-step] < rules.roof - 1e-6
        if not near.any():
            break
        index = np.flatnonzero(near)
        roofs[index] = union(roofs[index], demand[index + step])
    roofs = intersection(roofs, areas) if rules.roof > 0 else np.full(count, EMPTY, object)
    return _described(areas, roofs, want, demand, ends_at, outlines, rules, seen)


def _beside(outlines: Outlines, rules: Supports) -> np.ndarray:
    """(N,) where no support may lie: the part and the clearance beside its walls.

    Under a slope the clearance beside would keep a stand from ever reaching it, since the part
    moves sideways by less than that over the height of the clearance below it. There only the
    height counts.
    """
    areas, tops = outlines.coarse, outlines.tops
    beside = offset(areas, max(rules.clearance, 1e-3))
    above = np.searchsorted(tops - outlines.heights, tops + rules.gap_top - 1e-6)
    index = np.flatnonzero(above < len(areas))
    blocked = areas[index].copy()
    for step in range(1, int((above[index] - index).max(initial=1))):
        some = np.flatnonzero(index + step < above[index])
        blocked[some] = union(blocked[some], areas[index[some] + step])
    zone = difference(areas[above[index]], blocked)
    some = np.flatnonzero(shapely.area(zone) > SLOPE)
    index, blocked, zone = index[some], blocked[some], zone[some]
    half = max(rules.clearance, rules.width) / 2
    narrow = explode(difference(zone, offset(offset(zone, -half), half + 0.01)), SLOPE)
    slopes = collect(narrow, len(index))
    some = np.flatnonzero(~shapely.is_empty(slopes))
    near = offset(slopes[some], rules.clearance + rules.width)
    beside[index[some]] = union(difference(beside[index[some]], near), offset(blocked[some], 0.05))
    return beside


def _touched(areas: np.ndarray, outlines: Outlines, ends_at: np.ndarray) -> np.ndarray:
    """(N,) where every layer of the part lies on supports, across the clearance: their tops below
    it.
    """
    tops = areas.copy()
    tops[:-1] = difference(areas[:-1], areas[1:])
    out = np.full(len(areas), EMPTY, object)
    index = np.flatnonzero(ends_at >= 0)
    index = index[~shapely.is_empty(tops[ends_at[index]])]
    out[index] = intersection(tops[ends_at[index]], outlines.areas[index])
    return out


def _contact(
    pieces: Pieces, label: np.ndarray, number: int, touched: np.ndarray, ends_at: np.ndarray
) -> np.ndarray:
    """(T,) area in mm² on which every stand touches the part above."""
    contact = np.zeros(number)
    for k in np.flatnonzero(~shapely.is_empty(touched)):
        mine = np.flatnonzero(pieces.owner == ends_at[k])
        np.add.at(
            contact,
            label[mine],
            shapely.area(shapely.intersection(pieces.polygons[mine], touched[k])),
        )
    return contact


def _worth_it(
    areas: np.ndarray, outlines: Outlines, ends_at: np.ndarray, least: float
) -> np.ndarray:
    """Areas (N,) without the columns that touch less than half of the least area (mm²): splinters
    of larger ones.
    """
    pieces = explode(areas, 0.05)
    number, label = stacked(pieces.polygons, pieces.owner)
    keep = (
        _contact(pieces, label, number, _touched(areas, outlines, ends_at), ends_at)[label]
        >= least / 2
    )
    return collect(Pieces(pieces.polygons[keep], pieces.owner[keep]), len(areas))


def _described(
    areas: np.ndarray,
    roofs: np.ndarray,
    want: np.ndarray,
    demand: np.ndarray,
    ends_at: np.ndarray,
    outlines: Outlines,
    rules: Supports,
    seen: tuple[np.ndarray, np.ndarray] | None,
) -> Stands:
    tops, heights = outlines.tops, outlines.heights
    pieces = explode(areas, 0.05)
    layer = pieces.owner
    number, label = stacked(pieces.polygons, layer)
    held = np.full(len(tops), EMPTY, object)
    for k in np.flatnonzero(~shapely.is_empty(want) & (ends_at >= 0)):
        held[k] = shapely.intersection(want[k], areas[ends_at[k]])
    low, high = np.full(number, np.inf), np.zeros(number)
    contact = _contact(pieces, label, number, _touched(areas, outlines, ends_at), ends_at)
    np.minimum.at(low, label, (tops - heights)[layer])
    np.maximum.at(high, label, tops[layer])
    island, on_part, scars = np.zeros(number, bool), np.zeros(number, bool), np.zeros(number)
    spots = np.zeros((number, 3))
    if number:
        top_pieces = np.lexsort((layer, label))
        last = top_pieces[np.searchsorted(label[top_pieces], np.arange(number), "right") - 1]
        spots[:, :2] = shapely.get_coordinates(shapely.point_on_surface(pieces.polygons[last]))
        spots[:, 2] = tops[layer[last]]
        # what is held: demands that end in a piece's layer
        for k in np.flatnonzero(~shapely.is_empty(held)):
            mine = np.flatnonzero(layer == ends_at[k])
            if k and shapely.is_empty(outlines.areas[k - 1]):
                continue
            loose = [
                part
                for part in shapely.get_parts(outlines.areas[k])
                if k and not shapely.intersects(part, outlines.areas[k - 1])
            ]
            for part in loose:
                island[label[mine[shapely.intersects(pieces.polygons[mine], part)]]] = True
            if seen is not None:
                z = seen[0][:, 2]
                here = np.flatnonzero((z >= tops[k] - heights[k] - 1e-6) & (z < tops[k]))
                for m in mine:
                    inside = shapely.contains_xy(
                        pieces.polygons[m], seen[0][here, 0], seen[0][here, 1]
                    )
                    scars[label[m]] += seen[1][here][inside].sum()
        foot = low[label] > 1e-6
        on_part[label[foot & ((tops - heights)[layer] <= low[label] + 1e-6)]] = True
    paths = _laid(pieces, label, roofs, outlines, rules)
    return Stands(areas, roofs, held, paths, spots, low, high, contact, island, on_part, scars)


def _by_hand(want: np.ndarray, outlines: Outlines, placed: Placed, rules: Supports) -> np.ndarray:
    """Demands with those of marked faces added and those of forbidden faces taken away."""
    if not rules.marks:
        return want
    vertices, faces, _ = mesh_arrays((placed.solid,))
    corners = np.asarray(vertices[faces], np.float64)
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-30)
    beside = neighbours(faces)
    want = want.copy()
    low, high = corners[:, :, 2].min(axis=1), corners[:, :, 2].max(axis=1)
    leaning = normals[:, 2] < -1e-3
    for mark in rules.marks:
        chosen = marked_face(corners, normals, beside, placed.affine, mark) & leaning
        if mark.radius > 0:
            spot = placed.affine[:, :3] @ np.array([mark.x, mark.y, mark.z]) + placed.affine[:, 3]
            chosen &= np.linalg.norm(corners.mean(axis=1) - spot, axis=1) <= mark.radius
        shadows = shapely.polygons(corners[chosen][:, :, :2])
        for k in range(1, len(outlines.tops)):
            here = (low[chosen] <= outlines.tops[k] + 1e-6) & (
                high[chosen] >= outlines.tops[k] - outlines.heights[k] - 1e-6
            )
            if not here.any():
                continue
            face = shapely.buffer(shapely.union_all(shapely.buffer(shadows[here], 1e-3)), 0.01)
            if mark.want:
                over = shapely.intersection(
                    shapely.difference(outlines.areas[k], outlines.areas[k - 1]), face
                )
                want[k] = shapely.union(want[k], only_areas(np.array([over], object))[0])
            else:
                want[k] = only_areas(
                    np.array(
                        [shapely.difference(want[k], shapely.buffer(face, outlines.heights[k]))],
                        object,
                    )
                )[0]
    return want


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


def _spared(want: np.ndarray, outlines: Outlines, rules: Supports) -> np.ndarray:
    """Demands without the level spans that a bridge holds."""
    if rules.spare_bridges <= 0:
        return want
    pieces = explode(want, 0.0)
    # a strip narrower than this is a slope, not a span
    wide = ~shapely.is_empty(offset(pieces.polygons, -0.6)) if len(pieces) else np.empty(0, bool)
    keep = np.ones(len(pieces), bool)
    for k in np.flatnonzero(wide):
        below = outlines.areas[pieces.owner[k] - 1]
        # up to what it would hold on to, which the angle left out
        whole = shapely.difference(shapely.buffer(pieces.polygons[k], 1.0), below)
        span_of = shapely.intersection(whole, outlines.areas[pieces.owner[k]])
        _, span, held = span_direction(span_of, below)
        keep[k] = not (held > 0.8 and span <= rules.spare_bridges)
    return collect(Pieces(pieces.polygons[keep], pieces.owner[keep]), len(want))


def _laid(
    pieces: Pieces, label: np.ndarray, roofs: np.ndarray, outlines: Outlines, rules: Supports
) -> PathTable:
    """Support lines at their density, solid roofs; ``cause`` is the number of the stand."""
    if len(pieces) == 0:
        return PathTable.joined([])
    roof = intersection(pieces.polygons, roofs[pieces.owner])
    has = ~shapely.is_empty(roof)
    body = pieces.polygons.copy()
    body[has] = difference(body[has], roof[has])
    tables = []
    for areas, feature, density in ((body, SUPPORT, rules.density / 100), (roof, ROOF, 1.0)):
        found = explode(areas, 0.05)
        if len(found) == 0:
            continue
        layer, stand = pieces.owner[found.owner], label[found.owner]
        height = outlines.heights[layer]
        lane = spacing(rules.width, height)
        polygons, wall = found.polygons, 0.0
        if feature == SUPPORT and rules.strength == "strong":
            rings = rings_of(offset(polygons, -lane / 2))
            of = rings.owner
            tables.append(
                path_table(
                    rings.points,
                    rings.starts,
                    layer[of],
                    -1,
                    RANK + stand[of] * 3,
                    SUPPORT,
                    True,
                    rules.width,
                    height[of],
                    cause=stand[of],
                )
            )
            wall = 1.0
        inset, room = lane * (0.5 + wall), density * float((shapely.area(polygons) * height).sum())
        if feature == SUPPORT:
            # what joins two lines stays as far inside as their ends
            inner = explode(offset(polygons, -inset), 0.01)
            polygons, layer, stand, height, lane = (
                column[inner.owner] for column in (polygons, layer, stand, height, lane)
            )
            polygons, inset = (
                inner.polygons,
                np.full(len(inner), 0.02),
            )  # off the border, so that a join over it is seen
            if len(polygons) == 0:
                continue
        if feature == ROOF:
            turn = [90.0 * (layer % 2)]
        elif rules.strength == "strong":
            turn = [np.full(len(polygons), 45.0), np.full(len(polygons), 135.0)]
        else:
            turn = [
                np.full(len(polygons), 0.0)
                if rules.strength == "light"
                else 90.0 * (layer // TURN % 2)
            ]
        pitch = lane * len(turn) / density
        link = 4.0 if feature == ROOF else 1.6
        if feature == SUPPORT:
            # joins lay material too: wide enough apart that the whole has the density asked for
            trial = sum(
                float((chains.length * lane * height).sum())
                for chains in (
                    fill_lines(polygons, angle, pitch, inset, False, link) for angle in turn
                )
            )
            pitch = pitch * max(trial / max(room, 1e-9), 0.5)
        for angle in turn:
            chains = fill_lines(polygons, angle, pitch, inset, feature == ROOF, link)
            of = chains.polygon
            bead = width_for(chains.spacing if feature == ROOF else lane, height)
            tables.append(
                path_table(
                    chains.points,
                    chains.starts,
                    layer[of],
                    -1,
                    RANK + stand[of] * 3 + (1 if feature == SUPPORT else 2),
                    feature,
                    False,
                    bead[of],
                    height[of],
                    cause=stand[of],
                )
            )
    return PathTable.joined(tables)
