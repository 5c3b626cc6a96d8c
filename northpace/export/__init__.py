"""Exports: what of a plan leaves the program as a file, one file each; `docs/adding.md` says how to
add one. Command line and API offer what is listed here.
"""

from northpace.errors import InputError
from northpace.export import (
    comparison_csv,
    comparison_json,
    moves_arrow,
    moves_csv,
    moves_parquet,
    report_json,
    workshop_json,
)
from northpace.export.export import Export

EXPORTS: tuple[Export, ...] = (
    moves_arrow.EXPORT,
    moves_parquet.EXPORT,
    moves_csv.EXPORT,
    report_json.EXPORT,
    comparison_json.EXPORT,
    comparison_csv.EXPORT,
    workshop_json.EXPORT,
)


def exports(subject: str) -> dict[str, Export]:
    """The exports of a subject by their suffix, the usual one first."""
    return {export.suffix: export for export in EXPORTS if export.subject == subject}


def export_for(subject: str, suffix: str, where: str) -> Export:
    """The export of a subject with a suffix.

    Raises `InputError` at ``where`` for a suffix there is none for, naming the others.
    """
    found = exports(subject).get(suffix.lstrip(".").lower())
    if found is None:
        allowed = ", ".join(f".{name}" for name in exports(subject))
        raise InputError(f"this is written as {allowed}", where)
    return found


__all__ = ["EXPORTS", "Export", "export_for", "exports"]
