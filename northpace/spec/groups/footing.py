"""Skirt, brim and raft."""

from __future__ import annotations

from typing import Literal

from northpace.spec.declare import Group, setting


class Footing(Group):
    """What helps the part to start and to hold."""

    skirt_loops: int = setting(
        1,
        "Priming loops",
        help="Loops around the part that prime the nozzle. 0 is none.",
        ge=0,
        le=50,
        moves=("time",),
    )
    prime_volume: float = setting(
        0.0,
        "Priming volume",
        help="As many loops as it takes to lay this much. 0 leaves it to the number of loops.",
        unit="mm³",
        ge=0,
        le=2000,
        moves=("time",),
    )
    skirt_distance: float = setting(
        4.0,
        "Priming distance",
        help="From the part's first layer.",
        unit="mm",
        ge=0.5,
        le=100,
    )
    skirt_height: int = setting(
        1,
        "Priming layers",
        help="Loops stand this many layers tall, against draughts.",
        unit="layers",
        ge=1,
        le=1000,
        moves=("time",),
    )
    skirt_width: float = setting(
        0.45,
        "Footing width",
        help="Bead width of loops, brim and raft.",
        unit="mm",
        ge=0.1,
        le=4,
    )
    brim_reach: float = setting(
        0.0,
        "Brim",
        help="How far beads around the first layer reach. 0 is none.",
        unit="mm",
        ge=0,
        le=100,
        moves=("time", "mass"),
    )
    brim_where: Literal["outside", "holes", "both"] = setting(
        "outside",
        "Brim where",
        help="Around the part, in its holes, or both.",
        moves=("time",),
    )
    brim_clearance: float = setting(
        0.0,
        "Brim clearance",
        help="Gap to the part that lets it come off cleanly.",
        unit="mm",
        ge=0,
        le=2,
        moves=("surface",),
    )
    raft_layers: int = setting(
        0,
        "Raft layers",
        help="Layers the part stands on instead of the bed. 0 is none.",
        unit="layers",
        ge=0,
        le=20,
        moves=("time", "mass"),
    )
    raft_margin: float = setting(
        3.0,
        "Raft margin",
        help="How far the raft reaches beyond the part.",
        unit="mm",
        ge=0,
        le=50,
        moves=("time", "mass"),
    )
    raft_gap: float = setting(
        0.2,
        "Raft gap",
        help="Open height between raft and part.",
        unit="mm",
        ge=0,
        le=2,
        moves=("surface",),
    )
