"""Parts of a shop with many."""

from __future__ import annotations

from django.db.models import Count, Q, QuerySet

from service.paging import Ask, found, page_of
from service.parts.models import Part
from service.workshop.models import Workshop

#: What parts can be sorted by.
SORTS = {
    "created": ("created",),
    "name": ("name",),
    "size": ("size_bytes",),
    "plans": ("plan_count",),
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
    if ask.sort == "plans":
        parts = parts.annotate(plan_count=Count("plans"))
    return page_of(parts, ask, SORTS)


def labels_of(workshop: Workshop) -> list[str]:
    """Every label of a workshop's parts, in order."""
    labelled = Part.objects.filter(workshop=workshop).exclude(labels=[])
    lists = labelled.values_list("labels", flat=True)
    return sorted({label for labels in lists for label in labels}, key=str.lower)
