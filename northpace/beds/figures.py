"""The report of a bed as types; every figure is a sum over its move table."""

from __future__ import annotations

from typing_extensions import TypedDict

from northpace.figures import FindingFigures


class Breakdown(TypedDict):
    """Where the seconds of a way go: rows that add up to its total."""

    way: str
    #: whether every plan keeps its own layer heights, or all share one stack
    heights: str
    total_s: float
    rows: dict[str, float]
    #: mm of travel between placings, moves along z, how often filament is pulled back, passes
    travel_between_mm: float
    z_moves: int
    retractions: int
    passes: int
    #: s that slowing for least layer times takes
    slowing_s: float
    #: what stands against it, in a sentence; "" for nothing
    against: str


class PlacingFigures(TypedDict):
    """A placing: what it takes, and when it is laid."""

    number: int
    name: str
    plan: str
    seconds: float
    grams: float
    cost: float
    by_feature: dict[str, float]
    #: s from the start of the bed
    begin_s: float
    end_s: float
    #: begin and end of the times it is laid in, those close to each other as one, s
    laid_s: list[list[float]]
    top_mm: float
    passes: int
    #: µm, of its own plan
    mean_error_um: float
    p95_um: float


class PassFigures(TypedDict):
    """Passes, one value each: top and height in mm, seconds, grams, placings visited."""

    tops_mm: list[float]
    heights_mm: list[float]
    seconds: list[float]
    grams: list[float]
    placings: list[int]


class Pause(TypedDict):
    """A pause: when it begins (s from the start), how long it takes, after which placing."""

    at_s: float
    seconds: float
    after: int


class StackOfPlan(TypedDict):
    """A plan under one stack for all and under its own: step error in the measure."""

    plan: str
    name: str
    um: float
    own_um: float


class StackFigures(TypedDict):
    """One stack for all beside heights of their own; seconds are quick ones."""

    measure: str
    target_um: float
    reached_um: float
    passes: int
    own_passes: int
    seconds: float
    own_seconds: float
    plans: list[StackOfPlan]


class BedReport(TypedDict):
    """The exact figures of a bed."""

    total_s: float
    by_feature: dict[str, float]
    flow_floor_s: float
    start_s: float
    length_mm: float
    volume_mm3: float
    mass_g: float
    cost: float
    moves: int
    #: whether the file tells the machine which placing a move belongs to
    labels: bool
    #: numbers of the placings as they are laid, those of a group in a pass's order
    order: list[list[int]]
    placings: list[PlacingFigures]
    passes: PassFigures
    pauses: list[Pause]
    #: the way it is laid in first, then the others, and one placing after the other as jobs of
    #: their own
    ways: list[Breakdown]
    #: None where all share their layers anyway
    stack: StackFigures | None
    findings: list[FindingFigures]
