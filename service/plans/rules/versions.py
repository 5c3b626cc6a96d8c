"""Plans and their versions: made, changed, copied, computed again."""

from __future__ import annotations

import logging
from typing import Any, NamedTuple

from django.db import transaction
from django.db.models import Max, OuterRef, Subquery

from northpace import VERSION
from northpace.errors import InputError
from northpace.estimate.rates import Correction
from northpace.spec import PlanSpec, digest
from northpace.spec.kept import carried
from service.parts.models import Part
from service.plans.models import Plan, PlanVersion, Search
from service.plans.rules.figures import correction_for
from service.plans.rules.lanes import lane_of
from service.plans.rules.resolving import resolve, start_values, still_known
from service.queue import later
from service.workshop.models import Material, Nozzle, Recipe, Spool, Workshop

log = logging.getLogger(__name__)


class Choice(NamedTuple):
    """What a maker chooses of a plan."""

    settings: dict[str, Any]
    nozzle: Nozzle
    material: Material
    spool: Spool | None


class Author(NamedTuple):
    """Who changes a plan: the screen it is done on, which may be one of several of a person."""

    desk: str = ""
    name: str = ""


#: Who changes a plan where no person does.
NOBODY = Author()


def choice_of(version: PlanVersion) -> Choice:
    """What a version was chosen as."""
    return Choice(version.settings, version.nozzle, version.material, version.spool)


def create_plan(
    workshop: Workshop,
    part: Part,
    nozzle: Nozzle,
    material: Material,
    spool: Spool | None,
    settings: dict[str, Any] | None = None,
    recipe: Recipe | None = None,
    from_file: bool = False,
) -> Plan:
    """A new plan with its first version, queued; from a recipe with the recipe's settings, or from
    the plan that the part's file held.
    """
    if part.state != Part.State.READY:
        raise InputError(
            "the part is still being read"
            if part.state == Part.State.READING
            else f"the part was refused: {part.message}",
            part.name,
        )
    kept = kept_in(part) if from_file else None
    settings = first_settings(nozzle, material, kept["settings"] if kept else settings, recipe)
    spec = resolve(settings, nozzle, material, spool)
    with transaction.atomic():
        # one plan at a time takes a number
        Workshop.objects.select_for_update(no_key=True).get(pk=workshop.pk)
        number = (
            Plan.objects.filter(workshop=workshop).aggregate(last=Max("number"))["last"] or 0
        ) + 1
        plan = Plan.objects.create(workshop=workshop, part=part, number=number, recipe=recipe)
        choice = Choice(settings, nozzle, material, spool)
        # the correction of then chooses the heights of then
        _queue_version(plan, 1, choice, spec, kept["correction"] if kept else None)
    return plan


def kept_in(part: Part) -> dict[str, Any]:
    """The plan that a part's file held. Raises `InputError` where it held none."""
    if not part.planned:
        raise InputError("its file holds no plan, only a part", part.name)
    return dict(part.planned)


def first_settings(
    nozzle: Nozzle, material: Material, settings: dict[str, Any] | None, recipe: Recipe | None
) -> dict[str, Any]:
    """What a new plan starts from: these settings, else the recipe's, else what suits the nozzle.
    Raises `InputError` for a recipe that suits neither.
    """
    if recipe is not None and not recipe.suits(nozzle, material):
        raise InputError(
            f"'{recipe.name}' is for a {recipe.bore:g} mm nozzle"
            + (f" of {recipe.machine}" if recipe.machine else "")
            + (f" in {recipe.material}" if recipe.material else ""),
            "recipe",
        )
    if settings is not None:
        return settings
    return recipe.settings if recipe is not None else start_values(nozzle)


def change_plan(
    plan: Plan, choice: Choice, again: bool = False, author: Author = NOBODY
) -> PlanVersion:
    """A new version with these settings; older versions still being computed are superseded. The
    same answer is not made twice, unless it is asked for ``again`` because the part has changed.
    """
    spec = resolve(*choice)
    checksum = digest(spec)
    correction = _correction_again(plan, spec, checksum)
    with transaction.atomic():
        Plan.objects.select_for_update(no_key=True).get(pk=plan.pk)
        latest = plan.latest
        same = latest.checksum == checksum and (
            latest.state in PlanVersion.OPEN
            or latest.state == PlanVersion.State.DONE
            and latest.core_version == VERSION
        )
        unchanged = choice_of(latest) == choice
        if unchanged and same and not again:
            return latest
        # what is only computed again is no step to undo
        history = (latest.back, latest.forth) if unchanged else (latest, None)
        _stop(plan, PlanVersion.State.SUPERSEDED)
        return _queue_version(plan, latest.number + 1, choice, spec, correction, history, author)


def step(plan: Plan, forward: bool, author: Author = NOBODY) -> PlanVersion:
    """Undo the last change of a plan, or do it again: a new version with the settings of the kept
    one. The steps are kept with the versions, so that they are there on another machine too.
    Raises `InputError` where there is nothing to undo or to do again.
    """
    with transaction.atomic():
        # steps that come together are taken one after the other
        Plan.objects.select_for_update(no_key=True).get(pk=plan.pk)
        latest = plan.latest
        wanted = latest.forth if forward else latest.back
        if wanted is None:
            raise InputError(f"there is nothing to {'do again' if forward else 'undo'}", str(plan))
        choice = choice_of(wanted)
        spec = resolve(*choice)
        correction = _correction_again(plan, spec, digest(spec))
        _stop(plan, PlanVersion.State.SUPERSEDED)
        history = (latest, wanted.forth) if forward else (wanted.back, latest)
        return _queue_version(plan, latest.number + 1, choice, spec, correction, history, author)


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
    choice: Choice,
    spec: PlanSpec,
    correction: Correction | None = None,
    history: tuple[PlanVersion | None, PlanVersion | None] = (None, None),
    author: Author = NOBODY,
) -> PlanVersion:
    """A version to be computed; ``history`` is what undoing and doing again return to."""
    version = PlanVersion.objects.create(
        plan=plan,
        part=plan.part,
        number=number,
        settings=choice.settings,
        spec=spec.model_dump(),
        checksum=digest(spec),
        nozzle=choice.nozzle,
        material=choice.material,
        spool=choice.spool,
        correction=correction,
        back=history[0],
        forth=history[1],
        desk=author.desk,
        by=author.name[:80],
    )
    # in the same transaction: the row and its task exist both or neither
    version.task = later(
        "plans.tasks.compute_version",
        lane_of(plan, spec),
        plan.workshop_id,
        version_id=version.pk,
    )
    version.save(update_fields=["task"])
    return version


def cancel(plan: Plan) -> None:
    """Stop what is being computed for a plan; the last computed version stays."""
    with transaction.atomic():
        Plan.objects.select_for_update(no_key=True).get(pk=plan.pk)
        _stop(plan, PlanVersion.State.CANCELLED)


def _stop(plan: Plan, state: str) -> None:
    # The worker looks at the state between two stages and leaves by itself; a queued task finds
    # nothing to do.
    plan.versions.filter(state__in=PlanVersion.OPEN).update(state=state)


def refresh_plans() -> int:
    """Queue plans that only an older core has computed, as new versions with the same settings;
    returns how many.
    """
    # of a shop with thousands only those are fetched that have to be
    newest = PlanVersion.objects.filter(plan=OuterRef("pk")).order_by("-number")
    old = list(
        Plan.objects.select_related("part")
        .annotate(
            newest_state=Subquery(newest.values("state")[:1]),
            newest_core=Subquery(newest.values("core_version")[:1]),
        )
        .filter(newest_state=PlanVersion.State.DONE)
        .exclude(newest_core=VERSION)
    )
    for plan in old:
        choice, version = choice_of(plan.latest), plan.latest.spec_version
        choice = choice._replace(settings=carried(choice.settings, version))
        try:
            try:
                change_plan(plan, choice)
            except InputError:
                known, gone = still_known(choice.settings, choice.nozzle, choice.material)
                change_plan(plan, choice._replace(settings=known))
                log.warning("%s goes on without %s", plan, ", ".join(gone))
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
