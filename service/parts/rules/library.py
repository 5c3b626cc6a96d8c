"""Parts of a shop with many."""

from __future__ import annotations

from django.db.models import Count, Max, Q, QuerySet, Sum, Value
from django.db.models.functions import NullIf

from service.paging import Ask, found, page_of
from service.parts.models import Part
from service.workshop.models import Workshop

#: What parts can be sorted by.
SORTS = {
    "created": ("created",),
    "name": ("name",),
    "size": ("size_bytes",),
    "plans": ("plan_count",),
    "printed": ("printed",),
    "success": ("share_good", "told"),
}


def asked_parts(workshop: Workshop, ask: Ask) -> tuple[QuerySet[Part], int]:
    """A page of the parts that are asked for, and how many there are in all. Words are looked for
    in the name, the file's name and labels.
    """
    parts = found(
        Part.objects.filter(workshop=workshop),
        ask,
        lambda word: (
            Q(name__icontains=word) | Q(filename__icontains=word) | Q(labels__icontains=word)
        ),
        "labels",
    )
    return page_of(with_prints(parts), ask, SORTS)


def with_prints(parts: QuerySet[Part]) -> QuerySet[Part]:
    """Parts with what came of their plans: when one was printed last, how many prints something was
    said of, and of how many that they were good.
    """
    told = Sum("plans__told", default=0)
    return parts.annotate(
        plan_count=Count("plans"),
        printed=Max("plans__printed"),
        told=told,
        good=Sum("plans__good", default=0),
        share_good=Sum("plans__good") * 1.0 / NullIf(told, Value(0)),
    )


def labels_of(workshop: Workshop) -> list[str]:
    """Every label of a workshop's parts, in order."""
    labelled = Part.objects.filter(workshop=workshop).exclude(labels=[])
    lists = labelled.values_list("labels", flat=True)
    return sorted({label for labels in lists for label in labels}, key=str.lower)
