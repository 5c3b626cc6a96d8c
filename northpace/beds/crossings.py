"""Ways from one placing to the next: straight, above everything finished that they lead over."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from northpace.beds.bedplan import BedPlan
from northpace.beds.head import HeadOutline, head
from northpace.beds.merge import Crossings
from northpace.beds.passes import Passes
from northpace.beds.reach import swept
from northpace.beds.spec import BedSpec
from northpace.part.plate import park

#: How far the head stays above what is finished (mm).
ABOVE = 1.0


def crossings(
    spec: BedSpec, plans: Sequence[BedPlan], stands: Sequence[shapely.Geometry], order: Passes
) -> Crossings:
    """The ways to all visits (K,) of placings (n,), ``plans`` theirs, ``stands`` what they cover;
    plans beyond those are the bed's own and lie flat.
    """
    machine = plans[0].spec.machine
    parts = head(machine)
    count = len(order.placing)
    over, pause = np.full(count, np.nan), np.zeros(count, bool)
    origin = np.array(machine.origin)
    waits = np.array(park(machine)) + origin
    crosses = np.flatnonzero(np.r_[False, order.placing[1:] != order.placing[:-1]])
    known: dict[tuple[int, int, int], float] = {}
    for k in crosses:
        before, after = int(order.placing[k - 1]), int(order.placing[k])
        group = int(order.group[k])
        if order.group[k - 1] != group:
            pause[k] = spec.pauses == "each" or (
                spec.pauses == "chosen" and spec.placings[before].pause
            )
        if max(before, after) >= len(stands):
            continue
        key = (before, after, group)
        if key not in known:
            done = np.unique(order.placing[order.group < group])
            done = done[done < len(stands)]
            way = [stands[before], stands[after]]
            if pause[k]:
                way.append(shapely.Point(waits - origin))
            hull = shapely.convex_hull(shapely.geometrycollections(way))
            known[key] = _above(hull, [(stands[q], plans[q].top) for q in done], parts)
        over[k] = known[key]
    return Crossings(over, pause, waits)


def _above(
    way: shapely.Geometry,
    finished: list[tuple[shapely.Geometry, float]],
    parts: list[HeadOutline],
) -> float:
    """The least z in mm at which the head passes over everything finished, while its tip is
    anywhere on a convex way; NaN where nothing stands in the way.
    """
    found = np.nan
    for part in parts:
        covered = swept(way, part.corners)
        for area, top in finished:
            need = top - part.height + ABOVE
            if not need <= found and shapely.intersects(covered, area):
                found = need
    return float(found)
