"""What a maker sets beside surface, body and supports: placement, pace, heat and air, footing,
start and end.
"""

from __future__ import annotations

from typing import Literal

from northpace.spec.declare import Group, setting


class Placement(Group):
    """How the part stands on the bed."""

    scale_x: float = setting(
        100.0,
        "Scale x",
        help="Size along x, relative to the file.",
        unit="%",
        ge=0.1,
        le=100000,
        moves=("time", "mass"),
    )
    scale_y: float = setting(
        100.0,
        "Scale y",
        help="Size along y, relative to the file.",
        unit="%",
        ge=0.1,
        le=100000,
        moves=("time", "mass"),
    )
    scale_z: float = setting(
        100.0,
        "Scale z",
        help="Size along z, relative to the file.",
        unit="%",
        ge=0.1,
        le=100000,
        moves=("time", "mass"),
    )
    inches: bool = setting(
        False,
        "File is in inches",
        help="Reads a file without units as inches (25.4 mm each).",
    )
    turn_x: float = setting(
        0.0,
        "Turn about x",
        help="Turned about x first, after the chosen face is laid down.",
        unit="°",
        ge=-360,
        le=360,
    )
    turn_y: float = setting(
        0.0,
        "Turn about y",
        help="Turned about y second.",
        unit="°",
        ge=-360,
        le=360,
    )
    turn_z: float = setting(
        0.0,
        "Turn about z",
        help="Turned about z last.",
        unit="°",
        ge=-360,
        le=360,
    )
    down_x: float = setting(
        0.0,
        "Face down, x",
        help="Outward normal of the face the part stands on, in the file.",
        ge=-1,
        le=1,
    )
    down_y: float = setting(
        0.0,
        "Face down, y",
        help="Outward normal of the face the part stands on, in the file.",
        ge=-1,
        le=1,
    )
    down_z: float = setting(
        -1.0,
        "Face down, z",
        help="Outward normal of the face the part stands on, in the file.",
        ge=-1,
        le=1,
    )
    sink: float = setting(
        0.0,
        "Sink",
        help="Pushed into the bed by this; what would lie below is left out.",
        unit="mm",
        ge=0,
        le=5000,
        moves=("time", "mass", "fit"),
    )
    trim_top: float = setting(
        0.0,
        "Trim the top",
        help="So much is left out at the top.",
        unit="mm",
        ge=0,
        le=5000,
        moves=("time", "mass", "fit"),
    )
    shift_x: float = setting(
        0.0,
        "Shift x",
        help="Away from the middle of the bed.",
        unit="mm",
        ge=-2000,
        le=2000,
    )
    shift_y: float = setting(
        0.0,
        "Shift y",
        help="Away from the middle of the bed.",
        unit="mm",
        ge=-2000,
        le=2000,
    )


class Pace(Group):
    """Speeds, accelerations, flow, retraction."""

    outer_wall_speed: float = setting(
        50.0,
        "Outer wall",
        help="Speed of the wall that shows.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time", "surface"),
        within="region",
    )
    inner_wall_speed: float = setting(
        80.0,
        "Inner walls",
        help="Speed of the walls behind it.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time",),
        within="region",
    )
    solid_speed: float = setting(
        70.0,
        "Solid layers",
        help="Speed of solid lines.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time", "surface"),
        within="region",
    )
    top_speed: float = setting(
        50.0,
        "Top",
        help="Speed of the top that shows.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time", "surface"),
        within="region",
    )
    gap_speed: float = setting(
        50.0,
        "Thin beads",
        help="Speed of beads of fitting width between walls.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time",),
        within="region",
    )
    bridge_speed: float = setting(
        30.0,
        "Bridges",
        help="Speed across open air.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time", "surface"),
        within="region",
    )
    support_speed: float = setting(
        80.0,
        "Supports",
        help="Speed of supports.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time",),
        within="band",
    )
    infill_speed: float = setting(
        90.0,
        "Infill",
        help="Speed of infill lines.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time",),
        within="region",
    )
    short_loop: float = setting(
        0.0,
        "Short loops up to",
        help="Wall loops of at most this length have a speed of their own; 0 is none.",
        unit="mm",
        ge=0,
        le=500,
        moves=("time", "surface"),
    )
    short_loop_speed: float = setting(
        25.0,
        "Short loops",
        help="Speed of short wall loops.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time", "surface"),
    )
    first_layer_speed: float = setting(
        25.0,
        "First layer",
        help="Highest speed of anything laid on the bed.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time",),
    )
    footing_speed: float = setting(
        30.0,
        "Footing",
        help="Speed of the skirt.",
        unit="mm/s",
        ge=1,
        le=1000,
        moves=("time",),
    )
    travel_speed: float = setting(
        150.0,
        "Travel",
        help="Speed without laying.",
        unit="mm/s",
        ge=1,
        le=2000,
        moves=("time",),
        within="band",
    )
    z_speed: float | None = setting(
        None,
        "Z",
        help="Speed of changes of height.",
        unit="mm/s",
        ge=0.1,
        le=500,
        moves=("time",),
        source="machine.max_speed_z",
    )
    outer_wall_acceleration: float = setting(
        800.0,
        "Outer wall acceleration",
        help="Lower rings less around corners.",
        unit="mm/s²",
        ge=10,
        le=50000,
        moves=("time", "surface"),
        within="region",
    )
    acceleration: float = setting(
        1500.0,
        "Acceleration",
        help="Of everything that is laid and has none of its own.",
        unit="mm/s²",
        ge=10,
        le=50000,
        moves=("time",),
        within="region",
    )
    inner_wall_acceleration: float | None = setting(
        None,
        "Inner wall acceleration",
        help="Of the walls behind the outer one.",
        unit="mm/s²",
        ge=10,
        le=50000,
        moves=("time",),
        source="pace.acceleration",
        within="region",
    )
    solid_acceleration: float | None = setting(
        None,
        "Solid acceleration",
        help="Of solid layers.",
        unit="mm/s²",
        ge=10,
        le=50000,
        moves=("time",),
        source="pace.acceleration",
        within="region",
    )
    top_acceleration: float | None = setting(
        None,
        "Top acceleration",
        help="Of the top that shows.",
        unit="mm/s²",
        ge=10,
        le=50000,
        moves=("time",),
        source="pace.acceleration",
        within="region",
    )
    infill_acceleration: float | None = setting(
        None,
        "Infill acceleration",
        help="Of infill lines.",
        unit="mm/s²",
        ge=10,
        le=50000,
        moves=("time",),
        source="pace.acceleration",
        within="region",
    )
    bridge_acceleration: float | None = setting(
        None,
        "Bridge acceleration",
        help="Of bridges.",
        unit="mm/s²",
        ge=10,
        le=50000,
        moves=("time",),
        source="pace.acceleration",
        within="region",
    )
    support_acceleration: float | None = setting(
        None,
        "Support acceleration",
        help="Of supports.",
        unit="mm/s²",
        ge=10,
        le=50000,
        moves=("time",),
        source="pace.acceleration",
        within="band",
    )
    first_layer_acceleration: float = setting(
        500.0,
        "First layer acceleration",
        help="Gentle while the part is taking hold.",
        unit="mm/s²",
        ge=10,
        le=50000,
        moves=("time",),
    )
    travel_acceleration: float = setting(
        2000.0,
        "Travel acceleration",
        help="Of moves without laying.",
        unit="mm/s²",
        ge=10,
        le=50000,
        moves=("time",),
        within="band",
    )
    safe_flow: float = setting(
        90.0,
        "Safe share of flow",
        help="Speeds are held under this share of what nozzle and material melt.",
        unit="%",
        ge=10,
        le=100,
        moves=("time",),
    )
    least_layer_time: float | None = setting(
        None,
        "Least layer time",
        help="A faster layer is slowed down so that it can set.",
        unit="s",
        ge=0,
        le=600,
        moves=("time", "surface"),
        source="material",
        within="band",
    )
    derived: bool = setting(
        False,
        "Derive speeds",
        help="Speeds and accelerations follow from the limits below instead of being typed "
        "one by one; those set by "
        "hand stay.",
        moves=("time", "surface"),
    )
    flow_share: float = setting(
        90.0,
        "Aim at share of flow",
        help="Of the safe flow, for the feature that needs most.",
        unit="%",
        ge=5,
        le=100,
        moves=("time",),
    )
    outer_share: float = setting(
        45.0,
        "Share for what shows",
        help="Of the safe flow, for outer wall and top.",
        unit="%",
        ge=5,
        le=100,
        moves=("time", "surface"),
    )
    flow_step: float = setting(
        60.0,
        "Largest change of flow",
        help="Between features that follow each other: the larger flow is at most this much "
        "above the "
        "smaller.",
        unit="%",
        ge=5,
        le=1000,
        moves=("time", "surface"),
    )
    calm_share: float = setting(
        100.0,
        "Calm share",
        help="Of what the machine's frame stands without ringing; what shows gets half of it.",
        unit="%",
        ge=5,
        le=300,
        moves=("time", "surface"),
    )
    by_hand: tuple[str, ...] = setting(
        (),
        "Set by hand",
        help="Speeds that are not derived.",
        kind="names",
    )
    layer_seconds: tuple[float, ...] = setting(
        (),
        "Least times one by one",
        help="Least time of every layer from the bed up, in s; a test "
        "slice keeps those of the whole part.",
        moves=("time",),
    )
    floor_speed: float | None = setting(
        None,
        "Floor speed",
        help="Never slower than this when slowing for a layer time.",
        unit="mm/s",
        ge=1,
        le=100,
        moves=("time",),
        source="material",
        within="band",
    )
    retraction_length: float = setting(
        0.8,
        "Retraction",
        help="Filament pulled back before a travel over open air.",
        unit="mm",
        ge=0,
        le=15,
        moves=("time", "surface"),
        within="band",
    )
    retraction_speed: float = setting(
        35.0,
        "Retraction speed",
        help="Speed of the filament, both ways.",
        unit="mm/s",
        ge=1,
        le=200,
        moves=("time",),
        within="band",
    )
    restart_extra: float = setting(
        0.0,
        "Restart",
        help="Filament fed more (or less) than was pulled back.",
        unit="mm",
        ge=-2,
        le=2,
        moves=("surface",),
        within="band",
    )
    retraction_travel: float = setting(
        2.0,
        "Retract from",
        help="Shorter travels do not retract.",
        unit="mm",
        ge=0,
        le=200,
        moves=("time", "surface"),
    )
    retract_where: Literal["shown", "always"] = setting(
        "shown",
        "Retract",
        help="Where a string would show: on travels that leave the outline or cross a wall. "
        "Or always.",
        moves=("time", "surface"),
    )
    lift: float = setting(
        0.0,
        "Lift",
        help="Raised by this for a travel that retracts, against scratches.",
        unit="mm",
        ge=0,
        le=5,
        moves=("time", "surface"),
    )
    longest_detour: float = setting(
        20.0,
        "Longest detour",
        help="A travel goes around walls instead of over them while that adds no more than "
        "this. 0 always goes straight.",
        unit="mm",
        ge=0,
        le=1000,
        moves=("time", "surface"),
    )
    order: Literal["nearest", "improved", "as-cut"] = setting(
        "improved",
        "Order",
        help="Nearest next, then improved by exchanging; or as the outlines were cut.",
        moves=("time",),
    )


class HeatAir(Group):
    """Temperatures and fan."""

    nozzle_temp: float | None = setting(
        None,
        "Nozzle",
        help="Above the first layer.",
        unit="°C",
        ge=0,
        le=500,
        moves=("strength",),
        source="material",
        within="band",
    )
    first_nozzle_temp: float | None = setting(
        None,
        "Nozzle, first layer",
        help="Often a little hotter.",
        unit="°C",
        ge=0,
        le=500,
        source="material",
    )
    bed_temp: float | None = setting(
        None,
        "Bed",
        help="Above the first layer.",
        unit="°C",
        ge=0,
        le=200,
        source="material",
        within="band",
    )
    first_bed_temp: float | None = setting(
        None,
        "Bed, first layer",
        help="Holds the part on the bed.",
        unit="°C",
        ge=0,
        le=200,
        source="material",
    )
    fan: float | None = setting(
        None,
        "Fan",
        help="Above the layers without fan.",
        unit="%",
        ge=0,
        le=100,
        moves=("surface", "strength"),
        source="material",
        within="band",
    )
    bridge_fan: float | None = setting(
        None,
        "Fan on bridges",
        help="While a bridge is laid.",
        unit="%",
        ge=0,
        le=100,
        moves=("surface",),
        source="fan",
        within="band",
    )
    fan_off_layers: int = setting(
        1,
        "Layers without fan",
        help="From the bed up.",
        ge=0,
        le=10000,
        moves=("strength",),
    )


class Limits(Group):
    """What a plan may take at most; over it is a finding."""

    time_min: float | None = setting(
        None,
        "Time cap",
        help="The whole plan within this.",
        unit="min",
        ge=1,
        le=100000,
        moves=("time",),
        source="nobody",
    )
    mass_g: float | None = setting(
        None,
        "Mass cap",
        help="Filament of one part.",
        unit="g",
        ge=0.1,
        le=100000,
        moves=("mass",),
        source="nobody",
    )
    cost: float | None = setting(
        None,
        "Money cap",
        help="Filament, machine, electricity and failures of one part.",
        unit="€",
        ge=0.01,
        le=100000,
        moves=("time", "mass"),
        source="nobody",
    )


class Footing(Group):
    """What helps the part to start and to hold."""

    skirt_loops: int = setting(
        1,
        "Priming loops",
        help="Loops around the part that prime the nozzle. 0 is none.",
        ge=0,
        le=50,
        moves=("time",),
    )
    prime_volume: float = setting(
        0.0,
        "Priming volume",
        help="As many loops as it takes to lay this much. 0 leaves it to the number of loops.",
        unit="mm³",
        ge=0,
        le=2000,
        moves=("time",),
    )
    skirt_distance: float = setting(
        4.0,
        "Priming distance",
        help="From the part's first layer.",
        unit="mm",
        ge=0.5,
        le=100,
    )
    skirt_height: int = setting(
        1,
        "Priming layers",
        help="Loops stand this many layers tall, against draughts.",
        unit="layers",
        ge=1,
        le=1000,
        moves=("time",),
    )
    skirt_width: float = setting(
        0.45,
        "Footing width",
        help="Bead width of loops, brim and raft.",
        unit="mm",
        ge=0.1,
        le=4,
    )
    brim_reach: float = setting(
        0.0,
        "Brim",
        help="How far beads around the first layer reach. 0 is none.",
        unit="mm",
        ge=0,
        le=100,
        moves=("time", "mass"),
    )
    brim_where: Literal["outside", "holes", "both"] = setting(
        "outside",
        "Brim where",
        help="Around the part, in its holes, or both.",
        moves=("time",),
    )
    brim_clearance: float = setting(
        0.0,
        "Brim clearance",
        help="Gap to the part that lets it come off cleanly.",
        unit="mm",
        ge=0,
        le=2,
        moves=("surface",),
    )
    raft_layers: int = setting(
        0,
        "Raft layers",
        help="Layers the part stands on instead of the bed. 0 is none.",
        unit="layers",
        ge=0,
        le=20,
        moves=("time", "mass"),
    )
    raft_margin: float = setting(
        3.0,
        "Raft margin",
        help="How far the raft reaches beyond the part.",
        unit="mm",
        ge=0,
        le=50,
        moves=("time", "mass"),
    )
    raft_gap: float = setting(
        0.2,
        "Raft gap",
        help="Open height between raft and part.",
        unit="mm",
        ge=0,
        le=2,
        moves=("surface",),
    )


class Ends(Group):
    """What is sent before and after the part."""

    start_gcode: str | None = setting(
        None,
        "Start",
        help="Fields, sums and conditions in braces, as in the machine's own.",
        moves=("file",),
        source="machine",
        multiline=True,
    )
    end_gcode: str | None = setting(
        None,
        "End",
        help="Sent after the last layer.",
        moves=("file",),
        source="machine",
        multiline=True,
    )
