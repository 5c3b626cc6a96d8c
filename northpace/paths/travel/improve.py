"""An order of paths made shorter by exchanging and moving, as far as what waits for what allows."""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

#: How often all paths are looked at, how far along the order (in places) each is compared, and the
#: longest stretch that is moved as one.
PASSES, WINDOW, STRETCH = 6, 300, 3


class Ends(NamedTuple):
    """Where n paths begin and end, for the kernel."""

    #: (n,) entries and exits in mm
    ex: np.ndarray
    ey: np.ndarray
    lx: np.ndarray
    ly: np.ndarray
    #: (n,) the point each would be entered at the other way round, and whether it may be
    other: np.ndarray
    free: np.ndarray


@numba.njit(cache=True, nogil=True)
def shorten(x, y, ends, waits, item, begin):  # type: ignore[no-untyped-def]
    """Shorten the way from (x, y) over n paths ``item``, each entered at ``begin``; all are changed
    in place. ``waits`` counts paths as ``item`` does.

    Stretches are turned round (2-opt: Croes, "A method for solving traveling-salesman problems",
    Operations Research 6(6), 1958) and up to three paths are moved elsewhere (Or, "Traveling
    salesman-type combinatorial problems", 1976), as long as nothing comes before what it waits for.
    """
    place = np.empty(len(item), np.int64)
    for k in range(len(item)):
        place[item[k]] = k
    for _ in range(PASSES):
        gain = _exchange(x, y, ends, waits, item, begin, place)
        gain += _move(x, y, ends, waits, item, begin, place)
        if gain <= 1e-6:
            break


@numba.njit(cache=True, nogil=True)
def _exchange(x, y, ends, waits, item, begin, place):  # type: ignore[no-untyped-def]
    """Turn stretches round where that is shorter; returns the way saved in mm."""
    ex, ey, lx, ly = ends.ex, ends.ey, ends.lx, ends.ly
    n, saved = len(item), 0.0
    for i in range(n - 1):
        if not ends.free[i]:
            continue
        px, py = (x, y) if i == 0 else (lx[i - 1], ly[i - 1])
        into = np.hypot(ex[i] - px, ey[i] - py)
        for j in range(i + 1, min(n, i + WINDOW)):
            if not ends.free[j] or _last_before(waits, item[j], place, j) >= i:
                break
            gain = into - np.hypot(lx[j] - px, ly[j] - py)
            if gain <= 1e-6 and j + 1 == n:
                continue
            if j + 1 < n:
                gain += np.hypot(ex[j + 1] - lx[j], ey[j + 1] - ly[j])
                gain -= np.hypot(ex[j + 1] - ex[i], ey[j + 1] - ey[i])
            if gain > 1e-6:
                _turn_round(ends, item, begin, i, j)
                for k in range(i, j + 1):
                    place[item[k]] = k
                saved += gain
                into = np.hypot(ex[i] - px, ey[i] - py)
    return saved


@numba.njit(cache=True, nogil=True)
def _move(x, y, ends, waits, item, begin, place):  # type: ignore[no-untyped-def]
    """Move up to `STRETCH` paths elsewhere where that is shorter; returns the way saved in mm."""
    ex, ey, lx, ly = ends.ex, ends.ey, ends.lx, ends.ly
    n, saved = len(item), 0.0
    for long in range(1, min(STRETCH, n - 1) + 1):
        for i in range(n - long + 1):
            last = i + long - 1
            px, py = (x, y) if i == 0 else (lx[i - 1], ly[i - 1])
            out = np.hypot(ex[i] - px, ey[i] - py)
            if last + 1 < n:
                out += np.hypot(ex[last + 1] - lx[last], ey[last + 1] - ly[last])
                out -= np.hypot(ex[last + 1] - px, ey[last + 1] - py)
            if out <= 1e-6:
                continue
            low, high = max(i - WINDOW, 0), min(last + WINDOW, n - 1)
            for k in range(i, last + 1):
                low = max(low, _last_before(waits, item[k], place, i) + 1)
                high = min(high, _first_after(waits, item[k], place, last) - 1)
            best, to = 1e-6, -1
            # to before the path that is at place m now, or behind it
            for m in range(low, high + 1):
                if i <= m <= last:
                    continue
                if m < i:
                    qx, qy = (x, y) if m == 0 else (lx[m - 1], ly[m - 1])
                    ahead = m
                else:
                    qx, qy, ahead = lx[m], ly[m], m + 1
                gain = out - np.hypot(ex[i] - qx, ey[i] - qy)
                if gain <= best:
                    continue
                if ahead < n:
                    gain += np.hypot(ex[ahead] - qx, ey[ahead] - qy)
                    gain -= np.hypot(ex[ahead] - lx[last], ey[ahead] - ly[last])
                if gain > best:
                    best, to = gain, m
            if to >= 0:
                _shift(ends, item, begin, i, last, to)
                for k in range(min(i, to), max(last, to) + 1):
                    place[item[k]] = k
                saved += best
    return saved


@numba.njit(cache=True, nogil=True)
def _last_before(waits, k, place, limit):  # type: ignore[no-untyped-def]
    """The last place, before a limit, of what path k waits for; −1 for none."""
    found = -1
    for w in range(waits.before_at[k], waits.before_at[k + 1]):
        if found < place[waits.before[w]] < limit:
            found = place[waits.before[w]]
    return found


@numba.njit(cache=True, nogil=True)
def _first_after(waits, k, place, limit):  # type: ignore[no-untyped-def]
    """The first place, after a limit, of what waits for path k; the number of paths for none."""
    found = len(place)
    for w in range(waits.after_at[k], waits.after_at[k + 1]):
        if limit < place[waits.after[w]] < found:
            found = place[waits.after[w]]
    return found


@numba.njit(cache=True, nogil=True)
def _turn_round(ends, item, begin, i, j):  # type: ignore[no-untyped-def]
    """Run the paths i … j the other way round: their order is turned, and every one of them."""
    ex, ey, lx, ly, other = ends.ex, ends.ey, ends.lx, ends.ly, ends.other
    a, b = i, j
    while a <= b:
        ex[a], lx[b] = lx[b], ex[a]
        ey[a], ly[b] = ly[b], ey[a]
        begin[a], other[b] = other[b], begin[a]
        if a != b:
            ex[b], lx[a] = lx[a], ex[b]
            ey[b], ly[a] = ly[a], ey[b]
            begin[b], other[a] = other[a], begin[b]
        item[a], item[b] = item[b], item[a]
        a += 1
        b -= 1


@numba.njit(cache=True, nogil=True)
def _shift(ends, item, begin, i, last, to):  # type: ignore[no-untyped-def]
    """Move the paths i … last to where path ``to`` is: before it if it lies before them, else
    behind it.
    """
    for column in (ends.ex, ends.ey, ends.lx, ends.ly):
        _rotate(column, i, last, to)
    for number in (ends.other, item, begin):
        _rotate(number, i, last, to)
    _rotate(ends.free, i, last, to)


@numba.njit(cache=True, nogil=True)
def _rotate(column, i, last, to):  # type: ignore[no-untyped-def]
    kept = column[i : last + 1].copy()
    if to < i:
        for k in range(i - 1, to - 1, -1):
            column[k + len(kept)] = column[k]
        column[to : to + len(kept)] = kept
    else:
        for k in range(last + 1, to + 1):
            column[k - len(kept)] = column[k]
        column[to - len(kept) + 1 : to + 1] = kept
