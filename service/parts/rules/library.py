"""Parts of a shop with many: searched, sorted and paged by the database."""

from __future__ import annotations

from typing import NamedTuple

from django.db.models import Count, F, Q, QuerySet

from service.parts.models import Part
from service.workshop.models import Workshop

#: Most parts of one page, and as many as are listed where nobody asks for fewer.
MOST = 200
#: What parts can be sorted by, the newest first where nothing is said.
SORTS = {"created": "created", "name": "name", "size": "size_bytes", "plans": "plan_count"}


class Ask(NamedTuple):
    """What of a library is asked for."""

    search: str = ""
    sort: str = "created"
    down: bool = True
    offset: int = 0
    limit: int = MOST
    label: str = ""


def asked_parts(workshop: Workshop, ask: Ask) -> tuple[QuerySet[Part], int]:
    """A page of the parts that are asked for, and how many there are in all. Every word of the
    search has to be in the name, the file's name or a label.
    """
    parts = Part.objects.filter(workshop=workshop)
    for word in ask.search.split():
        parts = parts.filter(
            Q(name__icontains=word) | Q(filename__icontains=word) | Q(labels__icontains=word)
        )
    if ask.label:
        parts = parts.filter(labels__contains=[ask.label])
    count = parts.count()
    if ask.sort == "plans":
        parts = parts.annotate(plan_count=Count("plans"))
    by = F(SORTS[ask.sort])
    ordered = parts.order_by(by.desc() if ask.down else by.asc(), "-id")
    return ordered[ask.offset : ask.offset + ask.limit], count


def labels_of(workshop: Workshop) -> list[str]:
    """Every label of a workshop's parts, in order."""
    lists = (
        Part.objects.filter(workshop=workshop).exclude(labels=[]).values_list("labels", flat=True)
    )
    return sorted({label for labels in lists for label in labels}, key=str.lower)
