"""What happens to plans: new versions supersede older computations, and are computed in
the queue.
"""

from __future__ import annotations

import io
import itertools
import logging
from typing import Any

import numpy as np
from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from northpace import VERSION
from northpace.errors import InputError
from northpace.estimate.quick import correction_of, quick
from northpace.estimate.rates import Correction
from northpace.heights.attention import told_apart
from northpace.heights.shape import shape_table
from northpace.heights.surface import facets_from
from northpace.motion.derive import derived
from northpace.moves import browser_bytes
from northpace.part.place import check_size
from northpace.part.stl import mesh_arrays
from northpace.plan.pipeline import Cancelled
from northpace.spec import GROUP_TITLES, PlanSpec, digest, spec_from
from northpace.spec import settings as every_setting
from service.core import pipeline
from service.files import keep
from service.parts.models import Part
from service.plans.models import Acknowledgement, Plan, PlanVersion, Search
from service.queue import later
from service.workshop.models import Material, Nozzle, Recipe, Spool, Workshop, material_spec

log = logging.getLogger(__name__)
#: Groups that belong to the workshop and not to the plan.
NOT_THE_PLANS = ("machine", "material")
#: A shape for the stage has at most this many triangles; more only costs the browser.
STAGE_TRIANGLES = 150_000


def resolve(
    settings: dict[str, Any], nozzle: Nozzle, material: Material, spool: Spool | None
) -> PlanSpec:
    """The full spec of settings on a machine in a material; raises `InputError` for what
    contradicts.
    """
    for group in settings:
        if group not in GROUP_TITLES or group in NOT_THE_PLANS:
            raise InputError(
                f"there is no group '{group}' in a plan; there are "
                + ", ".join(name for name in GROUP_TITLES if name not in NOT_THE_PLANS),
                group,
            )
    return derived(
        spec_from(
            {**settings, "machine": nozzle.spec(), "material": material_spec(material, spool)}
        )
    )


def start_values(nozzle: Nozzle) -> dict[str, Any]:
    """Settings a new plan starts from: what a bead of this nozzle suggests, where the plain
    defaults do not fit.
    """
    if nozzle.bore == 0.4:
        return {}
    width, height = round(1.125 * nozzle.bore, 2), round(0.5 * nozzle.bore, 2)
    return {
        "surface": {"layer_height": height, "first_layer_height": height},
        "body": dict.fromkeys(("outer_width", "inner_width", "solid_width", "infill_width"), width),
        "footing": {"skirt_width": width},
        "supports": {"width": width},
    }


def refit(settings: dict[str, Any], old: Nozzle, new: Nozzle) -> dict[str, Any]:
    """Settings after a change of nozzle: values the old nozzle suggested give way to those of the
    new one, the maker's own stay.
    """
    if old.pk == new.pk:
        return settings
    before, after = start_values(old), start_values(new)
    fitted = {group: dict(values) for group, values in settings.items()}
    for group in {*before, *after}:
        for key in {*before.get(group, {}), *after.get(group, {})}:
            suggested = before.get(group, {}).get(key)
            if fitted.get(group, {}).get(key) != suggested:
                continue
            fitted.setdefault(group, {}).pop(key, None)
            if key in after.get(group, {}):
                fitted[group][key] = after[group][key]
    return {group: values for group, values in fitted.items() if values}


def create_plan(
    workshop: Workshop,
    part: Part,
    nozzle: Nozzle,
    material: Material,
    spool: Spool | None,
    settings: dict[str, Any] | None = None,
    recipe: Recipe | None = None,
) -> Plan:
    """A new plan with its first version, queued; from a recipe with the recipe's settings."""
    if part.state != Part.State.READY:
        raise InputError(
            "the part is still being read"
            if part.state == Part.State.READING
            else f"the part was refused: {part.message}",
            part.name,
        )
    if recipe is not None and not recipe.suits(nozzle, material):
        raise InputError(
            f"'{recipe.name}' is for a {recipe.bore:g} mm nozzle"
            + (f" of {recipe.machine}" if recipe.machine else "")
            + (f" in {recipe.material}" if recipe.material else ""),
            "recipe",
        )
    if settings is None:
        settings = recipe.settings if recipe is not None else start_values(nozzle)
    spec = resolve(settings, nozzle, material, spool)
    with transaction.atomic():
        # one plan at a time takes a number
        Workshop.objects.select_for_update().get(pk=workshop.pk)
        number = (
            Plan.objects.filter(workshop=workshop).aggregate(last=Max("number"))["last"] or 0
        ) + 1
        plan = Plan.objects.create(workshop=workshop, part=part, number=number, recipe=recipe)
        _queue_version(plan, 1, settings, spec, nozzle, material, spool)
    return plan


def change_plan(
    plan: Plan,
    settings: dict[str, Any],
    nozzle: Nozzle,
    material: Material,
    spool: Spool | None,
    again: bool = False,
) -> PlanVersion:
    """A new version with these settings; older versions still being computed are superseded. The
    same answer is not made twice, unless it is asked for ``again`` because the part has changed.
    """
    spec = resolve(settings, nozzle, material, spool)
    checksum = digest(spec)
    correction = _correction_again(plan, spec, checksum)
    with transaction.atomic():
        Plan.objects.select_for_update().get(pk=plan.pk)
        latest = plan.latest
        same = latest.checksum == checksum and (
            latest.state in PlanVersion.OPEN
            or latest.state == PlanVersion.State.DONE
            and latest.core_version == VERSION
        )
        if (
            not again
            and same
            and latest.settings == settings
            and latest.spool_id == (spool.pk if spool else None)
        ):
            return latest
        _stop(plan, PlanVersion.State.SUPERSEDED)
        return _queue_version(
            plan, latest.number + 1, settings, spec, nozzle, material, spool, correction
        )


def _correction_again(plan: Plan, spec: PlanSpec, checksum: str) -> Correction | None:
    """What heights chosen by time are chosen with: what an earlier version with the same settings
    was made with, so that undoing gives the same plan; what proposals were computed with, so that
    they come out as proposed; else as the quick figures of now show them.
    """
    if spec.surface.kind == "even":
        return None
    earlier = (
        plan.versions.filter(
            part=plan.part, checksum=checksum, core_version=VERSION, state=PlanVersion.State.DONE
        )
        .order_by("-number")
        .first()
    )
    if earlier is not None:
        return earlier.correction
    for search in plan.searches.filter(state=Search.State.DONE).order_by("-created")[:5]:
        if search.proposes(checksum):
            return search.correction
    return correction_for(plan, spec)


def _queue_version(
    plan: Plan,
    number: int,
    settings: dict[str, Any],
    spec: PlanSpec,
    nozzle: Nozzle,
    material: Material,
    spool: Spool | None,
    correction: Correction | None = None,
) -> PlanVersion:
    version = PlanVersion.objects.create(
        plan=plan,
        part=plan.part,
        number=number,
        settings=settings,
        spec=spec.model_dump(),
        checksum=digest(spec),
        nozzle=nozzle,
        material=material,
        spool=spool,
        correction=correction,
    )
    # in the same transaction: the row and its task exist both or neither
    version.task = later("plans.tasks.compute_version", version_id=version.pk)
    version.save(update_fields=["task"])
    return version


def cancel(plan: Plan) -> None:
    """Stop what is being computed for a plan; the last computed version stays."""
    with transaction.atomic():
        Plan.objects.select_for_update().get(pk=plan.pk)
        _stop(plan, PlanVersion.State.CANCELLED)


def _stop(plan: Plan, state: str) -> None:
    # The worker looks at the state between two stages and leaves by itself; a queued task finds
    # nothing to do.
    plan.versions.filter(state__in=PlanVersion.OPEN).update(state=state)


def compute(version_id: int) -> None:
    """Compute a version; safe to run again after a worker was lost in the middle."""
    changed = PlanVersion.objects.filter(pk=version_id, state__in=PlanVersion.OPEN).update(
        state=PlanVersion.State.COMPUTING, stage="load", share=0
    )
    if not changed:
        return
    version = PlanVersion.objects.select_related("plan__part", "part", "spool").get(pk=version_id)
    mine = PlanVersion.objects.filter(pk=version_id, state=PlanVersion.State.COMPUTING)
    plan, part = version.plan, version.its_part

    def progress(stage: str, share: float) -> None:
        mine.update(stage=stage, share=share)

    try:
        result = pipeline().plan(
            part.source,
            spec_from(version.spec),
            {
                "part": part.name,
                "plan": f"{plan.number} version {version.number}",
                "spool": version.spool.label if version.spool else "not chosen",
            },
            progress,
            lambda: not mine.exists(),
            version.correction,
        )
    except Cancelled:
        return
    except InputError as error:
        mine.update(state=PlanVersion.State.FAILED, message=str(error), computed=timezone.now())
        return
    except Exception:
        log.exception("version %s could not be computed", version_id)
        mine.update(
            state=PlanVersion.State.FAILED,
            computed=timezone.now(),
            message="a fault of the program, not of your settings; the log of the worker has "
            "the details",
        )
        return
    keys = {
        "moves_key": keep(browser_bytes(result.moves), ".arrow"),
        "gcode_key": keep(result.gcode, ".gcode"),
    }
    mine.update(
        state=PlanVersion.State.DONE,
        report=result.report,
        share=1,
        stage="",
        core_version=VERSION,
        computed=timezone.now(),
        message="",
        **keys,
    )


def last_exact(plan: Plan) -> PlanVersion | None:
    """The newest version computed by this core for the part the plan has now."""
    return (
        plan.versions.filter(part=plan.part, state=PlanVersion.State.DONE, core_version=VERSION)
        .order_by("-number")
        .first()
    )


def refresh_plans() -> int:
    """Queue plans that only an older core has computed, as new versions with the same settings;
    returns how many.
    """
    old = [
        plan
        for plan in Plan.objects.select_related("part")
        if plan.latest.state == PlanVersion.State.DONE and plan.latest.core_version != VERSION
    ]
    for plan in old:
        latest = plan.latest
        try:
            change_plan(plan, latest.settings, latest.nozzle, latest.material, latest.spool)
        except InputError as error:
            log.warning("%s stays as an older core computed it: %s", plan, error)
    return len(old)


def baseline_of(plan: Plan) -> PlanVersion | None:
    """The version a plan is compared with: the chosen one, else its own first computed one."""
    if plan.baseline is not None and plan.baseline.core_version == VERSION:
        return plan.baseline
    return (
        plan.versions.filter(state=PlanVersion.State.DONE, core_version=VERSION)
        .order_by("number")
        .first()
    )


def copy_plan(plan: Plan) -> Plan:
    """A plan of its own with the same settings, compared with the same baseline."""
    latest = plan.latest
    copy = create_plan(
        plan.workshop,
        plan.part,
        latest.nozzle,
        latest.material,
        latest.spool,
        latest.settings,
        plan.recipe,
    )
    copy.baseline = baseline_of(plan)
    copy.save(update_fields=["baseline"])
    return copy


def recipe_settings(settings: dict[str, Any]) -> dict[str, Any]:
    """The settings of a plan that can start another one: without placement and without places of
    the part, which are the lists.
    """
    places = {entry["name"] for entry in every_setting() if entry["type"] == "list"}
    kept = {
        group: {key: value for key, value in values.items() if f"{group}.{key}" not in places}
        for group, values in settings.items()
        if group != "place"
    }
    return {group: values for group, values in kept.items() if values}


def save_recipe(
    plan: Plan, name: str, note: str, this_machine: bool = False, this_material: bool = False
) -> Recipe:
    """Keep a plan's settings as a recipe for its nozzle, and for its machine or material only where
    that is said; the plan then counts as made from it.
    """
    latest = plan.latest
    if Recipe.objects.filter(workshop=plan.workshop, name=name).exists():
        raise InputError(
            f"there is a recipe '{name}' already; take another name, or remove that one first",
            "name",
        )
    recipe = Recipe.objects.create(
        workshop=plan.workshop,
        name=name,
        note=note,
        settings=recipe_settings(latest.settings),
        bore=latest.nozzle.bore,
        machine=latest.nozzle.machine if this_machine else None,
        material=latest.material if this_material else None,
    )
    plan.recipe = recipe
    plan.save(update_fields=["recipe"])
    return recipe


def acknowledge(plan: Plan, code: str, reason: str, user: Any) -> Acknowledgement:
    """Accept a finding of the newest exact version with a reason."""
    exact = last_exact(plan)
    finding = (
        next(
            (entry for entry in (exact.report or {}).get("findings", []) if entry["code"] == code),
            None,
        )
        if exact
        else None
    )
    if finding is None:
        raise InputError(f"the newest exact plan has no finding '{code}'", "code")
    return Acknowledgement.objects.update_or_create(
        plan=plan, code=code, defaults={"message": finding["message"], "reason": reason, "by": user}
    )[0]


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
                **{
                    name: after[f"report__{path}"] - before[f"report__{path}"]
                    for name, path in (
                        ("time_s", "time_s__total"),
                        ("mass_g", "filament__mass_g"),
                        ("p95_um", "surface__p95_um"),
                    )
                },
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


def correction_for(plan: Plan, spec: PlanSpec) -> Correction | None:
    """How far quick figures of this part were off in its newest exact version with the same
    placement.
    """
    exact = last_exact(plan)
    if exact is None or exact.report is None or exact.spec["place"] != spec.place.model_dump():
        return None
    source = plan.part.source
    own = pipeline().settled(source, spec_from(exact.spec), exact.correction)
    found = correction_of(exact.report, pipeline().profile(source, own), own)
    # a hundredth is as much as it is worth, and similar versions then share what is computed from
    # it
    return {
        kind: {name: round(ratio, 2) for name, ratio in ratios.items()}
        for kind, ratios in found.items()
    }


def quick_figures(plan: Plan, spec: PlanSpec) -> dict[str, Any]:
    """The ≈ figures of a spec for the plan's part: its heights, surface, time and mass."""
    source = plan.part.source
    placed = pipeline().placed(source, spec)
    check_size(placed, spec.machine)
    correction = correction_for(plan, spec)
    spec = pipeline().settled(source, spec, correction)
    shape, table = (
        pipeline().profile(source, spec),
        pipeline().surface(source, spec),
    )
    stack = pipeline().stack(source, spec, correction)
    out = quick(shape, spec, stack.heights, correction).figures(spec)
    out["layers"].update(stack.layers)
    out["surface"] = stack.figures(table, spec)
    return out


def frontier_points(plan: Plan, spec: PlanSpec, measure: str, points: int) -> dict[str, Any]:
    """The frontier of a plan's part under its rules, without the heights of every point."""
    found = pipeline().frontier(
        plan.part.source, spec, correction_for(plan, spec), (measure,), points
    )
    return found.as_dict(heights=False)


def stage_shape(plan: Plan, spec: PlanSpec) -> bytes:
    """The placed part for the stage as an Arrow stream: three rows a facet, thinned out where it is
    finer than a screen shows.

    Columns: x, y, z (mm), slope (smooth n_z), body, flat (0 or 1), attention (0 hidden, 1 ordinary,
    2 seen). The schema's metadata has the matrix from file to bed coordinates.
    """
    placed = pipeline().placed(plan.part.source, spec)
    vertices, faces, owner = mesh_arrays(
        tuple(told_apart(body, spec.body.regions) for body in placed.bodies)
    )
    if len(faces) > STAGE_TRIANGLES:
        import fast_simplification

        vertices, faces = fast_simplification.simplify(
            vertices.astype("f4"),
            faces.astype("i4"),
            target_reduction=1 - STAGE_TRIANGLES / len(faces),
        )
        owner = np.zeros(len(faces), np.int32)  # thinning mixes the faces of bodies
    mesh = facets_from(
        vertices.astype(np.float64),
        faces.astype(np.int64),
        placed.affine,
        spec.surface,
        spec.machine.z_step,
        spec.body.regions,
    )
    return shape_table(mesh, owner, placed.affine)


def parquet_of(moves: bytes) -> bytes:
    """The move table of a version as Parquet, to download."""
    import pyarrow as pa
    import pyarrow.parquet as pq

    sink = io.BytesIO()
    pq.write_table(pa.ipc.open_stream(moves).read_all(), sink)
    return sink.getvalue()
