"""What makes the part: copies of the workshop's machine and material, so that a plan stays what it was."""

from __future__ import annotations

from typing import Literal

from northpace.spec.declare import Group, setting


class Machine(Group):
    """What the machine can do; a copy of the workshop's machine and nozzle, so that a plan stays what it was."""

    name: str = setting("Plain machine", "Name", "As the workshop calls it.")
    bed: Literal["rectangle", "round"] = setting("rectangle", "Bed shape", "Shape of the build plate.")
    size_x: float = setting(220.0, "Width", "Build volume along x; the diameter of a round bed.", "mm", 10, 5000)
    size_y: float = setting(220.0, "Depth", "Build volume along y.", "mm", 10, 5000)
    size_z: float = setting(250.0, "Height", "Build volume along z.", "mm", 10, 5000)
    nozzle: float = setting(0.4, "Nozzle", "Bore of the nozzle.", "mm", 0.1, 3)
    least_height: float = setting(0.08, "Least layer height", "Lowest layer this nozzle lays well.", "mm", 0.01, 2)
    greatest_height: float | None = setting(None, "Greatest layer height", "Left open: three quarters of the nozzle.", "mm", 0.01,
                                            2, (), "nozzle")
    z_step: float = setting(0.01, "Height step", "Layer heights are whole multiples of this.", "mm", 0.001, 0.1)
    nozzle_flow: float = setting(20.0, "Most flow", "What the hot end can melt at best.", "mm³/s", 0.1, 500)
    hottest_nozzle: float = setting(260.0, "Hottest nozzle", "What the hot end can stand.", "°C", 100, 600)
    hottest_bed: float = setting(100.0, "Hottest bed", "What the bed reaches.", "°C", 0, 300)
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
    start_gcode: str = setting(
        "M140 S{bed_temp}\nM104 S{nozzle_temp}\nG28\nM190 S{bed_temp}\nM109 S{nozzle_temp}\nG92 E0", "Start",
        "Sent before the part.", multiline=True)
    end_gcode: str = setting("M104 S0\nM140 S0\nM107\nG28 X0", "End", "Sent after the part.", multiline=True)

    @property
    def origin(self) -> tuple[float, float]:
        """Where the middle of the bed lies in the machine's coordinates, in mm."""
        return (self.size_x / 2, self.size_y / 2) if self.bed == "rectangle" else (0.0, 0.0)

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
    max_flow: float = setting(11.0, "Most flow", "Melted by a 0.4 mm nozzle without loss.", "mm³/s", 0.1, 500, ("time",))
    least_layer_time: float = setting(6.0, "Least layer time", "For a layer to set.", "s", 0, 600, ("time",))
    nozzle_temp: float = setting(205.0, "Nozzle", "Above the first layer.", "°C", 0, 500)
    first_nozzle_temp: float = setting(210.0, "Nozzle, first layer", "On the first layer.", "°C", 0, 500)
    bed_temp: float = setting(55.0, "Bed", "Above the first layer.", "°C", 0, 200)
    first_bed_temp: float = setting(60.0, "Bed, first layer", "On the first layer.", "°C", 0, 200)
    fan: float = setting(100.0, "Fan", "Above the first layers.", "%", 0, 100)
    usable_mass: float | None = setting(None, "Left on the spool", "What can still be used.", "g", 0, 100000)
