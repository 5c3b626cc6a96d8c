"""What a finding is."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal

Severity = Literal["stop", "look", "note"]


@dataclass(frozen=True)
class Finding:
    """Something computed that the maker should know, with its place."""

    code: str
    severity: Severity
    message: str
    z_mm: float | None = None
    at_mm: tuple[float, float, float] | None = None

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)


def some(count: int, one: str, many: str) -> str:
    """The count with the words that go with it: ``some(2, "layer is", "layers are")`` is "2 layers are"."""
    return f"{count:,} {one if count == 1 else many}"
