"""What makes the part: copies of the workshop's machine and material, so that a plan stays what it was."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np

from northpace.spec.declare import Group, setting


class FlowPoint(Group):
    """What the material melts at a temperature."""

    temp: float = setting(210.0, "Nozzle", "At this temperature.", "°C", 0, 500)
    flow: float = setting(11.0, "Most flow", "So much is melted without loss.", "mm³/s", 0.1, 500)


class FanStage(Group):
    """Fan from a height on."""

    above_mm: float = setting(1.0, "From", "Layers that begin at this height or higher.", "mm", 0, 5000)
    fan: float = setting(100.0, "Fan", "Until the next stage.", "%", 0, 100)


class Machine(Group):
    """What the machine can do; a copy of the workshop's machine and nozzle, so that a plan stays what it was."""

    name: str = setting("Plain machine", "Name", "As the workshop calls it.")
    bed: Literal["rectangle", "round"] = setting("rectangle", "Bed shape", "Shape of the build plate.")
    size_x: float = setting(220.0, "Width", "Build volume along x; the diameter of a round bed.", "mm", 10, 5000)
    size_y: float = setting(220.0, "Depth", "Build volume along y.", "mm", 10, 5000)
    size_z: float = setting(250.0, "Height", "Build volume along z.", "mm", 10, 5000)
    origin_x: float | None = setting(None, "Origin x", "Where the middle of the bed lies in the machine's coordinates; left open: half the width, or 0 for a "
                                     "round bed.", "mm", -5000, 5000, (), "bed shape")
    origin_y: float | None = setting(None, "Origin y", "The same along y.", "mm", -5000, 5000, (), "bed shape")
    gantry_height: float = setting(30.0, "Gantry height", "Parts up to this height pass under the gantry when printed in turn.", "mm", 0, 5000)
    clear_left: float = setting(30.0, "Head, left", "How far the head reaches from the nozzle, to the left.", "mm", 0, 500)
    clear_right: float = setting(30.0, "Head, right", "The same to the right.", "mm", 0, 500)
    clear_front: float = setting(30.0, "Head, front", "The same to the front.", "mm", 0, 500)
    clear_back: float = setting(30.0, "Head, back", "The same to the back.", "mm", 0, 500)
    nozzle: float = setting(0.4, "Nozzle", "Bore of the nozzle.", "mm", 0.1, 3)
    nozzle_hard: bool = setting(False, "Hard nozzle", "Stands abrasive materials: steel, carbide, ruby. Brass does not.")
    least_height: float = setting(0.08, "Least layer height", "Lowest layer this nozzle lays well.", "mm", 0.01, 2)
    greatest_height: float | None = setting(None, "Greatest layer height", "Left open: three quarters of the nozzle.", "mm", 0.01,
                                            2, (), "nozzle")
    z_step: float = setting(0.01, "Height step", "Layer heights are whole multiples of this.", "mm", 0.001, 0.1)
    nozzle_flow: float = setting(20.0, "Most flow", "What the hot end can melt at best.", "mm³/s", 0.1, 500)
    hottest_nozzle: float = setting(260.0, "Hottest nozzle", "What the hot end can stand.", "°C", 100, 600)
    hottest_bed: float = setting(100.0, "Hottest bed", "What the bed reaches.", "°C", 0, 300)
    axes: Literal["x-y-z", "crossed-belts", "three-columns"] = setting(
        "x-y-z", "Axes", "What the motors drive: x, y and z by themselves; two belts that run crosswise, x + y and x − y; or three columns whose arms "
        "carry the head. The limits of the motors hold beside those of x, y, z.", moves=("time",))
    motor_speed: float = setting(300.0, "Top speed of a motor", "Of a belt or of a carriage on its column.", "mm/s", 1, 5000, ("time",))
    motor_acceleration: float = setting(5000.0, "Top acceleration of a motor", "Of a belt or of a carriage on its column.", "mm/s²", 10, 200000, ("time",))
    column_radius: float = setting(120.0, "Column radius", "From the middle of the bed to a column, along the arm's reach.", "mm", 10, 5000)
    arm_length: float = setting(250.0, "Arm length", "From carriage to head.", "mm", 10, 5000)
    calm_acceleration: float = setting(1500.0, "Calm acceleration", "The most at which the frame does not ring.", "mm/s²", 10, 100000, ("surface",))
    max_speed_xy: float = setting(250.0, "Top speed x, y", "Limit of each axis.", "mm/s", 1, 2000)
    max_speed_z: float = setting(12.0, "Top speed z", "Limit of the axis.", "mm/s", 0.1, 500)
    max_speed_e: float = setting(80.0, "Top speed filament", "Limit of the extruder, in mm of filament.", "mm/s", 0.1, 500)
    max_acceleration_xy: float = setting(3000.0, "Top acceleration x, y", "Limit of each axis.", "mm/s²", 10, 100000)
    max_acceleration_z: float = setting(200.0, "Top acceleration z", "Limit of the axis.", "mm/s²", 1, 100000)
    max_acceleration_e: float = setting(5000.0, "Top acceleration filament", "Limit of the extruder.", "mm/s²", 10, 100000)
    junction_deviation: float = setting(0.013, "Junction deviation", "How far a corner may be cut in the speed model.", "mm",
                                        0.001, 1)
    acceleration_reached: float = setting(100.0, "Acceleration reached", "Share of the accelerations asked for that the machine really reaches; learnt from "
                                          "its jobs.", "%", 10, 400, ("time",))
    layer_overhead: float = setting(0.0, "Overhead of a layer", "What a layer takes beside its moves; learnt from its jobs.", "s", 0, 120, ("time",))
    estimate_spread: float = setting(0.0, "Spread of estimates", "How far jobs still differ from the estimate, one standard deviation; 0 while that is "
                                     "not known.", "%", 0, 100)
    homing_time: float = setting(20.0, "Homing", "From start to ready, without heating.", "s", 0, 1000)
    nozzle_heating: float = setting(2.5, "Nozzle heating", "Degrees gained a second.", "°C/s", 0.05, 100)
    bed_heating: float = setting(0.6, "Bed heating", "Degrees gained a second.", "°C/s", 0.01, 100)
    hourly_rate: float = setting(0.0, "Machine rate", "Cost of an hour on the machine.", "€/h", 0, 10000)
    power: float = setting(120.0, "Power", "Mean draw while printing.", "W", 0, 20000)
    tariff: float = setting(0.0, "Tariff", "Price of electricity.", "€/kWh", 0, 100)
    failed_share: float = setting(0.0, "Failed prints", "Share of prints thrown away, spread over the good ones.", "%", 0, 90)
    name_limit: int = setting(32, "Name length", "Characters of a file name the display can show.", "", 8, 200)
    extrusion: Literal["relative", "absolute"] = setting("relative", "Extrusion", "Filament as what each move feeds, or as the sum from the start.",
                                                         moves=("file",))
    acceleration_word: Literal["M204 S", "M204 P T"] = setting("M204 S", "Acceleration word", "One word for all moves, or one for laying (P) and one for "
                                                               "travel (T).", moves=("file",))
    fan_scale: Literal["0-255", "0-100", "0-1"] = setting("0-255", "Fan scale", "What stands for a fan at full.", moves=("file",))
    comments: Literal["all", "layers"] = setting("all", "Comments", "Every layer and every change of feature, or layers only.", moves=("file",))
    start_gcode: str = setting(
        "M140 S{bed_temp}\nM104 S{nozzle_temp}\nG28\nM190 S{bed_temp}\nM109 S{nozzle_temp}\nG92 E0", "Start",
        "Sent before the part. Fields, sums and conditions in braces, such as {bed_temp}, {size_z - 10}, "
        "{if nozzle > 0.5} … {end}.", multiline=True)
    end_gcode: str = setting("M104 S0\nM140 S0\nM107\nG28 X0", "End", "Sent after the part.", multiline=True)

    @property
    def origin(self) -> tuple[float, float]:
        """Where the middle of the bed lies in the machine's coordinates, in mm."""
        usual = (self.size_x / 2, self.size_y / 2) if self.bed == "rectangle" else (0.0, 0.0)
        return (usual[0] if self.origin_x is None else self.origin_x, usual[1] if self.origin_y is None else self.origin_y)

    @property
    def h_max(self) -> float:
        """Greatest layer height in mm; 0.75 of the nozzle unless the machine states its own."""
        return 0.75 * self.nozzle if self.greatest_height is None else self.greatest_height


class Material(Group):
    """What the part is made of; a copy of the workshop's material and spool."""

    name: str = setting("PLA", "Name", "The generic kind.")
    density: float = setting(1.24, "Density", "Mass of solid material.", "g/cm³", 0.1, 20, ("mass",))
    diameter: float = setting(1.75, "Filament diameter", "As measured on the spool.", "mm", 0.5, 5)
    flow: float = setting(100.0, "Flow correction", "More or less filament than computed, from a measured test wall.", "%", 50,
                          150, ("mass",), within="region")
    price: float = setting(20.0, "Price", "Of a kilogram.", "€/kg", 0, 10000)
    failed_share: float = setting(0.0, "Failed prints", "Share of prints in this material thrown away, beside the machine's own.", "%", 0, 90)
    abrasive: bool = setting(False, "Abrasive", "Filled with fibres or grains that wear a soft nozzle.")
    max_flow: float = setting(11.0, "Most flow", "Melted by a 0.4 mm nozzle without loss.", "mm³/s", 0.1, 500, ("time",))
    flow_points: tuple[FlowPoint, ...] = setting((), "Most flow by temperature", "Where it is known at several temperatures; between them evenly, beyond them "
                                                 "as at the ends.", moves=("time",))
    least_layer_time: float = setting(6.0, "Least layer time", "For a layer to set.", "s", 0, 600, ("time",))
    floor_speed: float = setting(10.0, "Floor speed", "Never slower than this when a layer is slowed to let it set.", "mm/s", 1, 100, ("time",))
    nozzle_temp: float = setting(205.0, "Nozzle", "Above the first layer.", "°C", 0, 500)
    first_nozzle_temp: float = setting(210.0, "Nozzle, first layer", "On the first layer.", "°C", 0, 500)
    bed_temp: float = setting(55.0, "Bed", "Above the first layer.", "°C", 0, 200)
    first_bed_temp: float = setting(60.0, "Bed, first layer", "On the first layer.", "°C", 0, 200)
    fan: float = setting(100.0, "Fan", "Above the first layers.", "%", 0, 100)
    fan_stages: tuple[FanStage, ...] = setting((), "Fan by height", "Stages of the fan from the bed up, instead of one value; nothing below the first.",
                                               moves=("surface", "strength"))
    usable_mass: float | None = setting(None, "Left on the spool", "What can still be used.", "g", 0, 100000)

    def flow_at(self, temp: Any) -> Any:
        """What is melted at best in mm³/s at nozzle temperatures (°C, a number or an array)."""
        if not self.flow_points:
            return np.full(np.shape(temp), self.max_flow) if np.ndim(temp) else self.max_flow
        points = sorted(self.flow_points, key=lambda point: point.temp)
        found = np.interp(temp, [point.temp for point in points], [point.flow for point in points])
        return found if np.ndim(temp) else float(found)
