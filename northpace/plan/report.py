"""The report of a plan: every figure a screen shows, traced to the move table."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.figures import (
    PartFigures,
    PathFigures,
    Report,
    ReportFilament,
    ReportLayers,
    Solid,
    StandFigures,
    StrengthFigures,
    Times,
)
from northpace.material.amounts import parts_per_spool
from northpace.material.strength import Strength
from northpace.motion.causes import seconds_by_patch, seconds_by_stand
from northpace.motion.heat import heat_by_layer
from northpace.motion.speeds import safe_flows
from northpace.moves import FEATURES, GAP, OUTER, TRAVEL, Moves
from northpace.outlines.sections import Outlines
from northpace.paths.fill.why import KINDS, MOST, Why
from northpace.paths.walls.loops import nominal_height, wall_thickness
from northpace.plan.lanes import band_rows, lanes, region_rows
from northpace.plan.ledger import ledger
from northpace.spec import PlanSpec


def report(facts: Facts, firm: Strength, findings: list[Finding]) -> Report:
    """The figures of a plan; `northpace.figures` says what they mean."""
    spec, outlines = facts.spec, facts.outlines
    nominal = nominal_height(spec.surface, outlines)
    return {
        "part": _part(facts),
        "layers": _layers(facts),
        "surface": facts.stack.figures(facts.surface, spec),
        "time_s": _times(facts),
        "filament": _filament(facts),
        "paths": _paths(facts, nominal),
        "strength": _strength(firm, outlines),
        "footing": {
            "lift_mm": facts.footing.lift,
            "loops": facts.footing.loops,
            "area_mm2": facts.footing.area,
            "contact_mm2": float(shapely.area(outlines.areas[0])),
        },
        "solid": _patches(facts.why, seconds_by_patch(facts.timed.moves, facts.why)),
        "stands": _stands(facts),
        "lanes": lanes(facts.timed.moves, outlines, spec, facts.turns, nominal),
        "pace": facts.paces,
        "ledger": ledger(facts.timed.moves, outlines, spec),
        "bands": band_rows(spec),
        "regions": region_rows(facts.regions, outlines),
        "spirals": [_plain(outlines.tops[[begin - 1, end - 1]]) for begin, end in facts.turns],
        "findings": [finding.as_dict() for finding in findings],
    }


def _part(facts: Facts) -> PartFigures:
    part, placed = facts.part, facts.placed
    return {
        "triangles": part.triangles_in_file,
        "volume_mm3": placed.volume,
        "size_mm": list(placed.size),
        "closed": not part.doubtful,
        "bodies": len(part.bodies),
        "mended": list(part.mended),
        "widest_opening_mm": part.widest_opening,
        "added_volume_mm3": part.added_volume,
    }


def _layers(facts: Facts) -> ReportLayers:
    outlines, moves = facts.outlines, facts.timed.moves
    laid = moves.width > 0
    fed = np.bincount(moves.layer[laid], moves.filament[laid], minlength=len(outlines.tops))
    return {
        "count": len(outlines.tops),
        "tops_mm": _plain(outlines.tops),
        "heights_mm": _plain(outlines.heights),
        "seconds": _plain(facts.timed.layer_seconds),
        "slowed": _plain(facts.timed.slowed),
        "mass_g": _plain(
            fed / max(float(moves.filament[laid].sum()), 1e-12) * facts.amounts.mass_g
        ),
        **facts.stack.layers,
    }


def _times(facts: Facts) -> Times:
    moves, spec = facts.timed.moves, facts.spec
    seconds = float(moves.seconds.sum())
    return {
        "total": seconds,
        "by_feature": _by_feature(moves.feature, moves.seconds),
        "flow_floor": flow_floor(moves, spec, facts.outlines),
        "spread": seconds * spec.machine.estimate_spread / 100,
    }


def _by_feature(feature: np.ndarray, values: np.ndarray) -> dict[str, float]:
    found = np.bincount(feature, values, minlength=len(FEATURES))
    return {FEATURES[k]: float(v) for k, v in enumerate(found) if v > 0}


def _filament(facts: Facts) -> ReportFilament:
    moves, stuff, usable = facts.timed.moves, facts.amounts, facts.spec.material.usable_mass
    laid = moves.width > 0
    share = parts_per_spool(usable, stuff.mass_g) if usable is not None else None
    return {
        "volume_mm3": stuff.volume_mm3,
        "length_mm": stuff.length_mm,
        "mass_g": stuff.mass_g,
        "cost": stuff.cost,
        "cost_shares": {
            "material": stuff.cost_material,
            "machine": stuff.cost_machine,
            "power": stuff.cost_power,
            "failed": stuff.cost_failed,
        },
        "by_feature_mm": _by_feature(moves.feature[laid], moves.filament[laid]),
        "spool": None
        if share is None
        else {
            "parts": share.parts,
            "left_over_g": share.left_over_g,
            "lighter_for_one_more_g": share.lighter_for_one_more_g,
        },
    }


def _paths(facts: Facts, nominal: float) -> PathFigures:
    moves, rows, spec = facts.timed.moves, facts.rows, facts.spec
    lengths = moves.lengths()
    walls = 1 if spec.body.build == "spiral" else int(facts.counts.max(initial=0))
    surface = spec.surface
    return {
        "moves": len(moves),
        "travel_mm": float(lengths[moves.feature == TRAVEL].sum()),
        "travel_saved_mm": rows.saved,
        "retractions": int((rows.pull < 0).sum()),
        "outer_wall_crossings": rows.crossings,
        "around": rows.around,
        "seams": _seams(moves),
        "gap_area_mm2": float(shapely.area(facts.gaps.left.polygons).sum()),
        "gap_fill_area_mm2": float((lengths * moves.width)[moves.feature == GAP].sum()),
        "missing_area_mm2": float(shapely.area(facts.gaps.missing.polygons).sum()),
        "walls": walls,
        "wall_thickness_mm": wall_thickness(spec.body, walls, nominal),
        "diameter_change_mm": 2 * surface.outline_offset,
        "first_diameter_change_mm": 2 * (surface.outline_offset + surface.first_layer_offset),
    }


def _strength(firm: Strength, outlines: Outlines) -> StrengthFigures:
    weakest = int(np.argmin(firm.stiffness))
    return {
        "solid_share": _plain(firm.solid),
        "stiffness": _plain(firm.stiffness),
        "least_stiffness": float(firm.stiffness[weakest]),
        "least_at_mm": float(outlines.tops[weakest]),
        "mean_stiffness": float(firm.stiffness.mean()),
    }


def flow_floor(moves: Moves, spec: PlanSpec, outlines: Outlines) -> float:
    """The seconds no speed can beat: what is laid in every layer at the safe flow of its nozzle
    temperature.
    """
    laid, layers = moves.width > 0, len(outlines.tops)
    fed = np.bincount(np.maximum(moves.layer[laid], 0), moves.filament[laid], layers)
    nozzle = heat_by_layer(spec, outlines.tops, outlines.heights).nozzle
    return float((fed * spec.material.section / safe_flows(spec, nozzle)).sum())


def _seams(moves: Moves) -> int:
    """How often an outer wall begins: each time leaves a mark."""
    outer = moves.feature == OUTER
    return int((outer[1:] & ~outer[:-1]).sum())


def _patches(why: Why, seconds: np.ndarray) -> Solid:
    """Solid patches, the costly ones first, and the causes that the move table's numbers mean:
    patch, kind, z of the open face.
    """
    order = np.lexsort((-why.area, -seconds))[:MOST]
    place = np.full(len(why.low), -1)
    place[order] = np.arange(len(order))
    causes = [
        [int(place[patch]), KINDS[kind], round(float(z), 3)]
        for patch, kind, z in zip(why.patch, why.kind, why.z, strict=True)
    ]
    kinds = [sorted({KINDS[k] for k in why.kind[why.patch == patch]}) for patch in order]
    return {
        "causes": causes,
        "patches": [
            {
                "at_mm": _plain(why.at[k]),
                "from_mm": float(why.low[k]),
                "to_mm": float(why.high[k]),
                "area_mm2": float(why.area[k]),
                "seconds": float(seconds[k]),
                "solid": bool(why.solid[k]),
                "kinds": kinds[n],
            }
            for n, k in enumerate(order)
        ],
    }


def _stands(facts: Facts) -> list[StandFigures]:
    held, angle = facts.stands, facts.spec.supports.angle
    seconds = seconds_by_stand(facts.timed.moves, held)
    return [
        {
            "number": int(k),
            "at_mm": _plain(held.at[k]),
            "from_mm": float(held.low[k]),
            "to_mm": float(held.high[k]),
            "contact_mm2": float(held.contact[k]),
            "seconds": float(seconds[k]),
            "seen_mm2": float(held.seen[k]),
            "on_part": bool(held.on_part[k]),
            "why": "asked for by hand"
            if held.by_hand[k]
            else "an outline that starts in mid-air"
            if held.island[k]
            else f"surface leaning out further than {angle:g}°",
        }
        for k in np.argsort(-seconds)
    ]


def _plain(values: np.ndarray) -> list[float]:
    return [round(float(v), 6) for v in values]
