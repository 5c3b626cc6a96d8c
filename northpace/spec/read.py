"""Settings from and to plain data and texts: validation in sentences, the records forms are made
of, the content key.
"""

from __future__ import annotations

import hashlib
import json
from functools import lru_cache
from typing import Any

from pydantic import ValidationError

from northpace.errors import InputError
from northpace.spec.by_layer import BAND, REGION, local_settings, value_of, with_instead
from northpace.spec.declare import Group
from northpace.spec.whole import PlanSpec

#: Groups a maker sets, in the order of the questions they answer; machine and material come from
#: the workshop.
GROUP_TITLES = {
    "mesh": "Mesh",
    "place": "Placement",
    "surface": "Surface",
    "body": "Body",
    "pace": "Pace",
    "air": "Heat & air",
    "footing": "Footing",
    "supports": "Supports",
    "limits": "Limits",
    "ends": "Start & end",
    "machine": "Machine",
    "material": "Material",
}


def spec_from(data: dict[str, Any]) -> PlanSpec:
    """Validate a plain dictionary; raises `InputError` with one sentence naming each wrong setting
    and what is allowed.
    """
    try:
        spec = PlanSpec.model_validate(data)
    except ValidationError as error:
        raise InputError("; ".join(_sentence(item) for item in error.errors())) from error
    return _checked_places(spec) if spec.surface.bands or spec.body.regions else spec


def _checked_places(spec: PlanSpec) -> PlanSpec:
    """The spec with the changes of its bands and regions checked and in their settings'
    own type.
    """
    plain = spec.model_copy(
        update={
            "surface": spec.surface.model_copy(update={"bands": ()}),
            "body": spec.body.model_copy(update={"regions": ()}),
        }
    )
    bands, regions = list(spec.surface.bands), list(spec.body.regions)
    for k, band in enumerate(bands):
        where = f"surface.bands: {band.title}"
        for name in band.ramps:
            if (
                name not in band.changes
                or _known().get(name, {}).get("type") not in ("number", "integer")
                or band.changes[name] is None
            ):
                raise InputError(
                    f"{where}: a ramp of '{name}' needs a number as its value at the lower edge"
                )
        ends = (
            _checked(plain, {**band.changes, **band.ramps}, (BAND, REGION), where)
            if band.ramps
            else {}
        )
        bands[k] = band.model_copy(
            update={
                "changes": _checked(plain, band.changes, (BAND, REGION), where),
                "ramps": {name: ends[name] for name in band.ramps},
            }
        )
    for k, region in enumerate(regions):
        regions[k] = region.model_copy(
            update={
                "changes": _checked(
                    plain, region.changes, (REGION,), f"body.regions: {region.title}"
                )
            }
        )
    return spec.model_copy(
        update={
            "surface": spec.surface.model_copy(update={"bands": tuple(bands)}),
            "body": spec.body.model_copy(update={"regions": tuple(regions)}),
        }
    )


def _checked(
    plain: PlanSpec, changes: dict[str, Any], within: tuple[str, ...], where: str
) -> dict[str, Any]:
    """Changes in the types of their settings; raises `InputError` for those that cannot be changed
    there, or not to that.
    """
    for name in changes:
        if local_settings().get(name) not in within:
            whole = (
                "holds for the whole part only"
                if local_settings().get(name) is None
                else "can be changed by a band, not by a region"
            )
            raise InputError(
                f"{where}: '{name}' {whole if name in _known() else 'is no setting'}; "
                "`settings` lists what can be changed where"
            )
    data = plain.model_dump()
    for name, value in with_instead(changes).items():
        group, _, key = name.partition(".")
        data[group][key] = value
    try:
        there = PlanSpec.model_validate(data)
    except ValidationError as error:
        raise InputError(
            "; ".join(f"{where}: {_sentence(item)}" for item in error.errors())
        ) from error
    return {name: value_of(there, name) for name in changes}


def _sentence(item: Any) -> str:
    where = ".".join(str(part) for part in item["loc"][:2])
    inner = " ".join(
        f"{part + 1}" if isinstance(part, int) else str(part) for part in item["loc"][2:]
    )
    known = _known()
    if item["type"] == "value_error":
        return str(item["ctx"]["error"])
    if inner:
        context = item.get("ctx", {})
        limit = " to ".join(f"{context[key]:g}" for key in ("ge", "le") if key in context)
        return f"{where} {inner}: {item['input']!r} is not allowed; {item['msg']}" + (
            f" ({limit})" if limit else ""
        )
    if item["type"] == "extra_forbidden":
        return f"{where}: there is no such setting; `settings` lists them"
    entry = known.get(where)
    if entry is None:
        return f"{where}: {item['msg']}"
    allowed = ""
    if entry["choices"]:
        allowed = "one of " + ", ".join(entry["choices"])
    elif entry["min"] is not None or entry["max"] is not None:
        allowed = f"{entry['min']:g} to {entry['max']:g} {entry['unit']}".strip()
    else:
        allowed = {"bool": "true or false", "text": "text"}.get(entry["type"], entry["type"])
    return f"{where}: {item['input']!r} is not allowed; allowed is {allowed}"


@lru_cache(maxsize=1)
def _known() -> dict[str, dict[str, Any]]:
    """Settings by name; making the list takes tens of milliseconds."""
    return {entry["name"]: entry for entry in settings()}


def settings() -> list[dict[str, Any]]:
    """Every setting as a plain record: name, group, label, type, unit, min, max, default, choices,
    help, moves, source.
    """
    records = []
    for group, title in GROUP_TITLES.items():
        model = PlanSpec.model_fields[group].annotation
        assert isinstance(model, type) and issubclass(model, Group)
        schema = model.model_json_schema()["properties"]
        for name, field in schema.items():
            options = field.get("anyOf", [field])
            core = next(option for option in options if option.get("type") != "null")
            choices = core.get("enum") or ([core["const"]] if "const" in core else [])
            kind = {
                "number": "number",
                "integer": "integer",
                "boolean": "bool",
                "string": "text",
                "array": "list",
            }[core["type"]]
            records.append(
                {
                    "name": f"{group}.{name}",
                    "group": group,
                    "group_title": title,
                    "key": name,
                    "label": field["label"],
                    "type": "choice" if choices else field.get("kind", kind),
                    "unit": field["unit"],
                    "min": core.get("minimum"),
                    "max": core.get("maximum"),
                    "default": field.get("default"),
                    "choices": choices,
                    "help": field["description"],
                    "moves": field["moves"],
                    "source": field["source"],
                    "optional": len(options) > 1,
                    "multiline": field["multiline"],
                    "within": field["within"],
                }
            )
    return records


def with_settings(spec: PlanSpec, pairs: list[str]) -> PlanSpec:
    """A spec with ``group.name=value`` texts applied; the word ``none`` leaves a value to its
    source.
    """
    data = spec.model_dump()
    known = _known()
    for pair in pairs:
        name, equals, text = pair.partition("=")
        if not equals or name not in known:
            raise InputError(
                f"'{pair}' is no setting; write group.name=value, `settings` lists them"
            )
        group, _, key = name.partition(".")
        entry = known[name]
        if entry["type"] in ("numbers", "names"):
            data[group][key] = [part for part in text.replace(",", " ").split() if part]
            continue
        if entry["type"] == "list":
            try:
                data[group][key] = json.loads(text)
            except json.JSONDecodeError as error:
                raise InputError(f"a list is written as JSON ({error})", name) from error
            continue
        data[group][key] = None if entry["optional"] and text.lower() == "none" else text
    return spec_from(data)


def digest(*parts: Any) -> str:
    """A content key: SHA-256 over the canonical JSON of the parts."""
    text = json.dumps(
        parts, sort_keys=True, separators=(",", ":"), default=lambda value: value.model_dump()
    )
    return hashlib.sha256(text.encode()).hexdigest()
