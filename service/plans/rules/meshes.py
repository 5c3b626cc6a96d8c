"""A changed mesh under an existing plan: what still makes sense stays, what does not is listed."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely
from django.db import transaction

from northpace.errors import InputError
from northpace.geometry.polygons import intersection
from northpace.outlines.sections import sections
from northpace.outlines.volumes import volume_sections
from northpace.part.place import Placed
from northpace.spec import PlanSpec, Region, spec_from
from service.core import pipeline
from service.limits import figuring
from service.parts.models import Part
from service.plans.models import Plan
from service.plans.rules import figures, resolving, versions
from service.plans.rules.beside import beside

#: Heights at which a region is looked for in a part.
LOOKS = 60


def change_mesh(plan: Plan, part: Part) -> tuple[list[str], int | None]:
    """Put another part under a plan. Settings stay; bands, pins, regions and marks that no longer
    meet it are left out and listed. Returns that list and the version computed for the part before.
    """
    if part.state != Part.State.READY:
        raise InputError(
            "the part is still being read"
            if part.state == Part.State.READING
            else f"the part was refused: {part.message}",
            part.name,
        )
    before, latest = figures.last_exact(plan), plan.latest
    settings, left_out = _kept(plan, part)
    with transaction.atomic():
        plan.part = part
        plan.baseline = before
        plan.save(update_fields=["part", "baseline"])
        choice = versions.choice_of(latest)._replace(settings=settings)
        versions.change_plan(plan, choice, again=True)
    return left_out, before.pk if before else None


@beside("quick", figuring)
def _kept(plan: Plan, part: Part) -> tuple[dict[str, Any], list[str]]:
    """The settings of a plan that make sense for another part, and what does not."""
    latest = plan.latest
    settings: dict[str, Any] = {group: dict(values) for group, values in latest.settings.items()}
    lost = _bodies(settings, part)
    spec = resolving.resolve(
        {group: values for group, values in settings.items() if group in resolving.OF_THE_PART},
        latest.nozzle,
        latest.material,
        latest.spool,
    )
    placed = pipeline().placed(part.source, spec)
    left_out = lost + _heights(settings, placed.height)
    left_out += _volumes(settings, latest.whole_spec, placed)
    return {group: values for group, values in settings.items() if values}, left_out


def _bodies(settings: dict[str, Any], part: Part) -> list[str]:
    """Changes of bodies that the new part does not have. That its mending was looked at holds for
    the old one only.
    """
    mesh = settings.get("mesh", {})
    mesh.pop("looked_at", None)
    said = mesh.get("bodies", [])
    if not said:
        return []
    choices = {"mesh": {key: value for key, value in mesh.items() if key != "bodies"}}
    names = pipeline().part(part.source, spec_from(choices)).names
    kept = [change for change in said if change.get("name") in names]
    if len({change["name"] for change in kept if change.get("left_out")}) == len(names):
        kept = []
    mesh["bodies"] = kept
    if not kept:
        mesh.pop("bodies")
    return [f"body '{one.get('name')}': the new part has none" for one in said if one not in kept]


def _heights(settings: dict[str, Any], top: float) -> list[str]:
    """Bands, pins and explicit stacks that a part of another height cannot have; those that only
    reach beyond it are cut.
    """
    surface, left_out = settings.get("surface", {}), []
    if "stack" in surface:
        surface.pop("stack")
        left_out.append("layer heights one by one: they add up to the old part's height")
    kept = []
    for band in surface.get("bands", []):
        tied = band.get("from_edge") or band.get("to_edge")
        name = band.get("name") or f"band from {band.get('from_mm', 0):g} mm"
        if not tied and band.get("from_mm", 0) >= top - 1e-6:
            left_out.append(f"band '{name}': the part ends at {top:.2f} mm")
            continue
        if not tied and band.get("to_mm", 0) > top + 1e-6:
            left_out.append(
                f"band '{name}' now ends with the part, at {top:.2f} mm instead of "
                f"{band['to_mm']:g} mm"
            )
            band = {**band, "to_mm": round(top, 3)}
        kept.append(band)
    pins = [pin for pin in surface.get("pins", []) if pin.get("z_mm", 0) < top]
    if len(pins) != len(surface.get("pins", [])):
        left_out.append(f"{len(surface['pins']) - len(pins)} pins above the part")
    strokes = [one for one in surface.get("strokes", []) if one.get("from_mm", 0) < top]
    if len(strokes) != len(surface.get("strokes", [])):
        left_out.append(f"{len(surface['strokes']) - len(strokes)} strokes above the part")
    for key, value in (("bands", kept), ("pins", pins), ("strokes", strokes)):
        if key in surface:
            surface[key] = value
            if not value:
                surface.pop(key)
    return left_out


def _volumes(settings: dict[str, Any], spec: PlanSpec, placed: Placed) -> list[str]:
    """Regions that lie outside the new part, and marks on faces: a point on a face is only kept
    where the new part has one there.
    """
    body, left_out = settings.get("body", {}), []
    levels = (np.arange(LOOKS) + 0.5) / LOOKS * placed.height
    outlines = sections(placed.solid, levels)
    kept = []
    for raw, region in zip(body.get("regions", []), spec.body.regions, strict=False):
        wrong = _misses(region, placed, levels, outlines)
        if wrong:
            left_out.append(f"region '{raw.get('name') or raw.get('shape', 'region')}': {wrong}")
        else:
            kept.append(raw)
    if "regions" in body:
        body["regions"] = kept
        if not kept:
            body.pop("regions")
    box = placed.solid.bounding_box()
    for group, key, what in (
        ("surface", "marks", "attention marks"),
        ("surface", "seam_marks", "seam marks"),
        ("supports", "marks", "support marks"),
        ("body", "patches", "solid patches by hand"),
    ):
        values = settings.get(group, {}).get(key, [])
        near = [mark for mark in values if _near(mark, placed.affine, box)]
        if len(near) != len(values):
            left_out.append(f"{len(values) - len(near)} {what} away from the new part")
            settings[group][key] = near
            if not near:
                settings[group].pop(key)
    return left_out


def _misses(region: Region, placed: Placed, levels: np.ndarray, outlines: np.ndarray) -> str:
    """Why a region makes no sense for a part with these outlines (L,) at heights (L,) in mm; ""
    where it does.
    """
    try:
        areas = volume_sections(region, placed, levels)
    except InputError as error:
        return error.message.removeprefix(f"{region.title}: ")
    shared = shapely.area(intersection(areas, outlines))
    return "" if shared.max(initial=0.0) > 0 else "it lies outside the new part"


def _near(
    mark: dict[str, Any], affine: np.ndarray, box: tuple[float, ...], slack: float = 1.0
) -> bool:
    """Whether a point in the file's coordinates lies in the box of the placed part, give or take a
    millimetre.
    """
    at = (
        affine[:, :3] @ np.array([mark.get("x", 0.0), mark.get("y", 0.0), mark.get("z", 0.0)])
        + affine[:, 3]
    )
    return bool((at >= np.array(box[:3]) - slack).all() and (at <= np.array(box[3:]) + slack).all())
