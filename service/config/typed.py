"""The core's own types in the API's schema: what a report is, is written once, in the core."""

from __future__ import annotations

from typing import Any

from drf_spectacular.extensions import OpenApiSerializerExtension
from drf_spectacular.plumbing import ResolvedComponent
from pydantic import TypeAdapter
from typing_extensions import is_typeddict


class TypedDictExtension(OpenApiSerializerExtension):  # type: ignore[no-untyped-call]
    """A TypedDict as a response: a component of its name, and one for each type it is made of."""

    target_class = dict
    match_subclasses = True

    @classmethod
    def _matches(cls, target: Any) -> bool:
        return is_typeddict(target)

    def get_name(self, auto_schema: Any, direction: Any) -> str:
        return str(self.target.__name__)

    def map_serializer(self, auto_schema: Any, direction: Any) -> dict[str, Any]:
        schema = TypeAdapter(self.target).json_schema(
            mode="serialization", ref_template="#/components/schemas/{model}"
        )
        for name, part in schema.pop("$defs", {}).items():
            component = ResolvedComponent(
                name=name, type=ResolvedComponent.SCHEMA, object=name, schema=_plain(part)
            )
            auto_schema.registry.register_on_missing(component)
        return _plain(schema)


def shown_as(kind: type, nullable: bool = False) -> dict[str, Any]:
    """The schema of a field that holds a TypedDict (or null), which some response is as a whole."""
    ref = [{"$ref": f"#/components/schemas/{kind.__name__}"}]
    return {"allOf": ref, "readOnly": True, **({"nullable": True} if nullable else {})}


def _plain(schema: Any) -> Any:
    """Without titles, and with null as this version of the description writes it."""
    if isinstance(schema, list):
        return [_plain(entry) for entry in schema]
    if not isinstance(schema, dict):
        return schema
    out = {
        key: {name: _plain(part) for name, part in value.items()}
        if key == "properties"
        else _plain(value)
        for key, value in schema.items()
        if key != "title" or not isinstance(value, str)
    }
    options = out.get("anyOf", [])
    others = [option for option in options if option != {"type": "null"}]
    if len(others) == 1 and len(options) == 2:
        del out["anyOf"]
        inner = others[0]
        out.update({"allOf": [inner]} if "$ref" in inner else inner)
        out["nullable"] = True
    return out
