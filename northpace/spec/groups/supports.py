"""What holds up a part while it grows: supports under what leans out too far."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import model_validator

from northpace.spec.declare import Group, setting

#: Most points of a stroke beside its first.
MOST_POINTS = 400


class SupportMark(Group):
    """A face, or a stroke of a brush, where support is asked for or forbidden. Points are in the
    file's coordinates, so they move with the part.
    """

    x: float = setting(
        0.0,
        "x",
        help="Of a point on the face, in the file.",
        unit="mm",
    )
    y: float = setting(
        0.0,
        "y",
        help="Of a point on the face, in the file.",
        unit="mm",
    )
    z: float = setting(
        0.0,
        "z",
        help="Of a point on the face, in the file.",
        unit="mm",
    )
    spread: float = setting(
        20.0,
        "Spread",
        help="The face goes on over edges that turn by no more than this.",
        unit="°",
        ge=0,
        le=180,
    )
    radius: float = setting(
        0.0,
        "Brush",
        help="Reach of a stroke around its points, cut exactly; 0 takes the whole face.",
        unit="mm",
        ge=0,
        le=500,
    )
    want: bool = setting(
        True,
        "Support",
        help="True asks for support there, false forbids it.",
    )
    erase: bool = setting(
        False,
        "Erase",
        help="Takes away what marks before it say there: the angle decides again.",
    )
    along: tuple[tuple[float, float, float], ...] = setting(
        (),
        "Stroke",
        help="Further points of the stroke, as x, y, z in the file.",
    )

    @model_validator(mode="after")
    def _stroke(self) -> SupportMark:
        if len(self.along) > MOST_POINTS:
            raise ValueError(f"a stroke has at most {MOST_POINTS} points")
        if not all(math.isfinite(v) and abs(v) <= 1e5 for point in self.along for v in point):
            raise ValueError("a point of a stroke lies beyond 100,000 mm")
        return self


class Supports(Group):
    """Supports: where, how dense, how close."""

    enabled: bool = setting(
        False,
        "Supports",
        help="Holds up what leans out further than the angle, and what starts in mid-air.",
        moves=("time", "mass", "surface"),
    )
    decided: Literal["both", "itself", "hand"] = setting(
        "both",
        "Decided",
        help="By the angle and by hand, by the angle alone, or by hand alone. What is asked for by "
        "hand counts while supports are otherwise off, too.",
        moves=("time", "mass", "surface"),
    )
    angle: float = setting(
        50.0,
        "Overhang from",
        help="Surfaces that lean out further than this from upright are held up.",
        unit="°",
        ge=0,
        le=89,
        moves=("time", "mass", "surface"),
    )
    origin: Literal["anywhere", "bed"] = setting(
        "anywhere",
        "Stand on",
        help="Anywhere, or on the bed only, where no scar is left on the part.",
        moves=("surface", "time"),
    )
    spare_bridges: float = setting(
        10.0,
        "Bridges need none up to",
        help="Level spans up to this length, held at both ends, are left to bridge. "
        "0 holds up all of them.",
        unit="mm",
        ge=0,
        le=200,
        moves=("time", "surface"),
    )
    kind: Literal["straight", "branching"] = setting(
        "straight",
        "Kind of stand",
        help="Straight down; or branching: many points gathered to few feet, clear of the part. "
        "Which takes less is said for both.",
        moves=("time", "mass", "surface"),
    )
    branch_lean: float = setting(
        40.0,
        "Branches lean up to",
        help="How far branches lean out from upright on their way down.",
        unit="°",
        ge=5,
        le=60,
        moves=("time", "mass"),
    )
    branch_apart: float = setting(
        5.0,
        "Branches apart",
        help="Distance of the points at which branches hold a level face.",
        unit="mm",
        ge=2,
        le=30,
        moves=("time", "mass", "surface"),
    )
    strength: Literal["light", "ordinary", "strong"] = setting(
        "ordinary",
        "Strength",
        help="Light: lines all one way, quick to break off. Ordinary: lines with a turn "
        "every few layers. Strong: crossed lines inside a "
        "wall.",
        moves=("time", "mass"),
    )
    density: float = setting(
        15.0,
        "Support density",
        help="Laid volume of the volume the stand takes.",
        unit="%",
        ge=2,
        le=100,
        moves=("time", "mass"),
    )
    width: float = setting(
        0.45,
        "Support width",
        help="Bead width of supports.",
        unit="mm",
        ge=0.1,
        le=4,
        moves=("time",),
    )
    gap_top: float = setting(
        0.2,
        "Clearance below the part",
        help="Open height between support and part, rounded to whole layers.",
        unit="mm",
        ge=0,
        le=2,
        moves=("surface", "strength"),
    )
    gap_bottom: float = setting(
        0.2,
        "Clearance above the part",
        help="Open height between the part and a stand on it.",
        unit="mm",
        ge=0,
        le=2,
        moves=("surface",),
    )
    clearance: float = setting(
        0.6,
        "Clearance beside",
        help="Distance from the walls of the part.",
        unit="mm",
        ge=0,
        le=10,
        moves=("surface",),
    )
    roof: float = setting(
        0.6,
        "Solid roof",
        help="Thickness of the solid layers of a stand below the part.",
        unit="mm",
        ge=0,
        le=10,
        moves=("time", "surface"),
    )
    least_area: float = setting(
        1.0,
        "Least area",
        help="Smaller overhangs get no support.",
        unit="mm²",
        ge=0,
        le=1000,
        moves=("time",),
    )
    marks: tuple[SupportMark, ...] = setting(
        (),
        "By hand",
        help="Faces where support is asked for or forbidden.",
        moves=("time", "surface"),
    )

    @property
    def stands(self) -> bool:
        """Whether there may be stands: by the angle, or because a mark asks for one."""
        asked = self.decided != "itself" and any(m.want and not m.erase for m in self.marks)
        return self.enabled or asked

    @property
    def by_angle(self) -> bool:
        """Whether the angle says what is held."""
        return self.enabled and self.decided != "hand"
