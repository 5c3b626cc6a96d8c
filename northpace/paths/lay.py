"""From ordered paths to rows: travels, retractions and layer changes put between what is laid."""

from __future__ import annotations

from dataclasses import dataclass, fields

import numba
import numpy as np

from northpace.moves import RETRACTION, START, TRAVEL
from northpace.outlines.polygons import rings_of
from northpace.outlines.sections import Outlines
from northpace.paths.crossing import crosses
from northpace.paths.order import order_paths
from northpace.paths.table import PathTable


@dataclass(frozen=True)
class Rows:
    """Geometry of the moves, before speeds: columns as in `northpace.moves.Moves`; pull (M,) is −1 for a retraction, +1 for its
    return; crossings counts travels that cross an outer wall."""

    layer: np.ndarray
    feature: np.ndarray
    x: np.ndarray
    y: np.ndarray
    z: np.ndarray
    width: np.ndarray
    height: np.ndarray
    pull: np.ndarray
    crossings: int

    @property
    def nbytes(self) -> int:
        return sum(getattr(self, item.name).nbytes for item in fields(self) if item.name != "crossings")


def lay(paths: PathTable, outlines: Outlines, seam: str, retract_from: float, origin: tuple[float, float]) -> Rows:
    """Rows in machine coordinates: ``origin`` (mm) is where the middle of the bed lies.

    A travel pulls the filament back when it crosses an outline and is longer than ``retract_from``.
    """
    sequence, entry = order_paths(paths, seam)
    rings = rings_of(outlines.areas)
    ring_of_layer = np.searchsorted(rings.owner, np.arange(len(outlines.tops) + 1))
    edges = _edges(rings.points, rings.starts)
    count = 1 + 6 * len(paths) + len(paths.points) + int(paths.closed.sum()) + 2 * len(outlines.tops)
    layer, feature = np.empty(count, np.int32), np.empty(count, np.uint8)
    xyz, bead, pull = np.empty((count, 3)), np.zeros((count, 2), np.float32), np.zeros(count, np.int8)
    used, crossings = _lay(paths.points, paths.starts, paths.layer, paths.feature, paths.closed, paths.width, paths.height, sequence,
                           entry, outlines.tops, edges, rings.starts[ring_of_layer], retract_from, origin[0], origin[1],
                           layer, feature, xyz, bead, pull)
    cut = slice(0, used)
    x, y, z = (xyz[cut, k].copy() for k in range(3))
    return Rows(layer[cut].copy(), feature[cut].copy(), x, y, z, bead[cut, 0].copy(), bead[cut, 1].copy(), pull[cut].copy(), int(crossings))


def _edges(points: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """(K, 4) the edge from each ring point to the next of its ring."""
    following = np.arange(1, len(points) + 1)
    following[starts[1:] - 1] = starts[:-1]
    return np.ascontiguousarray(np.concatenate([points, points[following]], axis=1))


@numba.njit(cache=True)
def _lay(points, starts, path_layer, path_feature, closed, width, height, sequence, entry, tops, edges, edge_at,  # type: ignore[no-untyped-def]
         retract_from, origin_x, origin_y, layer, feature, xyz, bead, pull):
    x, y, z = 0.0, 0.0, 0.0
    layer[0], feature[0] = -1, START
    xyz[0, 0], xyz[0, 1], xyz[0, 2] = 0.0, 0.0, 0.0
    row, crossings = 1, 0
    for n in range(len(sequence)):
        p = sequence[n]
        first, last, begin = starts[p], starts[p + 1], entry[n]
        here = path_layer[p]
        level = np.round(tops[here], 3)
        px, py = np.round(points[begin, 0] + origin_x, 3), np.round(points[begin, 1] + origin_y, 3)
        moved = abs(px - x) > 1e-9 or abs(py - y) > 1e-9
        barred = moved and row > 1 and crosses(edges, edge_at[here], edge_at[here + 1], x - origin_x, y - origin_y,
                                                 px - origin_x, py - origin_y)
        if barred:
            crossings += 1
        back = barred and np.hypot(px - x, py - y) >= retract_from
        if back:
            layer[row], feature[row], pull[row] = here, RETRACTION, -1
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            row += 1
        if level != z:
            layer[row], feature[row] = here, TRAVEL
            z = level
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            row += 1
        if moved:
            layer[row], feature[row] = here, TRAVEL
            x, y = px, py
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            row += 1
        if back:
            layer[row], feature[row], pull[row] = here, RETRACTION, 1
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            row += 1
        total = last - first
        steps = total if closed[p] else total - 1
        for k in range(1, steps + 1):
            if closed[p]:
                v = first + (begin - first + k) % total
            else:
                v = begin + k if begin == first else begin - k
            nx, ny = np.round(points[v, 0] + origin_x, 3), np.round(points[v, 1] + origin_y, 3)
            if nx == x and ny == y:
                continue
            x, y = nx, ny
            layer[row], feature[row] = here, path_feature[p]
            xyz[row, 0], xyz[row, 1], xyz[row, 2] = x, y, z
            bead[row, 0], bead[row, 1] = width[p], height[p]
            row += 1
    return row, crossings
