"""Where a closed path begins: the seam."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

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


class Ways(NamedTuple):
    """Paths by layer, part, group and rank, for the kernel; columns as in `PathTable`."""

    #: (K, 2) points of all paths
    points: np.ndarray
    #: (P,) first point of every path, and the one behind its last
    first: np.ndarray
    #: (P,) the one behind its last point
    last: np.ndarray
    #: (P,) from the bed up
    layer: np.ndarray
    #: (P,) what of a layer comes first, and the island or stand
    part: np.ndarray
    #: (P,) number of the island or stand
    group: np.ndarray
    #: (P,) order of those that lie against each other
    rank: np.ndarray
    #: (P,) room in mm a bead takes beside its neighbours
    lane: np.ndarray
    #: (P,) whether it follows the seam, is closed, has to be laid from its first point to its last
    seamed: np.ndarray
    #: (P,) whether it ends where it begins
    closed: np.ndarray
    #: (P,) whether it runs from its first point to its last only
    fixed: np.ndarray


class Goal(NamedTuple):
    """Where the seam is wanted, for the kernel."""

    #: `NEAREST`, `BEARING` or `CORNER`
    kind: int
    #: (N,) direction by layer
    cx: np.ndarray
    cy: np.ndarray
    #: (N,) tops of the layers in mm
    tops: np.ndarray
    #: (M, 5) marks of a `SeamRule`, and (K,) how much regions draw it to every point
    marks: np.ndarray
    drawn: np.ndarray


@numba.njit(cache=True, nogil=True)
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


@numba.njit(cache=True, nogil=True)
def seam_of(ways, goal, j):  # type: ignore[no-untyped-def]
    """Point of a closed path that is furthest in the direction, or its sharpest corner; places that
    attract come first, those to keep clear of last.
    """
    points, first, last = ways.points, ways.first[j], ways.last[j]
    cx, cy = goal.cx[ways.layer[j]], goal.cy[ways.layer[j]]
    best, worth = first, -np.inf
    for k in range(first, last):
        if goal.kind == BEARING:
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
        value += drawn_to(ways, goal, j, k)
        if value > worth:
            best, worth = k, value
    return best


@numba.njit(cache=True, nogil=True)
def drawn_to(ways, goal, j, v):  # type: ignore[no-untyped-def]
    """How much marks and regions draw the seam of a path to one of its points."""
    x, y, z = ways.points[v, 0], ways.points[v, 1], goal.tops[ways.layer[j]]
    total, marks = 0.0, goal.marks
    for m in range(len(marks)):
        far = np.sqrt((x - marks[m, 0]) ** 2 + (y - marks[m, 1]) ** 2 + (z - marks[m, 2]) ** 2)
        if far <= marks[m, 3]:
            total += PULL * marks[m, 4]
    return total + goal.drawn[v]


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
