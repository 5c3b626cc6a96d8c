"""What a machine states about itself."""

from __future__ import annotations

from dataclasses import dataclass, replace


@dataclass(frozen=True)
class Limits:
    """Top speeds (mm/s) and accelerations (mm/s²) of the axes, junction deviation (mm), homing (s)
    and warming up (°C/s, from ``room`` °C).
    """

    speed_xy: float = 250.0
    speed_z: float = 12.0
    speed_e: float = 80.0
    push_xy: float = 3000.0
    push_z: float = 200.0
    push_e: float = 5000.0
    deviation: float = 0.013
    homing: float = 20.0
    nozzle_rate: float = 2.5
    bed_rate: float = 0.6
    room: float = 20.0
    #: How the head is driven: "x-y-z", "crossed-belts" (motors run x + y and x − y) or
    #: "three-columns" (carriages on columns around the bed).
    axes: str = "x-y-z"
    speed_motor: float = 300.0
    push_motor: float = 5000.0
    column_radius: float = 120.0
    arm: float = 250.0
    middle_x: float = 0.0
    middle_y: float = 0.0

    def weaker(self, share: float) -> Limits:
        """The same machine, all of whose accelerations are only a share of what it states."""
        return replace(
            self,
            push_xy=share * self.push_xy,
            push_z=share * self.push_z,
            push_e=share * self.push_e,
            push_motor=share * self.push_motor,
        )
