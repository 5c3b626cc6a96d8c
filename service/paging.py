"""Lists of a shop with many: searched word by word, sorted and paged by the database."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple, TypeVar

from django.db.models import F, Model, Q, QuerySet

#: Most rows of one page, and as many as are listed where nobody asks for fewer.
MOST = 200
M = TypeVar("M", bound=Model)


class Ask(NamedTuple):
    """What of a list is asked for."""

    #: every word of it has to be somewhere
    search: str = ""
    #: by what it is sorted, and whether the greatest comes first
    sort: str = "created"
    down: bool = True
    #: rows that are skipped, and most that are given
    offset: int = 0
    limit: int = MOST
    label: str = ""
    #: of one part only
    part: int | None = None


def found(rows: QuerySet[M], ask: Ask, hits: Callable[[str], Q], label: str) -> QuerySet[M]:
    """Rows that every word of the search hits, with the label that is asked for in their field
    ``label``.
    """
    for word in ask.search.split():
        rows = rows.filter(hits(word))
    return rows.filter(**{f"{label}__contains": [ask.label]}) if ask.label else rows


def page_of(
    rows: QuerySet[M], ask: Ask, sorts: Mapping[str, tuple[str, ...]]
) -> tuple[QuerySet[M], int]:
    """A page of rows and how many there are in all."""
    count = rows.count()
    return in_order(rows, ask, sorts)[ask.offset : ask.offset + ask.limit], count


def in_order(rows: QuerySet[M], ask: Ask, sorts: Mapping[str, tuple[str, ...]]) -> QuerySet[M]:
    """Rows in the order that is asked for; what has no value to be sorted by is last."""
    by = [
        F(name).desc(nulls_last=True) if ask.down else F(name).asc(nulls_last=True)
        for name in sorts[ask.sort]
    ]
    return rows.order_by(*by, "-id")
