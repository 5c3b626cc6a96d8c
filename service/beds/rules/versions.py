"""Beds and their versions: made, changed, undone, copied."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from typing import Any

from django.db import transaction
from django.db.models import Max

from northpace import VERSION
from northpace.beds.spec import MOST, BedSpec, Placing, bed_from
from northpace.errors import InputError
from service.beds.models import Bed, BedVersion
from service.parts.models import Part
from service.plans.models import PlanVersion
from service.queue import LARGE, SMALL, later
from service.workshop.models import Workshop

log = logging.getLogger(__name__)
#: Beds of plans that took less than this in all (s) are small work.
SMALL_SECONDS = 6.0
ARRANGE, FILL, SHARE = "arrange", "fill", "share"


def create_bed(
    workshop: Workshop, versions: Sequence[PlanVersion], copies: int = 1, name: str = ""
) -> Bed:
    """A bed with copies of versions of plans, to be arranged. Raises `InputError` for plans that
    cannot be on one bed.
    """
    if not versions:
        raise InputError("choose at least one plan for the bed", "plans")
    if not 1 <= copies * len(versions) <= MOST:
        raise InputError(f"a bed holds 1 to {MOST} placings", "copies")
    suited(versions)
    first = versions[0]
    spec = BedSpec(placings=tuple(Placing(plan=str(v.pk)) for v in versions for _ in range(copies)))
    bed = Bed(workshop=workshop, name=name, nozzle=first.nozzle, spool=first.spool)
    return _begun(bed, spec, ARRANGE)


def create_filled(version: PlanVersion, copies: int, spec: BedSpec, spool: Any, name: str) -> Bed:
    """A bed with so many copies of a version of a plan, which is filled with them in the queue. If
    more are asked for than fit, other beds are made for the rest. ``spec`` says how it is laid.
    """
    bed = Bed(workshop=version.plan.workshop, name=name, nozzle=version.nozzle, spool=spool)
    return _begun(bed, spec, f"{SHARE} {version.pk} {copies} filled", [version])


def _begun(bed: Bed, spec: BedSpec, wish: str, pins: Sequence[PlanVersion] | None = None) -> Bed:
    """A new bed with its number and its first version."""
    with transaction.atomic():
        # one bed at a time takes a number
        Workshop.objects.select_for_update(no_key=True).get(pk=bed.workshop_id)
        beds = Bed.objects.filter(workshop=bed.workshop_id)
        bed.number = (beds.aggregate(last=Max("number"))["last"] or 0) + 1
        bed.save()
        _queue(bed, 1, spec, wish, pins=pins)
    return bed


def of_parts(workshop: Workshop, parts: Sequence[int]) -> list[PlanVersion]:
    """The newest exact version of any plan of each part, all for the nozzle that most of them have
    one for. Raises `InputError` for a part without one.
    """
    if not parts:
        return []
    found = list(
        PlanVersion.objects.filter(
            plan__workshop=workshop, plan__part__in=parts, state=PlanVersion.State.DONE
        )
        .select_related("plan__part", "part", "nozzle__machine", "spool")
        .order_by("-created")
    )
    by_nozzle: dict[int, dict[int, PlanVersion]] = {}
    for version in found:
        by_nozzle.setdefault(version.nozzle_id, {}).setdefault(version.plan.part_id, version)
    best: dict[int, PlanVersion] = max(by_nozzle.values(), key=len, default={})
    names = dict(Part.objects.filter(workshop=workshop, pk__in=parts).values_list("pk", "name"))
    for key in parts:
        if key not in names:
            raise InputError(f"there is no part {key}", "parts")
        if key not in best:
            where = f" for {next(iter(best.values())).nozzle}" if best else ""
            raise InputError(
                f"{names[key]} has no exact plan{where}; plan it first, then put it on a bed",
                "parts",
            )
    return [best[key] for key in parts]


def suited(versions: Sequence[PlanVersion]) -> None:
    """Raise `InputError` for versions that are not computed, or are for different nozzles."""
    for version in versions:
        if version.state != PlanVersion.State.DONE:
            raise InputError(
                f"{version.its_part.name}: {version} is not computed yet; put it on a bed once it "
                "is",
                "plans",
            )
        if version.nozzle_id != versions[0].nozzle_id:
            raise InputError(
                f"{version.its_part.name} is planned for {version.nozzle}, "
                f"{versions[0].its_part.name} for {versions[0].nozzle}; a bed is of one machine "
                "with one nozzle: plan it for that one first",
                "plans",
            )


def pinned(bed: Bed, keys: set[str]) -> list[PlanVersion]:
    """The versions of plans by their keys, to be pinned; raises `InputError` for what is not of the
    workshop, not computed, or for another nozzle.
    """
    wrong = [key for key in keys if not (key.isdecimal() and len(key) < 18)]
    found = list(
        PlanVersion.objects.filter(
            pk__in=[int(key) for key in keys - set(wrong)], plan__workshop=bed.workshop_id
        ).select_related("plan__part", "part", "nozzle__machine")
    )
    missing = keys - {str(version.pk) for version in found}
    if wrong or missing:
        raise InputError(f"there is no version {min(wrong or missing)} of a plan", "placings")
    for version in found:
        if version.nozzle_id != bed.nozzle_id:
            raise InputError(
                f"{version.its_part.name} is planned for {version.nozzle}; this bed is of "
                f"{bed.nozzle}: plan it for that one first",
                "placings",
            )
    suited(found)
    return found


def change_bed(
    bed: Bed, values: dict[str, Any], wish: str = "", base: int | None = None, by: str = ""
) -> BedVersion:
    """A new version with these settings and placings; one that is still computed is superseded."""
    spec = bed_from(values)
    with transaction.atomic():
        Bed.objects.select_for_update(no_key=True).get(pk=bed.pk)
        latest = bed.latest
        if base is not None and base != latest.number and latest.by != by:
            raise InputError(
                f"meanwhile {latest.by or 'somebody'} changed this bed; it is shown as it is now, "
                "make your change again",
                "bed",
            )
        same = spec.model_dump(mode="json") == latest.spec and not wish
        if same and latest.state in (*BedVersion.OPEN, BedVersion.State.DONE):
            return latest
        more = wish.split()[1:2]  # what it is filled with may not be on it yet
        pins = pinned(bed, {placing.plan for placing in spec.placings} | set(more))
        _stop(bed, BedVersion.State.SUPERSEDED)
        return _queue(bed, latest.number + 1, spec, wish, (latest, None), by, pins)


def step(bed: Bed, forward: bool, by: str = "") -> BedVersion:
    """Undo the last change, or do it again; raises `InputError` where there is none."""
    with transaction.atomic():
        Bed.objects.select_for_update(no_key=True).get(pk=bed.pk)
        latest = bed.latest
        wanted = latest.forth if forward else latest.back
        if wanted is None:
            raise InputError(f"there is nothing to {'do again' if forward else 'undo'}", str(bed))
        _stop(bed, BedVersion.State.SUPERSEDED)
        history = (latest, wanted.forth) if forward else (wanted.back, latest)
        return _queue(bed, latest.number + 1, wanted.whole_spec, "", history, by)


def share(version: BedVersion, first: BedSpec, others: Sequence[BedSpec]) -> None:
    """Keep what a version was shared out to: the first bed is its own, the others are beds beside
    it. What was asked is done with that, also when a worker is lost right after.
    """
    bed = version.bed
    with transaction.atomic():
        mine = BedVersion.objects.select_for_update(no_key=True).get(pk=version.pk)
        if mine.state not in BedVersion.OPEN or not mine.wish:
            return
        mine.spec, mine.wish = first.model_dump(mode="json"), ""
        mine.save(update_fields=["spec", "wish"])
        for number, spec in enumerate(others, 2):
            name = f"{bed.name or str(bed).capitalize()}, {number} of {len(others) + 1}"
            beside = Bed(workshop=bed.workshop, name=name, nozzle=bed.nozzle, spool=bed.spool)
            _begun(beside, spec, "")


def copy_bed(bed: Bed) -> Bed:
    """A bed of its own with the same placings."""
    copy = Bed(workshop=bed.workshop, name=bed.name, nozzle=bed.nozzle, spool=bed.spool)
    return _begun(copy, bed.latest.whole_spec, "")


def cancel(bed: Bed) -> None:
    """Stop what is being computed."""
    with transaction.atomic():
        Bed.objects.select_for_update(no_key=True).get(pk=bed.pk)
        _stop(bed, BedVersion.State.CANCELLED)


def refresh_beds() -> int:
    """Queue beds that only an older core has computed, as new versions of the same; returns how
    many.
    """
    old = [
        bed
        for bed in Bed.objects.all()
        if bed.latest.state == BedVersion.State.DONE and bed.latest.core_version != VERSION
    ]
    for bed in old:
        try:
            again(bed)
        except InputError as error:
            log.warning("%s stays as an older core computed it: %s", bed, error)
    return len(old)


def again(bed: Bed) -> BedVersion:
    """Compute the newest version anew, as a version of the same; that is no step to undo."""
    with transaction.atomic():
        Bed.objects.select_for_update(no_key=True).get(pk=bed.pk)
        latest = bed.latest
        history = (latest.back, latest.forth)
        return _queue(bed, latest.number + 1, latest.whole_spec, "", history, latest.by)


def _stop(bed: Bed, state: str) -> None:
    bed.versions.filter(state__in=BedVersion.OPEN).update(state=state)


def _queue(
    bed: Bed,
    number: int,
    spec: BedSpec,
    wish: str,
    history: tuple[BedVersion | None, BedVersion | None] = (None, None),
    by: str = "",
    pins: Sequence[PlanVersion] | None = None,
) -> BedVersion:
    if pins is None:
        pins = pinned(bed, {placing.plan for placing in spec.placings})
    version = BedVersion.objects.create(
        bed=bed,
        number=number,
        spec=spec.model_dump(mode="json"),
        wish=wish,
        back=history[0],
        forth=history[1],
        by=by[:80],
    )
    version.pins.set(pins)
    took = sum(pin.took_s or SMALL_SECONDS for pin in pins)
    version.task = later(
        "beds.tasks.compute_bed",
        SMALL if took < SMALL_SECONDS else LARGE,
        bed.workshop_id,
        version_id=version.pk,
    )
    version.save(update_fields=["task"])
    return version
