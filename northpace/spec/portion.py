"""The part of a spec a stage declared to read, and nothing else of it.

What a stage is handed holds only what it declared: reading another setting raises `Undeclared`, so
that no result can depend on something its key does not know.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, TypeVar

from northpace.spec.by_layer import with_instead
from northpace.spec.declare import Group
from northpace.spec.places.bands import Band
from northpace.spec.places.regions import Region
from northpace.spec.whole import PlanSpec

G = TypeVar("G", bound=Group)


@dataclass(frozen=True)
class View:
    """A setting read only so far as a function leaves of it."""

    #: "group.setting"
    name: str
    #: what is left of its value
    of: Callable[[Any], Any]


def portion(spec: PlanSpec, reads: Iterable[str | View], local: Iterable[str] = ()) -> PlanSpec:
    """The spec reduced to ``reads``, names as "group" or "group.setting".

    The settings of ``local`` are read with what bands and regions make of them: of those, the ones
    that change such a setting are left, with nothing but these changes.
    """
    local = tuple(local)
    wanted: dict[str, dict[str, Any]] = defaultdict(dict)
    views = [entry if isinstance(entry, View) else View(entry, _as_it_is) for entry in reads]
    whole = {view.name for view in views if "." not in view.name}
    for view in (*views, *(View(name, _as_it_is) for name in local)):
        group, _, key = view.name.partition(".")
        if key and group not in whole:
            wanted[group][key] = view.of(getattr(getattr(spec, group), key))
    if local:
        if "surface" not in whole:
            wanted["surface"].setdefault("bands", bands_changing(spec.surface.bands, local))
        if "body" not in whole:
            wanted["body"].setdefault("regions", regions_changing(spec.body.regions, local))
    groups: dict[str, Group] = {name: getattr(spec, name) for name in whole}
    for name, values in wanted.items():
        groups[name] = _reduced(getattr(spec, name), values)
    return _reduced(spec, groups)


def _as_it_is(value: Any) -> Any:
    return value


def contents(part: PlanSpec) -> dict[str, Any]:
    """What a portion contributes to a key: its settings by group."""
    return {name: dict(group.__dict__) for name, group in part.__dict__.items()}


def bands_changing(bands: tuple[Band, ...], names: tuple[str, ...]) -> tuple[Band, ...]:
    """The bands that change one of these settings, with these changes alone."""
    out = []
    for band in bands:
        changes = {k: v for k, v in with_instead(band.changes).items() if k in names}
        if changes:
            ramps = {k: v for k, v in band.ramps.items() if k in names}
            out.append(
                Band(
                    name=band.name,
                    from_mm=band.from_mm,
                    to_mm=band.to_mm,
                    changes=changes,
                    ramps=ramps,
                )
            )
    return tuple(out)


def regions_changing(regions: tuple[Region, ...], names: tuple[str, ...]) -> tuple[Region, ...]:
    """The regions that change one of these settings, with these changes alone."""
    out = []
    for region in regions:
        changes = {name: value for name, value in region.changes.items() if name in names}
        if changes:
            out.append(region.volume().model_copy(update={"changes": changes}))
    return tuple(out)


def _reduced(group: G, values: dict[str, Any]) -> G:
    """A group with only these of its fields; its properties and methods work on what is there."""
    out = type(group).__new__(type(group))
    object.__setattr__(out, "__dict__", values)
    object.__setattr__(out, "__pydantic_fields_set__", set(values))
    object.__setattr__(out, "__pydantic_extra__", None)
    object.__setattr__(out, "__pydantic_private__", None)
    return out
