"""Ways up of a plan's part: looked for in the queue, kept as they are found."""

from __future__ import annotations

import time
from typing import Any

import numpy as np
from django.db import transaction

from northpace.outlines.picture import contour_picture
from northpace.plan.pipeline import Cancelled
from northpace.ways.find import find_ways
from northpace.ways.rank import Weights, ranked
from service import limits
from service.computed import keep_result, unwanted, within_limits
from service.core import pipeline
from service.plans.models import Plan, WaySearch
from service.plans.rules import figures
from service.queue import LARGE, SMALL, later

#: Pixels of a picture, and how many searches of a plan are kept.
PICTURE, KEPT = 150, 3


def begin(plan: Plan, pull: list[float] | None = None) -> WaySearch:
    """Look for the ways of a plan as it is now; what is still looked for is stopped. The same
    question has its answer already.
    """
    version = plan.latest
    with transaction.atomic():
        Plan.objects.select_for_update(no_key=True).get(pk=plan.pk)
        last = plan.way_searches.first()
        same = last and last.version.checksum == version.checksum and last.pull == pull
        if last and same and last.state in (*WaySearch.OPEN, WaySearch.State.DONE):
            return last
        plan.way_searches.filter(state__in=WaySearch.OPEN).update(state=WaySearch.State.SUPERSEDED)
        search = WaySearch.objects.create(plan=plan, version=version, pull=pull)
        search.task = later("plans.tasks.find_ways", SMALL, plan.workshop_id, search_id=search.pk)
        search.save(update_fields=["task"])
        plan.way_searches.exclude(
            pk__in=list(plan.way_searches.values_list("pk", flat=True)[:KEPT])
        ).delete()
    return search


def run(search_id: int, within_small: bool = False) -> None:
    """Look for ways, in a process of its own; what is too much for the small lane goes on in the
    large one.
    """
    open_ = WaySearch.objects.filter(pk=search_id, state__in=WaySearch.OPEN)
    search = open_.select_related("plan__part").first()
    if search is None:
        return
    plan = search.plan

    def in_large() -> None:
        later("plans.tasks.find_ways", LARGE, plan.workshop_id, search_id=search_id)

    limit = limits.planning(plan.part.size_bytes)
    larger = in_large if within_small else None
    within_limits(open_, run_here, limit, plan.part.checksum, larger)


def run_here(search_id: int) -> None:
    """The same here; safe to run again after a worker was lost in the middle."""
    if not WaySearch.objects.filter(pk=search_id, state__in=WaySearch.OPEN).update(
        state=WaySearch.State.COMPUTING, stage="ways", share=0
    ):
        return
    search = WaySearch.objects.select_related("plan__part", "version").get(pk=search_id)
    mine = WaySearch.objects.filter(pk=search_id, state=WaySearch.State.COMPUTING)
    keep_result(mine, lambda: _found(search, mine))


def _found(search: WaySearch, mine: Any) -> dict[str, Any]:
    begun, plan, spec = time.perf_counter(), search.plan, search.version.whole_spec
    part = pipeline().part(plan.part.source, spec)
    pull = None if search.pull is None else np.array(search.pull)
    correction = figures.correction_for(plan, spec)
    ways: list[dict[str, Any]] = []
    told = begun
    for way in find_ways(part, spec, correction, pull, unwanted(mine)):
        picture = contour_picture(way.placed, PICTURE, way.needed.places[:, :3])
        ways.append({**way.figures, "picture": picture})
        now = time.perf_counter()
        if len(ways) == 1 or now - told > 0.3:
            told = now
            mine.update(ways=ways, of=way.of, share=(way.number + 1) / way.of)
    if not mine.exists():
        raise Cancelled
    return {"ways": ways, "of": len(ways), "took_s": time.perf_counter() - begun}


def in_order(search: WaySearch, weights: Weights) -> list[dict[str, Any]]:
    """What was found so far, best first, with what is different from the present way."""
    out = []
    for one in ranked(search.ways, weights):
        way = {key: value for key, value in search.ways[one["way"]].items() if key != "picture"}
        out.append(
            {
                **way,
                **one,
                "differs": {
                    key: way[key] - search.ways[0][key]
                    for key in ("time_s", "mass_g", "scar_mm2", "mean_um")
                },
            }
        )
    return out
