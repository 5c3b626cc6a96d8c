"""The core's own types in the API's schema: what a report is, is written once, in the core."""

from __future__ import annotations

from typing import Any

from drf_spectacular.extensions import (
    OpenApiSerializerExtension,
    OpenApiSerializerFieldExtension,
)
from drf_spectacular.plumbing import ResolvedComponent
from pydantic import TypeAdapter
from rest_framework import serializers
from typing_extensions import is_typeddict

from northpace.spec.declare import Group
from northpace.spec.places.bands import Band
from northpace.spec.places.regions import Region


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
            _describe(auto_schema, name, _plain(part))
        return _plain(schema)


def _describe(auto_schema: Any, name: str, schema: dict[str, Any]) -> None:
    """A schema as a component of its name, unless there is one already."""
    component = ResolvedComponent(  # type: ignore[no-untyped-call]
        name=name, type=ResolvedComponent.SCHEMA, object=name, schema=schema
    )
    auto_schema.registry.register_on_missing(component)


class CoreField(serializers.DictField):
    """One of the core's models as it is sent: described by the model, read by `spec_from`."""

    def __init__(self, kind: type[Group], **options: Any) -> None:
        self.kind = kind
        super().__init__(**options)


class CoreFieldExtension(OpenApiSerializerFieldExtension):  # type: ignore[no-untyped-call]
    """The model of a `CoreField` as a component of its name, and those it is made of."""

    target_class = CoreField

    def map_serializer_field(self, auto_schema: Any, direction: Any) -> dict[str, Any]:
        for name, schema in _models(self.target.kind).items():
            _describe(auto_schema, name, schema)
        return {"$ref": f"#/components/schemas/{self.target.kind.__name__}"}


class FiguresField(serializers.JSONField):
    """Figures as a type of the core says them; what it is made of is described with it."""

    def __init__(self, kind: Any, **options: Any) -> None:
        self.kind = kind
        super().__init__(**options)


class FiguresFieldExtension(OpenApiSerializerFieldExtension):  # type: ignore[no-untyped-call]
    """The type of a `FiguresField`, and components of those it is made of."""

    target_class = FiguresField

    def map_serializer_field(self, auto_schema: Any, direction: Any) -> dict[str, Any]:
        schema = TypeAdapter(self.target.kind).json_schema(
            mode="serialization", ref_template="#/components/schemas/{model}"
        )
        for name, part in schema.pop("$defs", {}).items():
            _describe(auto_schema, name, _plain(part))
        if not is_typeddict(self.target.kind):
            return _plain(schema)
        name = self.target.kind.__name__
        _describe(auto_schema, name, _plain(schema))
        return {"allOf": [{"$ref": f"#/components/schemas/{name}"}]}


def describe_places(result: dict[str, Any], **_: Any) -> dict[str, Any]:
    """Describes bands and regions, which are sent inside the settings of a plan."""
    schemas = result["components"]["schemas"]
    for kind in (Band, Region):
        for name, schema in _models(kind).items():
            schemas.setdefault(name, schema)
    return result


#: The one shape of every answer that is no result (service/config/errors.py).
REFUSED = {
    "type": "object",
    "description": "Why nothing came of it: what was wrong, where, and what would be allowed.",
    "properties": {"detail": {"type": "string"}, "where": {"type": "string"}},
    "required": ["detail", "where"],
}


def describe_refusals(result: dict[str, Any], **_: Any) -> dict[str, Any]:
    """Describes what any operation answers to what it refuses, and while something is away."""
    result["components"]["schemas"]["Refused"] = REFUSED
    content = {"application/json": {"schema": {"$ref": "#/components/schemas/Refused"}}}
    result["components"]["responses"] = {
        "Refused": {"content": content, "description": "refused"},
        "Away": {"content": content, "description": "something is away; try again"},
    }
    for methods in result["paths"].values():
        for operation in methods.values():
            operation["responses"]["4XX"] = {"$ref": "#/components/responses/Refused"}
            operation["responses"]["503"] = {"$ref": "#/components/responses/Away"}
    return result


def _models(kind: type[Group]) -> dict[str, dict[str, Any]]:
    """The schemas of a model and those it is made of, by their names."""
    schema = kind.model_json_schema(ref_template="#/components/schemas/{model}")
    parts = {**schema.pop("$defs", {}), kind.__name__: schema}
    return {name: _told(_plain(part)) for name, part in parts.items()}


#: What of a setting's declaration is for forms (`/api/settings` says it), not for the description.
FOR_FORMS = {"kind", "label", "moves", "multiline", "source", "unit", "within", "default"}


def _told(schema: dict[str, Any]) -> dict[str, Any]:
    """A model's schema without what is said of its settings elsewhere, and with tuples as lists,
    which this version of the description has no word for.
    """
    properties = {
        name: {key: value for key, value in entry.items() if key not in FOR_FORMS}
        for name, entry in schema["properties"].items()
    }
    return {**schema, "properties": {name: _listed(entry) for name, entry in properties.items()}}


def _listed(schema: dict[str, Any]) -> dict[str, Any]:
    out: dict[str, Any] = {
        key: _listed(value) if key == "items" else value for key, value in schema.items()
    }
    if "prefixItems" in out:
        out["items"] = out.pop("prefixItems")[0]
    return out


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
