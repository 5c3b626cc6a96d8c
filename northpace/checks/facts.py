"""What is known of a plan when it is checked and reported."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from northpace.estimate.lighter import Lighter
from northpace.figures import Pace
from northpace.heights.stack import Stack
from northpace.heights.surface import SurfaceTable
from northpace.material.amounts import Amounts
from northpace.motion.pace import Timed
from northpace.outlines.sections import Outlines
from northpace.part.place import Placed
from northpace.part.solid import Part
from northpace.paths.fill.areas import FillAreas
from northpace.paths.fill.gaps import Gaps
from northpace.paths.fill.skins import Skins
from northpace.paths.fill.voids import Voids
from northpace.paths.fill.why import Why
from northpace.paths.footing import Foot
from northpace.paths.places import Places
from northpace.paths.resting import Resting
from northpace.paths.supports.overhangs import Leaning
from northpace.paths.supports.stands import Stands
from northpace.paths.travel.rows import Rows
from northpace.spec import PlanSpec


@dataclass(frozen=True)
class Relief:
    """What would keep a plan to its caps."""

    #: seconds of the fastest stack its rules allow
    fastest_s: float
    #: changes that keep to the mass cap
    lighter: Sequence[Lighter]


@dataclass(frozen=True)
class Facts:
    """Everything a plan came to; each field is the result of the stage of that name."""

    #: the settings, as far as a check declared to read them
    spec: PlanSpec
    #: the solid of the file, and how it stands
    part: Part
    #: how it stands
    placed: Placed
    #: (N,) outlines of the layers
    outlines: Outlines
    #: heights of the layers and what they were chosen by
    stack: Stack
    #: what any stack does to the surface
    surface: SurfaceTable
    #: what leans out further than the angle of supports
    leaning: Leaning
    #: (N,) number of walls
    counts: np.ndarray
    #: first layer and end of every spiral
    turns: tuple[tuple[int, int], ...]
    #: beads between walls, and what no bead reaches
    gaps: Gaps
    #: where the regions lie
    regions: Places
    #: where solid fill and infill go
    areas: FillAreas
    #: where nothing lies inside the walls
    voids: Voids
    #: which solid areas show, bridge, or lie inside
    skins: Skins
    #: why solid patches are solid
    why: Why
    #: supports
    stands: Stands
    #: skirt, brim and raft
    footing: Foot
    #: moves before they have speeds
    rows: Rows
    #: what every bead rests on
    resting: Resting
    #: the moves of the plan
    timed: Timed
    #: speeds asked for, and what of them is reached
    paces: Pace
    #: filament and money
    amounts: Amounts
    #: what would keep to the caps, where one is passed
    relief: Relief | None

    @classmethod
    def only(cls, **known: Any) -> Facts:
        """Facts of which only these are known; another raises `AttributeError`."""
        out = object.__new__(cls)
        for name, value in known.items():
            object.__setattr__(out, name, value)
        return out
