"""The medial line of narrow areas: where one bead of fitting width has to run.

From points along the outline a ball grows inwards until it touches another side; its middle lies on
the medial line. Only balls between two sides that face each other are kept, so corners have no part
in it.

References
----------
Ma, Bae & Choi, "3D medial point approximation using nearest neighbors and the normal field", The
Visual Computer 28(1), 2012.
"""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np
import shapely

from northpace.geometry.polygons import distinct

#: Two sides face each other when their inward normals turn against each other by this much (cosine
#: of the angle between them).
FACING = -0.12
#: Points of a line are dropped where neither place nor radius moves by more than this (mm).
DETAIL = 0.01
#: A piece of a line changes its radius by no more than this (mm): a bead has one width from point
#: to point.
TAPER = 0.025
#: Points passed over in one go, at most.
FURTHEST = 200


@dataclass(frozen=True)
class MedialLines:
    """Lines of areas: points (K, 2), radius (K,) the distance to the outline in mm, starts (C +
    1,), owner (C,) the area, closed (C,).
    """

    points: np.ndarray
    radius: np.ndarray
    starts: np.ndarray
    owner: np.ndarray
    closed: np.ndarray

    def lengths(self) -> np.ndarray:
        """(C,) length of each line in mm, loops with their closing piece."""
        if len(self.owner) == 0:
            return np.zeros(0)
        step = np.hypot(*np.diff(self.points, axis=0, append=self.points[:1]).T)
        last = self.starts[1:] - 1
        step[last] = np.where(
            self.closed, np.hypot(*(self.points[last] - self.points[self.starts[:-1]]).T), 0.0
        )
        return np.add.reduceat(step, self.starts[:-1])


NONE = MedialLines(
    np.empty((0, 2)), np.empty(0), np.zeros(1, np.int64), np.empty(0, np.int64), np.empty(0, bool)
)


def medial_lines(
    polygons: np.ndarray, pitch: float, least: np.ndarray, most: np.ndarray
) -> MedialLines:
    """Medial lines of simple polygons (P,), where the radius is between ``least`` and ``most`` (P,)
    mm.

    ``pitch`` (mm) is how close the outline is sampled. Equal polygons, as in upright ribs and
    letters, are computed once.
    """
    if len(polygons) == 0:
        return NONE
    first, place = distinct(polygons, least, most)
    lines = _lines(polygons[first], pitch, least[first], most[first])
    if len(first) == len(polygons):
        return lines
    # every polygon gets the lines of its first equal
    begin, end = (
        np.searchsorted(lines.owner, np.arange(len(first))),
        np.searchsorted(lines.owner, np.arange(len(first)), "right"),
    )
    count = (end - begin)[place]
    index = np.repeat(begin[place] - np.r_[0, np.cumsum(count)[:-1]], count) + np.arange(
        count.sum()
    )
    length = np.diff(lines.starts)[index]
    starts = np.r_[0, np.cumsum(length)]
    points = np.repeat(lines.starts[:-1][index] - starts[:-1], length) + np.arange(starts[-1])
    return MedialLines(
        lines.points[points],
        lines.radius[points],
        starts,
        np.repeat(np.arange(len(polygons)), count),
        lines.closed[index],
    )


def _lines(polygons: np.ndarray, pitch: float, least: np.ndarray, most: np.ndarray) -> MedialLines:
    rings, of_polygon = shapely.get_rings(
        shapely.segmentize(shapely.orient_polygons(polygons), pitch), return_index=True
    )
    points, of_ring = shapely.get_coordinates(rings, return_index=True)
    points = points + 0.0  # a negative zero equals a positive one, but turns otherwise
    same = np.flatnonzero(
        (of_ring[1:] == of_ring[:-1]) & (np.abs(np.diff(points, axis=0)).sum(1) > 1e-9)
    )
    if len(same) < 3:
        return NONE
    along = points[same + 1] - points[same]
    spot, ring = (points[same] + points[same + 1]) / 2, of_ring[same]
    inward = np.stack([-along[:, 1], along[:, 0]], axis=1) / np.hypot(*along.T)[:, None]
    polygon = of_polygon[ring]
    begin = np.searchsorted(polygon, np.arange(len(polygons) + 1))
    radius, touch = _balls(spot, inward, begin, 1.2 * most[polygon] + 0.01)
    facing = np.flatnonzero(touch >= 0)
    other = touch[facing]
    turn = (inward[facing] * inward[other]).sum(1)
    # the ball that touches both straight pieces exactly
    exact = ((spot[facing] - spot[other]) * inward[other]).sum(1) / np.maximum(1 - turn, 1e-6)
    fine = (exact > 0) & (exact < 1.3 * radius[facing])
    radius[facing[fine]] = exact[fine]
    # every piece of the line is seen from both sides: one of them is enough
    good = (
        (turn < FACING)
        & (radius[facing] >= least[polygon[facing]])
        & (radius[facing] <= most[polygon[facing]])
        & (facing < other)
    )
    kept = facing[good]
    if len(kept) < 2:
        return NONE
    middle = spot[kept] + radius[kept, None] * inward[kept]
    step = np.hypot(*np.diff(middle, axis=0).T)
    breaks = (np.diff(kept) > 2) | (np.diff(ring[kept]) != 0) | (step > 3 * pitch)
    starts = np.r_[0, np.flatnonzero(breaks) + 1, len(kept)]
    chain, at, closed = _linked(middle, starts.astype(np.int64), polygon[kept], 2.5 * pitch)
    chain, at, closed = thinned(middle, radius[kept], chain, at, closed, DETAIL)
    found = MedialLines(
        middle[chain], radius[kept][chain], at, polygon[kept][chain[at[:-1]]], closed
    )
    # twigs shorter than the part is thick are the grain of the outline
    length = found.lengths()
    lone = np.bincount(found.owner, minlength=len(polygons))[found.owner] == 1
    return _chosen(
        found,
        np.flatnonzero(
            (np.diff(at) > 1) & (length > np.where(lone, 0.25, 0.8) * found.radius[at[:-1]])
        ),
    )


@numba.njit(cache=True, nogil=True)
def _balls(spot, inward, starts, largest):  # type: ignore[no-untyped-def]
    """Radius of the largest ball inside that touches the outline at each spot (S, 2), and the spot
    it touches on the other side; −1 where it would be larger than ``largest`` (S,). ``starts`` (P +
    1,) is where the spots of each area begin.

    A ball at a spot p with the inward normal n touches a spot q when its radius is |q − p|² / 2n·(q
    − p): the largest without another spot inside has the least of these. Spots are looked up in
    cells.
    """
    radius, touch = largest.copy(), np.full(len(spot), -1)
    for area in range(len(starts) - 1):
        first, last = starts[area], starts[area + 1]
        if last == first:
            continue
        low_x, low_y = spot[first:last, 0].min(), spot[first:last, 1].min()
        wide, deep = spot[first:last, 0].max() - low_x, spot[first:last, 1].max() - low_y
        edge = max(largest[first:last].max(), np.sqrt(wide * deep / (2.0 * (last - first))), 1e-6)
        columns, rows = int(wide / edge) + 1, int(deep / edge) + 1
        head, behind = np.full(columns * rows, -1), np.empty(last - first, np.int64)
        for k in range(first, last):
            cell = int((spot[k, 1] - low_y) / edge) * columns + int((spot[k, 0] - low_x) / edge)
            behind[k - first], head[cell] = head[cell], k
        for k in range(first, last):
            x, y, nx, ny = spot[k, 0], spot[k, 1], inward[k, 0], inward[k, 1]
            r, other = largest[k], -1
            mx, my = (x + r * nx - low_x) / edge, (y + r * ny - low_y) / edge
            far = r / edge
            for row in range(max(int(my - far), 0), min(int(my + far) + 1, rows)):
                for column in range(max(int(mx - far), 0), min(int(mx + far) + 1, columns)):
                    q = head[row * columns + column]
                    while q >= 0:
                        dx, dy = spot[q, 0] - x, spot[q, 1] - y
                        ahead, away = dx * nx + dy * ny, dx * dx + dy * dy
                        if ahead > 1e-9 and away < 2.0 * ahead * r * (1.0 - 1e-4):
                            r, other = away / (2.0 * ahead), q
                        q = behind[q - first]
            radius[k], touch[k] = r, other
    return radius, touch


def _chosen(lines: MedialLines, index: np.ndarray) -> MedialLines:
    index = index[np.argsort(lines.owner[index], kind="stable")]
    count = np.diff(lines.starts)[index]
    starts = np.r_[0, np.cumsum(count)]
    points = np.repeat(lines.starts[:-1][index] - starts[:-1], count) + np.arange(starts[-1])
    return MedialLines(
        lines.points[points], lines.radius[points], starts, lines.owner[index], lines.closed[index]
    )


@numba.njit(cache=True, nogil=True)
def _linked(xy, starts, owner, reach):  # type: ignore[no-untyped-def]
    """Runs of points put end to end where ends of the same area are nearer than ``reach`` and the
    line does not turn back.
    """
    runs = len(starts) - 1
    partner = np.full(
        (runs, 2), -1, np.int64
    )  # run · 2 + end, at the beginning (0) and the end (1) of each run
    begin = 0
    while begin < runs:
        end = begin
        while end < runs and owner[starts[end]] == owner[starts[begin]]:
            end += 1
        while True:
            best, one, two = reach, -1, -1
            for i in range(2 * begin, 2 * end):
                if partner[i // 2, i % 2] >= 0:
                    continue
                p = starts[i // 2] if i % 2 == 0 else starts[i // 2 + 1] - 1
                for j in range(i + 1, 2 * end):
                    if partner[j // 2, j % 2] >= 0 or (
                        i // 2 == j // 2 and starts[i // 2 + 1] - starts[i // 2] < 4
                    ):
                        continue
                    q = starts[j // 2] if j % 2 == 0 else starts[j // 2 + 1] - 1
                    far = np.hypot(xy[p, 0] - xy[q, 0], xy[p, 1] - xy[q, 1])
                    if far >= best:
                        continue
                    # the directions the two runs come in with
                    a = p + 1 if i % 2 == 0 else p - 1
                    b = q + 1 if j % 2 == 0 else q - 1
                    if (
                        starts[i // 2 + 1] - starts[i // 2] > 1
                        and starts[j // 2 + 1] - starts[j // 2] > 1
                    ):
                        dot = (xy[p, 0] - xy[a, 0]) * (xy[b, 0] - xy[q, 0]) + (
                            xy[p, 1] - xy[a, 1]
                        ) * (xy[b, 1] - xy[q, 1])
                        if dot < 0:
                            continue
                    best, one, two = far, i, j
            if one < 0:
                break
            partner[one // 2, one % 2] = two
            partner[two // 2, two % 2] = one
        begin = end
    chain = np.empty(len(xy), np.int64)
    at = np.zeros(runs + 1, np.int64)
    closed = np.zeros(runs, np.bool_)
    done = np.zeros(runs, np.bool_)
    used, lines = 0, 0
    for turn in range(2):  # first what has an end, then loops
        for k in range(runs):
            if done[k] or (turn == 0 and partner[k, 0] >= 0 and partner[k, 1] >= 0):
                continue
            at[lines] = used
            run, side = k, 0 if (turn == 1 or partner[k, 0] < 0) else 1
            while True:
                done[run] = True
                for m in range(starts[run + 1] - starts[run]):
                    chain[used] = starts[run] + m if side == 0 else starts[run + 1] - 1 - m
                    used += 1
                following = partner[run, 1 - side]
                if following < 0:
                    break
                if done[following // 2]:
                    closed[lines] = True
                    break
                run, side = following // 2, following % 2
            lines += 1
    at[lines] = used
    return chain[:used].copy(), at[: lines + 1].copy(), closed[:lines].copy()


@numba.njit(cache=True, nogil=True)
def _straight(xy, radius, chain, k, j, detail):  # type: ignore[no-untyped-def]
    """Whether a straight line from one point of a chain to another, with an even change of radius,
    passes within ``detail`` mm of all between them.
    """
    p, q = chain[k], chain[j]
    dx, dy, dr = xy[q, 0] - xy[p, 0], xy[q, 1] - xy[p, 1], radius[q] - radius[p]
    if abs(dr) > TAPER:
        return False
    far = max(dx * dx + dy * dy, 1e-15)
    for m in range(k + 1, j):
        v = chain[m]
        t = ((xy[v, 0] - xy[p, 0]) * dx + (xy[v, 1] - xy[p, 1]) * dy) / far
        ex, ey = xy[p, 0] + t * dx - xy[v, 0], xy[p, 1] + t * dy - xy[v, 1]
        if ex * ex + ey * ey > detail * detail or abs(radius[p] + t * dr - radius[v]) > detail:
            return False
    return True


@numba.njit(cache=True, nogil=True)
def thinned(xy, radius, chain, starts, closed, detail):  # type: ignore[no-untyped-def]
    """Chains of point numbers without those that a straight line with an even change of radius
    passes within ``detail`` mm.
    """
    out = np.empty_like(chain)
    at = np.zeros(len(starts), np.int64)
    used = 0
    for c in range(len(starts) - 1):
        first, last = starts[c], starts[c + 1]
        at[c] = used
        out[used] = chain[first]
        used += 1
        k = first
        while k < last - 1:
            # a point far away that a straight line reaches without leaving anything between it by
            # more than the detail: looked for in growing strides, then between the last two
            end = min(last, k + FURTHEST)
            best, wrong, stride = k + 1, end, 1
            while best + stride < end and _straight(xy, radius, chain, k, best + stride, detail):
                best += stride
                stride *= 2
            wrong = min(best + stride, end)
            while wrong - best > 1:
                middle = (best + wrong) // 2
                if _straight(xy, radius, chain, k, middle, detail):
                    best = middle
                else:
                    wrong = middle
            k = best
            out[used] = chain[k]
            used += 1
    at[len(starts) - 1] = used
    return out[:used].copy(), at, closed
