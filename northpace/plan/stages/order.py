"""All paths of a plan in the rows they are laid in."""

from __future__ import annotations

from northpace.outlines.sections import Outlines
from northpace.part.place import Placed
from northpace.paths.apart import Apart
from northpace.paths.fill.gaps import Gaps
from northpace.paths.footing import Foot
from northpace.paths.places import PACE_SETTINGS, Places
from northpace.paths.spiral.stretches import laid_as_spirals
from northpace.paths.supports.overhangs import Leaning
from northpace.paths.supports.stands import Stands
from northpace.paths.table import PathTable
from northpace.paths.travel.land import Land, land_of
from northpace.paths.travel.lay import TravelRules, lay
from northpace.paths.travel.order import NO_LAYERS, Layers, PathOrder, order_paths
from northpace.paths.travel.rows import Rows
from northpace.paths.travel.seam import SeamRule, seam_marks
from northpace.paths.walls.spans import bridge_bead, bridged, open_spans
from northpace.plan.stage import Before, Names, Now, stage
from northpace.plan.stages.fill import infill, solid
from northpace.plan.stages.heights import outlines
from northpace.plan.stages.places import REGIONS
from northpace.plan.stages.portions import ORIGIN, changing, layered, saying
from northpace.plan.stages.shape import placed
from northpace.plan.stages.supports import footing, leaning, stands
from northpace.plan.stages.walls import Turns, gaps, turns
from northpace.spec import PlanSpec
from northpace.spec.portion import View, contents

#: Paths by what they are for, each of them kept where it was made. Together they are large, and
#: quickly put together.
Laid = tuple[PathTable, ...]


@stage(footing, stands, gaps, solid, infill, phase="paths")
def laid(
    spec: PlanSpec,
    footing: Foot,
    stands: Stands,
    gaps: Gaps,
    solid: PathTable,
    infill: PathTable,
) -> Laid:
    """All paths of the plan, in no order yet."""
    return (footing.paths, stands.paths, gaps.around, gaps.between, solid, infill)


def _order_again(before: Before, now: Now) -> PathOrder | None:
    """The order with what is known of layers whose paths are the same."""
    outlines, placed, paths, regions = now.values
    if outlines is not before.values[0] or placed is not before.values[1]:
        return None
    if contents(now.part) != contents(before.part):
        return None
    old, new = (PathTable.joined(list(some)) for some in (before.values[2], paths))
    same = ~Apart.of(outlines).paths(old, new, by_stand=True)
    known = before.result.layers._replace(same=same)
    return _ordered(now.part, outlines, placed, new, regions, known)


@stage(
    outlines,
    placed,
    laid,
    REGIONS,
    phase="paths",
    reads=(
        "surface.seam",
        "surface.seam_bearing",
        "surface.seam_marks",
        "body.joined_walls",
        "pace.order",
        saying("seam"),
    ),
    again=_order_again,
)
def sequence(
    spec: PlanSpec, outlines: Outlines, placed: Placed, laid: Laid, regions: Places
) -> PathOrder:
    """The order in which paths are laid, and where each begins."""
    return _ordered(spec, outlines, placed, PathTable.joined(list(laid)), regions)


def _ordered(
    spec: PlanSpec,
    outlines: Outlines,
    placed: Placed,
    laid: PathTable,
    regions: Places,
    known: Layers = NO_LAYERS,
) -> PathOrder:
    surface, joined_walls = spec.surface, spec.body.joined_walls
    here = regions.among(spec.body.regions)
    marks = seam_marks(surface, placed)
    seam = SeamRule(surface.seam, surface.seam_bearing, marks, joined_walls, here.seams())
    return order_paths(laid, seam, outlines.tops, spec.pace.order, known)


@stage(outlines, stands, phase="paths", reads=(View("pace.longest_detour", bool),))
def land(spec: PlanSpec, outlines: Outlines, stands: Stands) -> Land:
    """What travels run over."""
    held = stands.areas if len(stands.at) else None
    return land_of(outlines, bool(spec.pace.longest_detour), held)


@stage(
    sequence,
    land,
    footing,
    laid,
    phase="paths",
    reads=(
        "body.joined_walls",
        "pace.retraction_travel",
        "pace.retract_where",
        "pace.longest_detour",
        "pace.lift",
        *ORIGIN,
    ),
    kept=False,
)
def order(spec: PlanSpec, sequence: PathOrder, land: Land, footing: Foot, laid: Laid) -> Rows:
    """All paths in the order they are laid, with the travel between them."""
    pace = spec.pace
    rules = TravelRules(
        pace.retraction_travel,
        pace.retract_where == "always",
        pace.longest_detour,
        pace.lift,
        spec.body.joined_walls,
    )
    paths = PathTable.joined(list(laid))
    return lay(paths, sequence, land, rules, spec.machine.origin, footing.lift)


@stage(
    order,
    leaning,
    stands,
    phase="paths",
    reads=("body.bridge_width", "machine.nozzle", *ORIGIN),
)
def spanned(spec: PlanSpec, order: Rows, leaning: Leaning, stands: Stands) -> Rows:
    """Rows with walls that cross open air as bridges."""
    bead = bridge_bead(spec.body, spec.machine)
    return bridged(order, open_spans(leaning, stands.held), bead, spec.machine.origin)


@stage(spanned, REGIONS, phase="paths", reads=(*ORIGIN, changing(*PACE_SETTINGS)))
def parted(spec: PlanSpec, spanned: Rows, regions: Places) -> Rows:
    """Rows cut at the borders of regions that change the pace."""
    here = regions.among(spec.body.regions)
    return here.parted(spanned, spec.machine.origin) if here.change(*PACE_SETTINGS) else spanned


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
    widths = layered(spec, outlines)["body.outer_width"]
    return laid_as_spirals(parted, outlines, turns, spec, widths, footing.lift)
