"""From ordered paths to rows: travels, retractions and layer changes put between what is laid."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numba
import numpy as np

from northpace.geometry.crossing import crosses_boxed
from northpace.moves import INNER, OUTER, RETRACTION, START, TOP, TRAVEL
from northpace.paths.bead import spacing
from northpace.paths.table import PathTable
from northpace.paths.travel.detour import MOST, detour
from northpace.paths.travel.land import Land
from northpace.paths.travel.order import PathOrder
from northpace.paths.travel.rows import Rows
from northpace.paths.travel.written import cut_to, empty_rows, put, with_room


@dataclass(frozen=True)
class TravelRules:
    """How the head gets from path to path: retract from (mm), always or only where a string would
    show, longest detour (mm), lift (mm), walls joined at the seam.
    """

    retract_from: float
    always: bool
    longest: float
    lift: float
    joined: bool


def lay(
    paths: PathTable,
    order: PathOrder,
    land: Land,
    rules: TravelRules,
    origin: tuple[float, float],
    raised: float = 0.0,
) -> Rows:
    """Rows in machine coordinates: ``origin`` (mm) is where the middle of the bed lies, ``raised``
    (mm) how far a raft lifts the part.

    A travel that would cross an outline, of the part or of a stand, goes around where that is not
    too long; otherwise it pulls the filament back.
    """
    habits = Habits(
        rules.retract_from,
        rules.always,
        rules.longest,
        rules.lift,
        rules.joined,
        *origin,
        raised,
    )
    found, around = _lay(_walk(paths, order), land, habits)
    x, y, z = (np.ascontiguousarray(found.xyz[:, k]) for k in range(3))
    return Rows(
        found.layer,
        found.feature,
        x,
        y,
        z,
        np.ascontiguousarray(found.bead[:, 0]),
        np.ascontiguousarray(found.bead[:, 1]),
        found.pull,
        found.cause,
        found.crossed,
        np.zeros(len(x), np.int32),
        order.saved,
        int(around),
    )


def _walk(paths: PathTable, order: PathOrder) -> Walk:
    lane = np.empty(0)
    if len(paths):
        lane = spacing(paths.width[paths.starts[:-1]], paths.height)
    return Walk(
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
        paths.top,
        lane,
        order.sequence,
        order.entry,
    )


class Walk(NamedTuple):
    """The paths in the order they are walked, for the kernel: columns as in `PathTable`."""

    #: (K, 2) points of all paths, and (P + 1,) where each begins
    points: np.ndarray
    #: (P + 1,) first point of every path
    starts: np.ndarray
    #: (P,) by path
    layer: np.ndarray
    #: (P,) code
    feature: np.ndarray
    #: (P,) whether it ends where it begins
    closed: np.ndarray
    #: (K,) bead width at every point, (P,) bead height and z in mm
    width: np.ndarray
    #: (P,) of the bead in mm
    height: np.ndarray
    #: (P,) top of the bead in mm, or NaN
    z: np.ndarray
    #: (P,) −1 for none
    island: np.ndarray
    #: (P,) why it is there
    cause: np.ndarray
    #: (K,) whether the bead between the point before and this one shows as a top
    top: np.ndarray
    #: (P,) room in mm a bead takes beside its neighbours
    lane: np.ndarray
    #: (P,) path at every step, and the point it is entered at
    sequence: np.ndarray
    #: (P,) point it is entered at
    entry: np.ndarray


class Habits(NamedTuple):
    """`TravelRules` and the place of the bed, for the kernel; lengths in mm."""

    #: travels shorter than this do not retract
    retract_from: float
    #: whether every other one does
    always: bool
    #: longest detour
    longest: float
    #: how far the head is lifted
    lift: float
    #: whether walls go on into each other
    joined: bool
    #: where the middle of the bed lies
    origin_x: float
    #: the same along y
    origin_y: float
    #: how far a raft raises the part
    raised: float


@numba.njit(cache=True, nogil=True)
def _lay(walk, land, habits):  # type: ignore[no-untyped-def]
    """Rows (M,) in machine coordinates, and how many travels went around."""
    room = 64 + 9 * len(walk.sequence) + len(walk.points)
    out = empty_rows(room)
    way = np.empty((MOST, 2))
    x, y, z = 0.0, 0.0, 0.0
    out.layer[0], out.feature[0] = -1, START
    out.xyz[0, 0], out.xyz[0, 1], out.xyz[0, 2] = 0.0, 0.0, 0.0
    row, around = 1, 0
    linked = False  # the walls before go on into this one
    for n in range(len(walk.sequence)):
        p = walk.sequence[n]
        begin, here = walk.entry[n], walk.layer[p]
        level = land.tops[here] if np.isnan(walk.z[p]) else walk.z[p]
        level = np.round(level + habits.raised, 3)
        px = np.round(walk.points[begin, 0] + habits.origin_x, 3)
        py = np.round(walk.points[begin, 1] + habits.origin_y, 3)
        moved = abs(px - x) > 1e-9 or abs(py - y) > 1e-9
        barred, between = False, 0
        if moved and row > 1 and not linked:
            barred, between, went = _way(land, habits, here, x, y, px, py, way)
            around += went
        need = row + between + 8 + 2 * (walk.starts[p + 1] - walk.starts[p])
        if need > room:
            room = max(need, room + room // 2)
            out = with_room(out, row, room)
        if linked and moved:
            # walls joined at the seam: the way over is laid
            x, y = px, py
            out.bead[row, 0], out.bead[row, 1] = walk.width[begin], walk.height[p]
            row = put(out, row, here, walk.feature[p], x, y, z)
        if not linked:
            head, goal = (x, y, z), (px, py, level)
            row, z = _travel(out, row, habits, here, head, goal, barred, way[:between])
            x, y = px, py
        elif z != level:
            z = level
            row = put(out, row, here, TRAVEL, x, y, z)
        linked = habits.joined and _goes_on(walk, land, n)
        row, x, y = _trace(out, row, walk, habits, n, linked, (x, y, z))
    return cut_to(out, row), around


@numba.njit(cache=True, nogil=True)
def _way(land, habits, here, x, y, px, py, way):  # type: ignore[no-untyped-def]
    """Whether a travel crosses an outline for want of a way around, how many points of ``way`` lead
    around, and whether it goes around (0 or 1).
    """
    ax, ay = x - habits.origin_x, y - habits.origin_y
    bx, by = px - habits.origin_x, py - habits.origin_y
    first, last = land.edge_at[here], land.edge_at[here + 1]
    if not crosses_boxed(land.edges, land.boxes, first, last, (ax, ay, bx, by)):
        return False, 0, 0
    if habits.longest <= 0:
        return True, 0, 0
    between = detour(land, here, ax, ay, bx, by, habits.longest, way)
    return between < 0, max(between, 0), int(between >= 0)


@numba.njit(cache=True, nogil=True)
def _travel(out, row, habits, here, head, goal, barred, way):  # type: ignore[no-untyped-def]
    """Rows of a travel from where the head is to a goal, both (x, y, z): pulling back, lifting, the
    way around, lowering, giving back. Returns the next row and z.
    """
    (x, y, z), (px, py, level) = head, goal
    moved = abs(px - x) > 1e-9 or abs(py - y) > 1e-9
    far = np.hypot(px - x, py - y)
    back = row > 1 and moved and (barred or habits.always) and far >= habits.retract_from
    if back:
        out.pull[row] = -1
        row = put(out, row, here, RETRACTION, x, y, z)
    high = max(level, z) + habits.lift if back and habits.lift > 0 else level
    if high != z:
        z = high
        row = put(out, row, here, TRAVEL, x, y, z)
    if moved:
        for k in range(len(way)):
            gx = np.round(way[k, 0] + habits.origin_x, 3)
            gy = np.round(way[k, 1] + habits.origin_y, 3)
            if gx == x and gy == y:
                continue
            x, y = gx, gy
            row = put(out, row, here, TRAVEL, x, y, z)
        x, y = px, py
        out.crossed[row] = barred
        row = put(out, row, here, TRAVEL, x, y, z)
    if z != level:
        z = level
        row = put(out, row, here, TRAVEL, x, y, z)
    if back:
        out.pull[row] = 1
        row = put(out, row, here, RETRACTION, x, y, z)
    return row, z


@numba.njit(cache=True, nogil=True)
def _goes_on(walk, land, n):  # type: ignore[no-untyped-def]
    """Whether the next wall is near enough for this one to go on into it."""
    p = walk.sequence[n]
    if not walk.closed[p] or n + 1 >= len(walk.sequence):
        return False
    q, here = walk.sequence[n + 1], walk.layer[p]
    if (
        not walk.closed[q]
        or walk.layer[q] != here
        or walk.island[q] != walk.island[p]
        or not _is_wall(walk.feature[p])
        or not _is_wall(walk.feature[q])
    ):
        return False
    ux, uy = walk.points[walk.entry[n], 0], walk.points[walk.entry[n], 1]
    vx, vy = walk.points[walk.entry[n + 1], 0], walk.points[walk.entry[n + 1], 1]
    if np.hypot(vx - ux, vy - uy) > 2.0 * (walk.lane[p] + walk.lane[q]):
        return False
    first, last = land.edge_at[here], land.edge_at[here + 1]
    return not crosses_boxed(land.edges, land.boxes, first, last, (ux, uy, vx, vy))


@numba.njit(cache=True, nogil=True)
def _trace(out, row, walk, habits, n, linked, head):  # type: ignore[no-untyped-def]
    """Rows of a path from its entry on. Returns the next row and where the head is."""
    x, y, z = head
    p, begin = walk.sequence[n], walk.entry[n]
    first, total = walk.starts[p], walk.starts[p + 1] - walk.starts[p]
    steps = total if walk.closed[p] else total - 1
    for k in range(1, steps + 1):
        if walk.closed[p]:
            v, u = first + (begin - first + k) % total, first + (begin - first + k - 1) % total
        elif begin == first:
            v, u = begin + k, begin + k - 1
        else:
            v, u = begin - k, begin - k + 1
        tx, ty = walk.points[v, 0], walk.points[v, 1]
        if linked and k == steps:
            # the loop stops a bead short of its start: that is where the way over begins
            ax, ay = x - habits.origin_x, y - habits.origin_y
            length = np.hypot(tx + habits.origin_x - x, ty + habits.origin_y - y)
            if length > 1.5 * walk.lane[p]:
                part = 1.0 - walk.lane[p] / length
                tx = ax + part * (tx - x + habits.origin_x)
                ty = ay + part * (ty - y + habits.origin_y)
        nx, ny = np.round(tx + habits.origin_x, 3), np.round(ty + habits.origin_y, 3)
        if nx == x and ny == y:
            continue
        x, y = nx, ny
        out.cause[row] = walk.cause[p]
        out.bead[row, 0] = 0.5 * (walk.width[u] + walk.width[v])
        out.bead[row, 1] = walk.height[p]
        feature = TOP if walk.top[max(u, v)] else walk.feature[p]
        row = put(out, row, walk.layer[p], feature, x, y, z)
    return row, x, y


@numba.njit(cache=True, nogil=True)
def _is_wall(feature):  # type: ignore[no-untyped-def]
    return feature in (OUTER, INNER)
