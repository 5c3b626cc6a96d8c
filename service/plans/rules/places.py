"""Where regions and bands lie in a plan's part."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from northpace.errors import InputError
from northpace.outlines.volumes import volume_sections
from northpace.paths.supports.by_hand import PaintedArea, painted_area
from northpace.plan.lanes import differs_at
from northpace.spec import PlanSpec, Region
from service.core import pipeline
from service.limits import figuring
from service.plans.models import Plan
from service.plans.rules.beside import beside
from service.plans.rules.figures import correction_for

#: Contours a region is drawn with on the stage at most, and how finely (mm).
CONTOURS, FINE = 14, 0.15


@beside("quick", figuring)
def regions_drawn(plan: Plan, spec: PlanSpec) -> list[dict[str, Any]]:
    """The regions of a spec as contour lines for the stage."""
    placed = pipeline().placed(plan.part.source, spec)
    return [_contours(region, placed) for region in spec.body.regions]


@beside("quick", figuring)
def painted_here(plan: Plan, spec: PlanSpec) -> PaintedArea:
    """How much of the surface the support marks of a spec ask for and forbid."""
    return painted_area(pipeline().placed(plan.part.source, spec), spec.supports)


@beside("quick", figuring)
def differs(plan: Plan, spec: PlanSpec, z: float) -> list[dict[str, Any]]:
    """What differs from the whole part at a height (mm), and which band or region it is from."""
    source, correction = plan.part.source, correction_for(plan, spec)
    settled = pipeline().settled(source, spec, correction)
    placed = pipeline().placed(source, spec)
    heights = pipeline().stack(source, settled, correction).heights

    def reaches(region: Region, z: float) -> bool:
        try:
            return bool(shapely.area(volume_sections(region, placed, np.array([z])))[0] > 0)
        except InputError:
            return False  # the region itself says what is wrong with it

    return differs_at(settled, np.cumsum(heights), heights, z, reaches)


def _contours(region: Any, placed: Any) -> dict[str, Any]:
    try:
        levels = np.linspace(0, placed.height, 120)[1:] - placed.height / 240
        size = shapely.area(areas := volume_sections(region, placed, levels))
    except InputError as error:
        return {"rings": [], "from_mm": None, "to_mm": None, "message": error.message}
    here = np.flatnonzero(size > 0)
    if len(here) == 0:
        return {
            "rings": [],
            "from_mm": None,
            "to_mm": None,
            "message": "it lies outside the part's height",
        }
    shown = here[
        np.unique(np.round(np.linspace(0, len(here) - 1, min(CONTOURS, len(here)))).astype(int))
    ]
    rings = []
    for k in shown.tolist():
        outline = shapely.get_parts(shapely.boundary(shapely.simplify(areas[k], FINE)))
        rings += [
            [
                [round(float(x), 2), round(float(y), 2), round(float(levels[k]), 2)]
                for x, y in shapely.get_coordinates(ring)
            ]
            for ring in outline
        ]
    half = placed.height / 240
    return {
        "rings": rings,
        "from_mm": float(levels[here[0]] - half),
        "to_mm": float(levels[here[-1]] + half),
        "message": "",
    }
