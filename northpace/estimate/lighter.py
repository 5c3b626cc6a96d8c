"""Making a part lighter by a stated mass: the least change of infill, walls or height that reaches
it, by the quick figures.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from northpace.errors import InputError
from northpace.estimate.quick import quick
from northpace.estimate.rates import Correction
from northpace.outlines.profile import Profile
from northpace.spec import PlanSpec, spec_from

#: Infill is not thinned below this (%), walls not below this number.
LEAST_DENSITY, LEAST_WALLS = 3, 1
#: At most this share of a part's height is proposed to be trimmed.
MOST_TRIMMED = 0.1


@dataclass(frozen=True)
class Lighter:
    """A change that reaches a mass: settings by name, the sentence, and ≈ differences of the part
    in g and s.
    """

    change: dict[str, Any]
    words: str
    grams: float
    seconds: float

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)


def lighter(
    profile: Profile,
    spec: PlanSpec,
    heights: np.ndarray,
    least_g: float,
    correction: Correction | None,
    trimmed: Callable[[float], Profile],
) -> list[Lighter]:
    """Changes that each make the part at least ``least_g`` lighter, in the order of what they do to
    it: infill, walls, both, height.

    ``heights`` (N,) are the layers in mm the plan has now; ``trimmed`` gives the profile of the
    part with so many mm left out at its top, whose skins then lie lower.
    """
    base = quick(profile, spec, heights, correction)
    grams0, seconds0 = _grams(base.filament, spec), sum(base.seconds.values())
    if least_g <= 0 or grams0 <= 0:
        return []
    found: list[Lighter] = []
    for name, fits, variants in _families(spec, heights):
        if not fits or name == "both" and any("body.walls" in way.change for way in found):
            continue
        for change, words, there, layers in variants():
            now = quick(profile, there, layers, correction)
            if "place.trim_top" in change and grams0 - _grams(now.filament, there) >= least_g:
                now = quick(trimmed(change["place.trim_top"]), there, layers, correction)
            off = grams0 - _grams(now.filament, there)
            if off >= least_g:
                found.append(Lighter(change, words, -off, sum(now.seconds.values()) - seconds0))
                break
    return found


Variant = tuple[dict[str, Any], str, PlanSpec, np.ndarray]


def _families(
    spec: PlanSpec, heights: np.ndarray
) -> list[tuple[str, bool, Callable[[], Iterator[Variant]]]]:
    """Families of ever stronger changes by name, with whether they make sense for the plan; both
    walls and infill only where walls alone are not enough.
    """
    body, density = spec.body, int(np.ceil(spec.body.infill_density)) - 1
    plain = body.build == "ordinary"

    def infill() -> Iterator[Variant]:
        for value in range(density, LEAST_DENSITY - 1, -1):
            yield from _changed(
                spec,
                heights,
                {"body.infill_density": float(value)},
                f"infill {body.infill_density:g} → {value} %",
            )

    def walls() -> Iterator[Variant]:
        for value in range(body.walls - 1, LEAST_WALLS - 1, -1):
            yield from _changed(
                spec, heights, {"body.walls": value}, f"walls {body.walls} → {value}"
            )

    def both() -> Iterator[Variant]:
        for value in range(density, LEAST_DENSITY - 1, -1):
            yield from _changed(
                spec,
                heights,
                {"body.walls": body.walls - 1, "body.infill_density": float(value)},
                f"walls {body.walls} → {body.walls - 1} and infill {body.infill_density:g} → "
                f"{value} %",
            )

    def height() -> Iterator[Variant]:
        total = float(heights.sum())
        for count in range(1, len(heights)):
            off = float(heights[-count:].sum())
            if off > MOST_TRIMMED * total:
                return
            trim = round(spec.place.trim_top + off, 4)
            yield (
                {"place.trim_top": trim},
                f"{count} {'layer' if count == 1 else 'layers'} ({off:.2f} mm) less at the top",
                spec,
                heights[:-count],
            )

    by_count = body.wall_thickness is None and plain
    return [
        ("infill", plain and 0 < body.infill_density < 100, infill),
        ("walls", by_count and body.walls > LEAST_WALLS, walls),
        ("both", by_count and body.walls > LEAST_WALLS and 0 < body.infill_density < 100, both),
        ("height", len(heights) > 2, height),
    ]


def _changed(
    spec: PlanSpec, heights: np.ndarray, change: dict[str, Any], words: str
) -> Iterator[Variant]:
    data = spec.model_dump()
    for name, value in change.items():
        group, _, key = name.partition(".")
        data[group][key] = value
    try:
        yield change, words, spec_from(data), heights
    except InputError:
        return  # what contradicts is no proposal


def _grams(filament: dict[str, float], spec: PlanSpec) -> float:
    return (
        sum(filament.values())
        * float(np.pi)
        * spec.material.diameter**2
        / 4e3
        * spec.material.density
    )
