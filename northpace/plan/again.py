"""Computes again only the layers of a result whose inputs changed.

A stage whose result in a layer depends on nothing but its inputs in that layer (and in the outlines
around it, which have to be the same) says so where it is declared:

    @stage(outlines, walls, ..., again=by_layers())

It is then handed what changed alone, and what comes of it is put into what it came to before.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from northpace.geometry.polygons import Pieces
from northpace.outlines.sections import Outlines
from northpace.paths.apart import Apart
from northpace.paths.places import Places
from northpace.plan.stage import Again, Before, Now
from northpace.spec import ByLayer, PlanSpec
from northpace.spec.portion import contents

#: Where more than this share of the layers changed, all are computed.
MOST = 0.5


def by_layers(
    reach: int = 0, alone: Callable[[PlanSpec, tuple[Any, ...]], bool] | None = None
) -> Again:
    """How a stage computes again what changed. What changed in a layer changes the result up to
    ``reach`` layers from it; ``alone`` says of settings and inputs whether that is so at all.

    The outlines come first among its inputs.
    """

    def again(before: Before, now: Now) -> Any:
        outlines = now.values[0]
        if before.values[0] is not outlines:
            return None
        if alone and not all(alone(asked.part, asked.values) for asked in (before, now)):
            return None
        apart = Apart.of(outlines)
        touched = _touched(before, now, apart)
        for _ in range(reach):
            touched = touched | np.r_[False, touched[:-1]] | np.r_[touched[1:], False]
        if touched.mean() > MOST:
            return None
        if not touched.any():
            return before.result
        some = (_narrowed(value, touched, apart) for value in now.values)
        found = now.stage.run(now.part, *some)
        if now.stage.joined is not None:
            found = now.stage.joined(list(_one_by_one(found, now.check)))
        return before.result.merged(found, touched, apart)

    return again


def _one_by_one(parts: Iterator[Any], check: Callable[[], None]) -> Iterator[Any]:
    for part in parts:
        check()
        yield part


def _touched(before: Before, now: Now, apart: Apart) -> np.ndarray:
    """(N,) in which layers settings or inputs differ from before."""
    out = _settings(before.part, now)
    regions = False
    for old, new in zip(before.values[1:], now.values[1:], strict=True):
        if isinstance(new, Places):
            regions = True
            old, new = (
                places.among(asked.part.body.regions)
                for places, asked in ((old, before), (new, now))
            )
        out = out | _differs(old, new, apart)
    if not regions and _regions(before.part) != _regions(now.part):
        return np.ones(apart.count, bool)
    return out


def _differs(old: Any, new: Any, apart: Apart) -> np.ndarray:
    """(N,) in which layers an input differs; in all where it does not fall apart."""
    if old is new:
        return np.zeros(apart.count, bool)
    numbers = isinstance(new, np.ndarray) and new.dtype != object
    if numbers and old.shape == new.shape == (apart.count,):
        return np.asarray(old != new)
    if type(old) is type(new) and hasattr(new, "differs"):
        return np.asarray(new.differs(old, apart))
    return np.ones(apart.count, bool)


def _narrowed(value: Any, layers: np.ndarray, apart: Apart) -> Any:
    """An input with nothing in the layers (N,) that are not wanted, if it falls apart."""
    if isinstance(value, Outlines):
        islands = Pieces(apart.only_islands(value.islands.polygons, layers), apart.owner)
        return replace(value, islands=islands).covering(value.coarse)
    return value.only(layers, apart) if hasattr(value, "only") else value


def _settings(before: PlanSpec, now: Now) -> np.ndarray:
    """(N,) in which layers settings differ: in all where one does that no band changes."""
    outlines, local = now.values[0], now.stage.local
    every = np.ones(len(outlines.tops), bool)
    out = ~every
    if _whole(before, local) != _whole(now.part, local):
        return every
    if not local:
        return out
    one, two = (ByLayer(spec, outlines.tops, outlines.heights) for spec in (before, now.part))
    for name in local:
        old, new = one[name], two[name]
        out |= old != new
        kinds = {old.dtype.kind, new.dtype.kind}
        # what is usual in the part is told from all layers
        if kinds <= {"i", "f"} and np.median(old) != np.median(new):
            return every
        if "O" in kinds and len(kinds) > 1:
            return every
    return out


def _whole(part: PlanSpec, local: tuple[str, ...]) -> dict[str, Any]:
    """The settings of a portion that hold throughout."""
    apart = {*local, "surface.bands", "body.regions"}
    return {
        group: {key: value for key, value in values.items() if f"{group}.{key}" not in apart}
        for group, values in contents(part).items()
    }


def _regions(part: PlanSpec) -> Any:
    return contents(part).get("body", {}).get("regions", ())
