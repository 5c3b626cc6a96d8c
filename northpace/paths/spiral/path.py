"""The path of a spiral, and the rows it is laid in."""

from __future__ import annotations

from dataclasses import fields, replace
from typing import Any

import numba
import numpy as np
import shapely

from northpace.geometry.polygons import offset
from northpace.moves import OUTER, RETRACTION, TRAVEL
from northpace.outlines.sections import Outlines
from northpace.paths.spiral.rules import APART, NOTHING, RISE, outer_contours
from northpace.paths.travel.rows import Rows

#: Points (K, 2), z (K,) and bead height (K,) in mm of a spiral, and the layer (K − 1,) of the move
#: to each point but the first.
Path = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]


def spiral_rows(
    rows: Rows,
    found: Path,
    begin: int,
    end: int,
    width: float,
    origin: tuple[float, float],
    raised: float,
) -> Rows:
    """The rows of the layers below ``begin``, from its top on the spiral ``found``, and the rows of
    the layers from ``end`` on.
    """
    path, z, tall, layer = _trimmed(found)
    xy, height = np.round(path + np.array(origin), 3), np.round(z + raised, 3)
    kept = rows.layer < begin
    from_ = np.array([rows.x[kept][-1], rows.y[kept][-1], rows.z[kept][-1]])
    lead = _way(begin, from_, np.r_[xy[0], height[0]])
    own = {
        "layer": layer,
        "feature": OUTER,
        "x": xy[1:, 0],
        "y": xy[1:, 1],
        "z": height[1:],
        "width": width,
        "height": (tall[1:] + tall[:-1]) / 2,
    }
    # above, the first thing laid is reached from the rim: what led to it from elsewhere gives way
    later = rows.layer >= end
    above = np.flatnonzero(later & (np.cumsum((rows.width > 0) & later) > 0))
    back: dict[str, Any] = {}
    if len(above):
        k = above[0]
        to = np.array([rows.x[k - 1], rows.y[k - 1], rows.z[k]])
        back = _way(end, np.r_[xy[-1], height[-1]], to)
    parts = ((lead, 4), (own, len(path) - 1), (back, 4 if len(above) else 0))

    def column(name: str) -> np.ndarray:
        before = getattr(rows, name)
        rest = -1 if name == "cause" else 0
        new = [
            np.broadcast_to(np.asarray(part.get(name, rest), before.dtype), (number,))
            for part, number in parts
        ]
        return np.concatenate([before[kept], *new, before[above]])

    columns: dict[str, Any] = {
        item.name: column(item.name)
        for item in fields(Rows)
        if isinstance(getattr(rows, item.name), np.ndarray)
    }
    return replace(rows, **columns)


def _trimmed(found: Path) -> Path:
    """A path without its ends where the bead is so thin that the file would feed nothing. It still
    begins at the top of what is below it, wherever its first corner lies.
    """
    path, z, tall, layer = found
    some = np.flatnonzero(tall > NOTHING)
    low, high = max(int(some[0]) - 1, 0), min(int(some[-1]) + 1, len(tall) - 1)
    kept = z[low : high + 1].copy()
    kept[0] = z[0]
    return path[low : high + 1], kept, tall[low : high + 1], layer[low:high]


def _way(layer: int, from_: np.ndarray, to: np.ndarray) -> dict[str, Any]:
    """Columns of four rows that lead from one place (3,) to another with the filament pulled back:
    to the height, then across.
    """
    across = np.array([from_, from_, to, to])
    z = np.array([from_[2], to[2], to[2], to[2]])
    return {
        "layer": layer,
        "feature": np.array([RETRACTION, TRAVEL, TRAVEL, RETRACTION]),
        "x": across[:, 0],
        "y": across[:, 1],
        "z": z,
        "pull": np.array([-1, 0, 0, 1]),
    }


def spiral_path(outlines: Outlines, begin: int, end: int, width: float, bearing: float) -> Path:
    """The path of a spiral of the layers ``begin`` to ``end`` − 1 to a level rim.

    N + 1 turns: turn i goes from contour i to contour i + 1 while it rises by the height of the
    layer; the last stays level at the rim. The bead is as tall as the gap to the turn below, so it
    grows from nothing in the first turn and runs out in the last.
    """
    count, first = end, max(begin, 1) - 1
    centre = outer_contours(offset(outer_contours(outlines.areas[first:end]), -width / 2))
    rings = shapely.get_exterior_ring(centre)
    heights = outlines.heights[first + 1 : end]
    turns = count - first  # the last level at the rim
    length = shapely.length(rings)
    # where every contour begins: next to where the one below does, so that the seamless line does
    # not drift
    starts = np.zeros(turns)
    turn = np.radians(bearing)
    spot = np.asarray(shapely.get_coordinates(rings[0]))
    spot = spot[int(np.argmax(spot @ np.array([np.cos(turn), np.sin(turn)])))]
    for k in range(turns):  # each needs the one below it
        starts[k] = shapely.line_locate_point(rings[k], shapely.Point(spot))
        spot = shapely.get_coordinates(shapely.line_interpolate_point(rings[k], starts[k]))[0]
    rise = np.r_[heights, 0.0]
    from_ring = np.arange(turns)
    to_ring = np.minimum(from_ring + 1, turns - 1)
    points, owner = shapely.get_coordinates(rings, return_index=True)
    step = np.minimum(APART, length * RISE / np.maximum(rise, 1e-9) * 0.9)
    way, of = _stations(points, np.searchsorted(owner, np.arange(turns + 1)), starts, length, step)
    here = shapely.get_coordinates(
        shapely.line_interpolate_point(rings[of], np.mod(starts[of] + way, length[of]))
    )
    there = shapely.line_locate_point(rings[to_ring[of]], shapely.points(here))
    ahead = np.mod(there - starts[to_ring[of]], length[to_ring[of]])
    ahead = _forward(ahead, way / length[of], of, length[to_ring])
    target = shapely.get_coordinates(
        shapely.line_interpolate_point(
            rings[to_ring[of]], np.mod(starts[to_ring[of]] + ahead, length[to_ring[of]])
        )
    )
    t = way / length[of]
    path = (1 - t)[:, None] * here + t[:, None] * target
    floor = outlines.tops[first + of]
    z = floor + t * rise[of]
    before = np.r_[0.0, heights][of]
    tall = (1 - t) * before + t * rise[of]
    return path, z, tall, np.minimum(first + 1 + of[1:], count - 1)


@numba.njit(cache=True, nogil=True)
def _stations(points, at, starts, length, step):  # type: ignore[no-untyped-def]
    """Ways (S,) along every ring from its start, once around: its corners, and points between them;
    and the ring (S,) of each.

    The end of a ring is the start of the next and is left out, but for the last.
    """
    room = 0
    for r in range(len(starts)):
        room += int(length[r] / step[r]) + 2 * (at[r + 1] - at[r]) + 4
    way, of = np.empty(room), np.empty(room, np.int64)
    n = 0
    for r in range(len(starts)):
        begin, end = at[r], at[r + 1]
        corners = np.empty(end - begin)
        run, m = 0.0, 0
        for k in range(begin, end - 1):
            corners[m] = (run - starts[r]) % length[r]
            m += 1
            run += np.hypot(points[k + 1, 0] - points[k, 0], points[k + 1, 1] - points[k, 1])
        corners = np.sort(corners[:m])
        now = 0.0
        way[n], of[n] = 0.0, r
        n += 1
        for k in range(m + 1):
            stop = corners[k] if k < m else length[r]
            if stop - now < 1e-6:
                continue
            pieces = int(np.ceil((stop - now) / step[r]))
            for i in range(1, pieces + 1):
                value = now + (stop - now) * i / pieces
                if value < length[r] - 1e-6:
                    way[n], of[n] = value, r
                    n += 1
            now = stop
    way[n], of[n] = length[len(starts) - 1], len(starts) - 1
    return way[: n + 1], of[: n + 1]


@numba.njit(cache=True, nogil=True)
def _forward(ahead, share, of, length):  # type: ignore[no-untyped-def]
    """Ways along the next contours that never go back, from 0 to once around; ``share`` of the own
    contour tells a start from an end.
    """
    out = np.empty(len(ahead))
    last = 0.0
    for k in range(len(ahead)):
        if k == 0 or of[k] != of[k - 1]:
            last = 0.0
            out[k] = 0.0
            continue
        total = length[of[k]]
        value = ahead[k]
        if share[k] < 0.25 and value > 0.75 * total:
            value -= total
        elif share[k] > 0.75 and value < 0.25 * total:
            value += total
        # a jump further than the own way ahead is another wall of the contour, not the next point
        # of this one
        value = min(max(value, last), total, (share[k] + 0.1) * total)
        last = max(value, last)
        out[k] = last
    if share[len(ahead) - 1] > 1.0 - 1e-9:
        out[len(ahead) - 1] = length[of[len(ahead) - 1]]
    return out
