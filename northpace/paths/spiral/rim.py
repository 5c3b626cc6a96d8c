"""A spiral whose last turn follows a slanting rim: all turns are tilted a little, so that none of
them ends before the others.
"""

from __future__ import annotations

import numpy as np
import shapely

from northpace.errors import InputError
from northpace.geometry.polygons import offset
from northpace.outlines.sections import Outlines
from northpace.paths.spiral.path import Path
from northpace.paths.spiral.rules import GRAIN, RISE, outer_contours

#: Stations around the wall are this far apart (mm).
APART = 0.4
#: The rim is taken as even over this length (mm), so that the grain of the layers does not make it
#: wavy.
EVEN = 6.0
#: Steepest rim in degrees a level nozzle follows without ploughing.
STEEPEST = 20.0


def rim_path(outlines: Outlines, begin: int, width: float, bearing: float, least: float) -> Path:
    """The path of a spiral from layer ``begin`` to the rim of the part.

    Every station of the wall is followed upwards from contour to contour until it is cut off: that
    is the rim there. Turns share the height from the foot to the rim evenly at every station.
    Raises `InputError` for a rim steeper than `STEEPEST`, and where turns would become lower than
    ``least`` mm.
    """
    first, tops, heights = begin - 1, outlines.tops, outlines.heights
    wall, rim = _stations(outlines, first, width, bearing)
    foot, count = float(tops[first]), wall.shape[1]
    step = np.hypot(*np.diff(wall[0], axis=0, append=wall[0, :1]).T)
    slope = np.degrees(np.arctan(np.abs(np.diff(rim, append=rim[:1])) / np.maximum(step, 1e-6)))
    if slope.max() > STEEPEST:
        raise InputError(
            f"the rim slants by {slope.max():.0f}°; a spiral follows up to {STEEPEST:.0f}°. "
            "Let it end level",
            "body.rim",
        )
    high = float(rim.max())
    last = int(np.searchsorted(tops, high - 1e-6))
    ratio = (rim - foot) / (high - foot)
    lowest = float(heights[first + 1 : last + 1].min() * ratio.min())
    if lowest < least - 1e-9:
        raise InputError(
            f"on the low side of the rim turns would be {lowest:.3f} mm tall; the machine "
            f"lays no less than {least:g} mm. Take taller layers, "
            "or let it end level",
            "body.rim",
        )
    turns = last - first
    # the last turn lies on the rim and runs out
    turn, station = np.divmod(np.arange((turns + 1) * count + 1), count)
    turn, share = np.minimum(turn, turns + 1), station / count
    at = np.r_[tops[first : last + 1], tops[last]]
    rise = np.r_[heights[first + 1 : last + 1], 0.0, 0.0]
    before = np.r_[0.0, heights[first + 1 : last + 1], 0.0]
    level = at[np.minimum(turn, turns)] + share * rise[turn]
    z = foot + (np.minimum(level, high) - foot) * ratio[station]
    tall = ((1 - share) * before[turn] + share * rise[turn]) * ratio[station]
    path = _on_wall(wall, tops[first:], z, station)
    pieces = np.maximum(np.ceil(np.abs(np.diff(z)) / RISE).astype(np.int64), 1)
    way = np.r_[0.0, np.cumsum(np.ones(int(pieces.sum())) / np.repeat(pieces, pieces))]
    along = np.arange(len(z))
    path, z, tall = (
        np.column_stack([np.interp(way, along, path[:, k]) for k in (0, 1)]),
        np.interp(way, along, z),
        np.interp(way, along, tall),
    )
    of = np.minimum(first + 1 + np.minimum(way[1:].astype(np.int64) // count, turns), last)
    return path, z, tall, of


def _stations(
    outlines: Outlines, first: int, width: float, bearing: float
) -> tuple[np.ndarray, np.ndarray]:
    """Points (layers, S, 2) of the wall's middle line from layer ``first`` up at every station, and
    the rim's height (S,) there.
    """
    rings = shapely.get_exterior_ring(
        outer_contours(offset(outer_contours(outlines.areas[first:]), -width / 2))
    )
    tops = outlines.tops[first:]
    length = float(shapely.length(rings[0]))
    count = max(int(length / APART), 32)
    around = np.asarray(
        shapely.get_coordinates(
            shapely.line_interpolate_point(rings[0], np.arange(count) * length / count)
        )
    )
    turn = np.radians(bearing)
    around = np.roll(
        around, -int(np.argmax(around @ np.array([np.cos(turn), np.sin(turn)]))), axis=0
    )
    wall = np.empty((len(rings), count, 2))
    wall[0], alive, rim = around, np.ones(count, bool), np.full(count, tops[0])
    for k in range(1, len(rings)):  # each contour is found from the one below it
        wall[k] = wall[k - 1]
        if shapely.is_empty(rings[k]) or not alive.any():
            continue
        spots = shapely.points(wall[k - 1])
        near = shapely.get_coordinates(
            shapely.line_interpolate_point(rings[k], shapely.line_locate_point(rings[k], spots))
        )
        alive &= np.hypot(*(near - wall[k - 1]).T) <= width / 2 + GRAIN
        wall[k, alive] = near[alive]
        rim[alive] = tops[k]
    window = max(int(EVEN / (length / count)) | 1, 3)
    low = np.min(
        np.stack([np.roll(rim, by) for by in range(-(window // 4), window // 4 + 1)]), axis=0
    )
    return wall, np.mean(
        np.stack([np.roll(low, by) for by in range(-(window // 2), window // 2 + 1)]), axis=0
    )


def _on_wall(wall: np.ndarray, tops: np.ndarray, z: np.ndarray, station: np.ndarray) -> np.ndarray:
    """(K, 2) points of the wall at heights (K,) of stations (K,)."""
    k = np.clip(np.searchsorted(tops, z) - 1, 0, len(tops) - 2)
    share = np.clip((z - tops[k]) / (tops[k + 1] - tops[k]), 0, 1)[:, None]
    return np.asarray((1 - share) * wall[k, station] + share * wall[k + 1, station])
