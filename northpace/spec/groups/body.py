"""Walls, solid layers and infill: how the body of the part is built."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from northpace.infill import PATTERNS
from northpace.spec.declare import Group, setting
from northpace.spec.places.regions import Region

if TYPE_CHECKING:
    PatternName = str
else:
    #: names of `northpace.infill.PATTERNS`
    PatternName = Literal[tuple(PATTERNS)]


class Patch(Group):
    """A solid patch kept or dropped by hand: the one nearest to a point, in mm from the middle of
    the bed and above the plate.
    """

    x: float = setting(
        0.0,
        "x",
        help="Of a point in the patch.",
        unit="mm",
    )
    y: float = setting(
        0.0,
        "y",
        help="Of a point in the patch.",
        unit="mm",
    )
    z: float = setting(
        0.0,
        "z",
        help="Of a point in the patch, above the plate.",
        unit="mm",
    )
    keep: bool = setting(
        True,
        "Keep",
        help="True keeps it solid whatever its size; false makes it infill.",
    )


class Body(Group):
    """Walls, solid layers, infill."""

    build: Literal["ordinary", "spiral", "open-vessel"] = setting(
        "ordinary",
        "Built as",
        help="Ordinary: walls, skins and infill. Spiral: above its solid base one wall that "
        "rises without a stop; one outline, "
        "no hole, every turn on half of the one below. Open vessel: walls on a solid foot, "
        "open at the top, nothing inside.",
        moves=("time", "mass", "surface", "strength"),
        within="band",
    )
    outer_contour_only: bool = setting(
        False,
        "Outer contour only",
        help="A spiral of a part whose wall is modelled with both its sides follows the outer one.",
        moves=("mass",),
    )
    rim: Literal["top", "level", "follow"] = setting(
        "top",
        "Spiral ends",
        help="At the top of the part; or, for a rim that slants, level where the outline "
        "first closes inward, what lies above left out; "
        "or following the rim, all turns tilted a little.",
        moves=("time", "mass"),
    )
    walls: int = setting(
        3,
        "Walls",
        help="Number of closed beads along every outline.",
        ge=0,
        le=50,
        moves=("time", "mass", "strength"),
        within="region",
    )
    wall_thickness: float | None = setting(
        None,
        "Wall thickness",
        help="Instead of a number: as many walls as come nearest to it.",
        unit="mm",
        ge=0,
        le=50,
        moves=("time", "mass", "strength"),
        source="walls",
        within="region",
    )
    outer_width: float = setting(
        0.45,
        "Outer wall width",
        help="Width of the bead that shows.",
        unit="mm",
        ge=0.1,
        le=4,
        moves=("time", "surface"),
        within="band",
    )
    inner_width: float = setting(
        0.45,
        "Inner wall width",
        help="Width of the walls behind it.",
        unit="mm",
        ge=0.1,
        le=4,
        moves=("time", "strength"),
        within="band",
    )
    first_layer_width: float | None = setting(
        None,
        "First layer width",
        help="Of every bead laid on the plate. Wider holds better.",
        unit="mm",
        ge=0.1,
        le=4,
        moves=("time", "fit"),
        source="feature",
    )
    wall_order: Literal["outside-last", "outside-first"] = setting(
        "outside-last",
        "Wall order",
        help="Outside last shows better on overhangs; outside first holds sizes better.",
        moves=("surface", "fit"),
    )
    joined_walls: bool = setting(
        False,
        "Join walls",
        help="Neighbouring wall loops go on into each other at the seam: a layer's walls start and "
        "stop once.",
        moves=("time", "surface"),
    )
    thin_beads: bool = setting(
        True,
        "Fit thin parts",
        help="Ribs and letters narrower than two beads get one bead of fitting width along their "
        "middle. Otherwise they are missing.",
        moves=("time", "fit", "strength"),
    )
    fill_gaps: bool = setting(
        True,
        "Fill gaps",
        help="What no wall reaches between walls gets a bead of fitting width.",
        moves=("time", "strength"),
    )
    top_thickness: float = setting(
        0.8,
        "Top thickness",
        help="Solid material under every surface open to above. 0, with no least count, leaves "
        "the part open at the top.",
        unit="mm",
        ge=0,
        le=100,
        moves=("time", "mass", "surface", "strength"),
        within="region",
    )
    top_layers: int = setting(
        3,
        "Top layers, at least",
        help="Kept even when the layers are tall.",
        ge=0,
        le=1000,
        moves=("time", "mass"),
        within="region",
    )
    bottom_thickness: float = setting(
        0.6,
        "Bottom thickness",
        help="Solid material over every surface open to below.",
        unit="mm",
        ge=0,
        le=100,
        moves=("time", "mass", "strength"),
        within="region",
    )
    bottom_layers: int = setting(
        3,
        "Bottom layers, at least",
        help="Kept even when the layers are tall.",
        ge=0,
        le=1000,
        moves=("time", "mass"),
        within="region",
    )
    bottoms_on_bed_only: bool = setting(
        False,
        "Bottoms on the bed only",
        help="Surfaces that look down higher up get no solid layers.",
        moves=("time", "mass"),
        within="band",
    )
    skin_steepest: float = setting(
        90.0,
        "Steepest skin",
        help="Steeper surfaces need no solid layers behind them, their walls close them. 0 is "
        "level, 90 upright: every surface.",
        unit="°",
        ge=5,
        le=90,
        moves=("time", "mass", "surface"),
        within="band",
    )
    solid_width: float = setting(
        0.45,
        "Solid width",
        help="Bead width of solid layers.",
        unit="mm",
        ge=0.1,
        le=4,
        moves=("time", "surface"),
        within="band",
    )
    top_width: float | None = setting(
        None,
        "Top width",
        help="Bead width of the top that shows.",
        unit="mm",
        ge=0.1,
        le=4,
        moves=("time", "surface"),
        source="body.solid_width",
        within="band",
    )
    solid_pattern: Literal["lines", "concentric"] = setting(
        "lines",
        "Solid pattern",
        help="Of solid layers that do not show.",
        moves=("surface", "strength"),
        within="region",
    )
    top_pattern: Literal["lines", "one-way", "concentric"] = setting(
        "lines",
        "Top pattern",
        help="Of the top that shows. One way: every line in the same direction, for an even "
        "sheen; concentric follows the "
        "outline.",
        moves=("surface", "time"),
        within="region",
    )
    solid_angles: tuple[float, ...] = setting(
        (45.0, -45.0),
        "Solid angles",
        help="Directions of solid lines, one layer after the other, over and over.",
        unit="°",
        moves=("surface", "strength"),
        kind="numbers",
    )
    least_solid_area: float = setting(
        4.0,
        "Least solid area",
        help="Smaller solid patches become infill, and the other way round.",
        unit="mm²",
        ge=0,
        le=10000,
        moves=("time", "mass"),
        within="region",
    )
    tie_length: float = setting(
        0.8,
        "Tie length",
        help="How far a solid patch reaches beyond what is open, to hold on to.",
        unit="mm",
        ge=0,
        le=20,
        moves=("strength", "mass"),
    )
    floor_every: float = setting(
        0.0,
        "Solid floor every",
        help="A solid layer across the infill every so many mm. 0 is none.",
        unit="mm",
        ge=0,
        le=1000,
        moves=("time", "mass", "strength"),
    )
    caught_infill: Literal["keep", "when-quicker", "solid"] = setting(
        "keep",
        "Infill between skins",
        help="A low hollow between a floor and a roof: kept as infill, made solid when that "
        "is quicker, or always "
        "made solid.",
        moves=("time", "strength"),
    )
    caught_height: float = setting(
        1.0,
        "Low hollow up to",
        help="Only hollows lower than this are caught between skins.",
        unit="mm",
        ge=0,
        le=20,
        moves=("time", "mass"),
    )
    bridge_width: float | None = setting(
        None,
        "Bridge bead",
        help="Diameter of the round bead that spans open air.",
        unit="mm",
        ge=0.1,
        le=4,
        moves=("surface", "strength"),
        source="nozzle",
    )
    patches: tuple[Patch, ...] = setting(
        (),
        "Patches by hand",
        help="Solid patches kept or dropped one by one.",
        moves=("time", "mass"),
    )
    regions: tuple[Region, ...] = setting(
        (),
        "Regions",
        help="Volumes in the part with settings of their own; where two overlap, the later "
        "one in the list has "
        "the last word.",
        moves=("time", "mass", "strength"),
    )
    infill_density: float = setting(
        15.0,
        "Infill density",
        help="Laid volume of the enclosed volume; 0 is hollow, 100 is solid.",
        unit="%",
        ge=0,
        le=100,
        moves=("time", "mass", "strength"),
        within="region",
    )
    infill_pattern: PatternName = setting(
        "lines",
        "Infill pattern",
        help="; ".join(f"{name}: {pattern.help}" for name, pattern in PATTERNS.items()) + ".",
        moves=("time", "strength"),
        within="region",
    )
    infill_angle: float = setting(
        45.0,
        "Infill angle",
        help="Direction of the first infill lines.",
        unit="°",
        ge=-360,
        le=360,
        moves=("strength",),
        within="region",
    )
    infill_width: float = setting(
        0.45,
        "Infill width",
        help="Bead width of the infill.",
        unit="mm",
        ge=0.1,
        le=4,
        moves=("time", "strength"),
        within="region",
    )
    infill_every: int = setting(
        1,
        "Infill every",
        help="Infill is laid with every so many layers at once, as far as bead and nozzle allow.",
        unit="layers",
        ge=1,
        le=10,
        moves=("time", "strength"),
        within="band",
    )

    def as_laid(self) -> Body:
        """The body with what its way of being built sets aside; the settings themselves stay for
        when it is ordinary again.
        """
        if self.build == "ordinary":
            return self
        return self.model_copy(
            update={
                "infill_density": 0.0,
                "top_thickness": 0.0,
                "top_layers": 0,
                "floor_every": 0.0,
            }
        )
