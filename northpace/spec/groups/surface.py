"""What the part will look like: layer heights, and the pins, bands and marks set by hand."""

from __future__ import annotations

import math
from typing import Literal

from northpace.spec.declare import Group, setting
from northpace.spec.groups.machine import Machine
from northpace.spec.places.bands import Band, overlaps


class Pin(Group):
    """A layer height fixed by hand: that of the layer that contains a height."""

    z_mm: float = setting(
        0.0,
        "At",
        help="Height above the plate.",
        unit="mm",
        ge=0,
        le=5000,
    )
    height_mm: float = setting(
        0.2,
        "Height",
        help="Of the layer there.",
        unit="mm",
        ge=0.01,
        le=2.0,
    )


class HeightStroke(Group):
    """Heights shaped by hand over a stretch: finer, taller, or evened out. Full in its middle, soft
    at both ends.
    """

    kind: Literal["change", "even-out"] = setting(
        "change",
        "Stroke",
        help="Makes layers finer or taller, or evens their heights out.",
    )
    from_mm: float = setting(0.0, "From", help="Above the plate.", unit="mm", ge=0, le=5000)
    to_mm: float = setting(10.0, "To", help="Above the plate.", unit="mm", ge=0, le=5000)
    by: float = setting(
        -30.0,
        "Changes by",
        help="Below 0 finer, above 0 taller, of what the layers there are.",
        unit="%",
        ge=-90,
        le=200,
    )
    times: int = setting(
        1,
        "Times",
        help="How often the stretch was evened out.",
        ge=1,
        le=50,
    )


class Mark(Group):
    """A face of the part whose surface counts more or less. The point is in the file's coordinates,
    so it moves with the part.
    """

    x: float = setting(
        0.0,
        "x",
        help="Of a point on the face, in the file.",
        unit="mm",
    )
    y: float = setting(
        0.0,
        "y",
        help="Of a point on the face, in the file.",
        unit="mm",
    )
    z: float = setting(
        0.0,
        "z",
        help="Of a point on the face, in the file.",
        unit="mm",
    )
    spread: float = setting(
        20.0,
        "Spread",
        help="The face goes on over edges that turn by no more than this.",
        unit="°",
        ge=0,
        le=180,
    )
    attention: Literal["seen", "ordinary", "hidden"] = setting(
        "seen",
        "Attention",
        help="How much its surface counts.",
    )


class SeamMark(Group):
    """A place that attracts the seam or stays clear of it. The point is in the file's coordinates,
    so it moves with the part.
    """

    x: float = setting(
        0.0,
        "x",
        help="Of the middle, in the file.",
        unit="mm",
    )
    y: float = setting(
        0.0,
        "y",
        help="Of the middle, in the file.",
        unit="mm",
    )
    z: float = setting(
        0.0,
        "z",
        help="Of the middle, in the file.",
        unit="mm",
    )
    radius: float = setting(
        5.0,
        "Radius",
        help="Reach of the place.",
        unit="mm",
        ge=0.1,
        le=500,
    )
    want: bool = setting(
        True,
        "Attract",
        help="True attracts the seam, false keeps it clear.",
    )


class Surface(Group):
    """What the part will look like."""

    kind: Literal["even", "adaptive", "best-fit"] = setting(
        "even",
        "Heights",
        help="Even: one height. Adaptive: as tall as the target allows everywhere. Best fit: "
        "least time for a surface, or "
        "the best surface within a time.",
        moves=("time", "surface"),
    )
    measure: Literal["mean", "p95", "max"] = setting(
        "p95",
        "Measure",
        help="What a best fit's target means: the mean of the step error, what 95 % of the "
        "surface stays under, or all of it.",
        moves=("time", "surface"),
    )
    target_um: float = setting(
        100.0,
        "Surface target",
        help="Step error that is still accepted. Adaptive keeps it everywhere.",
        unit="µm",
        ge=1,
        le=2000,
        moves=("time", "surface"),
    )
    time_cap_min: float | None = setting(
        None,
        "Time cap",
        help="Best fit: the best surface within this time, heating included. Left open: the "
        "least time for the target.",
        unit="min",
        ge=1,
        le=60000,
        moves=("time", "surface"),
        source="surface target",
    )
    worst_um: float | None = setting(
        None,
        "Nothing above",
        help="Best fit: no step taller than this anywhere, beside the mean or the percentile "
        "that is asked for; a "
        "percentile alone may leave its worst 5 % in one place.",
        unit="µm",
        ge=1,
        le=5000,
        moves=("surface", "time"),
        source="measure",
    )
    least_height: float | None = setting(
        None,
        "Not below",
        help="Least layer height of this plan; the machine's own limit holds anyway.",
        unit="mm",
        ge=0.01,
        le=2.0,
        moves=("time", "surface"),
        source="machine",
    )
    greatest_height: float | None = setting(
        None,
        "Not above",
        help="Greatest layer height of this plan.",
        unit="mm",
        ge=0.01,
        le=2.0,
        moves=("time", "surface"),
        source="nozzle",
    )
    step_limit: float = setting(
        1.25,
        "Step limit",
        help="Largest ratio from a layer to the next, so that no jump shows. The first layer "
        "and the one on it are free of it: the first is set apart.",
        unit="×",
        ge=1,
        le=3,
        moves=("time", "surface"),
    )
    overhang_rule: bool = setting(
        False,
        "Lower layers where it leans out",
        help="Adaptive and best fit: no layer so tall that its bead hangs more than half "
        "beyond the "
        "one below.",
        moves=("time", "surface"),
    )
    meet_flats: bool = setting(
        False,
        "Meet level faces exactly",
        help="A layer boundary at every level face. Otherwise its distance counts as step error.",
        moves=("surface", "fit"),
    )
    seen_weight: float = setting(
        4.0,
        "Weight of seen faces",
        help="How often a face marked as seen counts in mean and percentile.",
        unit="×",
        ge=1,
        le=100,
        moves=("surface", "time"),
    )
    hidden_weight: float = setting(
        0.0,
        "Weight of hidden faces",
        help="0 leaves hidden faces out of all surface figures.",
        unit="×",
        ge=0,
        le=1,
        moves=("surface", "time"),
    )
    pins: tuple[Pin, ...] = setting(
        (),
        "Pins",
        help="Layer heights fixed by hand at a height.",
        moves=("time", "surface"),
    )
    bands: tuple[Band, ...] = setting(
        (),
        "Bands",
        help="Stretches of height with settings of their own.",
        moves=("time", "surface", "mass", "strength"),
    )
    strokes: tuple[HeightStroke, ...] = setting(
        (),
        "Strokes",
        help="Heights shaped by hand, one stroke after the other, within what all rules allow.",
        moves=("time", "surface"),
    )
    calm: float = setting(
        0.5,
        "Calm",
        help="Adaptive and best fit: heights change as seldom as they can for at most so much "
        "more time. What was asked of the surface stays kept. 0 takes what is quickest.",
        unit="%",
        ge=0,
        le=20,
        moves=("time", "surface"),
    )
    marks: tuple[Mark, ...] = setting(
        (),
        "Attention",
        help="Faces that count more or less.",
        moves=("time", "surface"),
    )
    stack: tuple[float, ...] = setting(
        (),
        "Heights one by one",
        help="Every layer from the bed up, in mm; overrides how heights are chosen, strokes too. "
        "Test slices use it.",
        moves=("time", "surface"),
    )
    layer_height: float = setting(
        0.2,
        "Layer height",
        help="Height of every layer above the first. Half the height is about twice the time.",
        unit="mm",
        ge=0.01,
        le=2.0,
        moves=("time", "surface"),
    )
    first_layer_height: float = setting(
        0.2,
        "First layer height",
        help="A taller first layer forgives an uneven bed; a lower one holds better.",
        unit="mm",
        ge=0.01,
        le=2.0,
        moves=("time",),
    )
    outline_offset: float = setting(
        0.0,
        "Outline offset",
        help="Grows every outline (holes shrink). -0.1 takes 0.2 off a diameter.",
        unit="mm",
        ge=-2,
        le=2,
        moves=("fit",),
    )
    first_layer_offset: float = setting(
        0.0,
        "First layer offset",
        help="Added on the first layer only, against the squashed edge.",
        unit="mm",
        ge=-2,
        le=2,
        moves=("fit",),
    )
    seam: Literal["bearing", "corner", "nearest", "spread"] = setting(
        "bearing",
        "Seam",
        help="Where a wall starts: towards a bearing, hidden in the sharpest corner, where "
        "the travel is shortest, or spread "
        "around.",
        moves=("surface", "time"),
    )
    seam_bearing: float = setting(
        90.0,
        "Seam bearing",
        help="Direction the seam lies in, from x; 90 is the rear.",
        unit="°",
        ge=-360,
        le=360,
        moves=("surface",),
    )
    seam_marks: tuple[SeamMark, ...] = setting(
        (),
        "Seam areas",
        help="Places that attract the seam or stay clear of it.",
        moves=("surface",),
    )

    @property
    def is_bounded(self) -> bool:
        """Whether the largest step is bounded, everywhere or in a band."""
        return self.worst_um is not None or any(band.worst_um is not None for band in self.bands)

    @property
    def has_target(self) -> bool:
        """Whether heights are chosen for a surface target."""
        return self.kind != "even" and self.time_cap_min is None and not self.stack

    @property
    def has_time_cap(self) -> bool:
        """Whether heights are chosen for the best surface within a time."""
        return self.kind == "best-fit" and self.time_cap_min is not None and not self.stack


def height_contradictions(surface: Surface, machine: Machine) -> list[str]:
    """Pins, bands and limits that contradict the machine, the height step or each other, each with
    its height and both rules; the first five.
    """
    low, high = machine.least_height, machine.h_max
    problems: list[str] = []
    for name in ("least_height", "greatest_height"):
        problems += _not_laid(name, "this plan", getattr(surface, name), machine)
    if (surface.least_height or low) > (surface.greatest_height or high) + 1e-9:
        problems.append(
            f"surface.least_height: {surface.least_height or low:g} mm is more than the plan's "
            f"greatest layer height of {surface.greatest_height or high:g} mm"
        )
    for number, pin in enumerate(surface.pins, 1):
        what = f"pin {number} at {pin.z_mm:g} mm"
        problems += _not_laid("pins", what, pin.height_mm, machine)
        in_first = pin.z_mm < surface.first_layer_height - 1e-9
        if in_first and abs(pin.height_mm - surface.first_layer_height) > 1e-9:
            problems.append(
                f"surface.pins: {what} lies in the first layer, whose height of "
                f"{surface.first_layer_height:g} mm is set apart"
            )
    for band in surface.bands:
        problems += _of_band(band, surface, machine)
    problems += overlaps(surface.bands)
    problems += [
        f"surface.strokes: stroke {number} ends at {stroke.to_mm:g} mm, not above where it begins "
        f"({stroke.from_mm:g} mm)"
        for number, stroke in enumerate(surface.strokes, 1)
        if stroke.to_mm <= stroke.from_mm
    ]
    for number, height in enumerate(surface.stack, 1):
        problems += _not_laid("stack", f"layer {number}", height, machine)
    return problems[:5]


def _not_laid(where: str, what: str, value: float | None, machine: Machine) -> list[str]:
    """Why a machine does not lay a layer height, in a sentence."""
    low, high, q = machine.least_height, machine.h_max, machine.z_step
    if value is None:
        return []
    if not low - 1e-9 <= value <= high + 1e-9:
        return [
            f"surface.{where}: {what} asks for {value:g} mm; the limit of {machine.name} with "
            f"its {machine.nozzle:g} mm nozzle is {low:g} to {high:g} mm"
        ]
    if abs(value / q - round(value / q)) > 1e-6:
        return [
            f"surface.{where}: {what} asks for {value:g} mm, no multiple of the machine's "
            f"height step of {q:g} mm"
        ]
    return []


def _of_band(band: Band, surface: Surface, machine: Machine) -> list[str]:
    """What contradicts itself, the machine or a pin in a band."""
    problems: list[str] = []
    least, most = band.least_mm, band.greatest_mm
    for value in (band.height_mm, least, most):
        problems += _not_laid("bands", band.title, value, machine)
    if not band.tied and band.to_mm - band.from_mm < machine.least_height - 1e-9:
        problems.append(
            f"surface.bands: {band.title} runs from {band.from_mm:g} to {band.to_mm:g} mm; it "
            f"must be at least one layer of {machine.least_height:g} mm tall"
        )
    if band.height_mm is not None and (least is not None or most is not None):
        problems.append(
            f"surface.bands: {band.title} has both a height and a range; one of them decides"
        )
    if least is not None and most is not None and least > most + 1e-9:
        problems.append(
            f"surface.bands: {band.title} asks for at least {least:g} and at most {most:g} mm"
        )
    for number, pin in enumerate(surface.pins, 1):
        same = band.height_mm is None or abs(band.height_mm - pin.height_mm) < 1e-9
        within = (least or 0) - 1e-9 <= pin.height_mm <= (most or math.inf) + 1e-9
        if band.from_mm <= pin.z_mm < band.to_mm and not (same and within):
            problems.append(
                f"surface.pins: at {pin.z_mm:g} mm pin {number} asks for {pin.height_mm:g} mm and "
                f"{band.title} for another height; one of them has to go"
            )
    return problems
