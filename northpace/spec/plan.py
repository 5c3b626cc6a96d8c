"""What a maker sets beside the surface: placement, body, pace, heat and air, footing, start and end."""

from __future__ import annotations

from typing import Literal

from northpace.spec.declare import Group, setting


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
