"""One run of priming loops around everything on a bed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from northpace.beds.bedplan import BedPlan, visits_of
from northpace.geometry.polygons import EMPTY, NO_PIECES, rounded, together
from northpace.motion.heat import heat_by_layer
from northpace.motion.pace import asked_of
from northpace.outlines.sections import Outlines
from northpace.part.plate import keep_out, plate
from northpace.paths.footing import loops_around
from northpace.paths.travel.land import land_of
from northpace.paths.travel.lay import TravelRules, lay
from northpace.paths.travel.order import order_paths
from northpace.paths.travel.seam import SeamRule

NAME = "priming loops"


def shared_loops(plan: BedPlan, stands: list[shapely.Geometry]) -> BedPlan | None:
    """One run of loops around everything on the bed, clear of the keep-out places. ``plan``, the
    one that is laid first, says how many. None if it asks for none, or if they do not fit.
    """
    spec = plan.spec.model_copy(update={"footing": plan.loops, "surface": plan.spec.surface})
    heights = plan.heights[: max(1, plan.loops.skirt_height)]
    tops = np.cumsum(heights)
    ground = together(np.array(stands, object))
    barred = together(np.array([area for _, area in keep_out(spec.machine)], object))
    paths, count = loops_around(ground, 0.0, heights, plan.loops, barred=barred)
    if not count:
        return None
    hull = shapely.convex_hull(shapely.multipoints(paths.points))
    if not shapely.covers(plate(spec.machine), rounded(hull, plan.loops.skirt_width / 2)):
        return None
    empty = np.full(len(tops), EMPTY, object)
    rules = TravelRules(np.inf, False, 0.0, 0.0, False)
    seam = SeamRule(spec.surface.seam, spec.surface.seam_bearing, np.empty((0, 5)))
    order = order_paths(paths, seam, tops, spec.pace.order)
    land = land_of(Outlines(tops, heights, empty, NO_PIECES), False)
    rows = lay(paths, order, land, rules, spec.machine.origin)
    paced = asked_of(rows, spec, tops, heights)
    visits = visits_of(paced, False)
    none = np.zeros(len(tops))
    return replace(
        plan,
        name=NAME,
        spec=spec,
        paced=paced,
        tops=tops,
        heights=heights,
        heat=heat_by_layer(spec, tops, heights),
        least=none,
        floor=plan.floor[: len(tops)],
        drawn=plan.drawn[: len(tops)],
        extra=plan.extra[: len(tops)],
        visits=visits,
        middle=np.array(spec.machine.origin),
        _turned={},
    )
