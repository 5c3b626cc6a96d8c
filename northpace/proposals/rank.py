"""Ranking changes by the quick figures: singles and combinations, thousands of them in a second or
two.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from northpace.estimate.lengths import Lengths, Walls, lengths_of, level_of, walls_of
from northpace.estimate.quick import footing_of, lengthen_supports, quick
from northpace.estimate.rates import TYPICAL, Correction, lasting, rates_of, stacked, timed
from northpace.motion.derive import derived
from northpace.motion.speeds import start_seconds
from northpace.outlines.profile import Profile
from northpace.proposals.held import Held
from northpace.proposals.options import Option, options, with_change
from northpace.spec import PlanSpec

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
        self._lengths: dict[tuple[object, ...], Lengths] = {}
        self._walls: dict[tuple[object, ...], Walls] = {}
        self._fixed: dict[tuple[object, ...], tuple[float, float]] = {}

    def __call__(self, chosen: tuple[Option, ...]) -> Ranked:
        """The figures of some options together."""
        return self.many([chosen])[0]

    def many(self, every: list[tuple[Option, ...]]) -> list[Ranked]:
        """The figures of many choices."""
        out: list[Ranked] = []
        for begin in range(0, len(every), TOGETHER):
            part = every[begin : begin + TOGETHER]
            out += self._together(part) if self._plain else [self._one(chosen) for chosen in part]
        return out

    def _spec(self, chosen: tuple[Option, ...]) -> PlanSpec:
        return derived(
            with_change(
                self.spec,
                {name: value for option in chosen for name, value in option.change.items()},
            )
        )

    def _one(self, chosen: tuple[Option, ...]) -> Ranked:
        spec = self._spec(chosen)
        found = quick(self.profile, spec, self.heights, self.correction)
        return Ranked(
            chosen, sum(found.seconds.values()), sum(found.filament.values()) * self._gram
        )

    def _together(self, part: list[tuple[Option, ...]]) -> list[Ranked]:
        specs = [self._spec(chosen) for chosen in part]
        laid = [self._laid(spec) for spec in specs]
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
            self.spec,
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
        per_layer = lasting(self.spec, np.sum(list(seconds.values()), axis=0))
        fixed = [self._apart(spec) for spec in specs]
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

    def _laid(self, spec: PlanSpec) -> Lengths:
        body, key = spec.body, _body_key(spec)
        if key not in self._lengths:
            # the width of solid lines is that of beads between walls where none fits
            walls = (
                body.build,
                body.walls,
                body.wall_thickness,
                body.outer_width,
                body.inner_width,
                body.fill_gaps,
                body.solid_width,
            )
            if walls not in self._walls:
                self._walls[walls] = walls_of(self.profile, spec, self.heights)
            self._lengths[key] = lengths_of(self.profile, spec, self.heights, self._walls[walls])
        return self._lengths[key]

    def _apart(self, spec: PlanSpec) -> tuple[float, float]:
        """Seconds and filament (mm) of what no layer above changes: heating, homing, footing."""
        foot, pace = spec.footing, spec.pace
        key = (
            foot.raft_layers,
            foot.brim_reach,
            foot.skirt_loops,
            foot.skirt_width,
            pace.footing_speed,
            pace.first_layer_speed,
        )
        if key not in self._fixed:
            seconds, filament = {"start": start_seconds(spec)}, dict[str, float]()
            footing_of(self.profile, spec, float(self.heights[0]), seconds, filament)
            self._fixed[key] = sum(seconds.values()), sum(filament.values())
        return self._fixed[key]


def _body_key(spec: PlanSpec) -> tuple[object, ...]:
    """What of a plan says what is laid."""
    body, held = spec.body, spec.supports
    return (
        body.build,
        body.walls,
        body.wall_thickness,
        body.outer_width,
        body.inner_width,
        body.fill_gaps,
        body.solid_width,
        body.top_width,
        body.top_thickness,
        body.top_layers,
        body.bottom_thickness,
        body.bottom_layers,
        body.infill_density,
        body.infill_width,
        body.infill_every,
        body.infill_pattern,
        held.enabled,
        held.density,
        held.width,
    )


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
