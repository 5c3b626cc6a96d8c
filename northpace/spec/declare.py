"""How a setting is declared: unit, bounds, default, help, what it moves, and who supplies it when
it is left open.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

Moves = Literal["time", "surface", "mass", "strength", "fit", "file"]
#: How narrowly a setting can be changed: for the whole part only, for a stretch of height too, or
#: for a region in the part as well.
Within = Literal["", "band", "region"]


def setting(
    default: Any,
    label: str,
    *,
    help: str,
    unit: str = "",
    ge: float | None = None,
    le: float | None = None,
    moves: tuple[Moves, ...] = (),
    source: str = "",
    multiline: bool = False,
    kind: str = "",
    within: Within = "",
) -> Any:
    """Declare a setting. ``source`` names who supplies the value when it is left open (``None``);
    ``within``: where it can be changed.
    """
    extra: dict[str, Any] = {
        "unit": unit,
        "label": label,
        "moves": list(moves),
        "source": source,
        "multiline": multiline,
        "within": within,
    }
    if kind:
        extra["kind"] = kind
    bounds: dict[str, Any] = {}
    if ge is not None:
        bounds["ge"] = ge
    if le is not None:
        bounds["le"] = le
    if isinstance(default, float) or (default is None and ge is not None):
        bounds["allow_inf_nan"] = False
    return Field(default, description=help, json_schema_extra=extra, **bounds)


class Undeclared(AttributeError):
    """A stage read a setting it did not declare; see `northpace.spec.portion`."""


class Group(BaseModel):
    """A group of settings; unknown names are refused so that a misspelt setting never passes
    silently.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    if not TYPE_CHECKING:

        def __getattr__(self, name: str) -> Any:
            """Only reached for what is not there: a setting that a portion leaves out."""
            if name in type(self).model_fields:
                raise Undeclared(f"{type(self).__name__}.{name} was not declared by its stage")
            return super().__getattr__(name)
