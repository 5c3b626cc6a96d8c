"""All paths of a plan: walls, solid areas, infill, footing and supports, and the rows they are laid
in.

Every step is kept under a key of its own settings and of the steps it builds on.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from northpace.cache import StageCache
from northpace.errors import InputError
from northpace.moves import GAP, SOLID, TOP
from northpace.outlines.polygons import Pieces
from northpace.outlines.sections import Outlines
from northpace.part.solid import Placed
from northpace.paths import fill
from northpace.paths.areas import FillAreas
from northpace.paths.footing import Foot, footing
from northpace.paths.lay import Rows, TravelRules, lay
from northpace.paths.locally import (
    DENSITY,
    INFILL_SETTINGS,
    SKIN_SETTINGS,
    local_infill,
    shelled,
    skin_rules,
    spirals,
    split_areas,
)
from northpace.paths.order import SeamRule
from northpace.paths.places import NO_PLACES, PACE_SETTINGS, Places, places_of
from northpace.paths.rim import rim_path
from northpace.paths.skins import Skins, skins
from northpace.paths.spiral import breaks, rules_kept, spiral_path, spiral_rows
from northpace.paths.supports import Stands, no_stands, stands
from northpace.paths.table import PathTable
from northpace.paths.walls import NO_PIECES, Walls, joined, wall_counts, walls, widths_by_layer
from northpace.paths.why import Why, reasons
from northpace.paths.widen import widen
from northpace.spec import ByLayer, PlanSpec, Surface, digest


@dataclass(frozen=True)
class Built:
    """Everything the paths of a plan came from: rows and their key, the key of what does not depend
    on infill, number of walls, walls, solid and infill areas, what shows and what bridges, why
    patches are solid, supports, footing; ``between``: gaps between walls that no bead reaches,
    ``missing``: parts of the outline too thin for any bead (islands as owners); ``spirals``: first
    layer and end of every spiral; ``places``: the regions.
    """

    rows: Rows
    key: str
    shape_key: str
    count: int
    laid: Walls
    areas: FillAreas
    skins: Skins
    why: Why
    stands: Stands
    foot: Foot
    between: Pieces
    missing: Pieces
    spirals: tuple[tuple[int, int], ...] = ()
    places: Places = NO_PLACES


def build_paths(
    cache: StageCache,
    outlines: Outlines,
    outline_key: str,
    placed: Placed,
    place_key: str,
    spec: PlanSpec,
    check: Callable[[], None],
    seen: tuple[np.ndarray, np.ndarray] | None = None,
) -> Built:
    """Lay all paths of a plan; ``check`` is called between steps and may raise to stop. ``seen``:
    see `supports.stands`.
    """
    body, surface, count_of_layers = spec.body, spec.surface, len(outlines.tops)
    nominal = nominal_height(surface, outlines)
    local = ByLayer(spec, outlines.tops, outlines.heights)
    turns = spirals(local, outlines)
    counts = wall_counts(local, nominal)
    for begin, end in turns:
        counts[begin:end] = 0
    count = int(counts.max(initial=0))

    def wide(name: str, instead: str = "") -> np.ndarray:
        return widths_by_layer(
            local.numbers(name, local[instead] if instead else 0.0), body.first_layer_width
        )

    wall_key = digest(
        outline_key,
        _plain(counts),
        local.key("body.outer_width", "body.inner_width"),
        body.first_layer_width,
        body.wall_order,
        body.thin_beads,
    )
    laid: Walls = cache.get(
        "walls",
        wall_key,
        lambda: walls(
            outlines,
            counts,
            wide("body.outer_width"),
            wide("body.inner_width"),
            body.wall_order == "outside-first",
            body.thin_beads,
        ),
    )
    check()
    gap_key = digest(wall_key, local.key("body.solid_width"), body.fill_gaps)
    around, between, gaps, missing = cache.get(
        "gaps", gap_key, lambda: _gaps(laid, outlines, spec, wide("body.solid_width"), count)
    )
    check()
    places_key = digest(outline_key, place_key, body.regions) if body.regions else ""
    places: Places = (
        cache.get(
            "regions", places_key, lambda: places_of(spec, placed, outlines.tops, outlines.heights)
        )
        if body.regions
        else NO_PLACES
    )
    check()
    held: Stands = no_stands(count_of_layers)
    held_key = ""
    if spec.supports.enabled:
        held_key = digest(
            outline_key,
            place_key,
            spec.supports,
            surface.marks,
            places_key if places.say("support") else "",
        )
        held = cache.get(
            "supports",
            held_key,
            lambda: stands(
                outlines,
                placed,
                spec.supports,
                seen,
                places.areas("support", "ask"),
                places.areas("support", "forbid"),
            ),
        )
        check()
    shells, rules_of_skins = (
        shelled(outlines, turns, local),
        skin_rules(local, turns, outlines.tops, outlines.heights),
    )
    area_key = digest(
        wall_key,
        local.key(*SKIN_SETTINGS),
        body.tie_length,
        _plain(rules_of_skins.full),
        body.floor_every,
        body.caught_infill,
        body.caught_height,
        body.patches,
        turns,
        places_key if places.change(*SKIN_SETTINGS, DENSITY) else "",
        (
            local.key(DENSITY, "body.infill_width"),
            spec.pace.infill_speed,
            spec.pace.solid_speed,
            spec.pace.acceleration,
        )
        if body.caught_infill == "when-quicker"
        else None,
    )
    areas: FillAreas = cache.get(
        "areas", area_key, lambda: split_areas(shells, laid.border, local, places, rules_of_skins)
    )
    check()
    skin_key = digest(area_key, local.key("body.solid_width"), body.tie_length, held_key)
    shown: Skins = cache.get(
        "skins",
        skin_key,
        lambda: skins(
            areas.solid,
            shells,
            body.solid_width,
            body.tie_length,
            held.held if spec.supports.enabled else None,
        ),
    )
    why: Why = cache.get("why", area_key, lambda: reasons(areas, shells, body, rules_of_skins))
    check()
    bridge = spec.machine.nozzle if body.bridge_width is None else body.bridge_width
    solid_key = digest(
        skin_key,
        body.solid_angles,
        body.solid_pattern,
        body.top_pattern,
        local.key("body.top_width"),
        bridge,
        body.first_layer_width,
    )
    solid: PathTable = cache.get(
        "solid",
        solid_key,
        lambda: _solid(
            outlines,
            shown,
            why,
            spec,
            count,
            wide("body.solid_width"),
            wide("body.top_width", "body.solid_width"),
            bridge,
        ),
    )
    check()
    infill_key = digest(
        area_key,
        local.key(*INFILL_SETTINGS),
        nominal,
        spec.machine.h_max,
        places_key if places.change(*INFILL_SETTINGS) else "",
    )
    infill: PathTable = cache.get(
        "infill",
        infill_key,
        lambda: local_infill(areas.sparse, outlines, local, places, turns, nominal, count + 4),
    )
    check()
    foot_key = digest(outline_key, spec.footing, spec.machine.h_max, spec.machine.z_step, held_key)
    foot: Foot = cache.get(
        "footing",
        foot_key,
        lambda: footing(
            outlines, spec.footing, spec.machine, held.areas[0] if spec.supports.enabled else None
        ),
    )
    origin = spec.machine.origin
    pace = spec.pace
    rules = TravelRules(
        pace.retraction_travel,
        pace.retract_where == "always",
        pace.longest_detour,
        pace.lift,
        body.joined_walls,
        pace.order,
    )
    seam = SeamRule(
        surface.seam,
        surface.seam_bearing,
        seam_marks(surface, placed),
        body.joined_walls,
        places.seams(),
    )
    rows_key = digest(
        gap_key,
        solid_key,
        infill_key,
        foot_key,
        surface.seam,
        surface.seam_bearing,
        seam.marks.tolist(),
        vars(rules),
        origin,
        places_key if places.say("seam") else "",
    )
    rows: Rows = cache.get(
        "order",
        rows_key,
        lambda: lay(
            PathTable.joined([foot.paths, held.paths, around, between, solid, infill]),
            outlines,
            seam,
            rules,
            origin,
            foot.lift,
        ),
    )
    if places.change(*PACE_SETTINGS):
        rows_key = digest(rows_key, places_key)
        plain_rows = rows
        rows = cache.get("parted", rows_key, lambda: places.parted(plain_rows, origin))
    if turns:
        rows_key = digest(
            rows_key,
            "spiral",
            local.key("body.outer_width"),
            body.outer_contour_only,
            body.rim,
            spec.machine.least_height,
            turns,
            surface.seam_bearing,
        )
        ordinary = rows
        rows = cache.get(
            "spiral", rows_key, lambda: _spiral(ordinary, outlines, turns, local, origin, foot.lift)
        )
    return Built(
        rows,
        rows_key,
        digest(gap_key, skin_key),
        count,
        laid,
        areas,
        shown,
        why,
        held,
        foot,
        gaps,
        missing,
        tuple(turns),
        places,
    )


def _plain(values: np.ndarray) -> Any:
    """What an array contributes to a key: one value where it is the same throughout."""
    return values[0].item() if len(values) and (values == values[0]).all() else values.tolist()


def _spiral(
    rows: Rows,
    outlines: Outlines,
    turns: list[tuple[int, int]],
    local: ByLayer,
    origin: tuple[float, float],
    raised: float,
) -> Rows:
    if len(outlines.tops) < 2:
        raise InputError("a spiral needs a part of more than one layer", "body.build")
    spec, widths = local.spec, local["body.outer_width"]
    for begin, end in turns:
        width, ends = float(widths[begin]), end
        found = breaks(
            outlines, rules_kept(outlines, width), begin, end, spec.body.outer_contour_only
        )
        shut = (
            spec.body.rim != "top"
            and end == len(outlines.tops)
            and bool(found)
            and found[0].rule == "closes"
        )
        if shut:
            ends = int(np.searchsorted(outlines.tops, found[0].z - 1e-9))
        if found and (not shut or ends <= begin):
            raise InputError(
                f"the part cannot be one spiral: at {found[0].z:.2f} mm {found[0].reason}; "
                "the vase check proposes what can",
                "body.build",
            )
        bearing = spec.surface.seam_bearing
        path = (
            rim_path(outlines, begin, width, bearing, spec.machine.least_height)
            if shut and spec.body.rim == "follow"
            else spiral_path(outlines, begin, ends, width, bearing)
        )
        rows = spiral_rows(rows, path, begin, end, width, origin, raised)
    return rows


def nominal_height(surface: Surface, outlines: Outlines) -> float:
    """The usual layer height in mm: what was asked for, or the middle of those chosen."""
    if surface.kind == "even" and not surface.stack:
        return surface.layer_height
    return float(np.median(outlines.heights))


def seam_marks(surface: Surface, placed: Placed) -> np.ndarray:
    """(M, 5) places that attract the seam (+1) or repel it (−1): x, y, z and radius in mm on the
    placed part.
    """
    out = np.array(
        [
            [mark.x, mark.y, mark.z, mark.radius, 1.0 if mark.want else -1.0]
            for mark in surface.seam_marks
        ]
    ).reshape(-1, 5)
    out[:, :3] = out[:, :3] @ placed.affine[:, :3].T + placed.affine[:, 3]
    return out


def _gaps(
    laid: Walls, outlines: Outlines, spec: PlanSpec, width: np.ndarray, count: int
) -> tuple[PathTable, PathTable, Pieces, Pieces]:
    """Walls widened beside slivers, beads between walls, the gaps that stay, and what is missing of
    the outline.
    """
    between, left = fill.gap_paths(laid.leftover, outlines, width, count, spec.body.fill_gaps)
    around, left = laid.paths, joined([left, laid.slivers])
    if spec.body.fill_gaps:
        around, left = widen(laid.paths, left, spec.body.inner_width)
    spots, missing = (
        fill.compact(laid.missing, spec.body.outer_width)
        if spec.body.thin_beads
        else (NO_PIECES, laid.missing)
    )
    between = PathTable.joined([between, fill.dabs(spots, outlines, width, 45.0, count, GAP)])
    return around, between, left, missing


def _solid(
    outlines: Outlines,
    shown: Skins,
    why: Why,
    spec: PlanSpec,
    count: int,
    solid: np.ndarray,
    top: np.ndarray,
    bridge: float,
) -> PathTable:
    body = spec.body
    return PathTable.joined(
        [
            fill.bridge_paths(shown.bridges, outlines, bridge, count + 1, why.of[shown.bridges_of]),
            fill.solid_paths(
                shown.inner,
                outlines,
                solid,
                body.solid_angles,
                body.solid_pattern,
                count + 2,
                SOLID,
                why.of[shown.inner_of],
            ),
            fill.solid_paths(
                shown.tops,
                outlines,
                top,
                body.solid_angles,
                body.top_pattern,
                count + 3,
                TOP,
                why.of[shown.tops_of],
            ),
        ]
    )
