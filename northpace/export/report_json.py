"""The report of a plan: every figure a screen shows."""

from __future__ import annotations

from northpace.export.export import Export
from northpace.export.plain_json import write_json

EXPORT = Export(
    "report",
    "json",
    "application/json",
    "The report of a plan: every figure a screen shows.",
    write_json,
)
