"""What a maker says of a bed: every setting with unit, bounds, default and help, as in plans."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import model_validator

from northpace.spec.declare import Group, setting
from northpace.spec.validated import validated

Way = Literal["together", "in-turn", "groups"]
#: Most placings of a bed.
MOST = 400
#: Most beds that copies are shared out over.
MOST_BEDS = 500


class Placing(Group):
    """A copy of a plan on the bed."""

    plan: str = setting("", "Plan", help="The plan it is a copy of.")
    x: float = setting(
        0.0,
        "x",
        help="Of the middle of the part, from the middle of the bed.",
        unit="mm",
        ge=-5000,
        le=5000,
    )
    y: float = setting(
        0.0,
        "y",
        help="Of the middle of the part, from the middle of the bed.",
        unit="mm",
        ge=-5000,
        le=5000,
    )
    turn: float = setting(
        0.0,
        "Turn",
        help="About z, to the left.",
        unit="°",
        ge=-360,
        le=360,
    )
    group: int = setting(
        1,
        "Group",
        help="Groups are laid one after the other, what is in one together.",
        ge=1,
        le=MOST,
    )
    locked: bool = setting(False, "Locked", help="Arranging leaves it where it is.")
    pause: bool = setting(
        False, "Pause after it", help="The machine waits until a hand has taken it off."
    )

    @property
    def at(self) -> np.ndarray:
        """(2,) its place in mm."""
        return np.array([self.x, self.y])


class BedSpec(Group):
    """A bed: its placings, and how they are laid."""

    placings: tuple[Placing, ...] = setting((), "Placings", help="Copies of plans.")
    times: int = setting(
        1,
        "Times",
        help="How often this bed is wanted.",
        ge=1,
        le=500,
    )
    way: Way = setting(
        "together",
        "Way",
        help="In order of height; one placing after the other; or groups in turn.",
        moves=("time",),
    )
    heights: Literal["own", "one"] = setting(
        "own",
        "Layer heights",
        help="Every plan keeps its own, or all share one best fit, so that the bed has as few "
        "passes as it can.",
        moves=("time", "surface"),
    )
    measure: Literal["mean", "p95", "max"] = setting(
        "p95",
        "Measure",
        help="What the target of one stack for all means: the mean of the step error over all "
        "parts, what 95 % of their surface stays under, or all of it.",
        moves=("time", "surface"),
    )
    target_um: float | None = setting(
        None,
        "Surface target",
        help="Of one stack for all. Left open: as good over all parts together as with heights "
        "of their own.",
        unit="µm",
        ge=1,
        le=2000,
        source="plans",
        moves=("time", "surface"),
    )
    order: tuple[int, ...] = setting(
        (),
        "Order",
        help="Numbers of the placings as they are laid in turn; left empty, the order with the "
        "least travel that the head allows.",
        kind="numbers",
        moves=("time",),
    )
    clearance: float = setting(
        4.0,
        "Clearance",
        help="Open room between placings, their footing included.",
        unit="mm",
        ge=0.4,
        le=200,
    )
    loops: Literal["own", "shared"] = setting(
        "shared",
        "Priming loops",
        help="Those of every placing, or one run around all of them.",
        moves=("time",),
    )
    pauses: Literal["none", "chosen", "each"] = setting(
        "none",
        "Pauses",
        help="Whether the machine waits between placings, so that a hand can take one off.",
        moves=("time",),
    )
    pause_seconds: float = setting(
        60.0,
        "A pause takes",
        help="How long a hand is likely to need.",
        unit="s",
        ge=0,
        le=86400,
        moves=("time",),
    )
    turn_step: float = setting(
        15.0,
        "Turns by",
        help="Step by which arranging turns placings. 0 leaves them as they are.",
        unit="°",
        ge=0,
        le=180,
    )
    centre_x: float = setting(
        0.0,
        "Around x",
        help="Arranged around this point.",
        unit="mm",
        ge=-5000,
        le=5000,
    )
    centre_y: float = setting(
        0.0,
        "Around y",
        help="Arranged around this point.",
        unit="mm",
        ge=-5000,
        le=5000,
    )

    @model_validator(mode="after")
    def _contradictions(self) -> BedSpec:
        if len(self.placings) > MOST:
            raise ValueError(f"{len(self.placings)} placings; a bed holds at most {MOST}")
        wrong = [k for k in self.order if not 1 <= k <= len(self.placings)]
        if wrong:
            raise ValueError(
                f"order: there is no placing {wrong[0]}; they go from 1 to {len(self.placings)}"
            )
        return self

    def group_of(self, k: int) -> int:
        """The group of a placing, from 0: all in one, each for itself, or as it says."""
        return {"together": 0, "in-turn": k, "groups": self.placings[k].group}[self.way]

    @property
    def centre(self) -> np.ndarray:
        """(2,) the point it is arranged around, in mm."""
        return np.array([self.centre_x, self.centre_y])


def bed_from(values: Any) -> BedSpec:
    """A bed from plain values; raises `InputError` that says which value is wrong, and what would
    be allowed.
    """
    return validated(BedSpec, values)
