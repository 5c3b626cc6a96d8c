"""Findings about travel: strings across open air, and the head dragged over surfaces that show."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.finding import MOST_PLACES, Finding, some
from northpace.moves import TOP, TRAVEL, Moves
from northpace.outlines.polygons import Pieces, collect
from northpace.outlines.sections import Outlines
from northpace.paths.build import Built
from northpace.spec import PlanSpec

#: A travel strings when it runs further through open air than this (mm); a drag shows from this
#: length (mm) on.
STRING, DRAG = 3.0, 2.0


def travel_findings(
    outlines: Outlines, built: Built, moves: Moves, spec: PlanSpec
) -> list[Finding]:
    """Travels that leave the part or cross what shows."""
    return [*_strings(outlines, built, moves, spec), *_drags(outlines, built, moves, spec)]


def _segments(moves: Moves, index: np.ndarray, spec: PlanSpec) -> np.ndarray:
    """(n, 2, 2) from and to of moves, in mm from the middle of the bed."""
    ends = np.stack([moves.x, moves.y], axis=1) - np.array(spec.machine.origin)
    return np.stack([ends[index - 1], ends[index]], axis=1)


def _listed(
    segments: np.ndarray, z: np.ndarray, weight: np.ndarray
) -> tuple[tuple[float, float, float], ...]:
    order = np.argsort(-weight)[:MOST_PLACES]
    middle = segments[order].mean(axis=1)
    return tuple(
        (round(float(x), 3), round(float(y), 3), float(k))
        for (x, y), k in zip(middle, z[order], strict=True)
    )


def _strings(outlines: Outlines, built: Built, moves: Moves, spec: PlanSpec) -> list[Finding]:
    index = np.flatnonzero(built.rows.crossed & (moves.layer > 0))
    if len(index) == 0:
        return []
    segments = _segments(moves, index, spec)
    lines = shapely.linestrings(segments)
    areas = outlines.coarse
    shapely.prepare(areas)
    layer = moves.layer[index]
    free = shapely.length(lines) - shapely.length(shapely.intersection(lines, areas[layer]))
    bad = free > STRING
    found = _crossings(segments[~bad], outlines.tops[layer[~bad]], spec)
    if not bad.any():
        return found
    pulled = spec.pace.retraction_length > 0
    places = _listed(segments[bad], outlines.tops[layer[bad]], free[bad])
    return [
        *found,
        Finding(
            "strings",
            "note" if pulled else "look",
            f"{some(int(bad.sum()), 'travel crosses', 'travels cross')} open air, "
            f"{free[bad].sum() / 1000:.1f} m in all"
            + (
                ", with the filament pulled back"
                if pulled
                else " without pulling the filament back"
            )
            + ": "
            "strings may show inside.",
            places[0][2],
            places[0],
            "A longer detour keeps the head inside the part; more retraction pulls harder."
            if pulled
            else "A retraction pulls the filament back before them.",
            places,
            {} if pulled else {"pace.retraction_length": 0.8},
        ),
    ]


def _crossings(segments: np.ndarray, z: np.ndarray, spec: PlanSpec) -> list[Finding]:
    """Travels over a wall that leave no long string: across a slot, a thin place, or along
    an edge.
    """
    if len(segments) == 0:
        return []
    length = np.hypot(*(segments[:, 1] - segments[:, 0]).T)
    places = _listed(segments, z, length)
    return [
        Finding(
            "crossings",
            "note",
            f"{some(len(segments), 'travel crosses', 'travels cross')} a wall: within "
            f"{spec.pace.longest_detour:g} mm of detour there is no way around.",
            places[0][2],
            places[0],
            "A longer detour finds one where the part is in one piece.",
            places,
        )
    ]


def _drags(outlines: Outlines, built: Built, moves: Moves, spec: PlanSpec) -> list[Finding]:
    tops = built.skins.tops
    if len(tops) == 0:
        return []
    shown = collect(Pieces(tops.polygons, outlines.islands.owner[tops.owner]), len(outlines.tops))
    laid = np.flatnonzero(moves.feature == TOP)
    if len(laid) == 0:
        return []
    # only what is travelled after the top of that layer was begun can scratch it
    begun = np.full(len(outlines.tops), len(moves.x))
    np.minimum.at(begun, moves.layer[laid], laid)
    index = np.flatnonzero((moves.feature == TRAVEL) & (moves.layer >= 0))
    index = index[index > begun[moves.layer[index]]]
    if len(index) == 0 or spec.pace.lift > 0:
        return []
    segments = _segments(moves, index, spec)
    inner = shapely.buffer(shown, -0.3)
    shapely.prepare(inner)
    layer = moves.layer[index]
    over = shapely.length(shapely.intersection(shapely.linestrings(segments), inner[layer]))
    bad = over > DRAG
    if not bad.any():
        return []
    places = _listed(segments[bad], outlines.tops[layer[bad]], over[bad])
    return [
        Finding(
            "drags",
            "note",
            f"{some(int(bad.sum()), 'travel drags', 'travels drag')} the nozzle over tops that "
            f"show, {over[bad].sum():.0f} mm in all.",
            places[0][2],
            places[0],
            "A lift of 0.4 mm on travels that retract, or one-way tops, keeps them clean.",
            places,
            {"pace.lift": 0.4},
        )
    ]
