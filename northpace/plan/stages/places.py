"""Where the regions of a plan lie in its layers."""

from __future__ import annotations

from northpace.outlines.sections import Outlines
from northpace.part.place import Placed
from northpace.paths.places import NO_PLACES, Places, places_of
from northpace.plan.stage import stage
from northpace.plan.stages.heights import outlines
from northpace.plan.stages.portions import (
    volumes,
)
from northpace.plan.stages.shape import placed
from northpace.spec import PlanSpec
from northpace.spec.portion import View


@stage(outlines, placed, phase="paths", reads=(View("body.regions", volumes),))
def regions(spec: PlanSpec, outlines: Outlines, placed: Placed) -> Places:
    """Where the regions of a plan lie in its layers."""
    return places_of(spec.body.regions, placed, outlines.tops, outlines.heights)


#: The regions, for stages whose portion of the spec may hold none.
REGIONS = regions.where(lambda spec: bool(spec.body.regions), NO_PLACES)
