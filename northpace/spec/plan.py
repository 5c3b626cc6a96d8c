"""What a maker sets beside surface, body and supports: placement, pace, heat and air, footing, start and end."""

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
    sink: float = setting(0.0, "Sink", "Pushed into the bed by this; what would lie below is left out.", "mm", 0, 5000, ("time", "mass", "fit"))
    trim_top: float = setting(0.0, "Trim the top", "So much is left out at the top.", "mm", 0, 5000, ("time", "mass", "fit"))
    shift_x: float = setting(0.0, "Shift x", "Away from the middle of the bed.", "mm", -2000, 2000)
    shift_y: float = setting(0.0, "Shift y", "Away from the middle of the bed.", "mm", -2000, 2000)


class Pace(Group):
    """Speeds, accelerations, flow, retraction."""

    outer_wall_speed: float = setting(50.0, "Outer wall", "Speed of the wall that shows.", "mm/s", 1, 1000, ("time", "surface"), within="region")
    inner_wall_speed: float = setting(80.0, "Inner walls", "Speed of the walls behind it.", "mm/s", 1, 1000, ("time",), within="region")
    solid_speed: float = setting(70.0, "Solid layers", "Speed of solid lines.", "mm/s", 1, 1000, ("time", "surface"), within="region")
    top_speed: float = setting(50.0, "Top", "Speed of the top that shows.", "mm/s", 1, 1000, ("time", "surface"), within="region")
    gap_speed: float = setting(50.0, "Thin beads", "Speed of beads of fitting width between walls.", "mm/s", 1, 1000, ("time",), within="region")
    bridge_speed: float = setting(30.0, "Bridges", "Speed across open air.", "mm/s", 1, 1000, ("time", "surface"), within="region")
    support_speed: float = setting(80.0, "Supports", "Speed of supports.", "mm/s", 1, 1000, ("time",), within="band")
    infill_speed: float = setting(90.0, "Infill", "Speed of infill lines.", "mm/s", 1, 1000, ("time",), within="region")
    short_loop: float = setting(0.0, "Short loops up to", "Wall loops of at most this length have a speed of their own; 0 is none.", "mm", 0, 500,
                                ("time", "surface"))
    short_loop_speed: float = setting(25.0, "Short loops", "Speed of short wall loops.", "mm/s", 1, 1000, ("time", "surface"))
    first_layer_speed: float = setting(25.0, "First layer", "Highest speed of anything laid on the bed.", "mm/s", 1, 1000,
                                       ("time",))
    footing_speed: float = setting(30.0, "Footing", "Speed of the skirt.", "mm/s", 1, 1000, ("time",))
    travel_speed: float = setting(150.0, "Travel", "Speed without laying.", "mm/s", 1, 2000, ("time",), within="band")
    z_speed: float | None = setting(None, "Z", "Speed of changes of height.", "mm/s", 0.1, 500, ("time",), "machine.max_speed_z")
    outer_wall_acceleration: float = setting(800.0, "Outer wall acceleration", "Lower rings less around corners.", "mm/s²", 10,
                                             50000, ("time", "surface"), within="region")
    acceleration: float = setting(1500.0, "Acceleration", "Of everything that is laid and has none of its own.", "mm/s²", 10, 50000, ("time",), within="region")
    inner_wall_acceleration: float | None = setting(None, "Inner wall acceleration", "Of the walls behind the outer one.", "mm/s²", 10, 50000,
                                                ("time",), "pace.acceleration", within="region")
    solid_acceleration: float | None = setting(None, "Solid acceleration", "Of solid layers.", "mm/s²", 10, 50000,
                                                ("time",), "pace.acceleration", within="region")
    top_acceleration: float | None = setting(None, "Top acceleration", "Of the top that shows.", "mm/s²", 10, 50000,
                                                ("time",), "pace.acceleration", within="region")
    infill_acceleration: float | None = setting(None, "Infill acceleration", "Of infill lines.", "mm/s²", 10, 50000,
                                                ("time",), "pace.acceleration", within="region")
    bridge_acceleration: float | None = setting(None, "Bridge acceleration", "Of bridges.", "mm/s²", 10, 50000,
                                                ("time",), "pace.acceleration", within="region")
    support_acceleration: float | None = setting(None, "Support acceleration", "Of supports.", "mm/s²", 10, 50000,
                                                ("time",), "pace.acceleration", within="band")
    first_layer_acceleration: float = setting(500.0, "First layer acceleration", "Gentle while the part is taking hold.",
                                              "mm/s²", 10, 50000, ("time",))
    travel_acceleration: float = setting(2000.0, "Travel acceleration", "Of moves without laying.", "mm/s²", 10, 50000,
                                         ("time",), within="band")
    safe_flow: float = setting(90.0, "Safe share of flow", "Speeds are held under this share of what nozzle and material melt.",
                               "%", 10, 100, ("time",))
    least_layer_time: float | None = setting(None, "Least layer time", "A faster layer is slowed down so that it can set.",
                                             "s", 0, 600, ("time", "surface"), "material", within="band")
    derived: bool = setting(False, "Derive speeds", "Speeds and accelerations follow from the limits below instead of being typed one by one; those set by "
                            "hand stay.", moves=("time", "surface"))
    flow_share: float = setting(90.0, "Aim at share of flow", "Of the safe flow, for the feature that needs most.", "%", 5, 100, ("time",))
    outer_share: float = setting(45.0, "Share for what shows", "Of the safe flow, for outer wall and top.", "%", 5, 100, ("time", "surface"))
    flow_step: float = setting(60.0, "Largest change of flow", "Between features that follow each other: the larger flow is at most this much above the "
                               "smaller.",
                               "%", 5, 1000, ("time", "surface"))
    calm_share: float = setting(100.0, "Calm share", "Of what the machine's frame stands without ringing; what shows gets half of it.",
                                "%", 5, 300, ("time", "surface"))
    by_hand: tuple[str, ...] = setting((), "Set by hand", "Speeds that are not derived.", kind="names")
    layer_seconds: tuple[float, ...] = setting((), "Least times one by one", "Least time of every layer from the bed up, in s; a test "
                                               "slice keeps those of the whole part.", moves=("time",))
    floor_speed: float | None = setting(None, "Floor speed", "Never slower than this when slowing for a layer time.", "mm/s", 1, 100,
                                        ("time",), "material", within="band")
    retraction_length: float = setting(0.8, "Retraction", "Filament pulled back before a travel over open air.", "mm", 0, 15,
                                       ("time", "surface"), within="band")
    retraction_speed: float = setting(35.0, "Retraction speed", "Speed of the filament, both ways.", "mm/s", 1, 200, ("time",), within="band")
    restart_extra: float = setting(0.0, "Restart", "Filament fed more (or less) than was pulled back.", "mm", -2, 2, ("surface",), within="band")
    retraction_travel: float = setting(2.0, "Retract from", "Shorter travels do not retract.", "mm", 0, 200, ("time", "surface"))
    retract_where: Literal["shown", "always"] = setting(
        "shown", "Retract", "Where a string would show: on travels that leave the outline or cross a wall. Or always.",
        moves=("time", "surface"))
    lift: float = setting(0.0, "Lift", "Raised by this for a travel that retracts, against scratches.", "mm", 0, 5, ("time", "surface"))
    longest_detour: float = setting(20.0, "Longest detour", "A travel goes around walls instead of over them while that adds no more than "
                                    "this. 0 always goes straight.", "mm", 0, 1000, ("time", "surface"))
    order: Literal["nearest", "improved", "as-cut"] = setting(
        "improved", "Order", "Nearest next, then improved by exchanging; or as the outlines were cut.", moves=("time",))


class HeatAir(Group):
    """Temperatures and fan."""

    nozzle_temp: float | None = setting(None, "Nozzle", "Above the first layer.", "°C", 0, 500, ("strength",), "material", within="band")
    first_nozzle_temp: float | None = setting(None, "Nozzle, first layer", "Often a little hotter.", "°C", 0, 500, (), "material")
    bed_temp: float | None = setting(None, "Bed", "Above the first layer.", "°C", 0, 200, (), "material", within="band")
    first_bed_temp: float | None = setting(None, "Bed, first layer", "Holds the part on the bed.", "°C", 0, 200, (), "material")
    fan: float | None = setting(None, "Fan", "Above the layers without fan.", "%", 0, 100, ("surface", "strength"), "material", within="band")
    bridge_fan: float | None = setting(None, "Fan on bridges", "While a bridge is laid.", "%", 0, 100, ("surface",), "fan", within="band")
    fan_off_layers: int = setting(1, "Layers without fan", "From the bed up.", "", 0, 10000, ("strength",))


class Limits(Group):
    """What a plan may take at most; over it is a finding."""

    time_min: float | None = setting(None, "Time cap", "The whole plan within this.", "min", 1, 100000, ("time",), "nobody")
    mass_g: float | None = setting(None, "Mass cap", "Filament of one part.", "g", 0.1, 100000, ("mass",), "nobody")
    cost: float | None = setting(None, "Money cap", "Filament, machine, electricity and failures of one part.", "€", 0.01, 100000, ("time", "mass"), "nobody")


class Footing(Group):
    """What helps the part to start and to hold."""

    skirt_loops: int = setting(1, "Priming loops", "Loops around the part that prime the nozzle. 0 is none.", "", 0, 50, ("time",))
    prime_volume: float = setting(0.0, "Priming volume", "As many loops as it takes to lay this much. 0 leaves it to the number of loops.",
                                  "mm³", 0, 2000, ("time",))
    skirt_distance: float = setting(4.0, "Priming distance", "From the part's first layer.", "mm", 0.5, 100)
    skirt_height: int = setting(1, "Priming layers", "Loops stand this many layers tall, against draughts.", "layers", 1, 1000, ("time",))
    skirt_width: float = setting(0.45, "Footing width", "Bead width of loops, brim and raft.", "mm", 0.1, 4)
    brim_reach: float = setting(0.0, "Brim", "How far beads around the first layer reach. 0 is none.", "mm", 0, 100, ("time", "mass"))
    brim_where: Literal["outside", "holes", "both"] = setting("outside", "Brim where", "Around the part, in its holes, or both.",
                                                              moves=("time",))
    brim_clearance: float = setting(0.0, "Brim clearance", "Gap to the part that lets it come off cleanly.", "mm", 0, 2, ("surface",))
    raft_layers: int = setting(0, "Raft layers", "Layers the part stands on instead of the bed. 0 is none.", "layers", 0, 20,
                               ("time", "mass"))
    raft_margin: float = setting(3.0, "Raft margin", "How far the raft reaches beyond the part.", "mm", 0, 50, ("time", "mass"))
    raft_gap: float = setting(0.2, "Raft gap", "Open height between raft and part.", "mm", 0, 2, ("surface",))


class Ends(Group):
    """What is sent before and after the part."""

    start_gcode: str | None = setting(None, "Start", "Fields, sums and conditions in braces, as in the machine's own.", "", moves=("file",),
                                      source="machine", multiline=True)
    end_gcode: str | None = setting(None, "End", "Sent after the last layer.", "", moves=("file",), source="machine",
                                    multiline=True)
