"""What a machine states about itself."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Limits:
    """Top speeds (mm/s) and accelerations (mm/s²) of the axes, junction deviation (mm), homing (s) and warming up (°C/s, from ``room`` °C)."""

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
