"""Straight lines over polygons: the compiled kernel behind every pattern made of parallel lines.

Lines are cut to the polygon, shortened at both ends so that the bead ends at the border, and joined
end to end along the walls where nothing is in between.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numba
import numpy as np
import shapely

from northpace.geometry.crossing import crosses


@dataclass(frozen=True)
class Chains:
    """Chained lines: points (K, 2), starts (C + 1,), polygon (C,) of each chain; per polygon (P,):
    the spacing used (mm) and the length laid (mm), joins included.
    """

    points: np.ndarray
    starts: np.ndarray
    polygon: np.ndarray
    spacing: np.ndarray
    length: np.ndarray


class Lines(NamedTuple):
    """The lines wanted in each polygon (P,), for the kernel: their direction, and as in
    `fill_lines`.
    """

    cosine: np.ndarray
    sine: np.ndarray
    spacing: np.ndarray
    inset: np.ndarray
    phase: np.ndarray


def fill_lines(
    polygons: np.ndarray,
    angle: np.ndarray,
    spacing: np.ndarray,
    inset: np.ndarray,
    fit: bool,
    join: float,
    phase: float | np.ndarray = 0.5,
) -> Chains:
    """Fill simple polygons (P,) with parallel lines.

    Parameters
    ----------
    angle, spacing, inset
        (P,) direction in degrees, distance between lines and how far their ends stay off the
        border, in mm.
    fit
        True: each polygon adjusts its spacing so that a whole number of lines fills its width.
        False: lines lie on one
        lattice through the origin, shifted by ``phase`` (one, or (P,)) of a spacing, so that they
        stand on each other from layer to
        layer.
    join
        Longest shift along the lines, in spacings, over which two neighbours are joined.
    """
    if len(polygons) == 0:
        return Chains(
            np.empty((0, 2)), np.zeros(1, np.int64), np.empty(0, np.int64), np.empty(0), np.empty(0)
        )
    rings, ring_owner = shapely.get_rings(polygons, return_index=True)
    points, of_ring = shapely.get_coordinates(rings, return_index=True)
    ring_starts = np.searchsorted(of_ring, np.arange(len(rings) + 1))
    polygon_starts = np.searchsorted(ring_owner, np.arange(len(polygons) + 1))
    turn = np.radians(np.broadcast_to(angle, (len(polygons),)))
    lines = Lines(
        np.cos(turn),
        np.sin(turn),
        np.broadcast_to(spacing, (len(polygons),)).astype(np.float64),
        np.broadcast_to(inset, (len(polygons),)).astype(np.float64),
        np.broadcast_to(phase, (len(polygons),)).astype(np.float64),
    )
    found, starts, owner, used, length = _fill(
        points, ring_starts.astype(np.int64), polygon_starts.astype(np.int64), lines, fit, join
    )
    return Chains(found, starts, owner, used, length)


@numba.njit(cache=True, nogil=True)
def grown(array: np.ndarray, needed: int) -> np.ndarray:
    """The rows (K, C) with room for at least ``needed``: as they are, or copied into twice the
    room.
    """
    if needed <= len(array):
        return array
    bigger = np.empty((max(needed, 2 * len(array)), array.shape[1]), array.dtype)
    bigger[: len(array)] = array
    return bigger


@numba.njit(cache=True, nogil=True)
def _fill(points, ring_starts, polygon_starts, wanted, fit, join):  # type: ignore[no-untyped-def]
    """Chains as in `Chains`: points, starts, polygons, spacings, lengths."""
    spacing, inset, phase = wanted.spacing, wanted.inset, wanted.phase
    count = len(polygon_starts) - 1
    used, length = np.zeros(count), np.zeros(count)
    out = np.empty((4096, 2), np.float64)
    marks = np.empty((1024, 2), np.int64)  # start of chain, polygon
    filled, chains = 0, 0
    for p in range(count):
        first, last = ring_starts[polygon_starts[p]], ring_starts[polygon_starts[p + 1]]
        c, s = wanted.cosine[p], wanted.sine[p]
        edges = np.empty((last - first, 4), np.float64)
        number = 0
        bottom, top = np.inf, -np.inf
        for r in range(polygon_starts[p], polygon_starts[p + 1]):
            for k in range(ring_starts[r], ring_starts[r + 1] - 1):
                ax, ay = points[k, 0] * c + points[k, 1] * s, points[k, 1] * c - points[k, 0] * s
                bx, by = (
                    points[k + 1, 0] * c + points[k + 1, 1] * s,
                    points[k + 1, 1] * c - points[k + 1, 0] * s,
                )
                edges[number, 0], edges[number, 1], edges[number, 2], edges[number, 3] = (
                    ax,
                    ay,
                    bx,
                    by,
                )
                number += 1
                bottom, top = min(bottom, ay), max(top, ay)
        edges = edges[:number]
        if fit:
            lines = max(1, int(np.round((top - bottom) / spacing[p])))
            pitch = (top - bottom) / lines
            base = bottom + 0.5 * pitch
        else:
            pitch = spacing[p]
            low = np.ceil(bottom / pitch - phase[p])
            base = (low + phase[p]) * pitch
            lines = int(np.floor(top / pitch - phase[p]) - low) + 1
        used[p] = pitch
        if lines <= 0 or pitch <= 0:
            continue
        # crossings, counted first and then sorted into their lines
        per_line = np.zeros(lines + 1, np.int64)
        for k in range(number):
            ay, by = edges[k, 1], edges[k, 3]
            i0 = int(np.ceil((min(ay, by) - base) / pitch))
            i1 = int(np.ceil((max(ay, by) - base) / pitch)) - 1
            for i in range(max(i0, 0), min(i1, lines - 1) + 1):
                per_line[i + 1] += 1
        at = np.cumsum(per_line)
        cross = np.empty((at[lines], 2), np.float64)  # x, sine of the angle between edge and line
        fill = at[:lines].copy()
        for k in range(number):
            ax, ay, bx, by = edges[k, 0], edges[k, 1], edges[k, 2], edges[k, 3]
            i0 = int(np.ceil((min(ay, by) - base) / pitch))
            i1 = int(np.ceil((max(ay, by) - base) / pitch)) - 1
            if i1 < i0:
                continue
            steep = abs(by - ay) / max(np.hypot(bx - ax, by - ay), 1e-12)
            for i in range(max(i0, 0), min(i1, lines - 1) + 1):
                x = ax + (base + i * pitch - ay) / (by - ay) * (bx - ax)
                j = fill[i]
                fill[i] += 1
                while j > at[i] and cross[j - 1, 0] > x:
                    cross[j, 0], cross[j, 1] = cross[j - 1, 0], cross[j - 1, 1]
                    j -= 1
                cross[j, 0], cross[j, 1] = x, steep
        # chords: raw ends, shortened ends
        chord = np.empty((at[lines] // 2 + 1, 4), np.float64)
        chord_at = np.zeros(lines + 1, np.int64)
        total = 0
        for i in range(lines):
            for j in range(at[i], at[i + 1] - 1, 2):
                x0, x1 = cross[j, 0], cross[j + 1, 0]
                if fit:
                    # where a solid line meets a wall at a small angle it runs into it rather than
                    # leaving a wedge open
                    a, b = x0 + inset[p] * cross[j, 1], x1 - inset[p] * cross[j + 1, 1]
                else:
                    a, b = (
                        x0 + inset[p] / max(cross[j, 1], 0.25),
                        x1 - inset[p] / max(cross[j + 1, 1], 0.25),
                    )
                if b - a < 0.05:
                    # too short for a line between two walls; a solid patch still gets a dab of the
                    # same volume
                    if not fit or x1 - x0 < inset[p]:
                        continue
                    middle = 0.5 * (x0 + x1)
                    a, b = middle - 0.05, middle + 0.05
                chord[total, 0], chord[total, 1], chord[total, 2], chord[total, 3] = x0, x1, a, b
                total += 1
            chord_at[i + 1] = total
        done = np.zeros(total, np.bool_)
        for i0 in range(lines):
            for k0 in range(chord_at[i0], chord_at[i0 + 1]):
                if done[k0]:
                    continue
                marks = grown(marks, chains + 1)
                marks[chains, 0], marks[chains, 1] = filled, p
                chains += 1
                i, k, forward = i0, k0, True
                while True:
                    done[k] = True
                    a, b = (chord[k, 2], chord[k, 3]) if forward else (chord[k, 3], chord[k, 2])
                    y = base + i * pitch
                    out = grown(out, filled + 2)
                    out[filled, 0], out[filled, 1] = a * c - y * s, y * c + a * s
                    out[filled + 1, 0], out[filled + 1, 1] = b * c - y * s, y * c + b * s
                    if filled > marks[chains - 1, 0]:
                        length[p] += np.hypot(
                            out[filled, 0] - out[filled - 1, 0], out[filled, 1] - out[filled - 1, 1]
                        )
                    length[p] += abs(b - a)
                    filled += 2
                    if i + 1 >= lines:
                        break
                    best, nearest, way = -1, join * pitch, True
                    for j in range(chord_at[i + 1], chord_at[i + 2]):
                        if done[j]:
                            continue
                        if abs(chord[j, 2] - b) <= nearest:
                            best, nearest, way = j, abs(chord[j, 2] - b), True
                        if abs(chord[j, 3] - b) < nearest:
                            best, nearest, way = j, abs(chord[j, 3] - b), False
                    if best < 0:
                        break
                    if crosses(
                        edges, 0, number, b, y, chord[best, 2] if way else chord[best, 3], y + pitch
                    ):
                        break
                    i, k, forward = i + 1, best, way
    starts = np.empty(chains + 1, np.int64)
    owner = np.empty(chains, np.int64)
    for k in range(chains):
        starts[k], owner[k] = marks[k, 0], marks[k, 1]
    starts[chains] = filled
    return out[:filled].copy(), starts, owner, used, length
