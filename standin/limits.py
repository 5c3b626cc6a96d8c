"""What a machine states about itself."""

from __future__ import annotations

from dataclasses import dataclass, replace


@dataclass(frozen=True)
class Limits:
    """What a machine states of itself."""

    #: top speeds of the axes in mm/s
    speed_xy: float = 250.0
    speed_z: float = 12.0
    speed_e: float = 80.0
    #: top accelerations of the axes in mm/s²
    push_xy: float = 3000.0
    push_z: float = 200.0
    push_e: float = 5000.0
    #: junction deviation in mm
    deviation: float = 0.013
    #: seconds of homing
    homing: float = 20.0
    #: °C gained a second, from the temperature of the room in °C
    nozzle_rate: float = 2.5
    bed_rate: float = 0.6
    room: float = 20.0
    #: how the head is driven: "x-y-z", "crossed-belts" (motors run x + y and x − y) or
    #: "three-columns" (carriages on columns around the bed)
    axes: str = "x-y-z"
    #: top speed and acceleration of a motor
    speed_motor: float = 300.0
    push_motor: float = 5000.0
    #: mm from the middle to a column, and from carriage to head
    column_radius: float = 120.0
    arm: float = 250.0
    #: middle of the bed in mm
    middle_x: float = 0.0
    middle_y: float = 0.0
    #: what moves with the tip: how far each reaches to the left, right, front and back of it, how
    #: high it is above it, in mm, and what it is
    head: tuple[tuple[float, float, float, float, float, str], ...] = ()

    def weaker(self, share: float) -> Limits:
        """The same machine, all of whose accelerations are only a share of what it states."""
        return replace(
            self,
            push_xy=share * self.push_xy,
            push_z=share * self.push_z,
            push_e=share * self.push_e,
            push_motor=share * self.push_motor,
        )
