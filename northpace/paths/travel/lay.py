"""From ordered paths to rows: travels, retractions and layer changes put between what is laid."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any

import numba
import numpy as np
import shapely

from northpace.geometry.crossing import crosses, edges_of
from northpace.geometry.polygons import offset, rings_of
from northpace.moves import INNER, OUTER, RETRACTION, START, TRAVEL
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing
from northpace.paths.table import PathTable
from northpace.paths.travel.detour import MOST, detour
from northpace.paths.travel.order import order_paths
from northpace.paths.travel.seam import SeamRule

#: Travels go around along a line this far inside the outline (mm).
INSIDE = 0.2


@dataclass(frozen=True)
class TravelRules:
    """How the head gets from path to path: retract from (mm), always or only where a string would
    show, longest detour (mm), lift (mm), walls joined at the seam, the way paths are ordered.
    """

    retract_from: float
    always: bool
    longest: float
    lift: float
    joined: bool
    order: str


@dataclass(frozen=True)
class Rows:
    """Geometry of the moves, before speeds: columns as in `northpace.moves.Moves`; pull (M,) is −1
    for a retraction, +1 for its return; crossed (M,) marks travels that cross an outline; region
    (M,) is the index into ``cases`` of what regions change there; ``saved``: millimetres of travel
    saved by exchanging; ``around``: travels that went around.
    """

    layer: np.ndarray
    feature: np.ndarray
    x: np.ndarray
    y: np.ndarray
    z: np.ndarray
    width: np.ndarray
    height: np.ndarray
    pull: np.ndarray
    cause: np.ndarray
    crossed: np.ndarray
    region: np.ndarray
    saved: float
    around: int
    cases: tuple[dict[str, Any], ...] = ({},)

    @property
    def crossings(self) -> int:
        """Travels that cross an outline."""
        return int(self.crossed.sum())

    @property
    def nbytes(self) -> int:
        return sum(
            getattr(self, item.name).nbytes
            for item in fields(self)
            if item.name not in ("saved", "around", "cases")
        )


def lay(
    paths: PathTable,
    outlines: Outlines,
    seam: SeamRule,
    rules: TravelRules,
    origin: tuple[float, float],
    raised: float = 0.0,
) -> Rows:
    """Rows in machine coordinates: ``origin`` (mm) is where the middle of the bed lies, ``raised``
    (mm) how far a raft lifts the part.

    A travel that would cross an outline goes around where that is not too long; otherwise it pulls
    the filament back.
    """
    order = order_paths(paths, seam, outlines.tops, rules.order)
    layers = np.arange(len(outlines.tops) + 1)
    edges, edge_at = edges_of(rings_of(outlines.areas), len(outlines.tops))
    guide = rings_of(
        shapely.simplify(offset(outlines.areas, -INSIDE), 0.03)
        if rules.longest > 0
        else outlines.areas[:0]
    )
    lane = spacing(paths.width[paths.starts[:-1]], paths.height) if len(paths) else np.empty(0)
    found = _lay(
        paths.points,
        paths.starts,
        paths.layer,
        paths.feature,
        paths.closed,
        paths.width,
        paths.height,
        paths.z,
        paths.island,
        paths.cause,
        lane,
        order.sequence,
        order.entry,
        outlines.tops,
        edges,
        edge_at,
        guide.points,
        guide.starts,
        np.searchsorted(guide.owner, layers),
        rules.retract_from,
        rules.always,
        rules.longest,
        rules.lift,
        rules.joined,
        origin[0],
        origin[1],
        raised,
    )
    layer, feature, xyz, bead, pull, cause, crossed, around = found
    x, y, z = (np.ascontiguousarray(xyz[:, k]) for k in range(3))
    return Rows(
        layer,
        feature,
        x,
        y,
        z,
        np.ascontiguousarray(bead[:, 0]),
        np.ascontiguousarray(bead[:, 1]),
        pull,
        cause,
        crossed,
        np.zeros(len(layer), np.int32),
        order.saved,
        int(around),
    )


@numba.njit(cache=True)
def _lay(  # type: ignore[no-untyped-def]
    points,
    starts,
    path_layer,
    path_feature,
    closed,
    width,
    height,
    path_z,
    island,
    path_cause,
    lane,
    sequence,
    entry,
    tops,
    edges,
    edge_at,
    guide,
    guide_starts,
    guide_at,
    retract_from,
    always,
    longest,
    lift,
    joined,
    origin_x,
    origin_y,
    raised,
):
    room = 64 + 8 * len(sequence) + len(points) + len(sequence)
    layer, feature = np.empty(room, np.int32), np.empty(room, np.uint8)
    xyz, bead = np.empty((room, 3)), np.zeros((room, 2), np.float32)
    pull, cause, crossed = (
        np.zeros(room, np.int8),
        np.full(room, -1, np.int32),
        np.zeros(room, np.bool_),
    )
    way = np.empty((MOST, 2))
    x, y, z = 0.0, 0.0, 0.0
    layer[0], feature[0] = -1, START
    xyz[0, 0], xyz[0, 1], xyz[0, 2] = 0.0, 0.0, 0.0
    row, around = 1, 0
    linked = False  # the walls before go on into this one
    for n in range(len(sequence)):
        p = sequence[n]
        first, last, begin = starts[p], starts[p + 1], entry[n]
        here = path_layer[p]
        level = np.round((tops[here] if np.isnan(path_z[p]) else path_z[p]) + raised, 3)
        px, py = np.round(points[begin, 0] + origin_x, 3), np.round(points[begin, 1] + origin_y, 3)
        moved = abs(px - x) > 1e-9 or abs(py - y) > 1e-9
        barred, between = False, 0
        if moved and row > 1 and not linked:
            ax, ay, bx, by = x - origin_x, y - origin_y, px - origin_x, py - origin_y
            barred = crosses(edges, edge_at[here], edge_at[here + 1], ax, ay, bx, by)
            if barred and longest > 0:
                between = detour(
                    edges,
                    edge_at[here],
                    edge_at[here + 1],
                    guide,
                    guide_starts,
                    guide_at[here],
                    guide_at[here + 1],
                    ax,
                    ay,
                    bx,
                    by,
                    longest,
                    way,
                )
                if between >= 0:
                    barred = False
                    around += 1
                else:
                    between = 0
        need = row + between + 8 + 2 * (last - first)
        if need > room:
            room = max(need, room + room // 2)
            layer, feature = _longer(layer, room), _longer(feature, room)
            xyz, bead = _taller(xyz, room), _taller(bead, room)
            pull, cause, crossed = _longer(pull, room), _longer(cause, room), _longer(crossed, room)
            pull[row:], cause[row:], crossed[row:], bead[row:] = 0, -1, False, 0.0
        if linked and moved:
            # walls joined at the seam: the way over is laid
            layer[row], feature[row] = here, path_feature[p]
            x, y = px, py
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            bead[row, 0], bead[row, 1] = width[begin], height[p]
            row += 1
        far = np.hypot(px - x, py - y)
        back = row > 1 and moved and not linked and (barred or always) and far >= retract_from
        if back:
            layer[row], feature[row], pull[row] = here, RETRACTION, -1
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            row += 1
        high = max(level, z) + lift if back and lift > 0 else level
        if high != z:
            layer[row], feature[row] = here, TRAVEL
            z = high
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            row += 1
        if moved and not linked:
            for k in range(between):
                gx, gy = np.round(way[k, 0] + origin_x, 3), np.round(way[k, 1] + origin_y, 3)
                if gx == x and gy == y:
                    continue
                x, y = gx, gy
                layer[row], feature[row] = here, TRAVEL
                xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
                row += 1
            layer[row], feature[row], crossed[row] = here, TRAVEL, barred
            x, y = px, py
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            row += 1
        if z != level:
            layer[row], feature[row] = here, TRAVEL
            z = level
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            row += 1
        if back:
            layer[row], feature[row], pull[row] = here, RETRACTION, 1
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            row += 1
        # whether the next wall is near enough to be gone on into
        linked = False
        if joined and closed[p] and n + 1 < len(sequence):
            q = sequence[n + 1]
            if (
                closed[q]
                and path_layer[q] == here
                and island[q] == island[p]
                and _is_wall(path_feature[p])
                and _is_wall(path_feature[q])
            ):
                vx, vy = points[entry[n + 1], 0], points[entry[n + 1], 1]
                linked = np.hypot(vx - points[begin, 0], vy - points[begin, 1]) <= 2.0 * (
                    lane[p] + lane[q]
                ) and not crosses(
                    edges,
                    edge_at[here],
                    edge_at[here + 1],
                    points[begin, 0],
                    points[begin, 1],
                    vx,
                    vy,
                )
        total = last - first
        steps = total if closed[p] else total - 1
        for k in range(1, steps + 1):
            if closed[p]:
                v, u = first + (begin - first + k) % total, first + (begin - first + k - 1) % total
            elif begin == first:
                v, u = begin + k, begin + k - 1
            else:
                v, u = begin - k, begin - k + 1
            tx, ty = points[v, 0], points[v, 1]
            if linked and k == steps:
                # the loop stops a bead short of its start: that is where the way over begins
                length = np.hypot(tx + origin_x - x, ty + origin_y - y)
                if length > 1.5 * lane[p]:
                    part = 1.0 - lane[p] / length
                    tx, ty = (
                        x - origin_x + part * (tx - x + origin_x),
                        y - origin_y + part * (ty - y + origin_y),
                    )
            nx, ny = np.round(tx + origin_x, 3), np.round(ty + origin_y, 3)
            if nx == x and ny == y:
                continue
            x, y = nx, ny
            layer[row], feature[row], cause[row] = here, path_feature[p], path_cause[p]
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            bead[row, 0], bead[row, 1] = 0.5 * (width[u] + width[v]), height[p]
            row += 1
    return (
        layer[:row].copy(),
        feature[:row].copy(),
        xyz[:row].copy(),
        bead[:row].copy(),
        pull[:row].copy(),
        cause[:row].copy(),
        crossed[:row].copy(),
        around,
    )


@numba.njit(cache=True)
def _is_wall(feature):  # type: ignore[no-untyped-def]
    return feature in (OUTER, INNER)


@numba.njit(cache=True)
def _longer(array, room):  # type: ignore[no-untyped-def]
    out = np.empty(room, array.dtype)
    out[: len(array)] = array
    return out


@numba.njit(cache=True)
def _taller(array, room):  # type: ignore[no-untyped-def]
    out = np.empty((room, array.shape[1]), array.dtype)
    out[: len(array)] = array
    return out
