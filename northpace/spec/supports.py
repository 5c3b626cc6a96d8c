"""What holds up a part while it grows: supports under what leans out too far."""

from __future__ import annotations

from typing import Literal

from northpace.spec.declare import Group, setting


class SupportMark(Group):
    """A face where support is asked for or forbidden. The point is in the file's coordinates, so it moves with the part."""

    x: float = setting(0.0, "x", "Of a point on the face, in the file.", "mm")
    y: float = setting(0.0, "y", "Of a point on the face, in the file.", "mm")
    z: float = setting(0.0, "z", "Of a point on the face, in the file.", "mm")
    spread: float = setting(20.0, "Spread", "The face goes on over edges that turn by no more than this.", "°", 0, 180)
    radius: float = setting(0.0, "Brush", "Only facets within this distance of the point; 0 takes the whole face.", "mm", 0, 500)
    want: bool = setting(True, "Support", "True asks for support there, false forbids it.")


class Supports(Group):
    """Supports: where, how dense, how close."""

    enabled: bool = setting(False, "Supports", "Holds up what leans out further than the angle, and what starts in mid-air.",
                            moves=("time", "mass", "surface"))
    angle: float = setting(50.0, "Overhang from", "Surfaces that lean out further than this from upright are held up.", "°", 0, 89,
                           ("time", "mass", "surface"))
    origin: Literal["anywhere", "bed"] = setting("anywhere", "Stand on", "Anywhere, or on the bed only, where no scar is left on the part.",
                                                 moves=("surface", "time"))
    spare_bridges: float = setting(10.0, "Bridges need none up to", "Level spans up to this length, held at both ends, are left to bridge. "
                                   "0 holds up all of them.", "mm", 0, 200, ("time", "surface"))
    strength: Literal["light", "ordinary", "strong"] = setting(
        "ordinary", "Strength", "Light: lines all one way, quick to break off. Ordinary: lines with a turn every few layers. Strong: crossed lines inside a "
        "wall.", moves=("time", "mass"))
    density: float = setting(15.0, "Support density", "Laid volume of the volume the stand takes.", "%", 2, 100, ("time", "mass"))
    width: float = setting(0.45, "Support width", "Bead width of supports.", "mm", 0.1, 4, ("time",))
    gap_top: float = setting(0.2, "Clearance below the part", "Open height between support and part, rounded to whole layers.", "mm", 0, 2,
                             ("surface", "strength"))
    gap_bottom: float = setting(0.2, "Clearance above the part", "Open height between the part and a stand on it.", "mm", 0, 2,
                                ("surface",))
    clearance: float = setting(0.6, "Clearance beside", "Distance from the walls of the part.", "mm", 0, 10, ("surface",))
    roof: float = setting(0.6, "Solid roof", "Thickness of the solid layers of a stand below the part.", "mm", 0, 10, ("time", "surface"))
    least_area: float = setting(1.0, "Least area", "Smaller overhangs get no support.", "mm²", 0, 1000, ("time",))
    marks: tuple[SupportMark, ...] = setting((), "By hand", "Faces where support is asked for or forbidden.", moves=("time", "surface"))
