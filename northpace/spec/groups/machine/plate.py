"""The plate: its shape and size, where it lies, where nothing may stand."""

from __future__ import annotations

from typing import Literal

from pydantic import model_validator

from northpace.spec.declare import Group, setting
from northpace.spec.groups.machine.corners import wrong_corners


class KeepOut(Group):
    """A place on the bed where nothing may stand."""

    name: str = setting("Clip", "Name", help="Why nothing stands there.")
    x: float = setting(
        0.0, "x", help="Of its middle, from the middle of the bed.", unit="mm", ge=-5000, le=5000
    )
    y: float = setting(
        0.0, "y", help="Of its middle, from the middle of the bed.", unit="mm", ge=-5000, le=5000
    )
    size_x: float = setting(20.0, "Width", help="Along x.", unit="mm", ge=0.1, le=5000)
    size_y: float = setting(20.0, "Depth", help="Along y.", unit="mm", ge=0.1, le=5000)
    shape: Literal["box", "round"] = setting("box", "Shape", help="A rectangle or an ellipse.")
    height: float = setting(
        5.0,
        "Height",
        help="How far it stands up from the bed; below that nothing moves across it. 0 for what "
        "is flat, such as a worn spot.",
        unit="mm",
        ge=0,
        le=500,
    )


class Plate(Group):
    """The plate and the room above it."""

    bed: Literal["rectangle", "round", "polygon"] = setting(
        "rectangle",
        "Bed shape",
        help="Shape of the build plate.",
    )
    bed_points: tuple[tuple[float, float], ...] = setting(
        (),
        "Corners of the bed",
        help="Of a polygon, as x, y from the middle of width and depth.",
    )
    keep_out: tuple[KeepOut, ...] = setting(
        (),
        "Keep-out places",
        help="Where nothing may stand: clips, a worn spot, the place of the priming line.",
        moves=("fit",),
    )
    size_x: float = setting(
        220.0,
        "Width",
        help="Build volume along x; the diameter of a round bed.",
        unit="mm",
        ge=10,
        le=5000,
    )
    size_y: float = setting(
        220.0,
        "Depth",
        help="Build volume along y.",
        unit="mm",
        ge=10,
        le=5000,
    )
    size_z: float = setting(
        250.0,
        "Height",
        help="Build volume along z.",
        unit="mm",
        ge=10,
        le=5000,
    )
    origin_x: float | None = setting(
        None,
        "Origin x",
        help="Where the middle of the bed lies in the machine's coordinates; left open: half "
        "the width, or 0 for a "
        "round bed.",
        unit="mm",
        ge=-5000,
        le=5000,
        source="bed shape",
    )
    origin_y: float | None = setting(
        None,
        "Origin y",
        help="The same along y.",
        unit="mm",
        ge=-5000,
        le=5000,
        source="bed shape",
    )

    @model_validator(mode="after")
    def _polygon(self) -> Plate:
        wrong = wrong_corners(self.bed_points) if self.bed == "polygon" else ""
        if wrong:
            raise ValueError(f"machine.bed_points: a polygon {wrong}")
        return self

    @property
    def origin(self) -> tuple[float, float]:
        """Where the middle of the bed lies in the machine's coordinates, in mm."""
        usual = (self.size_x / 2, self.size_y / 2) if self.bed == "rectangle" else (0.0, 0.0)
        return (
            usual[0] if self.origin_x is None else self.origin_x,
            usual[1] if self.origin_y is None else self.origin_y,
        )
