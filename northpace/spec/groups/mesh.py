"""How the mesh of the file is taken: what its faults mean, how fine it stays, its bodies."""

from __future__ import annotations

from typing import Literal

from northpace.spec.declare import Group, setting


class BodyChange(Group):
    """What is done to one body of the file before the part is laid down. Measures are in the
    file's coordinates, turns about the middle of the body.
    """

    name: str = setting(
        "",
        "Body",
        help="Its name, as the list of bodies says it.",
    )
    left_out: bool = setting(
        False,
        "Left out",
        help="It is not laid.",
    )
    mirror: Literal["", "x", "y", "z"] = setting(
        "",
        "Mirrored",
        help="Mirrored along this axis first.",
    )
    turn_x: float = setting(0.0, "Turn about x", help="Turned first.", unit="°", ge=-360, le=360)
    turn_y: float = setting(0.0, "Turn about y", help="Turned second.", unit="°", ge=-360, le=360)
    turn_z: float = setting(0.0, "Turn about z", help="Turned last.", unit="°", ge=-360, le=360)
    shift_x: float = setting(0.0, "Move x", help="Moved by so much.", unit="mm", ge=-5000, le=5000)
    shift_y: float = setting(0.0, "Move y", help="Moved by so much.", unit="mm", ge=-5000, le=5000)
    shift_z: float = setting(0.0, "Move z", help="Moved by so much.", unit="mm", ge=-5000, le=5000)


class Mesh(Group):
    """How the mesh of the file is taken."""

    openings: Literal["close", "drop"] = setting(
        "close",
        "Openings",
        help="Shells that are open are closed, or dropped.",
    )
    cavities: Literal["hollow", "solid"] = setting(
        "hollow",
        "Shells inside",
        help="A shell inside another that faces inwards is a cavity, or filled.",
        moves=("time", "mass"),
    )
    meeting: Literal["one", "apart"] = setting(
        "one",
        "Bodies that meet",
        help="Bodies that meet are one, or stay apart to be moved or left out; laid they are "
        "one either way.",
    )
    splinters: Literal["keep", "drop"] = setting(
        "keep",
        "Splinters",
        help="Bodies too small to be meant are kept, or dropped.",
    )
    thin: float = setting(
        0.0,
        "Thin out to",
        help="Triangles are merged as long as the surface moves by no more than this; 0 keeps "
        "all of them.",
        unit="µm",
        ge=0,
        le=2000,
    )
    looked_at: bool = setting(
        False,
        "Mending was looked at",
        help="What was closed by guessing was looked at and is meant so.",
    )
    bodies: tuple[BodyChange, ...] = setting(
        (),
        "Bodies",
        help="Bodies of the file that are left out, moved, turned or mirrored.",
    )


def body_contradictions(mesh: Mesh) -> list[str]:
    """Changes of bodies that contradict each other."""
    names = [change.name for change in mesh.bodies]
    twice = sorted({name for name in names if names.count(name) > 1})
    return [f"mesh.bodies: '{name}' is changed twice; say it once" for name in twice]
