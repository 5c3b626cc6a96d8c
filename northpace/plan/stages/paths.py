"""All paths of a plan: walls, what lies inside them, supports, footing, and the rows they are laid
in.
"""

from __future__ import annotations

import numpy as np

from northpace.geometry.polygons import Pieces, joined
from northpace.heights.surface import Facets
from northpace.moves import GAP, SOLID, TOP
from northpace.outlines.sections import Outlines
from northpace.part.place import Placed
from northpace.paths import footing as footings
from northpace.paths.fill import skins as faces
from northpace.paths.fill.areas import FillAreas, SkinRules
from northpace.paths.fill.bridges import bridge_paths
from northpace.paths.fill.by_place import (
    DENSITY,
    INFILL_SETTINGS,
    SKIN_SETTINGS,
    laid_density,
    local_infill,
    shelled,
    split_areas,
)
from northpace.paths.fill.by_place import skin_rules as rules_by_layer
from northpace.paths.fill.gaps import Gaps, compact, dabs, gap_paths
from northpace.paths.fill.skins import Skins
from northpace.paths.fill.solid import solid_paths
from northpace.paths.fill.why import Why, reasons
from northpace.paths.footing import Foot
from northpace.paths.places import NO_PLACES, PACE_SETTINGS, Places, places_of
from northpace.paths.spiral.stretches import laid_as_spirals, spirals
from northpace.paths.supports.overhangs import Leaning, overhangs
from northpace.paths.supports.stands import Stands, no_stands
from northpace.paths.supports.stands import stands as build_stands
from northpace.paths.table import PathTable
from northpace.paths.travel.lay import Rows, TravelRules, lay
from northpace.paths.travel.seam import SeamRule, seam_marks
from northpace.paths.walls import loops
from northpace.paths.walls.loops import Walls, nominal_height, wall_counts, widths_by_layer
from northpace.paths.walls.widen import widen
from northpace.plan.stage import Names, stage
from northpace.plan.stages.heights import outlines
from northpace.plan.stages.shape import facets, placed
from northpace.spec import ByLayer, PlanSpec, Region
from northpace.spec.portion import View, regions_changing

Turns = tuple[tuple[int, int], ...]
#: What says how tall a layer usually is.
NOMINAL = ("surface.kind", "surface.layer_height", "surface.stack")
#: What says where the middle of the bed lies.
ORIGIN = (
    "machine.bed",
    "machine.size_x",
    "machine.size_y",
    "machine.origin_x",
    "machine.origin_y",
)


def _volumes(regions: tuple[Region, ...]) -> tuple[Region, ...]:
    return tuple(region.volume() for region in regions)


def _saying(kind: str) -> View:
    """The regions that say something about attention, seam or support, and what they say."""

    def chosen(regions: tuple[Region, ...]) -> tuple[Region, ...]:
        return tuple(
            region.volume().model_copy(update={kind: getattr(region, kind)})
            for region in regions
            if getattr(region, kind)
        )

    return View("body.regions", chosen)


def _changing(*names: str) -> View:
    """The regions that change one of these settings, with these changes alone."""
    return View("body.regions", lambda regions: regions_changing(regions, names))


def _layers(spec: PlanSpec, outlines: Outlines) -> ByLayer:
    return ByLayer(spec, outlines.tops, outlines.heights)


def _wide(spec: PlanSpec, outlines: Outlines, name: str, instead: str = "") -> np.ndarray:
    """(N,) width of a bead in mm; that of ``instead`` where it is left open."""
    local = _layers(spec, outlines)
    own = local.numbers(name, local[instead] if instead else 0.0)
    return widths_by_layer(own, spec.body.first_layer_width)


@stage(
    outlines,
    phase="paths",
    reads=("body.bottom_thickness", "body.bottom_layers"),
    local=("body.build",),
)
def turns(spec: PlanSpec, outlines: Outlines) -> Turns:
    """First layer and end of every stretch that is laid as one spiral."""
    return tuple(spirals(_layers(spec, outlines), outlines))


@stage(
    outlines,
    turns,
    phase="paths",
    reads=NOMINAL,
    local=("body.walls", "body.wall_thickness", "body.outer_width", "body.inner_width"),
    known_by=lambda counts: counts.tobytes().hex(),
)
def counts(spec: PlanSpec, outlines: Outlines, turns: Turns) -> np.ndarray:
    """(N,) number of walls in every layer; a spiral's wall is not among them."""
    found = wall_counts(_layers(spec, outlines), nominal_height(spec.surface, outlines))
    for begin, end in turns:
        found[begin:end] = 0
    return found


@stage(
    outlines,
    counts,
    phase="paths",
    reads=("body.first_layer_width", "body.wall_order", "body.thin_beads"),
    local=("body.outer_width", "body.inner_width"),
)
def walls(spec: PlanSpec, outlines: Outlines, counts: np.ndarray) -> Walls:
    """Closed beads along the outlines, and what they leave."""
    asked = loops.Asked(
        counts,
        _wide(spec, outlines, "body.outer_width"),
        _wide(spec, outlines, "body.inner_width"),
        spec.body.wall_order == "outside-first",
        spec.body.thin_beads,
    )
    return loops.walls(outlines, asked)


@stage(
    outlines,
    counts,
    walls,
    phase="paths",
    reads=(
        "body.first_layer_width",
        "body.fill_gaps",
        "body.thin_beads",
        "body.inner_width",
        "body.outer_width",
    ),
    local=("body.solid_width",),
)
def gaps(spec: PlanSpec, outlines: Outlines, counts: np.ndarray, walls: Walls) -> Gaps:
    """Beads of fitting width where walls leave room, and what no bead reaches."""
    body, count = spec.body, int(counts.max(initial=0))
    width = _wide(spec, outlines, "body.solid_width")
    between, left = gap_paths(walls.leftover, outlines, width, count, body.fill_gaps)
    around, left = walls.paths, joined([left, walls.slivers])
    if body.fill_gaps:
        around, left = widen(walls.paths, left, body.inner_width)
    spots, missing = Pieces(left.polygons[:0], left.owner[:0]), walls.missing
    if body.thin_beads:
        spots, missing = compact(walls.missing, body.outer_width)
    between = PathTable.joined([between, dabs(spots, outlines, width, 45.0, count, GAP)])
    return Gaps(around, between, left, missing)


@stage(outlines, placed, phase="paths", reads=(View("body.regions", _volumes),))
def regions(spec: PlanSpec, outlines: Outlines, placed: Placed) -> Places:
    """Where the regions of a plan lie in its layers."""
    return places_of(spec.body.regions, placed, outlines.tops, outlines.heights)


#: The regions, for stages whose portion of the spec may hold none.
REGIONS = regions.where(lambda spec: bool(spec.body.regions), NO_PLACES)


@stage(outlines, placed, phase="paths", reads=("supports.angle",))
def leaning(spec: PlanSpec, outlines: Outlines, placed: Placed) -> Leaning:
    """What leans out further than it carries itself, for supports and for what is said of it."""
    return overhangs(outlines, placed, spec.supports.angle)


#: Middles (K, 3) and areas (K,) of the facets that are seen.
Seen = tuple[np.ndarray, np.ndarray]


def _any_seen(spec: PlanSpec) -> bool:
    return "seen" in [
        *(mark.attention for mark in spec.surface.marks),
        *(region.attention for region in spec.body.regions),
    ]


@stage(
    facets.where(_any_seen, None),
    phase="paths",
    reads=("surface.marks", _saying("attention")),
)
def seen(spec: PlanSpec, facets: Facets | None) -> Seen | None:
    """What of the surface is marked as seen; None where nothing is."""
    if facets is None:
        return None
    chosen = facets.weights > 1
    middles = facets.vertices[facets.faces[chosen]].mean(axis=1)
    return middles, facets.areas[chosen]


def _held(spec: PlanSpec) -> bool:
    return spec.supports.enabled


@stage(
    outlines,
    placed.where(_held, None),
    leaning.where(_held, None),
    seen.where(_held, None),
    REGIONS,
    phase="paths",
    reads=lambda spec: (
        ("supports", _saying("support"))
        if spec.supports.enabled
        else ("supports.enabled", View("body.regions", lambda regions: ()))
    ),
)
def stands(
    spec: PlanSpec,
    outlines: Outlines,
    placed: Placed | None,
    leaning: Leaning | None,
    seen: Seen | None,
    regions: Places,
) -> Stands:
    """Supports, where they are asked for."""
    if placed is None or leaning is None:
        return no_stands(len(outlines.tops))
    here = regions.among(spec.body.regions)
    ask, forbid = here.areas("support", "ask"), here.areas("support", "forbid")
    return build_stands(outlines, placed, leaning, spec.supports, seen, ask, forbid)


@stage(outlines, turns, phase="paths", local=("body.outer_width",))
def shells(spec: PlanSpec, outlines: Outlines, turns: Turns) -> Outlines | None:
    """Outlines that cover only their wall where a spiral is laid; None where none is."""
    return shelled(outlines, turns, _layers(spec, outlines)) if turns else None


@stage(
    outlines,
    turns,
    phase="paths",
    local=(DENSITY, "body.build"),
    known_by=lambda full: full.tolist(),
)
def full(spec: PlanSpec, outlines: Outlines, turns: Turns) -> np.ndarray:
    """(N,) whether a layer is solid throughout."""
    return np.asarray(laid_density(_layers(spec, outlines), turns) >= 100)


@stage(outlines, turns, full, phase="paths", reads=("body.floor_every",), local=SKIN_SETTINGS)
def skin_rules(spec: PlanSpec, outlines: Outlines, turns: Turns, full: np.ndarray) -> SkinRules:
    """What is solid in every layer, and why."""
    return rules_by_layer(_layers(spec, outlines), turns, outlines, full)


def _of_areas(spec: PlanSpec) -> Names:
    names: Names = (
        *("body.tie_length", "body.caught_infill", "body.caught_height", "body.patches"),
        *("body.solid_width", "body.build", _changing(*SKIN_SETTINGS, DENSITY)),
    )
    if spec.body.caught_infill == "keep":
        return names
    names = (*names, "body.infill_width")
    if spec.body.caught_infill != "when-quicker":
        return names
    return (*names, DENSITY, "pace.infill_speed", "pace.solid_speed", "pace.acceleration")


@stage(outlines, shells, walls, skin_rules, REGIONS, phase="paths", reads=_of_areas)
def areas(
    spec: PlanSpec,
    outlines: Outlines,
    shells: Outlines | None,
    walls: Walls,
    rules: SkinRules,
    regions: Places,
) -> FillAreas:
    """Where solid fill and where infill goes."""
    here = regions.among(spec.body.regions)
    return split_areas(shells or outlines, walls.border, spec, here, rules)


@stage(
    outlines, shells, areas, stands, phase="paths", reads=("body.solid_width", "body.tie_length")
)
def skins(
    spec: PlanSpec, outlines: Outlines, shells: Outlines | None, areas: FillAreas, stands: Stands
) -> Skins:
    """Which solid areas show, which bridge, and which lie inside."""
    body, held = spec.body, stands.held if len(stands.at) else None
    return faces.skins(areas.solid, shells or outlines, body.solid_width, body.tie_length, held)


@stage(outlines, shells, areas, skin_rules, phase="paths")
def why(
    spec: PlanSpec,
    outlines: Outlines,
    shells: Outlines | None,
    areas: FillAreas,
    rules: SkinRules,
) -> Why:
    """Why every solid patch is solid."""
    return reasons(areas, shells or outlines, rules)


@stage(
    outlines,
    counts,
    skins,
    why,
    phase="paths",
    reads=(
        "body.solid_angles",
        "body.solid_pattern",
        "body.top_pattern",
        "body.bridge_width",
        "body.first_layer_width",
        "machine.nozzle",
    ),
    local=("body.solid_width", "body.top_width"),
)
def solid(
    spec: PlanSpec, outlines: Outlines, counts: np.ndarray, skins: Skins, why: Why
) -> PathTable:
    """Lines of solid layers, tops and bridges."""
    body, rank = spec.body, int(counts.max(initial=0)) + 1
    bridge = spec.machine.nozzle if body.bridge_width is None else body.bridge_width
    inner = _wide(spec, outlines, "body.solid_width")
    top = _wide(spec, outlines, "body.top_width", "body.solid_width")
    return PathTable.joined(
        [
            bridge_paths(skins.bridges, outlines, bridge, rank, why.of[skins.bridges_of]),
            solid_paths(
                skins.inner,
                outlines,
                inner,
                body.solid_angles,
                body.solid_pattern,
                rank + 1,
                SOLID,
                why.of[skins.inner_of],
            ),
            solid_paths(
                skins.tops,
                outlines,
                top,
                body.solid_angles,
                body.top_pattern,
                rank + 2,
                TOP,
                why.of[skins.tops_of],
            ),
        ]
    )


@stage(
    outlines,
    counts,
    turns,
    areas,
    REGIONS,
    phase="paths",
    reads=(*NOMINAL, "machine.nozzle", "machine.greatest_height"),
    local=INFILL_SETTINGS,
)
def infill(
    spec: PlanSpec,
    outlines: Outlines,
    counts: np.ndarray,
    turns: Turns,
    areas: FillAreas,
    regions: Places,
) -> PathTable:
    """Infill, with the pattern and density that hold in every layer and region."""
    here = regions.among(spec.body.regions)
    rank = int(counts.max(initial=0)) + 4
    return local_infill(areas.sparse, outlines, _layers(spec, outlines), here, turns, rank)


@stage(
    outlines,
    stands,
    phase="paths",
    reads=("footing", "machine.nozzle", "machine.greatest_height", "machine.z_step"),
)
def footing(spec: PlanSpec, outlines: Outlines, stands: Stands) -> Foot:
    """Skirt, brim and raft."""
    held = stands.areas[0] if len(stands.at) else None
    return footings.footing(outlines, spec.footing, spec.machine, held)


@stage(footing, stands, gaps, solid, infill, phase="paths")
def laid(
    spec: PlanSpec,
    footing: Foot,
    stands: Stands,
    gaps: Gaps,
    solid: PathTable,
    infill: PathTable,
) -> PathTable:
    """All paths of the plan, in no order yet."""
    tables = [footing.paths, stands.paths, gaps.around, gaps.between, solid, infill]
    return PathTable.joined(tables)


@stage(
    outlines,
    placed,
    footing,
    laid,
    REGIONS,
    phase="paths",
    reads=(
        "surface.seam",
        "surface.seam_bearing",
        "surface.seam_marks",
        "body.joined_walls",
        "pace.retraction_travel",
        "pace.retract_where",
        "pace.longest_detour",
        "pace.lift",
        "pace.order",
        *ORIGIN,
        _saying("seam"),
    ),
)
def order(
    spec: PlanSpec,
    outlines: Outlines,
    placed: Placed,
    footing: Foot,
    laid: PathTable,
    regions: Places,
) -> Rows:
    """All paths in the order they are laid, with the travel between them."""
    surface, pace, joined_walls = spec.surface, spec.pace, spec.body.joined_walls
    here = regions.among(spec.body.regions)
    marks = seam_marks(surface, placed)
    seam = SeamRule(surface.seam, surface.seam_bearing, marks, joined_walls, here.seams())
    rules = TravelRules(
        pace.retraction_travel,
        pace.retract_where == "always",
        pace.longest_detour,
        pace.lift,
        joined_walls,
        pace.order,
    )
    return lay(laid, outlines, seam, rules, spec.machine.origin, footing.lift)


@stage(order, REGIONS, phase="paths", reads=(*ORIGIN, _changing(*PACE_SETTINGS)))
def parted(spec: PlanSpec, order: Rows, regions: Places) -> Rows:
    """Rows cut at the borders of regions that change the pace."""
    here = regions.among(spec.body.regions)
    return here.parted(order, spec.machine.origin) if here.change(*PACE_SETTINGS) else order


def _of_spirals(spec: PlanSpec) -> Names:
    built = [spec.body.build, *(band.changes.get("body.build") for band in spec.surface.bands)]
    if "spiral" not in built:
        return ()
    return (
        *("body.outer_contour_only", "body.rim", "body.build", "surface.seam_bearing"),
        *("machine.least_height", *ORIGIN),
    )


@stage(
    parted, outlines, turns, footing, phase="paths", reads=_of_spirals, local=("body.outer_width",)
)
def rows(spec: PlanSpec, parted: Rows, outlines: Outlines, turns: Turns, footing: Foot) -> Rows:
    """All moves of the part before they have speeds, spirals among them."""
    if not turns:
        return parted
    widths = _layers(spec, outlines)["body.outer_width"]
    return laid_as_spirals(parted, outlines, turns, spec, widths, footing.lift)
