"""Figures that are not kept: quick ones, tried ones, what a change did."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np

from northpace import VERSION
from northpace.estimate.quick import correction_of, quick
from northpace.estimate.rates import Correction
from northpace.part.place import check_size
from northpace.plan.now import now
from northpace.plan.source import Source
from northpace.spec import PlanSpec
from service.core import pipeline
from service.limits import figuring, planning
from service.parts.models import Part
from service.plans.models import Plan, PlanVersion
from service.plans.rules.beside import beside


@beside("exact", planning)
def try_out(plan: Plan, spec: PlanSpec) -> dict[str, Any]:
    """Exact figures of settings without keeping them: time, mass, surface, stiffness."""
    result = (
        pipeline()
        .plan(
            plan.part.source,
            spec,
            correction=correction_for(plan, spec),
        )
        .report
    )
    return {
        "time_s": result["time_s"]["total"],
        "mass_g": result["filament"]["mass_g"],
        "p95_um": result["surface"]["p95_um"],
        "stiffness": result["strength"]["mean_stiffness"],
        "least_stiffness": result["strength"]["least_stiffness"],
        "infill_s": result["time_s"]["by_feature"].get("infill", 0.0),
        "moves": result["paths"]["moves"],
        "seams": result["paths"]["seams"],
        "retractions": result["paths"]["retractions"],
        "wall_thickness_mm": result["paths"]["wall_thickness_mm"],
        "walls": result["paths"]["walls"],
    }


def effects(plan: Plan, most: int = 12) -> list[dict[str, Any]]:
    """What the last changes did, newest first: settings that changed from one exact version to the
    next, with their values before and after, and the difference in time (s), mass (g) and surface
    (µm). A change of machine or material is not told apart from it.
    """
    rows = list(
        plan.versions.filter(state=PlanVersion.State.DONE, core_version=VERSION)
        .order_by("-number")
        .values(
            "settings",
            "nozzle",
            "material",
            "report__time_s__total",
            "report__filament__mass_g",
            "report__surface__p95_um",
        )[: most + 1]
    )
    found = []
    for after, before in itertools.pairwise(rows):
        changes = _changes(before["settings"], after["settings"])
        if not changes or (before["nozzle"], before["material"]) != (
            after["nozzle"],
            after["material"],
        ):
            continue
        found.append(
            {
                "changes": changes,
                "time_s": after["report__time_s__total"] - before["report__time_s__total"],
                "mass_g": after["report__filament__mass_g"] - before["report__filament__mass_g"],
                "p95_um": after["report__surface__p95_um"] - before["report__surface__p95_um"],
            }
        )
    return found


def _changes(before: dict[str, Any], after: dict[str, Any]) -> list[dict[str, Any]]:
    """Settings that differ, None standing for the default."""
    names = sorted(
        {
            (group, key)
            for side in (before, after)
            for group, values in side.items()
            for key in values
        }
    )
    pairs = [
        (f"{group}.{key}", before.get(group, {}).get(key), after.get(group, {}).get(key))
        for group, key in names
    ]
    return [{"name": name, "before": old, "after": new} for name, old, new in pairs if old != new]


@beside("quick", figuring)
def correction_for(plan: Plan, spec: PlanSpec) -> Correction | None:
    """How far quick figures of this part were off in its newest exact version with the same
    placement.
    """
    exact = last_exact(plan)
    if exact is None or exact.report is None:
        return None
    then = exact.whole_spec
    # that the mending was looked at changes no figure
    looked = then.mesh.model_copy(update={"looked_at": spec.mesh.looked_at})
    if then.place != spec.place or looked != spec.mesh:
        return None
    source = plan.part.source
    own = pipeline().settled(source, exact.whole_spec, exact.correction)
    found = correction_of(exact.report, pipeline().profile(source, own), own)
    # a hundredth is as much as it is worth, and similar versions then share what is computed from
    # it
    return {
        kind: {name: round(ratio, 2) for name, ratio in ratios.items()}
        for kind, ratios in found.items()
    }


@beside("quick", figuring)
def quick_figures(plan: Plan, spec: PlanSpec) -> dict[str, Any]:
    """The ≈ figures of a spec for the plan's part: its heights, surface, time and mass."""
    return _quick(plan.part.source, spec, correction_for(plan, spec))


@beside("quick", figuring)
def figures_ahead(part: Part, spec: PlanSpec, whole: bool) -> dict[str, Any]:
    """The ≈ figures of a part before it is planned: time (s), grams, layers, step error (µm); if
    ``whole``, also all that a desk shows first, so that it opens with it.
    """
    found = _quick(part.source, spec, None)
    measure = spec.surface.measure
    return {
        "quick": found if whole else None,
        "frontier": pipeline()
        .frontier(part.source, spec, None, (measure,), 0)
        .as_dict(heights=False)
        if whole
        else None,
        "time_s": found["time_s"]["total"],
        "mass_g": found["filament"]["mass_g"],
        "p95_um": found["surface"]["p95_um"],
        "layers": found["layers"]["count"],
    }


def _quick(source: Source, spec: PlanSpec, correction: Correction | None) -> dict[str, Any]:
    said_of = now(spec)
    placed = pipeline().placed(source, spec)
    check_size(placed, spec.machine)
    spec = pipeline().settled(source, spec, correction)
    shape, table = (
        pipeline().profile(source, spec),
        pipeline().surface(source, spec),
    )
    stack = pipeline().stack(source, spec, correction)
    out = quick(shape, spec, stack.heights, correction).figures(spec)
    out["layers"].update(stack.layers)
    out["surface"] = stack.figures(table, spec)
    out["now"] = said_of
    return out


@beside("quick", figuring)
def frontier_points(plan: Plan, spec: PlanSpec, measure: str, points: int) -> dict[str, Any]:
    """The frontier of a plan's part under its rules, without the heights of every point."""
    found = pipeline().frontier(
        plan.part.source, spec, correction_for(plan, spec), (measure,), points
    )
    return found.as_dict(heights=False)


@beside("quick", figuring)
def as_spiral(plan: Plan, spec: PlanSpec) -> dict[str, Any]:
    """Whether the part can be one spiral, the first height that speaks against it, and ways on."""
    found = pipeline().vase(plan.part.source, spec, correction_for(plan, spec))
    return dict(found.as_dict())


@beside("quick", figuring)
def made_lighter(
    plan: Plan, spec: PlanSpec, heights: np.ndarray, grams: float
) -> list[dict[str, Any]]:
    """Changes that make a plan with these layer heights (mm) lighter by so many grams."""
    ways = pipeline().lighter(plan.part.source, spec, heights, grams, correction_for(plan, spec))
    return [way.as_dict() for way in ways]


def last_exact(plan: Plan) -> PlanVersion | None:
    """The newest version computed by this core for the part the plan has now."""
    return (
        plan.versions.filter(part=plan.part, state=PlanVersion.State.DONE, core_version=VERSION)
        .order_by("-number")
        .first()
    )
