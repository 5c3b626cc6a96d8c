"""Where a closed path begins: the seam."""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np
import shapely

from northpace.part.place import Placed
from northpace.paths.table import PathTable
from northpace.spec import Surface

NEAREST, BEARING, CORNER = 0, 1, 2
#: A fresh direction for every layer that never lines up with those of its neighbours: the golden
#: angle.
GOLDEN = 137.508
#: How much a seam area outweighs everything else.
PULL = 1e4
#: A corner is judged over this way (mm) on both sides.
CORNER_REACH = 1.0


@dataclass(frozen=True)
class SeamRule:
    """Where walls start: ``goal`` and bearing (degrees); marks (M, 5): x, y, z, radius in mm and +1
    (attract) or −1 (stay clear); ``every`` wall follows it, not the outer ones alone. Regions that
    attract (+1) or repel (−1) it, with their areas in every layer.
    """

    goal: str
    bearing: float
    marks: np.ndarray
    every: bool = False
    regions: tuple[tuple[float, np.ndarray], ...] = ()

    def drawn(self, paths: PathTable) -> np.ndarray:
        """(K,) how much every point of the paths draws the seam for the regions it lies in."""
        out = np.zeros(len(paths.points))
        if self.regions:
            layer = np.repeat(paths.layer, np.diff(paths.starts))
            for want, areas in self.regions:
                shapely.prepare(areas)
                out += (
                    PULL
                    * want
                    * shapely.contains_xy(areas[layer], paths.points[:, 0], paths.points[:, 1])
                )
        return out


@numba.njit(cache=True)
def _along(points, first, last, k, step):  # type: ignore[no-untyped-def]
    """The vertex of a ring that lies `CORNER_REACH` away along it, forward (+1) or
    backward (−1).
    """
    way, now = 0.0, k
    for _ in range(last - first - 1):
        following = now + step
        if following == last:
            following = first
        elif following < first:
            following = last - 1
        way += np.hypot(
            points[following, 0] - points[now, 0], points[following, 1] - points[now, 1]
        )
        now = following
        if way >= CORNER_REACH:
            break
    return now


@numba.njit(cache=True)
def seam_of(points, first, last, goal, cx, cy, z, marks, drawn):  # type: ignore[no-untyped-def]
    """Vertex furthest in the direction, or of the sharpest corner; places that attract come first,
    those to keep clear of last.
    """
    best, worth = first, -np.inf
    for k in range(first, last):
        if goal == BEARING:
            value = points[k, 0] * cx + points[k, 1] * cy + 1e-7 * points[k, 0]
        else:
            # over a way of `CORNER_REACH` on both sides: the tip of a wall may be rounded by many
            # short steps
            b, a = _along(points, first, last, k, -1), _along(points, first, last, k, 1)
            ux, uy = points[k, 0] - points[b, 0], points[k, 1] - points[b, 1]
            vx, vy = points[a, 0] - points[k, 0], points[a, 1] - points[k, 1]
            cosine = (ux * vx + uy * vy) / max(np.hypot(ux, uy) * np.hypot(vx, vy), 1e-12)
            # of equally sharp corners the one towards the bearing
            value = -np.round(cosine, 2) + 1e-5 * (points[k, 0] * cx + points[k, 1] * cy)
        value += pull_at(points[k, 0], points[k, 1], z, marks) + drawn[k]
        if value > worth:
            best, worth = k, value
    return best


@numba.njit(cache=True)
def pull_at(x, y, z, marks):  # type: ignore[no-untyped-def]
    total = 0.0
    for m in range(len(marks)):
        far = np.sqrt((x - marks[m, 0]) ** 2 + (y - marks[m, 1]) ** 2 + (z - marks[m, 2]) ** 2)
        if far <= marks[m, 3]:
            total += PULL * marks[m, 4]
    return total


def seam_marks(surface: Surface, placed: Placed) -> np.ndarray:
    """(M, 5) places that attract the seam (+1) or repel it (−1): x, y, z and radius in mm on the
    placed part.
    """
    out = np.array(
        [
            [mark.x, mark.y, mark.z, mark.radius, 1.0 if mark.want else -1.0]
            for mark in surface.seam_marks
        ]
    ).reshape(-1, 5)
    out[:, :3] = out[:, :3] @ placed.affine[:, :3].T + placed.affine[:, 3]
    return out
