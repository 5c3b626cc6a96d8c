"""Settings that hold for a stretch of height or a region only: which there are, what a place makes
of the plan, values layer by layer.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache
from typing import Any

import numpy as np

from northpace.spec.declare import Group
from northpace.spec.places.bands import Band
from northpace.spec.whole import PlanSpec

#: Where a setting can be changed, the narrower the more: a region, a band.
BAND, REGION = "band", "region"
#: Of two settings that say the same in different ways a place that changes one means that one.
INSTEAD = {"body.walls": "body.wall_thickness"}


@lru_cache(maxsize=1)
def local_settings() -> dict[str, str]:
    """Names of the settings that can be changed in part, with how narrowly: "band" or "region"."""
    out = {}
    for group, field in PlanSpec.model_fields.items():
        model = field.annotation
        assert isinstance(model, type) and issubclass(model, Group)
        for key, entry in model.model_fields.items():
            extra = entry.json_schema_extra
            if isinstance(extra, dict) and extra.get("within"):
                out[f"{group}.{key}"] = str(extra["within"])
    return out


def value_of(spec: PlanSpec, name: str) -> Any:
    """The value of a setting by its full name."""
    group, _, key = name.partition(".")
    return getattr(getattr(spec, group), key)


def with_changes(spec: PlanSpec, changes: dict[str, Any]) -> PlanSpec:
    """The spec as it is where these changes hold. Values are taken as they are; `spec_from` has
    checked them.
    """
    groups: dict[str, dict[str, Any]] = {}
    for name, value in with_instead(changes).items():
        group, _, key = name.partition(".")
        groups.setdefault(group, {})[key] = value
    return spec.model_copy(
        update={
            group: getattr(spec, group).model_copy(update=values)
            for group, values in groups.items()
        }
    )


def with_instead(changes: dict[str, Any]) -> dict[str, Any]:
    """Changes, and those that leave open what else would say the same."""
    return {**{INSTEAD[name]: None for name in changes if name in INSTEAD}, **changes}


def layers_in(band: Band, tops: np.ndarray, heights: np.ndarray) -> np.ndarray:
    """(N,) whether a layer belongs to a band: its middle lies in it."""
    middle = tops - heights / 2
    return np.asarray((middle > band.from_mm) & (middle < band.to_mm))


class ByLayer:
    """The settings of a plan layer by layer: those of the plan, or of the band a layer lies in."""

    def __init__(self, spec: PlanSpec, tops: np.ndarray, heights: np.ndarray) -> None:
        self.spec, self.count = spec, len(tops)
        self.bands = [band for band in spec.surface.bands if band.changes]
        #: (N,) index of the band each layer lies in, −1 for none
        self.band = np.full(self.count, -1)
        for k, band in enumerate(self.bands):
            self.band[layers_in(band, tops, heights)] = k
        self._middle = tops - heights / 2

    def varies(self, *names: str) -> bool:
        """Whether a band that has layers changes one of these settings."""
        return any(
            name in with_instead(band.changes) and (self.band == k).any()
            for k, band in enumerate(self.bands)
            for name in names
        )

    def __getitem__(self, name: str) -> np.ndarray:
        """(N,) values of a setting; None where it is left open."""
        base = value_of(self.spec, name)
        if base is not None and not self.varies(name):
            return np.full(self.count, base)
        out = np.full(self.count, base, object)
        for k, band in enumerate(self.bands):
            said = with_instead(band.changes)
            if name in said:
                here = np.flatnonzero(self.band == k)
                out[here] = (
                    ramp(said[name], band.ramps[name], len(here), _whole(name))
                    if name in band.ramps
                    else said[name]
                )
        if any(value is None for value in out):
            return out
        return np.array(list(out))

    def numbers(self, name: str, other: Any) -> np.ndarray:
        """(N,) numbers of a setting; ``other``, one for all or one a layer, where it is
        left open.
        """
        values = self[name]
        filled = np.broadcast_to(np.asarray(other, float), (self.count,))
        if values.dtype != object:
            return values.astype(float)
        return np.array(
            [filled[k] if value is None else value for k, value in enumerate(values)], float
        )

    def key(self, *names: str) -> list[Any]:
        """What these settings contribute to a content key."""
        return [
            self[name].tolist() if self.varies(name) else value_of(self.spec, name)
            for name in names
        ]

    def variants(self) -> Iterable[tuple[np.ndarray, PlanSpec]]:
        """Layers (n,) with the spec that holds for all of them; a ramp counts with its middle
        value.
        """
        return variants_at(self.spec, self._middle)


def variants_at(spec: PlanSpec, middle: np.ndarray) -> Iterable[tuple[np.ndarray, PlanSpec]]:
    """Indices (n,) of the heights (N,) in mm of the middles of layers, with the spec that holds for
    them; a ramp counts with its middle value.
    """
    rest = np.ones(len(middle), bool)
    for band in spec.surface.bands:
        here = (middle > band.from_mm) & (middle < band.to_mm) & rest
        if band.changes and here.any():
            rest &= ~here
            values = {
                name: (value + band.ramps[name]) / 2 if name in band.ramps else value
                for name, value in band.changes.items()
            }
            yield np.flatnonzero(here), with_changes(spec, values)
    if rest.any():
        yield np.flatnonzero(rest), spec


def ramp(start: float, end: float, count: int, whole: bool) -> np.ndarray:
    """(count,) values from one to the other, the first layer having the first and the last the
    last.
    """
    values = np.linspace(start, end, count) if count > 1 else np.full(count, start)
    return np.asarray(np.round(values) if whole else values)


def _whole(name: str) -> bool:
    """Whether a setting goes up in whole numbers: counts, degrees and per cents, which nobody sets
    finer.
    """
    group, _, key = name.partition(".")
    model = PlanSpec.model_fields[group].annotation
    assert isinstance(model, type) and issubclass(model, Group)
    field = model.model_fields[key]
    unit = field.json_schema_extra.get("unit") if isinstance(field.json_schema_extra, dict) else ""
    return unit in ("°C", "%") or field.annotation is int
