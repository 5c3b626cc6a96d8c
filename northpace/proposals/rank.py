"""Ranking changes by the quick figures: singles and combinations, thousands of them in a second or
two.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from dataclasses import dataclass
from operator import attrgetter

import numpy as np

from northpace.estimate.lengths import LAID_READ, WALLS_READ, lengths_of, level_of, walls_of
from northpace.estimate.quick import APART_READ, footing_of, lengthen_supports, quick
from northpace.estimate.rates import (
    SHARED_READ,
    TYPICAL,
    Correction,
    lasting,
    rates_of,
    stacked,
    timed,
)
from northpace.motion.derive import derived
from northpace.motion.speeds import start_seconds
from northpace.outlines.profile import Profile
from northpace.proposals.held import Held
from northpace.proposals.options import Option, options, with_change
from northpace.proposals.remembered import Remembered
from northpace.spec import PlanSpec
from northpace.spec.portion import portion

#: What `Ranker._together` takes from the plan itself.
SHARED = attrgetter(*SHARED_READ)
#: Choices whose seconds are worked out at once.
TOGETHER = 400


@dataclass(frozen=True)
class Ranked:
    """Options taken together, and the ≈ seconds and grams of the plan with them."""

    options: tuple[Option, ...]
    seconds: float
    grams: float

    @property
    def change(self) -> dict[str, object]:
        return {name: value for option in self.options for name, value in option.change.items()}


class Ranker:
    """Quick figures of many changes of one plan with the layers it has: walls and lengths are
    worked out once each, seconds of hundreds at once.
    """

    def __init__(
        self, profile: Profile, spec: PlanSpec, heights: np.ndarray, correction: Correction | None
    ) -> None:
        self.profile, self.spec, self.heights, self.correction = profile, spec, heights, correction
        self._plain = not any(band.changes for band in spec.surface.bands)
        self._first = np.arange(len(heights)) == 0
        self._shared = portion(spec, SHARED_READ)
        self._walls = Remembered(WALLS_READ, lambda part: walls_of(profile, part, heights))
        self._lengths = Remembered(
            LAID_READ, lambda part: lengths_of(profile, part, heights, self._walls(part))
        )
        self._fixed = Remembered(APART_READ, self._apart)

    def __call__(self, chosen: tuple[Option, ...]) -> Ranked:
        """The figures of some options together."""
        return self.many([chosen])[0]

    def many(self, every: list[tuple[Option, ...]]) -> list[Ranked]:
        """The figures of many choices."""
        out: list[Ranked] = []
        for begin in range(0, len(every), TOGETHER):
            out += self._several(every[begin : begin + TOGETHER])
        return out

    def _spec(self, chosen: tuple[Option, ...]) -> PlanSpec:
        return derived(
            with_change(
                self.spec,
                {name: value for option in chosen for name, value in option.change.items()},
            )
        )

    def _several(self, part: list[tuple[Option, ...]]) -> list[Ranked]:
        """The figures of choices, at once where they share what `_together` takes from the plan."""
        specs = [self._spec(chosen) for chosen in part]
        shared = SHARED(self.spec)
        if self._plain and all(SHARED(spec) == shared for spec in specs):
            return self._together(part, specs)
        return [self._one(chosen, spec) for chosen, spec in zip(part, specs, strict=True)]

    def _one(self, chosen: tuple[Option, ...], spec: PlanSpec) -> Ranked:
        found = quick(self.profile, spec, self.heights, self.correction)
        return Ranked(
            chosen, sum(found.seconds.values()), sum(found.filament.values()) * self._gram
        )

    def _together(self, part: list[tuple[Option, ...]], specs: list[PlanSpec]) -> list[Ranked]:
        laid = [self._lengths(spec) for spec in specs]
        names = [name for name in TYPICAL if any(name in lengths for lengths, *_ in laid)]
        none, layers = np.zeros(len(self.heights)), len(self.heights)
        lengths = {name: np.stack([one.get(name, none) for one, *_ in laid]) for name in names}
        widths = {
            name: np.stack(
                [
                    np.broadcast_to(np.asarray(wide.get(name, 0.4), float), layers)
                    for _, wide, _ in laid
                ]
            )
            for name in names
        }
        straight = {
            name: np.stack(
                [
                    np.broadcast_to(np.asarray(runs.get(name, TYPICAL[name]), float), layers)
                    for *_, runs in laid
                ]
            )
            for name in names
        }
        seconds, filament = timed(
            stacked([rates_of(spec) for spec in specs]),
            self._shared,
            lengths,
            widths,
            straight,
            self.heights,
            self._first,
            self.correction,
        )
        middle = np.cumsum(self.heights) - self.heights / 2
        at = level_of(self.profile, middle)
        lengthen_supports(seconds, self.profile, at, self.correction)
        per_layer = lasting(self._shared, np.sum(list(seconds.values()), axis=0))
        fixed = [self._fixed(spec) for spec in specs]
        total, used = (
            per_layer.sum(axis=1),
            np.sum([value.sum(axis=1) for value in filament.values()], axis=0),
        )
        return [
            Ranked(
                chosen, float(total[k]) + fixed[k][0], (float(used[k]) + fixed[k][1]) * self._gram
            )
            for k, chosen in enumerate(part)
        ]

    @property
    def _gram(self) -> float:
        """Grams of a millimetre of filament."""
        return float(np.pi) * self.spec.material.diameter**2 / 4e3 * self.spec.material.density

    def _apart(self, part: PlanSpec) -> tuple[float, float]:
        """Seconds and filament (mm) of what no layer above changes: heating, homing, footing."""
        seconds, filament = {"start": start_seconds(part)}, dict[str, float]()
        footing_of(self.profile, part, float(self.heights[0]), seconds, filament)
        return sum(seconds.values()), sum(filament.values())


def combinations(
    found: list[Option], together: int = 3, per_family: int = 8
) -> Iterable[tuple[Option, ...]]:
    """Options alone, and up to ``together`` of them from different families; heights stay out,
    because they need a solver of their own.

    Each family takes part in combinations with its first ``per_family`` options only.
    """
    usable = [option for option in found if option.family != "heights"]
    yield from ((option,) for option in usable)
    families = [
        list(group)[:per_family]
        for _, group in itertools.groupby(usable, key=lambda option: option.family)
    ]
    for count in range(2, together + 1):
        for chosen in itertools.combinations(families, count):
            yield from itertools.product(*chosen)


def rank(
    profile: Profile,
    spec: PlanSpec,
    heights: np.ndarray,
    held: Held,
    correction: Correction | None,
    together: int = 3,
) -> list[Ranked]:
    """Changes and combinations of changes that keep what settings alone can break, the quickest
    first by the ≈ figures.

    Families are first ordered by their options alone, so that combinations are made of the best of
    each. Options have been held against the thickness one by one; those of different families
    change different thicknesses, so together they keep it too.
    """
    ranker, height = Ranker(profile, spec, heights, correction), float(np.median(heights))
    singles = ranker.many(
        [(option,) for option in options(spec, held, height) if option.family != "heights"]
    )
    best = [one.options[0] for one in sorted(singles, key=lambda one: (_family(one), one.seconds))]
    out = singles + ranker.many(
        [chosen for chosen in combinations(best, together) if len(chosen) > 1]
    )
    return sorted(
        (one for one in out if held.mass_g is None or one.grams <= held.mass_g),
        key=lambda one: one.seconds,
    )


def _family(one: Ranked) -> str:
    return one.options[0].family
