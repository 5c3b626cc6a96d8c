"""What the machine can do: a copy of the workshop's, so that a plan stays what it was."""

from __future__ import annotations

from typing import Literal

from pydantic import model_validator

from northpace.spec.declare import Group, setting
from northpace.spec.widths import tallest_layer


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
        if self.points and len(self.points) < 3:
            raise ValueError("an outline needs at least three corners")
        return self


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


class Machine(Group):
    """What the machine can do; a copy of the workshop's machine and nozzle, so that a plan stays
    what it was.
    """

    name: str = setting(
        "Plain machine",
        "Name",
        help="As the workshop calls it.",
    )
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
    nozzle: float = setting(
        0.4,
        "Nozzle",
        help="Bore of the nozzle.",
        unit="mm",
        ge=0.1,
        le=3,
    )
    nozzle_hard: bool = setting(
        False,
        "Hard nozzle",
        help="Stands abrasive materials: steel, carbide, ruby. Brass does not.",
    )
    least_height: float = setting(
        0.08,
        "Least layer height",
        help="Lowest layer this nozzle lays well.",
        unit="mm",
        ge=0.01,
        le=2,
    )
    greatest_height: float | None = setting(
        None,
        "Greatest layer height",
        help="Left open: three quarters of the nozzle.",
        unit="mm",
        ge=0.01,
        le=2,
        source="nozzle",
    )
    z_step: float = setting(
        0.01,
        "Height step",
        help="Layer heights are whole multiples of this.",
        unit="mm",
        ge=0.001,
        le=0.1,
    )
    nozzle_flow: float = setting(
        20.0,
        "Most flow",
        help="What the hot end can melt at best.",
        unit="mm³/s",
        ge=0.1,
        le=500,
    )
    hottest_nozzle: float = setting(
        260.0,
        "Hottest nozzle",
        help="What the hot end can stand.",
        unit="°C",
        ge=100,
        le=600,
    )
    hottest_bed: float = setting(
        100.0,
        "Hottest bed",
        help="What the bed reaches.",
        unit="°C",
        ge=0,
        le=300,
    )
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
    hourly_rate: float = setting(
        0.0,
        "Machine rate",
        help="Cost of an hour on the machine.",
        unit="€/h",
        ge=0,
        le=10000,
    )
    power: float = setting(
        120.0,
        "Power",
        help="Mean draw while printing.",
        unit="W",
        ge=0,
        le=20000,
    )
    tariff: float = setting(
        0.0,
        "Tariff",
        help="Price of electricity.",
        unit="€/kWh",
        ge=0,
        le=100,
    )
    failed_share: float = setting(
        0.0,
        "Failed prints",
        help="Share of prints thrown away, spread over the good ones.",
        unit="%",
        ge=0,
        le=90,
    )
    name_limit: int = setting(
        32,
        "Name length",
        help="Characters of a file name the display can show.",
        ge=8,
        le=200,
    )
    extrusion: Literal["relative", "absolute"] = setting(
        "relative",
        "Extrusion",
        help="Filament as what each move feeds, or as the sum from the start.",
        moves=("file",),
    )
    acceleration_word: Literal["M204 S", "M204 P T"] = setting(
        "M204 S",
        "Acceleration word",
        help="One word for all moves, or one for laying (P) and one for travel (T).",
        moves=("file",),
    )
    fan_scale: Literal["0-255", "0-100", "0-1"] = setting(
        "0-255",
        "Fan scale",
        help="What stands for a fan at full.",
        moves=("file",),
    )
    pause_word: Literal["M0", "M601"] = setting(
        "M0",
        "Pause word",
        help="What makes the machine wait for a hand.",
        moves=("file",),
    )
    object_labels: Literal["none", "M486"] = setting(
        "none",
        "Labels of placings",
        help="Whether the file says which placing a move belongs to, so that one can be given up "
        "while the others go on.",
        moves=("file",),
    )
    comments: Literal["all", "layers"] = setting(
        "all",
        "Comments",
        help="Every layer and every change of feature, or layers only.",
        moves=("file",),
    )
    start_gcode: str = setting(
        "M140 S{bed_temp}\nM104 S{nozzle_temp}\nG28\nM190 S{bed_temp}\nM109 S{nozzle_temp}\nG92 E0",
        "Start",
        help="Sent before the part. Fields, sums and conditions in braces, such as "
        "{bed_temp}, {size_z - 10}, "
        "{if nozzle > 0.5} … {end}.",
        multiline=True,
    )
    end_gcode: str = setting(
        "M83\nG1 E-1 F2400\nG0 Z{min(top + 1, size_z)} F720\nM104 S0\nM140 S0\nM107\nG28 X0",
        "End",
        help="Sent after the part. The plain one pulls the filament back and lifts before it goes "
        "home.",
        multiline=True,
    )

    @model_validator(mode="after")
    def _polygon(self) -> Machine:
        if self.bed == "polygon" and len(self.bed_points) < 3:
            raise ValueError("machine.bed_points: a polygon needs at least three corners")
        return self

    @property
    def origin(self) -> tuple[float, float]:
        """Where the middle of the bed lies in the machine's coordinates, in mm."""
        usual = (self.size_x / 2, self.size_y / 2) if self.bed == "rectangle" else (0.0, 0.0)
        return (
            usual[0] if self.origin_x is None else self.origin_x,
            usual[1] if self.origin_y is None else self.origin_y,
        )

    @property
    def h_max(self) -> float:
        """Greatest layer height in mm; that of the bore unless the machine states its own."""
        own = self.greatest_height
        return tallest_layer(self.nozzle) if own is None else own
