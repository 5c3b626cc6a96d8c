"""Plans side by side: rows with a value for each plan."""

from __future__ import annotations

from northpace.export.export import Export
from northpace.export.plain_json import write_json

EXPORT = Export(
    "comparison",
    "json",
    "application/json",
    "Plans side by side: rows with a value for each plan.",
    write_json,
)
