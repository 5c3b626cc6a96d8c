"""Speeds, accelerations, flow and retraction."""

from __future__ import annotations

from typing import Literal

from northpace.spec.declare import Group, setting


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
    dial: float | None = setting(
        None,
        "Dial",
        help="From precise (0) to quick (100): all speeds and accelerations go between the two "
        "sets of the material on this machine; those set by hand stay.",
        unit="%",
        ge=0,
        le=100,
        moves=("time", "surface"),
        source="typed speed",
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

    @property
    def follows(self) -> bool:
        """Whether speeds follow from something else than being typed."""
        return self.derived or self.dial is not None
