"""A standing part along upright rays: where each enters and leaves it, and on which facet.

Rays stand in the middles of the cells of a grid. They say at once what leans out, how far down it
is to what could carry a stand there, and what stands on the bed.
"""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

#: Cells along the longer side, and least size of one (mm).
CELLS, LEAST_CELL = 150, 0.15
#: Middles of cells are moved by so much of a cell, so that they miss corners and edges.
ASIDE = (0.0031, 0.0047)


class Entries(NamedTuple):
    """Where rays enter the part (E,), from below."""

    #: cell, height in mm, facet, and height of what is below (0 for the bed) with its facet, −1 for
    #: the bed
    cell: np.ndarray
    z: np.ndarray
    facet: np.ndarray
    below: np.ndarray
    below_facet: np.ndarray


class Rays(NamedTuple):
    """Crossings of all rays, cell after cell, each from the bed up."""

    #: (2,) low corner in mm, size of a cell in mm, and how many along x and y
    low: np.ndarray
    cell: float
    shape: tuple[int, int]
    #: (C + 1,) where the crossings of a cell begin; heights (K,) in mm and facets (K,)
    starts: np.ndarray
    z: np.ndarray
    facet: np.ndarray
    #: (K,) 1 where the ray enters a body, −1 where it leaves one
    enters: np.ndarray

    def entries(self) -> Entries:
        """Where rays come into the part from the open."""
        return Entries(*_entries(self.starts, self.z, self.facet, self.enters))

    def solid(self, cells: np.ndarray, z: float) -> np.ndarray:
        """Whether the part is in cells (C,) at a height in mm."""
        return np.asarray(_solid(self.starts, self.z, self.enters, cells, z))


def rays(vertices: np.ndarray, faces: np.ndarray, cells: int = CELLS) -> Rays:
    """The rays of a mesh: vertices (V, 3) in mm, faces (F, 3)."""
    low, high = vertices[:, :2].min(axis=0), vertices[:, :2].max(axis=0)
    cell = max(float((high - low).max()) / cells, LEAST_CELL)
    shape = tuple(int(n) for n in np.maximum(np.ceil((high - low) / cell), 1).astype(int))
    corners = np.ascontiguousarray(vertices[faces], np.float64)
    corners[:, :, :2] -= low + np.array(ASIDE) * cell
    corners[:, :, :2] /= cell
    starts, z, facet, enters = _cross(corners, shape[0], shape[1])
    return Rays(low, cell, (shape[0], shape[1]), starts, z, facet, enters)


@numba.njit(cache=True, nogil=True)
def _cross(corners, nx, ny):  # type: ignore[no-untyped-def]
    """Crossings in units of cells along x and y, sorted by cell and height."""
    count = np.zeros(nx * ny + 1, np.int64)
    for run in range(2):
        if run == 1:
            for c in range(nx * ny):
                count[c + 1] += count[c]
            total = count[nx * ny]
            z, facet = np.empty(total), np.empty(total, np.int64)
            enters = np.empty(total, np.int8)
            at = count[:-1].copy()
        for f in range(len(corners)):
            ax, ay, az = corners[f, 0]
            bx, by, bz = corners[f, 1]
            cx, cy, cz = corners[f, 2]
            twice = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
            if twice == 0.0:
                continue
            # middles of cells lie at half numbers
            x0 = max(int(np.ceil(min(ax, bx, cx) - 0.5)), 0)
            x1 = min(int(np.floor(max(ax, bx, cx) - 0.5)), nx - 1)
            y0 = max(int(np.ceil(min(ay, by, cy) - 0.5)), 0)
            y1 = min(int(np.floor(max(ay, by, cy) - 0.5)), ny - 1)
            for j in range(y0, y1 + 1):
                y = j + 0.5
                for i in range(x0, x1 + 1):
                    x = i + 0.5
                    u = ((bx - x) * (cy - y) - (by - y) * (cx - x)) / twice
                    v = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) / twice
                    w = 1.0 - u - v
                    if u < 0.0 or v < 0.0 or w < 0.0:
                        continue
                    c = j * nx + i
                    if run == 0:
                        count[c + 1] += 1
                    else:
                        k = at[c]
                        at[c] += 1
                        z[k] = u * az + v * bz + w * cz
                        facet[k] = f
                        # seen from above a facet that looks down runs the other way round
                        enters[k] = 1 if twice < 0.0 else -1
    for c in range(nx * ny):
        first, last = count[c], count[c + 1]
        for k in range(first + 1, last):
            m = k
            while m > first and z[m] < z[m - 1]:
                z[m], z[m - 1] = z[m - 1], z[m]
                facet[m], facet[m - 1] = facet[m - 1], facet[m]
                enters[m], enters[m - 1] = enters[m - 1], enters[m]
                m -= 1
    return count, z, facet, enters


@numba.njit(cache=True, nogil=True)
def _entries(starts, z, facet, enters):  # type: ignore[no-untyped-def]
    room = len(z)
    cell, height, which = np.empty(room, np.int64), np.empty(room), np.empty(room, np.int64)
    below, below_facet = np.empty(room), np.empty(room, np.int64)
    n = 0
    for c in range(len(starts) - 1):
        depth, last, last_facet = 0, 0.0, -1
        for k in range(starts[c], starts[c + 1]):
            if depth == 0 and enters[k] > 0:
                cell[n], height[n], which[n] = c, z[k], facet[k]
                below[n], below_facet[n] = last, last_facet
                n += 1
            depth = max(depth + enters[k], 0)
            if depth == 0:
                last, last_facet = z[k], facet[k]
    return cell[:n], height[:n], which[:n], below[:n], below_facet[:n]


@numba.njit(cache=True, nogil=True)
def _solid(starts, z, enters, cells, level):  # type: ignore[no-untyped-def]
    out = np.zeros(len(cells), np.bool_)
    for n in range(len(cells)):
        depth = 0
        for k in range(starts[cells[n]], starts[cells[n] + 1]):
            if z[k] > level:
                break
            depth = max(depth + enters[k], 0)
        out[n] = depth > 0
    return out
