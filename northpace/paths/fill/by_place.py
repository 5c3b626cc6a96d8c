"""Skins and infill where bands and regions change them."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    NO_PIECES,
    Pieces,
    by_owner,
    collect,
    difference,
    explode,
    intersection,
    joined,
    offset,
    united,
)
from northpace.outlines.sections import Outlines
from northpace.paths.fill.areas import FillAreas, SkinRules, fill_areas
from northpace.paths.fill.sparse import Infill, Room, fit_of, infill_paths
from northpace.paths.places import Places
from northpace.paths.table import PathTable
from northpace.paths.walls.loops import nominal_height
from northpace.spec import ByLayer, PlanSpec
from northpace.spec.by_layer import value_of

#: First layer and end of every stretch that is laid as one spiral.
Turns = tuple[tuple[int, int], ...]

DENSITY = "body.infill_density"
#: Settings that say what is solid, and those that say how infill is laid.
SKIN_SETTINGS = (
    "body.top_thickness",
    "body.top_layers",
    "body.bottom_thickness",
    "body.bottom_layers",
    "body.skin_steepest",
    "body.bottoms_on_bed_only",
    "body.least_solid_area",
    "body.solid_width",
    "body.build",
)
PATTERN_SETTINGS = ("body.solid_pattern", "body.top_pattern")
INFILL_SETTINGS = (
    DENSITY,
    "body.infill_pattern",
    "body.infill_angle",
    "body.infill_width",
    "body.infill_every",
    "body.build",
)


def laid_density(local: ByLayer, turns: Turns) -> np.ndarray:
    """(N,) infill density in % of every layer, none where it is built open."""
    out = local.numbers(DENSITY, 0.0)
    out[local["body.build"] != "ordinary"] = 0.0
    for begin, end in turns:
        out[begin:end] = 0.0
    return out


def skin_rules(local: ByLayer, turns: Turns, outlines: Outlines, full: np.ndarray) -> SkinRules:
    """What is solid in every layer; a vessel has no tops and no floors, a spiral has nothing
    inside. ``full`` (N,) says which layers are solid throughout.
    """
    tops, heights = outlines.tops, outlines.heights
    vessel = local["body.build"] != "ordinary"
    inside = np.zeros(local.count, bool)
    for begin, end in turns:
        inside[begin:end] = True
    every = local.spec.body.floor_every
    floors = (
        np.floor(tops / every + 1e-6) > np.floor((tops - heights) / every + 1e-6)
        if every > 0
        else np.zeros(local.count, bool)
    )

    def unless(where: np.ndarray, name: str) -> np.ndarray:
        return np.where(where, 0.0, local.numbers(name, 0.0))

    return SkinRules(
        unless(vessel, "body.top_thickness"),
        unless(vessel, "body.top_layers"),
        unless(inside, "body.bottom_thickness"),
        unless(inside, "body.bottom_layers"),
        local.numbers("body.skin_steepest", 90.0),
        local["body.bottoms_on_bed_only"].astype(bool),
        local.numbers("body.least_solid_area", 0.0),
        full,
        floors & ~vessel,
    )


def shelled(outlines: Outlines, turns: Turns, local: ByLayer) -> Outlines:
    """Outlines that cover nothing but their wall where a spiral is laid: what lies above and below
    needs skins there.
    """
    areas, width = outlines.coarse.copy(), local["body.outer_width"]
    for begin, end in turns:
        areas[begin:end] = difference(
            areas[begin:end], offset(areas[begin:end], -float(width[begin]))
        )
    return outlines.covering(areas)


def split_areas(
    shells: Outlines, border: np.ndarray, spec: PlanSpec, places: Places, rules: SkinRules
) -> FillAreas:
    """The area inside the walls (I,) as solid and infill, by the rules of every layer and
    region.
    """
    body = spec.body.as_laid()
    pace = spec.pace if body.caught_infill == "when-quicker" else None
    if not places.change(*SKIN_SETTINGS, DENSITY):
        return fill_areas(shells, border, body, rules, pace)
    whole = explode(border)
    zones, case, cases = places.partition(
        whole, shells.islands.owner[whole.owner], (*SKIN_SETTINGS, DENSITY)
    )
    varied = np.isin(np.arange(len(border)), zones.owner[case > 0])
    found = [fill_areas(shells, np.where(varied, EMPTY, border), body, rules, pace)]
    for number, changes in enumerate(cases):
        mine = (case == number) & varied[zones.owner]
        if not mine.any():
            continue
        zone = collect(Pieces(zones.polygons[mine], zones.owner[mine]), len(border))
        # only where the case occurs is there something to decide; the skins beside it come out the
        # same
        some = np.where(shapely.is_empty(zone), EMPTY, border)
        found.append(_within(fill_areas(shells, some, body, _ruled(rules, changes), pace), zone))
    solid, small = (
        by_owner(joined([getattr(entry, name) for entry in found])) for name in ("solid", "small")
    )
    # infill goes on across the border of a region: whether it does is asked when it is laid
    some = np.flatnonzero(varied)
    left = difference(border[some], united(solid, len(border))[some])
    open_ = explode(left, 0.02)
    sparse = [found[0].sparse, Pieces(open_.polygons, some[open_.owner])]
    return FillAreas(solid, by_owner(joined(sparse)), small)


def _ruled(rules: SkinRules, changes: dict[str, Any]) -> SkinRules:
    """Rules with what a region changes, in every layer."""
    names = {
        "body.top_thickness": "top",
        "body.top_layers": "top_least",
        "body.bottom_thickness": "bottom",
        "body.bottom_layers": "bottom_least",
        "body.least_solid_area": "least_area",
    }
    values = {
        field: np.full(len(rules.top), float(changes[name]))
        for name, field in names.items()
        if name in changes
    }
    if DENSITY in changes:
        values["full"] = np.full(len(rules.top), changes[DENSITY] >= 100)
    return replace(rules, **values)


def _within(areas: FillAreas, zone: np.ndarray) -> FillAreas:
    def clip(pieces: Pieces, least: float) -> Pieces:
        if len(pieces) == 0:
            return NO_PIECES
        found = explode(intersection(pieces.polygons, zone[pieces.owner]), least)
        return Pieces(found.polygons, pieces.owner[found.owner])

    return FillAreas(clip(areas.solid, 0.02), clip(areas.sparse, 0.02), clip(areas.small, 0.1))


def local_infill(
    sparse: Pieces, outlines: Outlines, local: ByLayer, places: Places, turns: Turns
) -> PathTable:
    """Infill of every layer and region with the density, pattern, angle and width that
    hold there.
    """
    spec, layer = local.spec, outlines.islands.owner[sparse.owner]
    room = Room(nominal_height(spec.surface, outlines), spec.machine.h_max)
    body = spec.body.as_laid()
    usual = Infill(
        body.infill_density / 100,
        body.infill_pattern,
        body.infill_angle,
        body.infill_width,
        body.infill_every,
    )
    if not places.change(*INFILL_SETTINGS) and not local.varies(*INFILL_SETTINGS):
        return infill_paths(sparse, outlines, usual, room)
    # what is usual lies as if it were so throughout: borders of regions, and what is beside them,
    # have no part in it
    plain = sparse.some(~places.changing((*SKIN_SETTINGS, *INFILL_SETTINGS), local.count)[layer])
    fit = fit_of(plain, outlines, usual, room) if usual.density < 1 else None
    pieces, case, cases = places.partition(sparse, layer, INFILL_SETTINGS)
    layer = outlines.islands.owner[pieces.owner]
    columns = {name: local[name][layer].astype(object) for name in INFILL_SETTINGS[:-1]}
    columns[DENSITY] = laid_density(local, turns)[layer].astype(object)
    for number, changes in enumerate(cases):
        for name, value in changes.items():
            columns[name][case == number] = value
    known: dict[tuple[Any, ...], int] = {}
    kind = np.array(
        [known.setdefault(entry, len(known)) for entry in zip(*columns.values(), strict=True)],
        np.int64,
    )
    tables = []
    for (density, pattern, angle, width, every), number in known.items():
        mine = kind == number
        if 0 < density < 100:
            some = Pieces(pieces.polygons[mine], pieces.owner[mine])
            asked = Infill(
                float(density) / 100, str(pattern), float(angle), float(width), int(every)
            )
            own = fit if asked == usual else None
            tables.append(infill_paths(some, outlines, asked, room, own))
    return PathTable.joined(tables)


def alike(local: ByLayer, places: Places, names: tuple[str, ...], value: str) -> np.ndarray:
    """(N,) whether all settings of these names have a value throughout a layer."""
    out = ~places.changing(names, local.count)
    for name in names:
        out &= local[name] == value
    return out


def by_pattern(
    pieces: Pieces, outlines: Outlines, local: ByLayer, places: Places, name: str
) -> list[tuple[Pieces, np.ndarray, str]]:
    """Solid pieces (S,) cut by the pattern that holds in each layer and region: for every pattern
    its pieces (P,), the numbers (P,) of those they are of, and its name.
    """
    if not places.change(name) and not local.varies(name):
        return [(pieces, np.arange(len(pieces)), str(value_of(local.spec, name)))]
    # each is known by its number, so that it is known what it is of
    numbered = Pieces(pieces.polygons, np.arange(len(pieces)))
    layer = outlines.islands.owner[pieces.owner]
    parts, case, cases = places.partition(numbered, layer, (name,))
    pattern = local[name][layer][parts.owner].astype(object)
    for number, changes in enumerate(cases):
        if name in changes:
            pattern[case == number] = changes[name]
    out = []
    for value in sorted(set(pattern.tolist())):
        mine = pattern == value
        of = parts.owner[mine]
        out.append((Pieces(parts.polygons[mine], pieces.owner[of]), of, str(value)))
    return out
