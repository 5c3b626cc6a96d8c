"""How a setting is declared: unit, bounds, default, help, what it moves, and who supplies it when
it is left open.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal, Required

from pydantic import BaseModel, ConfigDict, Field
from typing_extensions import TypedDict, Unpack

Moves = Literal["time", "surface", "mass", "strength", "fit", "file"]
#: How narrowly a setting can be changed: for the whole part only, for a stretch of height too, or
#: for a region in the part as well.
Within = Literal["", "band", "region"]


class Said(TypedDict, total=False):
    """What is said of a setting beside its default and label."""

    #: what it is for, in a sentence or two
    help: Required[str]
    unit: str
    #: least and greatest value
    ge: float
    le: float
    #: what it moves: time, surface, mass …
    moves: tuple[Moves, ...]
    #: who supplies the value when it is left open (``None``)
    source: str
    #: whether a text has several lines
    multiline: bool
    #: kind of a list that is typed as one: "numbers", "names"
    kind: str
    #: how narrowly it can be changed
    within: Within


def setting(default: Any, label: str, **said: Unpack[Said]) -> Any:
    """Declare a setting; what is left out has no unit, no bounds and no source."""
    ge, le = said.get("ge"), said.get("le")
    extra: dict[str, Any] = {
        "unit": said.get("unit", ""),
        "label": label,
        "moves": list(said.get("moves", ())),
        "source": said.get("source", ""),
        "multiline": said.get("multiline", False),
        "within": said.get("within", ""),
    }
    if "kind" in said:
        extra["kind"] = said["kind"]
    bounds: dict[str, Any] = {}
    if ge is not None:
        bounds["ge"] = ge
    if le is not None:
        bounds["le"] = le
    if isinstance(default, float) or (default is None and ge is not None):
        bounds["allow_inf_nan"] = False
    return Field(default, description=said["help"], json_schema_extra=extra, **bounds)


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
