"""Plans of a shop with many: searched, sorted and paged by the database."""

from __future__ import annotations

from typing import Any, NamedTuple

from django.db.models import F, OuterRef, Q, QuerySet, Subquery

from northpace import VERSION
from service.plans.models import Plan, PlanVersion
from service.workshop.models import Workshop

#: Most plans of one page, and as many as are listed where nobody asks for fewer.
MOST = 200
#: What plans can be sorted by, the newest first where nothing is said.
SORTS = {
    "created": "created",
    "part": "part__name",
    "plan": "number",
    "machine": "machine_name",
    "material": "material_name",
    "time": "time_s",
    "mass": "mass_g",
    "cost": "cost",
    "error": "p95_um",
    "findings": "stops",
}


class Ask(NamedTuple):
    """What of a library is asked for."""

    search: str = ""
    sort: str = "created"
    down: bool = True
    offset: int = 0
    limit: int = MOST
    label: str = ""
    part: int | None = None


def asked_plans(workshop: Workshop, ask: Ask) -> tuple[QuerySet[Plan], int]:
    """A page of the plans that are asked for, and how many there are in all. Every word of the
    search has to be in the name of part, plan, machine or material, in the verdict or a label.
    """
    newest = PlanVersion.objects.filter(plan=OuterRef("pk")).order_by("-number")
    plans = Plan.objects.filter(workshop=workshop).annotate(
        machine_name=Subquery(newest.values("nozzle__machine__name")[:1]),
        material_name=Subquery(newest.values("material__name")[:1]),
    )
    for word in ask.search.split():
        here = Q(number=int(word)) if word.isdecimal() and len(word) < 9 else Q()
        plans = plans.filter(
            here
            | Q(part__name__icontains=word)
            | Q(name__icontains=word)
            | Q(verdict__icontains=word)
            | Q(machine_name__icontains=word)
            | Q(material_name__icontains=word)
            | Q(part__labels__icontains=word)
        )
    if ask.label:
        plans = plans.filter(part__labels__contains=[ask.label])
    if ask.part is not None:
        plans = plans.filter(part=ask.part)
    by = F(SORTS[ask.sort])
    first = by.desc(nulls_last=True) if ask.down else by.asc(nulls_last=True)
    also = [F("looks").desc(nulls_last=True)] if ask.sort == "findings" else []
    ordered = plans.order_by(first, *also, "-id")
    return ordered[ask.offset : ask.offset + ask.limit], plans.count()


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
        "p95_um": report["surface"]["p95_um"],
        "stops": severities.count("stop"),
        "looks": severities.count("look"),
    }
