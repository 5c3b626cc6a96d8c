"""What moves with the tip of the nozzle: outlines of the head, the bar of the gantry; and where the
head waits.
"""

from __future__ import annotations

from typing import Literal

from pydantic import model_validator

from northpace.spec.declare import Group, setting
from northpace.spec.groups.machine.corners import wrong_corners


class HeadPart(Group):
    """An outline around the tip of the nozzle."""

    name: str = setting("Nozzle block", "Name", help="What it is.")
    left: float = setting(12.0, "Left", help="From the tip, along x.", unit="mm", ge=-500, le=500)
    right: float = setting(12.0, "Right", help="From the tip, along x.", unit="mm", ge=-500, le=500)
    front: float = setting(12.0, "Front", help="From the tip, along y.", unit="mm", ge=-500, le=500)
    back: float = setting(12.0, "Back", help="From the tip, along y.", unit="mm", ge=-500, le=500)
    height: float = setting(
        3.0, "From", help="Height above the tip from which it counts.", unit="mm", ge=0, le=500
    )
    points: tuple[tuple[float, float], ...] = setting(
        (),
        "Outline",
        help="Corners as x, y from the tip, instead of the four distances.",
    )

    @model_validator(mode="after")
    def _has_an_area(self) -> HeadPart:
        if not self.points and (self.left + self.right <= 0 or self.front + self.back <= 0):
            raise ValueError("an outline of the head needs a width and a depth above 0 mm")
        wrong = wrong_corners(self.points) if self.points else ""
        if wrong:
            raise ValueError(f"the outline of the head '{self.name}' {wrong}")
        return self


class Head(Group):
    """What moves with the tip, and where it waits."""

    head: tuple[HeadPart, ...] = setting(
        (),
        "Head",
        help="Outlines around the tip of the nozzle, each with the height from which it counts. "
        "Left empty: one of the four distances below, from the tip up.",
        moves=("fit",),
    )
    clear_left: float = setting(
        30.0,
        "Head, left",
        help="How far the head reaches from the nozzle, to the left, where it has no outlines.",
        unit="mm",
        ge=0,
        le=500,
    )
    clear_right: float = setting(
        30.0,
        "Head, right",
        help="The same to the right.",
        unit="mm",
        ge=0,
        le=500,
    )
    clear_front: float = setting(
        30.0,
        "Head, front",
        help="The same to the front.",
        unit="mm",
        ge=0,
        le=500,
    )
    clear_back: float = setting(
        30.0,
        "Head, back",
        help="The same to the back.",
        unit="mm",
        ge=0,
        le=500,
    )
    gantry: Literal["across x", "across y", "none"] = setting(
        "across x",
        "Gantry",
        help="The bar that carries the head, over the whole width or depth of the bed.",
    )
    gantry_height: float = setting(
        30.0,
        "Gantry height",
        help="Of the bar above the tip: what is finished and lower passes under it.",
        unit="mm",
        ge=0,
        le=5000,
    )
    gantry_front: float = setting(
        30.0,
        "Gantry, front",
        help="How far the bar reaches in front of the nozzle; to the left for one across y.",
        unit="mm",
        ge=-500,
        le=500,
    )
    gantry_back: float = setting(
        30.0,
        "Gantry, back",
        help="How far the bar reaches behind the nozzle; to the right for one across y.",
        unit="mm",
        ge=-500,
        le=500,
    )
    park_x: float | None = setting(
        None,
        "Park place x",
        help="Where the head waits in a pause, from the middle of the bed; left open: the left "
        "edge.",
        unit="mm",
        ge=-5000,
        le=5000,
        source="bed shape",
    )
    park_y: float | None = setting(
        None,
        "Park place y",
        help="The same along y; left open: the back edge.",
        unit="mm",
        ge=-5000,
        le=5000,
        source="bed shape",
    )
