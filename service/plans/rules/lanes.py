"""Which lane of the queue a plan goes into: whether it will take seconds or longer."""

from __future__ import annotations

from typing import Any

from northpace import VERSION
from northpace.spec import PlanSpec
from service.parts.models import Part
from service.plans.models import Plan, PlanVersion
from service.queue import LARGE, SMALL

#: Small is what took less than this the last time (s), or else has fewer triangles times layers.
#: Of 196 real plans 130 are below, and three of these took over 10 s.
SMALL_SECONDS, SMALL_SIZE = 6.0, 2e6


def lane_of(plan: Plan, spec: PlanSpec) -> str:
    """The lane of a new version of a plan."""
    took = (
        plan.versions.filter(part=plan.part, state=PlanVersion.State.DONE, core_version=VERSION)
        .order_by("-number")
        .values_list("took_s", flat=True)
        .first()
    )
    if took is not None:
        return SMALL if took < SMALL_SECONDS else LARGE
    return SMALL if _size(plan.part, spec) < SMALL_SIZE else LARGE


def _size(part: Part, spec: PlanSpec) -> float:
    facts: dict[str, Any] = part.facts
    # whichever side is up: the longest is the most layers there can be
    layers = max(facts["size_mm"]) / spec.surface.layer_height
    return float(facts["triangles"] * layers)
