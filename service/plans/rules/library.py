"""Plans of a shop with many, and the figures they are sorted by."""

from __future__ import annotations

from functools import partial
from typing import Any

from django.db.models import F, OuterRef, Q, QuerySet, Subquery, Value
from django.db.models.functions import NullIf

from northpace import VERSION
from service.paging import Ask, found, in_order, page_of
from service.plans.models import Plan, PlanVersion
from service.workshop.models import Material, Nozzle, Workshop

#: What plans can be sorted by.
SORTS = {
    "created": ("created",),
    "part": ("part__name",),
    "plan": ("number",),
    "machine": ("machine_name",),
    "material": ("material_name",),
    "time": ("time_s",),
    "mass": ("mass_g",),
    "cost": ("cost",),
    "error": ("p95_um",),
    "findings": ("stops", "looks"),
    "printed": ("printed",),
    "success": ("share_good", "told"),
}
#: Where words of a search are looked for.
TEXTS = ("part__name", "name", "verdict", "part__labels")


def asked_plans(workshop: Workshop, ask: Ask) -> tuple[QuerySet[Plan], int]:
    """A page of the plans that are asked for, and how many there are in all. Words are looked for
    in the names of part, plan, machine and material, the verdict and labels; a number is a plan's.
    """
    return page_of(_found(workshop, ask), ask, SORTS)


def sorted_plans(workshop: Workshop, ask: Ask) -> QuerySet[Plan]:
    """All plans that are asked for, in the order that is asked for."""
    return in_order(_found(workshop, ask), ask, SORTS)


def _found(workshop: Workshop, ask: Ask) -> QuerySet[Plan]:
    newest = PlanVersion.objects.filter(plan=OuterRef("pk")).order_by("-number")
    plans = Plan.objects.filter(workshop=workshop).annotate(
        nozzle_now=Subquery(newest.values("nozzle")[:1]),
        material_now=Subquery(newest.values("material")[:1]),
        machine_name=Subquery(newest.values("nozzle__machine__name")[:1]),
        material_name=Subquery(newest.values("material__name")[:1]),
        share_good=F("good") * 1.0 / NullIf(F("told"), Value(0)),
    )
    if ask.part is not None:
        plans = plans.filter(part=ask.part)
    return found(plans, ask, partial(_hits, workshop), "part__labels")


def _hits(workshop: Workshop, word: str) -> Q:
    hits = Q(number=int(word)) if word.isdecimal() and len(word) < 9 else Q()
    for text in TEXTS:
        hits |= Q(**{f"{text}__icontains": word})
    # the newest version of thousands of plans is only looked up where a machine or a material has
    # the word in its name, and there are few of these
    nozzles = Nozzle.objects.filter(machine__workshop=workshop, machine__name__icontains=word)
    materials = Material.objects.filter(workshop=workshop, name__icontains=word)
    for name, keys in (
        ("nozzle_now", list(nozzles.values_list("pk", flat=True))),
        ("material_now", list(materials.values_list("pk", flat=True))),
    ):
        if keys:
            hits |= Q(**{f"{name}__in": keys})
    return hits


def note_figures(plan: int) -> None:
    """Keep with a plan the figures of its newest exact version that it is sorted by: reports are
    large, and a list of thousands cannot open each.
    """
    report: dict[str, Any] | None = (
        PlanVersion.objects.filter(plan=plan, state=PlanVersion.State.DONE, core_version=VERSION)
        .order_by("-number")
        .values_list("report", flat=True)
        .first()
    )
    if report is not None:
        Plan.objects.filter(pk=plan).update(**figures_of(report))


def figures_of(report: dict[str, Any]) -> dict[str, float | int]:
    """The figures of a report that plans are sorted by."""
    severities = [finding["severity"] for finding in report["findings"]]
    return {
        "time_s": report["time_s"]["total"],
        "mass_g": report["filament"]["mass_g"],
        "cost": report["filament"]["cost"],
        **{name: report["surface"][name] for name in ("mean_um", "p95_um", "max_um")},
        "stops": severities.count("stop"),
        "looks": severities.count("look"),
    }
