"""Rows cut where what is laid crosses a border."""

from __future__ import annotations

from dataclasses import fields, replace
from typing import Any

import numba
import numpy as np

from northpace.paths.travel.rows import Rows


def cut_rows(rows: Rows, edges: np.ndarray, at: np.ndarray, origin: tuple[float, float]) -> Rows:
    """Rows with a further one wherever a laid move crosses an edge (E, 4) of its layer, those of a
    layer beginning at ``at`` (N + 1,); all in mm, ``origin`` the middle of the bed.
    """
    of, share = _crossings(
        rows.x - origin[0], rows.y - origin[1], rows.layer, rows.width, edges, at
    )
    if len(of) == 0:
        return rows
    x, y, z = (
        np.round(column[of - 1] + share * (column[of] - column[of - 1]), 3)
        for column in (rows.x, rows.y, rows.z)
    )
    apart = (np.hypot(x - rows.x[of], y - rows.y[of]) > 2e-3) & (
        np.hypot(x - rows.x[of - 1], y - rows.y[of - 1]) > 2e-3
    )
    of, x, y, z = of[apart], x[apart], y[apart], z[apart]
    count = len(rows.layer)
    source = np.repeat(np.arange(count), 1 + np.bincount(of, minlength=count))
    columns: dict[str, Any] = {
        item.name: getattr(rows, item.name)[source]
        for item in fields(Rows)
        if isinstance(getattr(rows, item.name), np.ndarray)
    }
    # a further row comes before the one it is cut from
    further = of + np.arange(len(of))
    for name, values in (("x", x), ("y", y), ("z", z)):
        columns[name][further] = values
    return replace(rows, **columns)


@numba.njit(cache=True, nogil=True)
def _crossings(x, y, layer, width, edges, at):  # type: ignore[no-untyped-def]
    """Rows and how far along them (0 to 1) laid moves cross edges (K, 4) of their layer,
    in order.
    """
    room = 1024
    of, share = np.empty(room, np.int64), np.empty(room)
    n = 0
    for k in range(1, len(x)):
        if width[k] <= 0:
            continue
        ax, ay, dx, dy = x[k - 1], y[k - 1], x[k] - x[k - 1], y[k] - y[k - 1]
        begin = n
        for e in range(at[layer[k]], at[layer[k] + 1]):
            px, py, qx, qy = (
                edges[e, 0],
                edges[e, 1],
                edges[e, 2] - edges[e, 0],
                edges[e, 3] - edges[e, 1],
            )
            d = dx * qy - dy * qx
            if d == 0.0:
                continue
            t = ((px - ax) * qy - (py - ay) * qx) / d
            u = ((px - ax) * dy - (py - ay) * dx) / d
            if 0.0 < t < 1.0 and 0.0 <= u < 1.0:
                if n == room:
                    room *= 2
                    longer, further = np.empty(room, np.int64), np.empty(room)
                    longer[:n], further[:n] = of[:n], share[:n]
                    of, share = longer, further
                of[n], share[n] = k, t
                n += 1
        if n - begin > 1:
            share[begin:n] = np.sort(share[begin:n])
    return of[:n], share[:n]
