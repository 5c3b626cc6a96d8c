"""The plan spec: every setting declared once, with unit, bounds, default, group, help and what it moves.

Forms, API, command line, comparison and documentation are derived from this file. To add a setting, declare it here
and use it in the stage it belongs to.
"""

from __future__ import annotations

import hashlib
import itertools
import json
import math
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from northpace.errors import InputError

Moves = Literal["time", "surface", "mass", "strength", "fit", "file"]


def setting(
    default: Any,
    label: str,
    help: str,
    unit: str = "",
    ge: float | None = None,
    le: float | None = None,
    moves: tuple[Moves, ...] = (),
    source: str = "",
    multiline: bool = False,
    kind: str = "",
) -> Any:
    """Declare a setting. ``source`` names who supplies the value when it is left open (``None``)."""
    extra: dict[str, Any] = {"unit": unit, "label": label, "moves": list(moves), "source": source, "multiline": multiline}
    if kind:
        extra["kind"] = kind
    bounds: dict[str, Any] = {}
    if ge is not None:
        bounds["ge"] = ge
    if le is not None:
        bounds["le"] = le
    if isinstance(default, float) or (default is None and ge is not None):
        bounds["allow_inf_nan"] = False
    return Field(default, description=help, json_schema_extra=extra, **bounds)


class Group(BaseModel):
    """A group of settings; unknown names are refused so that a misspelt setting never passes silently."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Placement(Group):
    """How the part stands on the bed."""

    scale_x: float = setting(100.0, "Scale x", "Size along x, relative to the file.", "%", 0.1, 100000, ("time", "mass"))
    scale_y: float = setting(100.0, "Scale y", "Size along y, relative to the file.", "%", 0.1, 100000, ("time", "mass"))
    scale_z: float = setting(100.0, "Scale z", "Size along z, relative to the file.", "%", 0.1, 100000, ("time", "mass"))
    inches: bool = setting(False, "File is in inches", "Reads a file without units as inches (25.4 mm each).")
    turn_x: float = setting(0.0, "Turn about x", "Turned about x first, after the chosen face is laid down.", "°", -360, 360)
    turn_y: float = setting(0.0, "Turn about y", "Turned about y second.", "°", -360, 360)
    turn_z: float = setting(0.0, "Turn about z", "Turned about z last.", "°", -360, 360)
    down_x: float = setting(0.0, "Face down, x", "Outward normal of the face the part stands on, in the file.", "", -1, 1)
    down_y: float = setting(0.0, "Face down, y", "Outward normal of the face the part stands on, in the file.", "", -1, 1)
    down_z: float = setting(-1.0, "Face down, z", "Outward normal of the face the part stands on, in the file.", "", -1, 1)
    shift_x: float = setting(0.0, "Shift x", "Away from the middle of the bed.", "mm", -2000, 2000)
    shift_y: float = setting(0.0, "Shift y", "Away from the middle of the bed.", "mm", -2000, 2000)


class Pin(Group):
    """A layer height fixed by hand: that of the layer that contains a height."""

    z_mm: float = setting(0.0, "At", "Height above the plate.", "mm", 0, 5000)
    height_mm: float = setting(0.2, "Height", "Of the layer there.", "mm", 0.01, 2.0)


class Band(Group):
    """A stretch of height with its own layer heights: one height, or a range of them."""

    name: str = setting("", "Name", "As the maker calls it.")
    from_mm: float = setting(0.0, "From", "Lower edge above the plate.", "mm", 0, 5000)
    to_mm: float = setting(0.0, "To", "Upper edge above the plate.", "mm", 0, 5000)
    height_mm: float | None = setting(None, "Height", "Of every layer in it.", "mm", 0.01, 2.0)
    least_mm: float | None = setting(None, "Not below", "Least height of a layer in it.", "mm", 0.01, 2.0)
    greatest_mm: float | None = setting(None, "Not above", "Greatest height of a layer in it.", "mm", 0.01, 2.0)

    @property
    def title(self) -> str:
        """How a sentence calls it."""
        return f"band '{self.name}'" if self.name else f"the band {self.from_mm:g} to {self.to_mm:g} mm"


class Mark(Group):
    """A face of the part whose surface counts more or less. The point is in the file's coordinates, so it moves with the part."""

    x: float = setting(0.0, "x", "Of a point on the face, in the file.", "mm")
    y: float = setting(0.0, "y", "Of a point on the face, in the file.", "mm")
    z: float = setting(0.0, "z", "Of a point on the face, in the file.", "mm")
    spread: float = setting(20.0, "Spread", "The face goes on over edges that turn by no more than this.", "°", 0, 180)
    attention: Literal["seen", "ordinary", "hidden"] = setting("seen", "Attention", "How much its surface counts.")


class Surface(Group):
    """What the part will look like."""

    kind: Literal["even", "adaptive", "best-fit"] = setting(
        "even", "Heights", "Even: one height. Adaptive: as tall as the target allows everywhere. Best fit: least time for a surface, or "
        "the best surface within a time.", moves=("time", "surface"))
    measure: Literal["mean", "p95", "max"] = setting(
        "p95", "Measure", "What a best fit's target means: the mean of the step error, what 95 % of the surface stays under, or all of it.",
        moves=("time", "surface"))
    target_um: float = setting(100.0, "Surface target", "Step error that is still accepted. Adaptive keeps it everywhere.", "µm", 1, 2000,
                               ("time", "surface"))
    time_cap_min: float | None = setting(None, "Time cap", "Best fit: the best surface within this time, heating included. Left open: the "
                                         "least time for the target.", "min", 1, 60000, ("time", "surface"), "surface target")
    worst_um: float | None = setting(
        None, "Nothing above", "Best fit: no step taller than this anywhere, beside the mean or the percentile that is asked for; a "
        "percentile alone may leave its worst 5 % in one place.", "µm", 1, 5000, ("surface", "time"), "measure")
    least_height: float | None = setting(None, "Not below", "Least layer height of this plan; the machine's own limit holds anyway.", "mm",
                                         0.01, 2.0, ("time", "surface"), "machine")
    greatest_height: float | None = setting(None, "Not above", "Greatest layer height of this plan.", "mm", 0.01, 2.0,
                                            ("time", "surface"), "nozzle")
    step_limit: float = setting(1.25, "Step limit", "Largest ratio from a layer to the next, so that no jump shows.", "×", 1, 3,
                                ("time", "surface"))
    overhang_rule: bool = setting(
        False, "Lower layers where it leans out", "Adaptive and best fit: no layer so tall that its bead hangs more than half beyond the "
        "one below.", moves=("time", "surface"))
    meet_flats: bool = setting(False, "Meet level faces exactly", "A layer boundary at every level face. Otherwise its distance counts as "
                               "step error.", moves=("surface", "fit"))
    seen_weight: float = setting(4.0, "Weight of seen faces", "How often a face marked as seen counts in mean and percentile.", "×", 1, 100,
                                 ("surface", "time"))
    hidden_weight: float = setting(0.0, "Weight of hidden faces", "0 leaves hidden faces out of all surface figures.", "×", 0, 1,
                                   ("surface", "time"))
    pins: tuple[Pin, ...] = setting((), "Pins", "Layer heights fixed by hand at a height.", moves=("time", "surface"))
    bands: tuple[Band, ...] = setting((), "Bands", "Stretches of height with their own layer heights.", moves=("time", "surface"))
    marks: tuple[Mark, ...] = setting((), "Attention", "Faces that count more or less.", moves=("time", "surface"))
    stack: tuple[float, ...] = setting((), "Heights one by one", "Every layer from the bed up, in mm; overrides how heights are chosen. "
                                       "Test slices use it.", moves=("time", "surface"))
    layer_height: float = setting(
        0.2, "Layer height", "Height of every layer above the first. Half the height is about twice the time.", "mm",
        0.01, 2.0, ("time", "surface"))
    first_layer_height: float = setting(
        0.2, "First layer height", "A taller first layer forgives an uneven bed; a lower one holds better.", "mm",
        0.01, 2.0, ("time",))
    outline_offset: float = setting(
        0.0, "Outline offset", "Grows every outline (holes shrink). -0.1 takes 0.2 off a diameter.", "mm", -2, 2, ("fit",))
    first_layer_offset: float = setting(
        0.0, "First layer offset", "Added on the first layer only, against the squashed edge.", "mm", -2, 2, ("fit",))
    seam: Literal["nearest", "rear", "corner"] = setting(
        "rear", "Seam", "Where a wall starts: nearest to the head, at the rear, or in the sharpest corner.",
        moves=("surface", "time"))


class Body(Group):
    """Walls, solid layers, infill."""

    walls: int = setting(3, "Walls", "Number of closed beads along every outline.", "", 0, 50, ("time", "mass", "strength"))
    outer_width: float = setting(0.45, "Outer wall width", "Width of the bead that shows.", "mm", 0.1, 4, ("time", "surface"))
    inner_width: float = setting(0.45, "Inner wall width", "Width of the walls behind it.", "mm", 0.1, 4, ("time", "strength"))
    wall_order: Literal["outside-last", "outside-first"] = setting(
        "outside-last", "Wall order", "Outside last shows better on overhangs; outside first holds sizes better.",
        moves=("surface", "fit"))
    top_thickness: float = setting(0.8, "Top thickness", "Solid material under every surface open to above.", "mm", 0, 100,
                                   ("time", "mass", "surface", "strength"))
    top_layers: int = setting(3, "Top layers, at least", "Kept even when the layers are tall.", "", 0, 1000, ("time", "mass"))
    bottom_thickness: float = setting(0.6, "Bottom thickness", "Solid material over every surface open to below.", "mm", 0, 100,
                                      ("time", "mass", "strength"))
    bottom_layers: int = setting(3, "Bottom layers, at least", "Kept even when the layers are tall.", "", 0, 1000,
                                 ("time", "mass"))
    solid_width: float = setting(0.45, "Solid width", "Bead width of solid layers.", "mm", 0.1, 4, ("time", "surface"))
    solid_angle: float = setting(45.0, "Solid angle", "Direction of solid lines; every second layer is turned by 90°.", "°",
                                 -360, 360, ("surface",))
    least_solid_area: float = setting(4.0, "Least solid area", "Smaller solid patches become infill, and the other way round.",
                                      "mm²", 0, 10000, ("time", "mass"))
    tie_length: float = setting(0.8, "Tie length", "How far a solid patch reaches beyond what is open, to hold on to.", "mm",
                                0, 20, ("strength", "mass"))
    infill_density: float = setting(15.0, "Infill density", "Laid volume of the enclosed volume; 0 is hollow, 100 is solid.",
                                    "%", 0, 100, ("time", "mass", "strength"))
    infill_pattern: Literal["lines", "grid"] = setting(
        "lines", "Infill pattern", "Lines turn by 90° from layer to layer; a grid lays both directions in every layer.",
        moves=("time", "strength"))
    infill_angle: float = setting(45.0, "Infill angle", "Direction of the first infill lines.", "°", -360, 360, ("strength",))
    infill_width: float = setting(0.45, "Infill width", "Bead width of the infill.", "mm", 0.1, 4, ("time", "strength"))


class Pace(Group):
    """Speeds, accelerations, flow, retraction."""

    outer_wall_speed: float = setting(50.0, "Outer wall", "Speed of the wall that shows.", "mm/s", 1, 1000, ("time", "surface"))
    inner_wall_speed: float = setting(80.0, "Inner walls", "Speed of the walls behind it.", "mm/s", 1, 1000, ("time",))
    solid_speed: float = setting(70.0, "Solid layers", "Speed of solid lines.", "mm/s", 1, 1000, ("time", "surface"))
    infill_speed: float = setting(90.0, "Infill", "Speed of infill lines.", "mm/s", 1, 1000, ("time",))
    first_layer_speed: float = setting(25.0, "First layer", "Highest speed of anything laid on the bed.", "mm/s", 1, 1000,
                                       ("time",))
    footing_speed: float = setting(30.0, "Footing", "Speed of the skirt.", "mm/s", 1, 1000, ("time",))
    travel_speed: float = setting(150.0, "Travel", "Speed without laying.", "mm/s", 1, 2000, ("time",))
    outer_wall_acceleration: float = setting(800.0, "Outer wall acceleration", "Lower rings less around corners.", "mm/s²", 10,
                                             50000, ("time", "surface"))
    acceleration: float = setting(1500.0, "Acceleration", "Of everything else that is laid.", "mm/s²", 10, 50000, ("time",))
    first_layer_acceleration: float = setting(500.0, "First layer acceleration", "Gentle while the part is taking hold.",
                                              "mm/s²", 10, 50000, ("time",))
    travel_acceleration: float = setting(2000.0, "Travel acceleration", "Of moves without laying.", "mm/s²", 10, 50000,
                                         ("time",))
    safe_flow: float = setting(90.0, "Safe share of flow", "Speeds are held under this share of what nozzle and material melt.",
                               "%", 10, 100, ("time",))
    least_layer_time: float | None = setting(None, "Least layer time", "A faster layer is slowed down so that it can set.",
                                             "s", 0, 600, ("time", "surface"), "material")
    layer_seconds: tuple[float, ...] = setting((), "Least times one by one", "Least time of every layer from the bed up, in s; a test "
                                               "slice keeps those of the whole part.", moves=("time",))
    floor_speed: float = setting(10.0, "Floor speed", "Never slower than this when slowing for a layer time.", "mm/s", 1, 100,
                                 ("time",))
    retraction_length: float = setting(0.8, "Retraction", "Filament pulled back before a travel over open air.", "mm", 0, 15,
                                       ("time", "surface"))
    retraction_speed: float = setting(35.0, "Retraction speed", "Speed of the filament, both ways.", "mm/s", 1, 200, ("time",))
    retraction_travel: float = setting(2.0, "Retract from", "Shorter travels inside one outline do not retract.", "mm", 0, 200,
                                       ("time", "surface"))


class HeatAir(Group):
    """Temperatures and fan."""

    nozzle_temp: float | None = setting(None, "Nozzle", "Above the first layer.", "°C", 0, 500, ("strength",), "material")
    first_nozzle_temp: float | None = setting(None, "Nozzle, first layer", "Often a little hotter.", "°C", 0, 500, (), "material")
    bed_temp: float | None = setting(None, "Bed", "Above the first layer.", "°C", 0, 200, (), "material")
    first_bed_temp: float | None = setting(None, "Bed, first layer", "Holds the part on the bed.", "°C", 0, 200, (), "material")
    fan: float | None = setting(None, "Fan", "Above the layers without fan.", "%", 0, 100, ("surface", "strength"), "material")
    fan_off_layers: int = setting(1, "Layers without fan", "From the bed up.", "", 0, 10000, ("strength",))


class Footing(Group):
    """What helps the part to start and to hold."""

    skirt_loops: int = setting(1, "Skirt loops", "Loops around the part that prime the nozzle. 0 is none.", "", 0, 50, ("time",))
    skirt_distance: float = setting(4.0, "Skirt distance", "From the part's first layer.", "mm", 0.5, 100)
    skirt_width: float = setting(0.45, "Skirt width", "Bead width of the skirt.", "mm", 0.1, 4)


class Ends(Group):
    """What is sent before and after the part."""

    start_gcode: str | None = setting(None, "Start", "Fields in braces: {nozzle_temp} {bed_temp}.", "", moves=("file",),
                                      source="machine", multiline=True)
    end_gcode: str | None = setting(None, "End", "Sent after the last layer.", "", moves=("file",), source="machine",
                                    multiline=True)


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
    def h_max(self) -> float:
        """Greatest layer height in mm; 0.75 of the nozzle unless the machine states its own."""
        return 0.75 * self.nozzle if self.greatest_height is None else self.greatest_height


class Material(Group):
    """What the part is made of; a copy of the workshop's material and spool."""

    name: str = setting("PLA", "Name", "The generic kind.")
    density: float = setting(1.24, "Density", "Mass of solid material.", "g/cm³", 0.1, 20, ("mass",))
    diameter: float = setting(1.75, "Filament diameter", "As measured on the spool.", "mm", 0.5, 5)
    flow: float = setting(100.0, "Flow correction", "More or less filament than computed, from a measured test wall.", "%", 50,
                          150, ("mass",))
    price: float = setting(20.0, "Price", "Of a kilogram.", "€/kg", 0, 10000)
    max_flow: float = setting(11.0, "Most flow", "Melted by a 0.4 mm nozzle without loss.", "mm³/s", 0.1, 500, ("time",))
    least_layer_time: float = setting(6.0, "Least layer time", "For a layer to set.", "s", 0, 600, ("time",))
    nozzle_temp: float = setting(205.0, "Nozzle", "Above the first layer.", "°C", 0, 500)
    first_nozzle_temp: float = setting(210.0, "Nozzle, first layer", "On the first layer.", "°C", 0, 500)
    bed_temp: float = setting(55.0, "Bed", "Above the first layer.", "°C", 0, 200)
    first_bed_temp: float = setting(60.0, "Bed, first layer", "On the first layer.", "°C", 0, 200)
    fan: float = setting(100.0, "Fan", "Above the first layers.", "%", 0, 100)
    usable_mass: float | None = setting(None, "Left on the spool", "What can still be used.", "g", 0, 100000)


class PlanSpec(Group):
    """One complete answer for one part. Only numbers and words: no file, no database row."""

    place: Placement = Placement()
    surface: Surface = Surface()
    body: Body = Body()
    pace: Pace = Pace()
    air: HeatAir = HeatAir()
    footing: Footing = Footing()
    ends: Ends = Ends()
    machine: Machine = Machine()
    material: Material = Material()

    @property
    def tallest(self) -> float:
        """The tallest layer in mm that this plan can have."""
        surface, stated = self.surface, [self.surface.first_layer_height]
        if surface.kind == "even" and not surface.stack:
            stated.append(surface.layer_height)
        elif not surface.stack:
            stated.append(min(surface.greatest_height or math.inf, self.machine.h_max))
        stated += [*surface.stack, *(pin.height_mm for pin in surface.pins)]
        stated += [value for band in surface.bands for value in (band.height_mm, band.greatest_mm) if value]
        return max(stated)

    @model_validator(mode="after")
    def _contradictions(self) -> PlanSpec:
        machine, low, high = self.machine, self.machine.least_height, self.machine.h_max
        problems = _height_contradictions(self.surface, machine)
        for name in ("layer_height", "first_layer_height"):
            value = getattr(self.surface, name)
            if not low - 1e-9 <= value <= high + 1e-9:
                problems.append(f"surface.{name}: {value:g} mm is outside what {machine.name} lays with its "
                                f"{machine.nozzle:g} mm nozzle: {low:g} to {high:g} mm")
            elif abs(value / machine.z_step - round(value / machine.z_step)) > 1e-6:
                problems.append(f"surface.{name}: {value:g} mm is no multiple of the machine's height step; "
                                f"allowed are multiples of {machine.z_step:g} mm")
        tallest = self.tallest
        for group, name in (("body", "outer_width"), ("body", "inner_width"), ("body", "solid_width"),
                            ("body", "infill_width"), ("footing", "skirt_width")):
            width = getattr(getattr(self, group), name)
            if width <= tallest:
                problems.append(f"{group}.{name}: a bead of {width:g} mm must be wider than the tallest layer ({tallest:g} mm)")
            elif not 0.6 * machine.nozzle - 1e-9 <= width <= 3 * machine.nozzle + 1e-9:
                problems.append(f"{group}.{name}: a {machine.nozzle:g} mm nozzle lays no bead of {width:g} mm; "
                                f"allowed are {0.6 * machine.nozzle:g} to {3 * machine.nozzle:g} mm")
        heat = resolve_heat(self)
        if max(heat["nozzle_temp"], heat["first_nozzle_temp"]) > machine.hottest_nozzle:
            problems.append(f"air.nozzle_temp: {self.material.name} at {max(heat['nozzle_temp'], heat['first_nozzle_temp']):g} °C "
                            f"is too hot for {machine.name}; at most {machine.hottest_nozzle:g} °C")
        if max(heat["bed_temp"], heat["first_bed_temp"]) > machine.hottest_bed:
            problems.append(f"air.bed_temp: {max(heat['bed_temp'], heat['first_bed_temp']):g} °C is more than the bed of "
                            f"{machine.name} reaches; at most {machine.hottest_bed:g} °C")
        if self.place.down_x**2 + self.place.down_y**2 + self.place.down_z**2 < 1e-6:
            problems.append("place.down_z: the face to stand on needs a direction; 0, 0, 0 is none")
        if problems:
            raise ValueError("; ".join(problems))
        return self


def _height_contradictions(surface: Surface, machine: Machine) -> list[str]:
    """Pins, bands and limits that contradict the machine, the height step or each other, each with its height and both rules."""
    low, high, q = machine.least_height, machine.h_max, machine.z_step
    problems: list[str] = []

    def lays(where: str, what: str, value: float | None) -> None:
        if value is None:
            return
        if not low - 1e-9 <= value <= high + 1e-9:
            problems.append(f"surface.{where}: {what} asks for {value:g} mm; the limit of {machine.name} with its {machine.nozzle:g} mm "
                            f"nozzle is {low:g} to {high:g} mm")
        elif abs(value / q - round(value / q)) > 1e-6:
            problems.append(f"surface.{where}: {what} asks for {value:g} mm, no multiple of the machine's height step of {q:g} mm")

    for name in ("least_height", "greatest_height"):
        lays(name, "this plan", getattr(surface, name))
    if (surface.least_height or low) > (surface.greatest_height or high) + 1e-9:
        problems.append(f"surface.least_height: {surface.least_height or low:g} mm is more than the plan's greatest layer height of "
                        f"{surface.greatest_height or high:g} mm")
    for number, pin in enumerate(surface.pins, 1):
        lays("pins", f"pin {number} at {pin.z_mm:g} mm", pin.height_mm)
        if pin.z_mm < surface.first_layer_height - 1e-9 and abs(pin.height_mm - surface.first_layer_height) > 1e-9:
            problems.append(f"surface.pins: pin {number} at {pin.z_mm:g} mm lies in the first layer, whose height of "
                            f"{surface.first_layer_height:g} mm is set apart")
    for band in surface.bands:
        for value in (band.height_mm, band.least_mm, band.greatest_mm):
            lays("bands", band.title, value)
        if band.to_mm - band.from_mm < low - 1e-9:
            problems.append(f"surface.bands: {band.title} runs from {band.from_mm:g} to {band.to_mm:g} mm; it must be at least one layer "
                            f"of {low:g} mm tall")
        if band.height_mm is not None and (band.least_mm is not None or band.greatest_mm is not None):
            problems.append(f"surface.bands: {band.title} has both a height and a range; one of them decides")
        if band.least_mm is not None and band.greatest_mm is not None and band.least_mm > band.greatest_mm + 1e-9:
            problems.append(f"surface.bands: {band.title} asks for at least {band.least_mm:g} and at most {band.greatest_mm:g} mm")
        for number, pin in enumerate(surface.pins, 1):
            fits = (band.height_mm is None or abs(band.height_mm - pin.height_mm) < 1e-9) and (
                (band.least_mm or 0) - 1e-9 <= pin.height_mm <= (band.greatest_mm or math.inf) + 1e-9)
            if band.from_mm <= pin.z_mm < band.to_mm and not fits:
                problems.append(f"surface.pins: at {pin.z_mm:g} mm pin {number} asks for {pin.height_mm:g} mm and {band.title} for another "
                                "height; one of them has to go")
    order = sorted(surface.bands, key=lambda band: band.from_mm)
    problems += [f"surface.bands: {one.title} and {two.title} overlap from {two.from_mm:g} to {min(one.to_mm, two.to_mm):g} mm"
                 for one, two in itertools.pairwise(order) if two.from_mm < one.to_mm - 1e-9]
    for number, height in enumerate(surface.stack, 1):
        lays("stack", f"layer {number}", height)
    return problems[:5]


#: Groups a maker sets, in the order of the questions they answer; machine and material come from the workshop.
GROUP_TITLES = {
    "place": "Placement", "surface": "Surface", "body": "Body", "pace": "Pace", "air": "Heat & air", "footing": "Footing",
    "ends": "Start & end", "machine": "Machine", "material": "Material",
}


def resolve_heat(spec: PlanSpec) -> dict[str, float]:
    """Temperatures (°C), fan (%) and least layer time (s) with the material's values where the plan leaves them open."""
    out = {name: getattr(spec.air, name) if getattr(spec.air, name) is not None else getattr(spec.material, name)
           for name in ("nozzle_temp", "first_nozzle_temp", "bed_temp", "first_bed_temp", "fan")}
    own = spec.pace.least_layer_time
    out["least_layer_time"] = spec.material.least_layer_time if own is None else own
    return out


def spec_from(data: dict[str, Any]) -> PlanSpec:
    """Validate a plain dictionary; raises `InputError` with one sentence naming each wrong setting and what is allowed."""
    try:
        return PlanSpec.model_validate(data)
    except ValidationError as error:
        raise InputError("; ".join(_sentence(item) for item in error.errors())) from error


def _sentence(item: Any) -> str:
    where = ".".join(str(part) for part in item["loc"][:2])
    inner = " ".join(f"{part + 1}" if isinstance(part, int) else str(part) for part in item["loc"][2:])
    known = {entry["name"]: entry for entry in settings()}
    if item["type"] == "value_error":
        return str(item["ctx"]["error"])
    if inner:
        context = item.get("ctx", {})
        limit = " to ".join(f"{context[key]:g}" for key in ("ge", "le") if key in context)
        return f"{where} {inner}: {item['input']!r} is not allowed; {item['msg']}" + (f" ({limit})" if limit else "")
    if item["type"] == "extra_forbidden":
        return f"{where}: there is no such setting; `settings` lists them"
    entry = known.get(where)
    if entry is None:
        return f"{where}: {item['msg']}"
    allowed = ""
    if entry["choices"]:
        allowed = "one of " + ", ".join(entry["choices"])
    elif entry["min"] is not None or entry["max"] is not None:
        allowed = f"{entry['min']:g} to {entry['max']:g} {entry['unit']}".strip()
    else:
        allowed = {"bool": "true or false", "text": "text"}.get(entry["type"], entry["type"])
    return f"{where}: {item['input']!r} is not allowed; allowed is {allowed}"


def settings() -> list[dict[str, Any]]:
    """Every setting as a plain record: name, group, label, type, unit, min, max, default, choices, help, moves, source."""
    records = []
    for group, title in GROUP_TITLES.items():
        model = PlanSpec.model_fields[group].annotation
        assert isinstance(model, type) and issubclass(model, Group)
        schema = model.model_json_schema()["properties"]
        for name, field in schema.items():
            options = field.get("anyOf", [field])
            core = next(option for option in options if option.get("type") != "null")
            choices = core.get("enum") or ([core["const"]] if "const" in core else [])
            kind = {"number": "number", "integer": "integer", "boolean": "bool", "string": "text", "array": "list"}[core["type"]]
            records.append({
                "name": f"{group}.{name}", "group": group, "group_title": title, "key": name, "label": field["label"],
                "type": "choice" if choices else kind, "unit": field["unit"],
                "min": core.get("minimum"), "max": core.get("maximum"), "default": field.get("default"),
                "choices": choices, "help": field["description"], "moves": field["moves"], "source": field["source"],
                "optional": len(options) > 1, "multiline": field["multiline"],
            })
    return records


def with_settings(spec: PlanSpec, pairs: list[str]) -> PlanSpec:
    """A spec with ``group.name=value`` texts applied; the word ``none`` leaves a value to its source."""
    data = spec.model_dump()
    known = {entry["name"]: entry for entry in settings()}
    for pair in pairs:
        name, equals, text = pair.partition("=")
        if not equals or name not in known:
            raise InputError(f"'{pair}' is no setting; write group.name=value, `settings` lists them")
        group, _, key = name.partition(".")
        entry = known[name]
        if entry["type"] == "list":
            try:
                data[group][key] = json.loads(text)
            except json.JSONDecodeError as error:
                raise InputError(f"a list is written as JSON ({error})", name) from error
            continue
        data[group][key] = None if entry["optional"] and text.lower() == "none" else text
    return spec_from(data)


def digest(*parts: Any) -> str:
    """A content key: SHA-256 over the canonical JSON of the parts."""
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), default=lambda value: value.model_dump())
    return hashlib.sha256(text.encode()).hexdigest()
