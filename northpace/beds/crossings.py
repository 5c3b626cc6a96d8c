"""Ways from one placing to the next: straight, above everything finished that they lead over, or
around it where that is quicker.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from northpace.beds.around import closed_to_tip, way_around
from northpace.beds.bedplan import BedPlan, cosine_sine
from northpace.beds.head import HeadOutline, head
from northpace.beds.merge import DECIMALS, Crossings
from northpace.beds.passes import Passes
from northpace.beds.reach import swept
from northpace.beds.spec import BedSpec
from northpace.geometry.polygons import rounded, union
from northpace.motion.speeds import rising_speed
from northpace.part.plate import park, plate, standing_up

#: How far the head stays above what is finished, and beside it (mm).
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
    corners: list[np.ndarray] = [np.empty((0, 2))] * count
    origin = np.array(machine.origin)
    waits = np.array(park(machine)) + origin
    crosses = np.flatnonzero(np.r_[False, order.placing[1:] != order.placing[:-1]])
    known: dict[tuple[int, int, int], float] = {}
    places = standing_up(machine)
    # the bed's own loops lie outside of all that stands on it
    loops = [_laid_by(plan) for plan in plans[len(stands) :]]
    everything = shapely.convex_hull(shapely.geometrycollections([*stands, *loops]))
    if places:
        # where the start G-code leaves the head is not known, so the first way is over all of them
        over[0] = max(height for _, _, height in places) + ABOVE
    for k in crosses:
        before, after = int(order.placing[k - 1]), int(order.placing[k])
        group = int(order.group[k])
        changes = order.group[k - 1] != group
        if changes:
            pause[k] = spec.pauses == "each" or (
                spec.pauses == "chosen" and spec.placings[before].pause
            )
        if max(before, after) >= len(stands):
            # between the loops around everything and a placing
            over[k] = _over_places(everything, places)
            continue
        key = (before, after, group)
        done = np.unique(order.placing[order.group < group])
        done = done[done < len(stands)]
        if key not in known:
            way = [stands[before], stands[after]]
            if pause[k]:
                way.append(shapely.Point(waits - origin))
            hull = shapely.convex_hull(shapely.geometrycollections(way))
            above = _above(hull, [(stands[q], plans[q].top) for q in done], parts)
            known[key] = float(np.fmax(above, _over_places(hull, places)))
        over[k] = known[key]
        # inside a group a way is made at every height; those around are for the change of groups
        if changes and not pause[k] and not np.isnan(over[k]):
            found = _around(spec, plans, order, int(k), done, over[k])
            if found is not None:
                over[k], corners[k] = found[0], found[1] + origin
    begins = np.r_[0, np.cumsum([len(each) for each in corners])].astype(np.int64)
    return Crossings(over, pause, waits, np.round(np.concatenate(corners), DECIMALS), begins)


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


def _over_places(way: shapely.Geometry, places: list[tuple[str, shapely.Polygon, float]]) -> float:
    """The least z in mm at which the tip passes over every place on its way that stands up from the
    plate; NaN if there is none.
    """
    tall = [height for _, area, height in places if shapely.intersects(way, area)]
    return max(tall) + ABOVE if tall else np.nan


def _around(
    spec: BedSpec,
    plans: Sequence[BedPlan],
    order: Passes,
    k: int,
    done: np.ndarray,
    over: float,
) -> tuple[float, np.ndarray] | None:
    """The way to visit k around what is finished: its z in mm, and its corners (n, 2) about the
    middle of the bed; None where the way over it, at ``over`` mm, is quicker.
    """
    (start, low), (goal, level) = (
        _place(spec, plans, order, k - 1, True),
        _place(spec, plans, order, k, False),
    )
    before, after = plans[order.placing[k - 1]].spec, plans[order.placing[k]].spec
    # clear of what was just laid
    height = max(low, level) + max(after.pace.lift, ABOVE)
    if over <= height:
        return None
    finished = [
        (plans[q].turned(spec.placings[q].turn), spec.placings[q].at) for q in done.tolist()
    ]
    closed = closed_to_tip(finished, head(before.machine), height, ABOVE)
    for _, area, tall in standing_up(before.machine):
        if tall > height - ABOVE:
            closed = union(closed, rounded(area, ABOVE, 2))
    found = way_around(closed, start, goal, plate(before.machine))
    if found is None:
        return None
    longer = shapely.length(shapely.LineString([start, *found, goal])) - np.hypot(*(goal - start))
    saved = 2 * (over - height) / rising_speed(after)
    return (height, found) if longer / after.pace.travel_speed < saved else None


def _laid_by(plan: BedPlan) -> shapely.Geometry:
    """The corners of all moves of a plan that is the bed's own, such as its loops, measured from
    the middle of the bed.
    """
    course = plan.paced.course
    return shapely.multipoints(np.stack([course.x, course.y], axis=1) - plan.middle)


def _place(
    spec: BedSpec, plans: Sequence[BedPlan], order: Passes, k: int, ends: bool
) -> tuple[np.ndarray, float]:
    """Where a visit ends, or begins to lay: (2,) about the middle of the bed, and its z in mm."""
    plan, placing = plans[order.placing[k]], spec.placings[order.placing[k]]
    visits, v = plan.visits, order.visit[k]
    row = (visits.last if ends else visits.laid)[v] - 1
    course = plan.paced.course
    away = np.array([course.x[row], course.y[row]]) - plan.middle
    cosine, sine = cosine_sine(placing.turn)
    turned = np.array([[cosine, -sine], [sine, cosine]]) @ away
    return turned + placing.at, float(course.z[row])
