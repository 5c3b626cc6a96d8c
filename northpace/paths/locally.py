"""Skins and infill where bands and regions change them, and the layers that are laid as a
spiral.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from northpace.layers.edges import foot_layers
from northpace.outlines.polygons import (
    EMPTY,
    Pieces,
    collect,
    difference,
    explode,
    intersection,
    offset,
)
from northpace.outlines.sections import Outlines
from northpace.paths import fill
from northpace.paths.areas import FillAreas, SkinRules, fill_areas
from northpace.paths.places import Places
from northpace.paths.table import PathTable
from northpace.paths.walls import NO_PIECES, joined
from northpace.spec import ByLayer

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
INFILL_SETTINGS = (
    DENSITY,
    "body.infill_pattern",
    "body.infill_angle",
    "body.infill_width",
    "body.infill_every",
    "body.build",
)


def spirals(local: ByLayer, outlines: Outlines) -> list[tuple[int, int]]:
    """First layer and end of every stretch that is laid as one spiral: above the solid foot, or as
    bands say.
    """
    build = local["body.build"]
    turning = build == "spiral"
    if not turning.any():
        return []
    foot = min(foot_layers(outlines.tops, local.spec), max(len(outlines.tops) - 1, 1))
    turning[:foot] &= local.band[:foot] >= 0
    turning[0] = False
    edges = np.flatnonzero(np.diff(np.r_[False, turning, False].astype(np.int8))).reshape(-1, 2)
    return [(int(begin), int(end)) for begin, end in edges]


def laid_density(local: ByLayer, turns: list[tuple[int, int]]) -> np.ndarray:
    """(N,) infill density in % of every layer, none where it is built open."""
    out = local.numbers(DENSITY, 0.0)
    out[local["body.build"] != "ordinary"] = 0.0
    for begin, end in turns:
        out[begin:end] = 0.0
    return out


def skin_rules(
    local: ByLayer, turns: list[tuple[int, int]], tops: np.ndarray, heights: np.ndarray
) -> SkinRules:
    """What is solid in every layer; a vessel has no tops and no floors, a spiral has nothing
    inside.
    """
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
        laid_density(local, turns) >= 100,
        floors & ~vessel,
    )


def shelled(outlines: Outlines, turns: list[tuple[int, int]], local: ByLayer) -> Outlines:
    """Outlines that cover nothing but their wall where a spiral is laid: what lies above and below
    needs skins there.
    """
    if not turns:
        return outlines
    areas, width = outlines.coarse.copy(), local["body.outer_width"]
    for begin, end in turns:
        areas[begin:end] = difference(
            areas[begin:end], offset(areas[begin:end], -float(width[begin]))
        )
    return outlines.covering(areas)


def split_areas(
    shells: Outlines, border: np.ndarray, local: ByLayer, places: Places, rules: SkinRules
) -> FillAreas:
    """The area inside the walls (I,) as solid and infill, by the rules of every layer and
    region.
    """
    body, pace = local.spec.body.as_laid(), local.spec.pace
    if not places.change(*SKIN_SETTINGS, DENSITY):
        return fill_areas(shells, border, body, rules, pace)
    whole = explode(border)
    zones, case, cases = places.partition(
        whole, shells.islands.owner[whole.owner], (*SKIN_SETTINGS, DENSITY)
    )
    found = []
    for number, changes in enumerate(cases):
        mine = case == number
        if not mine.any():
            continue
        zone = collect(Pieces(zones.polygons[mine], zones.owner[mine]), len(border))
        # only where the case occurs is there something to decide; the skins beside it come out the
        # same
        some = np.where(shapely.is_empty(zone), EMPTY, border)
        found.append(_within(fill_areas(shells, some, body, _ruled(rules, changes), pace), zone))
    return FillAreas(
        joined([entry.solid for entry in found]),
        joined([entry.sparse for entry in found]),
        joined([entry.small for entry in found]),
    )


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
    sparse: Pieces,
    outlines: Outlines,
    local: ByLayer,
    places: Places,
    turns: list[tuple[int, int]],
    nominal: float,
    rank: int,
) -> PathTable:
    """Infill of every layer and region with the density, pattern, angle and width that
    hold there.
    """
    spec, layer = local.spec, outlines.islands.owner[sparse.owner]
    most = spec.machine.h_max
    if not places.change(*INFILL_SETTINGS) and not local.varies(*INFILL_SETTINGS):
        body = spec.body.as_laid()
        return fill.infill_paths(
            sparse,
            outlines,
            body.infill_width,
            body.infill_density / 100,
            body.infill_angle,
            body.infill_pattern,
            nominal,
            rank,
            body.infill_every,
            most,
        )
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
            tables.append(
                fill.infill_paths(
                    some,
                    outlines,
                    float(width),
                    float(density) / 100,
                    float(angle),
                    str(pattern),
                    nominal,
                    rank,
                    int(every),
                    most,
                )
            )
    return PathTable.joined(tables)
