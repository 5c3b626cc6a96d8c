"""Travels that go around walls instead of over them."""

from __future__ import annotations

import numba
import numpy as np

from northpace.geometry.crossing import crosses_boxed

#: Most points of a detour before it is straightened.
MOST = 4096


@numba.njit(cache=True, nogil=True)
def detour(land, here, ax, ay, bx, by, longest, way):  # type: ignore[no-untyped-def]
    """A way from a to b that crosses no outline of a layer and is at most ``longest`` mm longer
    than straight; ``land`` as in `northpace.paths.travel.land.Land`.

    It runs straight until it meets a guide ring, follows that ring the shorter way round to where
    the straight way leaves it for good, and goes on; then corners that can be cut are cut. Fills
    ``way`` (MOST, 2) with the points between, and returns their number; −1 where there is no such
    way.
    """
    guide, ring_at = land.guide, land.guide_starts
    ring_first, ring_last = land.guide_at[here], land.guide_at[here + 1]
    # where the straight way meets the rings: share of the way, ring, edge
    share, ring, edge = np.empty(256), np.empty(256, np.int64), np.empty(256, np.int64)
    hits = 0
    dx, dy = bx - ax, by - ay
    low, high, left, right = min(ay, by), max(ay, by), min(ax, bx), max(ax, bx)
    for r in range(ring_first, ring_last):
        begin, end = ring_at[r], ring_at[r + 1]
        for k in range(begin, end):
            j = begin if k + 1 == end else k + 1
            px, py, qx, qy = guide[k, 0], guide[k, 1], guide[j, 0], guide[j, 1]
            if (
                (py < low and qy < low)
                or (py > high and qy > high)
                or (px < left and qx < left)
                or (px > right and qx > right)
            ):
                continue
            s1, s2 = dx * (py - ay) - dy * (px - ax), dx * (qy - ay) - dy * (qx - ax)
            if (s1 >= 0) == (s2 >= 0):
                continue
            t = ((px - ax) * (qy - py) - (py - ay) * (qx - px)) / (dx * (qy - py) - dy * (qx - px))
            if t <= 0 or t >= 1 or hits >= 256:
                continue
            m = hits
            while m > 0 and share[m - 1] > t:
                share[m], ring[m], edge[m] = share[m - 1], ring[m - 1], edge[m - 1]
                m -= 1
            share[m], ring[m], edge[m] = t, r, k
            hits += 1
    if hits == 0:
        return -1
    count, i = 0, 0
    while i < hits:
        j = i
        for k in range(i + 1, hits):
            if ring[k] == ring[i]:
                j = k
        r = ring[i]
        x0, y0 = ax + share[i] * dx, ay + share[i] * dy
        if count + 2 >= MOST:
            return -1
        way[count, 0], way[count, 1] = x0, y0
        count += 1
        if j > i and edge[i] != edge[j]:
            x1, y1 = ax + share[j] * dx, ay + share[j] * dy
            begin, end = ring_at[r], ring_at[r + 1]
            n = end - begin
            # both ways round
            best_length, best_turn = np.inf, 1
            for turn in range(2):
                px, py, length = x0, y0, 0.0
                v = edge[i] + 1 if turn == 0 else edge[i]
                stop = edge[j] if turn == 0 else edge[j] + 1
                for _ in range(n + 1):
                    v = begin + (v - begin) % n
                    length += np.hypot(guide[v, 0] - px, guide[v, 1] - py)
                    px, py = guide[v, 0], guide[v, 1]
                    if v == begin + (stop - begin) % n:
                        break
                    v += 1 if turn == 0 else -1
                length += np.hypot(x1 - px, y1 - py)
                if length < best_length:
                    best_length, best_turn = length, turn
            v = edge[i] + 1 if best_turn == 0 else edge[i]
            stop = edge[j] if best_turn == 0 else edge[j] + 1
            for _ in range(n + 1):
                v = begin + (v - begin) % n
                if count + 2 >= MOST:
                    return -1
                way[count, 0], way[count, 1] = guide[v, 0], guide[v, 1]
                count += 1
                if v == begin + (stop - begin) % n:
                    break
                v += 1 if best_turn == 0 else -1
            way[count, 0], way[count, 1] = x1, y1
            count += 1
        i = j + 1
    # cut corners: from each point straight to the furthest one that can be reached
    px, py, k, kept = ax, ay, 0, 0
    while not _free(land, here, px, py, bx, by):
        reached = -1
        for j in range(min(count - 1, k + 64), k - 1, -1):
            if _free(land, here, px, py, way[j, 0], way[j, 1]):
                reached = j
                break
        if reached < 0:
            return -1
        px, py = way[reached, 0], way[reached, 1]
        way[kept, 0], way[kept, 1] = px, py
        kept += 1
        k = reached + 1
        if k >= count and not _free(land, here, px, py, bx, by):
            return -1
    length, px, py = 0.0, ax, ay
    for k in range(kept):
        length += np.hypot(way[k, 0] - px, way[k, 1] - py)
        px, py = way[k, 0], way[k, 1]
    length += np.hypot(bx - px, by - py)
    return kept if length - np.hypot(dx, dy) <= longest else -1


@numba.njit(cache=True, nogil=True)
def _free(land, here, ax, ay, bx, by):  # type: ignore[no-untyped-def]
    first, last = land.edge_at[here], land.edge_at[here + 1]
    return not crosses_boxed(land.edges, land.boxes, first, last, (ax, ay, bx, by))
