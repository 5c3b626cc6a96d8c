"""How fast the axes and motors are, and what was learnt of it from jobs."""

from __future__ import annotations

from typing import Literal

from northpace.spec.declare import Group, setting


class Motion(Group):
    """Axes, motors, and what is really reached."""

    axes: Literal["x-y-z", "crossed-belts", "three-columns"] = setting(
        "x-y-z",
        "Axes",
        help="What the motors drive: x, y and z by themselves; two belts that run crosswise, "
        "x + y and x − y; or three columns whose arms "
        "carry the head. The limits of the motors hold beside those of x, y, z.",
        moves=("time",),
    )
    motor_speed: float = setting(
        300.0,
        "Top speed of a motor",
        help="Of a belt or of a carriage on its column.",
        unit="mm/s",
        ge=1,
        le=5000,
        moves=("time",),
    )
    motor_acceleration: float = setting(
        5000.0,
        "Top acceleration of a motor",
        help="Of a belt or of a carriage on its column.",
        unit="mm/s²",
        ge=10,
        le=200000,
        moves=("time",),
    )
    column_radius: float = setting(
        120.0,
        "Column radius",
        help="From the middle of the bed to a column, along the arm's reach.",
        unit="mm",
        ge=10,
        le=5000,
    )
    arm_length: float = setting(
        250.0,
        "Arm length",
        help="From carriage to head.",
        unit="mm",
        ge=10,
        le=5000,
    )
    calm_acceleration: float = setting(
        1500.0,
        "Calm acceleration",
        help="The most at which the frame does not ring.",
        unit="mm/s²",
        ge=10,
        le=100000,
        moves=("surface",),
    )
    max_speed_xy: float = setting(
        250.0,
        "Top speed x, y",
        help="Limit of each axis.",
        unit="mm/s",
        ge=1,
        le=2000,
    )
    max_speed_z: float = setting(
        12.0,
        "Top speed z",
        help="Limit of the axis.",
        unit="mm/s",
        ge=0.1,
        le=500,
    )
    max_speed_e: float = setting(
        80.0,
        "Top speed filament",
        help="Limit of the extruder, in mm of filament.",
        unit="mm/s",
        ge=0.1,
        le=500,
    )
    max_acceleration_xy: float = setting(
        3000.0,
        "Top acceleration x, y",
        help="Limit of each axis.",
        unit="mm/s²",
        ge=10,
        le=100000,
    )
    max_acceleration_z: float = setting(
        200.0,
        "Top acceleration z",
        help="Limit of the axis.",
        unit="mm/s²",
        ge=1,
        le=100000,
    )
    max_acceleration_e: float = setting(
        5000.0,
        "Top acceleration filament",
        help="Limit of the extruder.",
        unit="mm/s²",
        ge=10,
        le=100000,
    )
    junction_deviation: float = setting(
        0.013,
        "Junction deviation",
        help="How far a corner may be cut in the speed model.",
        unit="mm",
        ge=0.001,
        le=1,
    )
    acceleration_reached: float = setting(
        100.0,
        "Acceleration reached",
        help="Share of the accelerations asked for that the machine really reaches; learnt from "
        "its jobs.",
        unit="%",
        ge=10,
        le=400,
        moves=("time",),
    )
    layer_overhead: float = setting(
        0.0,
        "Overhead of a layer",
        help="What a layer takes beside its moves; learnt from its jobs.",
        unit="s",
        ge=0,
        le=120,
        moves=("time",),
    )
    estimate_spread: float = setting(
        0.0,
        "Spread of estimates",
        help="How far jobs still differ from the estimate, one standard deviation; 0 while that is "
        "not known.",
        unit="%",
        ge=0,
        le=100,
    )
    homing_time: float = setting(
        20.0,
        "Homing",
        help="From start to ready, without heating.",
        unit="s",
        ge=0,
        le=1000,
    )
    nozzle_heating: float = setting(
        2.5,
        "Nozzle heating",
        help="Degrees gained a second.",
        unit="°C/s",
        ge=0.05,
        le=100,
    )
    bed_heating: float = setting(
        0.6,
        "Bed heating",
        help="Degrees gained a second.",
        unit="°C/s",
        ge=0.01,
        le=100,
    )
