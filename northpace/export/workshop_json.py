"""Machines, materials and spools of a workshop."""

from __future__ import annotations

from northpace.export.export import Export
from northpace.export.plain_json import write_json

EXPORT = Export(
    "workshop",
    "json",
    "application/json",
    "Machines, materials and spools of a workshop.",
    write_json,
)
