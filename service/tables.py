"""Tables for a spreadsheet."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator


def lines(head: Iterable[str], rows: Iterable[Iterable[object]]) -> Iterator[str]:
    """A table as comma-separated lines, one at a time."""
    sink = io.StringIO()
    out = csv.writer(sink)
    out.writerow(head)
    yield _taken(sink)
    for row in rows:
        out.writerow(["" if value is None else _cell(value) for value in row])
        yield _taken(sink)


def _taken(sink: io.StringIO) -> str:
    found = sink.getvalue()
    sink.seek(0)
    sink.truncate()
    return found


def _cell(value: object) -> object:
    """A cell that no spreadsheet takes for a formula."""
    if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r"):
        return f"'{value}"
    return value.isoformat() if hasattr(value, "isoformat") else value
