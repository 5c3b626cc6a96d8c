"""Models other than a plan's spec from plain values, with what is wrong in sentences."""

from __future__ import annotations

from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from northpace.errors import InputError

Kind = TypeVar("Kind", bound=BaseModel)


def validated(kind: type[Kind], values: Any) -> Kind:
    """A model from plain values; raises `InputError` that says which value is wrong, and what would
    be allowed.
    """
    try:
        return kind.model_validate(values)
    except ValidationError as error:
        raise InputError("; ".join(_sentence(dict(item)) for item in error.errors())) from error


def _sentence(item: dict[str, Any]) -> str:
    if item["type"] == "value_error":
        return str(item["ctx"]["error"])
    where = " ".join(str(k + 1) if isinstance(k, int) else str(k) for k in item["loc"])
    if item["type"] == "extra_forbidden":
        return f"{where}: there is no such setting"
    context = item.get("ctx", {})
    limit = " to ".join(f"{context[key]:g}" for key in ("ge", "le") if key in context)
    return f"{where}: " * bool(where) + (
        f"{item['input']!r} is not allowed; {item['msg']}" + f" ({limit})" * bool(limit)
    )
