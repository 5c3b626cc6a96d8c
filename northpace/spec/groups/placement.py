"""How the part stands on the bed."""

from __future__ import annotations

from typing import Literal

from northpace.spec.declare import Group, setting


class Placement(Group):
    """How the part stands on the bed."""

    scale_x: float = setting(
        100.0,
        "Scale x",
        help="Size along x, relative to the file.",
        unit="%",
        ge=0.1,
        le=100000,
        moves=("time", "mass"),
    )
    scale_y: float = setting(
        100.0,
        "Scale y",
        help="Size along y, relative to the file.",
        unit="%",
        ge=0.1,
        le=100000,
        moves=("time", "mass"),
    )
    scale_z: float = setting(
        100.0,
        "Scale z",
        help="Size along z, relative to the file.",
        unit="%",
        ge=0.1,
        le=100000,
        moves=("time", "mass"),
    )
    inches: bool = setting(
        False,
        "File is in inches",
        help="Reads a file without units as inches (25.4 mm each).",
    )
    mirror: Literal["", "x", "y", "z"] = setting(
        "",
        "Mirror",
        help="Mirrored along this axis of the file, before the chosen face is laid down.",
    )
    turn_x: float = setting(
        0.0,
        "Turn about x",
        help="Turned about x first, after the chosen face is laid down.",
        unit="°",
        ge=-360,
        le=360,
    )
    turn_y: float = setting(
        0.0,
        "Turn about y",
        help="Turned about y second.",
        unit="°",
        ge=-360,
        le=360,
    )
    turn_z: float = setting(
        0.0,
        "Turn about z",
        help="Turned about z last.",
        unit="°",
        ge=-360,
        le=360,
    )
    down_x: float = setting(
        0.0,
        "Face down, x",
        help="Outward normal of the face the part stands on, in the file.",
        ge=-1,
        le=1,
    )
    down_y: float = setting(
        0.0,
        "Face down, y",
        help="Outward normal of the face the part stands on, in the file.",
        ge=-1,
        le=1,
    )
    down_z: float = setting(
        -1.0,
        "Face down, z",
        help="Outward normal of the face the part stands on, in the file.",
        ge=-1,
        le=1,
    )
    sink: float = setting(
        0.0,
        "Sink",
        help="Pushed into the bed by this; what would lie below is left out.",
        unit="mm",
        ge=0,
        le=5000,
        moves=("time", "mass", "fit"),
    )
    trim_top: float = setting(
        0.0,
        "Trim the top",
        help="So much is left out at the top.",
        unit="mm",
        ge=0,
        le=5000,
        moves=("time", "mass", "fit"),
    )
    shift_x: float = setting(
        0.0,
        "Shift x",
        help="Away from the middle of the bed.",
        unit="mm",
        ge=-2000,
        le=2000,
    )
    shift_y: float = setting(
        0.0,
        "Shift y",
        help="Away from the middle of the bed.",
        unit="mm",
        ge=-2000,
        le=2000,
    )
