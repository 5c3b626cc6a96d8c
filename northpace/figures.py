"""The report of a plan as types: what the command line writes, the API describes and the browser
knows. Every figure is a sum over the move table; units are in the names.

`northpace.plan.report` fills them. A field is added here and there, and nowhere else.
"""

from __future__ import annotations

from typing import Any, Literal, NotRequired

from typing_extensions import TypedDict

#: How much a finding matters: it would not print; look at it; good to know.
Severity = Literal["stop", "look", "note"]
#: What can decide how tall a layer is.
Rule = Literal[
    "first-layer",
    "even",
    "target",
    "curvature",
    "step-limit",
    "machine-limit",
    "finest",
    "plan-limit",
    "pin",
    "band",
    "flat",
    "overhang",
    "time",
    "top",
    "given",
    "by-hand",
]
#: x, y, z in mm from the middle of the bed.
Point = list[float]


class PartFigures(TypedDict):
    """The part as it stands, and what was mended."""

    triangles: int
    volume_mm3: float
    size_mm: list[float]
    closed: bool
    bodies: int
    mended: list[str]
    widest_opening_mm: float
    added_volume_mm3: float


class CalmFigures(TypedDict):
    """How often layer heights change and turn, now and before calm was looked for, and the seconds
    given for it.
    """

    changes: int
    turns: int
    changes_before: int
    turns_before: int
    cost_s: float


class ByHand(TypedDict):
    """What strokes made of the heights they were drawn over."""

    seconds: float
    mean_um: float
    p95_um: float
    max_um: float


class LayerChoices(TypedDict):
    """Step error of layers from the bed up, what decided each, and what a taller (``coarser_*``) or
    a finer layer there would bring in seconds and µm.
    """

    error_um: list[float]
    mean_error_um: list[float]
    rule: list[Rule]
    coarser_s: list[float]
    coarser_um: list[float]
    finer_s: list[float]
    finer_um: list[float]


class Layers(LayerChoices):
    """Layers from the bed up, one value each."""

    count: int
    heights_mm: list[float]
    tops_mm: list[float]
    seconds: list[float]


class ReportLayers(Layers):
    """With the share of the asked speed that slowing left, and grams."""

    slowed: list[float]
    mass_g: list[float]


class Above(TypedDict):
    """A stretch of height in mm that is let go above the target: its share of the whole surface
    that is above, and the largest step error in µm.
    """

    from_mm: float
    to_mm: float
    share: float
    max_um: float


class Surface(TypedDict):
    """Surface error in µm; ``gap``: the share by which no other stack could be better; ``above``:
    what a percentile or a mean lets through.
    """

    mean_um: float
    p95_um: float
    max_um: float
    over_target: float
    above: list[Above]
    gap: float
    reached: bool
    out_of_reach_mm: list[list[float]]
    missed: str
    seen_mm2: float
    hidden_mm2: float
    flats_mm: list[float]
    calm: CalmFigures
    by_hand: ByHand | None


class Times(TypedDict):
    """Seconds; ``flow_floor``: what no speed can beat; ``spread``: one standard deviation of the
    machine's jobs, 0 while it is not known.
    """

    total: float
    by_feature: dict[str, float]
    flow_floor: NotRequired[float]
    spread: NotRequired[float]


class Filament(TypedDict):
    """Filament and money (€)."""

    volume_mm3: float
    length_mm: float
    mass_g: float
    cost: float


class CostShares(TypedDict):
    """What the cost is the sum of, in €."""

    material: float
    machine: float
    power: float
    failed: float


class SpoolFigures(TypedDict):
    """Parts the spool gives, and what would make one more fit."""

    parts: int
    left_over_g: float
    lighter_for_one_more_g: float


class ReportFilament(Filament):
    """With its shares."""

    cost_shares: CostShares
    by_feature_mm: dict[str, float]
    spool: SpoolFigures | None


class PaceRow(TypedDict):
    """A row of the pace table; reached and held_by come with the exact plan, seconds ≈ before."""

    name: str
    setting: str
    asked: float
    acceleration: float | None
    push: str
    section_mm2: float
    flow: float
    share: float
    derived: bool
    push_derived: bool
    reached: float | None
    seconds: float | None
    held_by: str


class PaceDial(TypedDict):
    """The two ends of the dial: mm/s and mm/s² by setting, and which of them are typed."""

    precise: dict[str, float]
    quick: dict[str, float]
    typed_precise: list[str]
    typed_quick: list[str]


class Pace(TypedDict):
    """Flows in mm³/s at a nozzle temperature in °C, and what meets the limit first."""

    rows: list[PaceRow]
    safe_flow: float
    most_flow: float
    limited_by: Literal["nozzle", "material"]
    temp: float
    first_at_limit: str
    dial: PaceDial | None


class LedgerEntry(TypedDict):
    """What something takes."""

    seconds: float
    grams: float
    cost: float
    by_feature: dict[str, float]


class LedgerFeature(TypedDict):
    """What a feature takes, and its longest move where it takes most."""

    feature: str
    seconds: float
    grams: float
    cost: float
    at_mm: Point | None


class LedgerStretch(LedgerEntry):
    """What a stretch of height takes."""

    from_mm: float
    to_mm: float


class LedgerBand(LedgerEntry):
    """What a band takes, or the rest of the part."""

    name: str
    from_mm: float | None
    to_mm: float | None


class Ledger(TypedDict):
    """Entries that each add up to the whole plan."""

    features: list[LedgerFeature]
    bands: list[LedgerBand]
    heights: list[LedgerStretch]
    start: LedgerEntry


class PathFigures(TypedDict):
    """Moves, travel, seams, walls, and what no bead reaches."""

    moves: int
    travel_mm: float
    travel_saved_mm: float
    retractions: int
    outer_wall_crossings: int
    around: int
    seams: int
    gap_area_mm2: float
    gap_fill_area_mm2: float
    missing_area_mm2: float
    walls: int
    wall_thickness_mm: float
    diameter_change_mm: float
    first_diameter_change_mm: float


class StrengthFigures(TypedDict):
    """Proxies, not a simulation: relative to a solid part, by layer and at the weakest."""

    solid_share: list[float]
    stiffness: list[float]
    least_stiffness: float
    least_at_mm: float
    mean_stiffness: float


class FootingFigures(TypedDict):
    """How far a raft lifts the part, loops around it, and what stands on the bed."""

    lift_mm: float
    loops: int
    area_mm2: float
    contact_mm2: float


class PatchFigures(TypedDict):
    """A solid patch: where it is, what it costs, which open faces cause it."""

    at_mm: Point
    from_mm: float
    to_mm: float
    area_mm2: float
    seconds: float
    solid: bool
    kinds: list[str]


class Solid(TypedDict):
    """Patches, and the causes the move table numbers: patch, kind, z of the open face in mm."""

    patches: list[PatchFigures]
    causes: list[list[Any]]


class StandFigures(TypedDict):
    """A stand of support: where it is, what it costs, what it touches, why it is there."""

    number: int
    at_mm: Point
    from_mm: float
    to_mm: float
    contact_mm2: float
    seconds: float
    seen_mm2: float
    on_part: bool
    why: str


class Lanes(TypedDict):
    """Values of every layer: % infill, walls, mm/s, mm³/s, °C, % fan."""

    infill: list[float]
    walls: list[float]
    speed: list[float]
    flow: list[float]
    nozzle_temp: list[float]
    fan: list[float]


class BandPlace(TypedDict):
    """A band where its edges really are."""

    name: str
    from_mm: float
    to_mm: float


class RegionPlace(TypedDict):
    """Where a region reaches inside the part; null where it lies outside."""

    name: str
    from_mm: float | None
    to_mm: float | None
    area_mm2: float


class FindingFigures(TypedDict):
    """A finding: what it is, where it shows, what would help, settings that put it right.

    ``places`` are the worst of ``count``; ``below`` is the code of the finding with the same cause
    that this one is listed below.
    """

    code: str
    severity: Severity
    message: str
    z_mm: float | None
    at_mm: Point | None
    help: str
    places: list[Point]
    change: dict[str, Any]
    count: int
    below: str


class Report(TypedDict):
    """The exact figures of a plan."""

    part: PartFigures
    layers: ReportLayers
    surface: Surface
    time_s: Times
    filament: ReportFilament
    paths: PathFigures
    strength: StrengthFigures
    footing: FootingFigures
    solid: Solid
    stands: list[StandFigures]
    lanes: Lanes
    pace: Pace
    ledger: Ledger
    bands: list[BandPlace]
    regions: list[RegionPlace]
    spirals: list[list[float]]
    findings: list[FindingFigures]
    #: seconds by phase of computing it
    elapsed_s: NotRequired[dict[str, float]]
    core_version: NotRequired[str]


class Resolved(TypedDict):
    """Values a plan leaves open, as the core takes them."""

    #: layer heights between the rules' bounds, mm
    least_height: float
    greatest_height: float
    #: seconds a layer needs to set
    least_layer_time: float
    #: °C
    nozzle_temp: float
    first_nozzle_temp: float
    bed_temp: float
    first_bed_temp: float
    #: mm/s that cooling does not go below
    floor_speed: float
    #: % of the full fan
    fan: float
    bridge_fan: float
    #: mm³/s that is not exceeded
    safe_flow: float
    #: machine coordinates of the middle of the bed, mm
    origin: list[float]


class Now(TypedDict):
    """What figures are said of: every setting, and what is left open as the core takes it."""

    spec: dict[str, dict[str, Any]]
    resolved: Resolved


class QuickReport(TypedDict):
    """The ≈ figures of a plan, and the settings they are of."""

    exact: bool
    now: Now
    pace: Pace
    time_s: Times
    filament: Filament
    layers: Layers
    surface: Surface
