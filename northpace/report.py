"""The report of a plan: every figure a screen shows, traced to the move table."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from northpace.checks.finding import Finding
from northpace.lanes import band_rows, lanes, region_rows
from northpace.layers.stack import Stack
from northpace.layers.surface import SurfaceTable
from northpace.ledger import ledger
from northpace.material.amounts import amounts, parts_per_spool
from northpace.material.strength import Strength
from northpace.motion.heat import heat_by_layer
from northpace.motion.pace import Timed, safe_flows
from northpace.motion.table import pace_rows
from northpace.moves import BRIDGE, FEATURES, GAP, OUTER, ROOF, SOLID, SUPPORT, TOP, TRAVEL, Moves
from northpace.outlines.sections import Outlines
from northpace.part.solid import Part, Placed
from northpace.paths.build import Built, nominal_height
from northpace.paths.walls import wall_thickness
from northpace.paths.why import KINDS, MOST
from northpace.spec import PlanSpec


def report(
    part: Part,
    placed: Placed,
    outlines: Outlines,
    built: Built,
    timed: Timed,
    findings: list[Finding],
    spec: PlanSpec,
    stack: Stack,
    table: SurfaceTable,
    firm: Strength,
) -> dict[str, Any]:
    """Figures of a plan as plain numbers, keys as the command line documents them."""
    moves = timed.moves
    laid = moves.width > 0
    length = float(moves.filament[laid].sum())
    seconds = float(moves.seconds.sum())
    by_time = np.bincount(moves.feature, moves.seconds, minlength=len(FEATURES))
    by_mass = np.bincount(moves.feature[laid], moves.filament[laid], minlength=len(FEATURES))
    stuff = amounts(length, seconds, spec.material, spec.machine)
    usable = spec.material.usable_mass
    share = parts_per_spool(usable, stuff.mass_g) if usable is not None else None
    travel = moves.feature == TRAVEL
    lengths = moves.lengths()
    layer_length = np.bincount(
        moves.layer[laid], moves.filament[laid], minlength=len(outlines.tops)
    )
    layer_mass = layer_length / max(length, 1e-12) * stuff.mass_g
    gap_fill = float((lengths * moves.width)[moves.feature == GAP].sum())
    rows, by_patch, by_stand = built.rows, *seconds_by_cause(built, moves)
    walls = 1 if spec.body.build == "spiral" else built.count
    weakest = int(np.argmin(firm.stiffness))
    return {
        "part": {
            "triangles": part.triangles_in_file,
            "volume_mm3": placed.volume,
            "size_mm": list(placed.size),
            "closed": not part.doubtful,
            "bodies": len(part.bodies),
            "mended": list(part.mended),
            "widest_opening_mm": part.widest_opening,
            "added_volume_mm3": part.added_volume,
        },
        "layers": {
            "count": len(outlines.tops),
            "tops_mm": _plain(outlines.tops),
            "heights_mm": _plain(outlines.heights),
            "seconds": _plain(timed.layer_seconds),
            "slowed": _plain(timed.slowed),
            "mass_g": _plain(layer_mass),
            **stack.layers,
        },
        "surface": stack.figures(table, spec),
        "time_s": {
            "total": seconds,
            "by_feature": {FEATURES[k]: float(v) for k, v in enumerate(by_time) if v > 0},
            "flow_floor": flow_floor(moves, spec, outlines),
            "spread": seconds * spec.machine.estimate_spread / 100,
        },
        "filament": {
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
            "by_feature_mm": {FEATURES[k]: float(v) for k, v in enumerate(by_mass) if v > 0},
            "spool": None
            if share is None
            else {
                "parts": share.parts,
                "left_over_g": share.left_over_g,
                "lighter_for_one_more_g": share.lighter_for_one_more_g,
            },
        },
        "paths": {
            "moves": len(moves),
            "travel_mm": float(lengths[travel].sum()),
            "travel_saved_mm": rows.saved,
            "retractions": int((rows.pull < 0).sum()),
            "outer_wall_crossings": rows.crossings,
            "around": rows.around,
            "seams": _seams(moves),
            "gap_area_mm2": float(shapely.area(built.between.polygons).sum()),
            "gap_fill_area_mm2": gap_fill,
            "missing_area_mm2": float(shapely.area(built.missing.polygons).sum()),
            "walls": walls,
            "wall_thickness_mm": wall_thickness(
                spec.body, walls, nominal_height(spec.surface, outlines)
            ),
            "diameter_change_mm": 2 * spec.surface.outline_offset,
            "first_diameter_change_mm": 2
            * (spec.surface.outline_offset + spec.surface.first_layer_offset),
        },
        "strength": {
            "solid_share": _plain(firm.solid),
            "stiffness": _plain(firm.stiffness),
            "least_stiffness": float(firm.stiffness[weakest]),
            "least_at_mm": float(outlines.tops[weakest]),
            "mean_stiffness": float(firm.stiffness.mean()),
        },
        "footing": {
            "lift_mm": built.foot.lift,
            "loops": built.foot.loops,
            "area_mm2": built.foot.area,
            "contact_mm2": float(shapely.area(outlines.areas[0])),
        },
        "solid": _patches(built, by_patch),
        "stands": _stands(built, by_stand, spec),
        "lanes": lanes(
            moves, outlines, spec, list(built.spirals), nominal_height(spec.surface, outlines)
        ),
        "pace": pace_rows(spec, timed),
        "ledger": ledger(moves, outlines, spec),
        "bands": band_rows(spec),
        "regions": region_rows(built.places, outlines),
        "spirals": [_plain(outlines.tops[[begin - 1, end - 1]]) for begin, end in built.spirals],
        "findings": [finding.as_dict() for finding in findings],
    }


def flow_floor(moves: Moves, spec: PlanSpec, outlines: Outlines) -> float:
    """The seconds no speed can beat: what is laid in every layer at the safe flow of its nozzle
    temperature.
    """
    laid = moves.width > 0
    volume = (
        np.bincount(np.maximum(moves.layer[laid], 0), moves.filament[laid], len(outlines.tops))
        * np.pi
        * spec.material.diameter**2
        / 4
    )
    return float(
        (
            volume / safe_flows(spec, heat_by_layer(spec, outlines.tops, outlines.heights).nozzle)
        ).sum()
    )


def _seams(moves: Moves) -> int:
    """How often an outer wall begins: each time leaves a mark."""
    outer = moves.feature == OUTER
    return int((outer[1:] & ~outer[:-1]).sum())


def seconds_by_cause(built: Built, moves: Moves) -> tuple[np.ndarray, np.ndarray]:
    """Seconds of every solid patch (Q,) and of every stand (T,)."""
    solid = np.isin(moves.feature, (SOLID, TOP, BRIDGE)) & (moves.cause >= 0)
    held = np.isin(moves.feature, (SUPPORT, ROOF)) & (moves.cause >= 0)
    by_cause = np.bincount(moves.cause[solid], moves.seconds[solid], len(built.why.patch))
    return (
        np.bincount(built.why.patch, by_cause[: len(built.why.patch)], len(built.why.low)),
        np.bincount(moves.cause[held], moves.seconds[held], len(built.stands.at)),
    )


def _patches(built: Built, seconds: np.ndarray) -> dict[str, Any]:
    """Solid patches, the costly ones first, and the causes that the move table's numbers mean:
    patch, kind, z of the open face.
    """
    why = built.why
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


def _stands(built: Built, seconds: np.ndarray, spec: PlanSpec) -> list[dict[str, Any]]:
    held = built.stands
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
            "why": "an outline that starts in mid-air"
            if held.island[k]
            else f"surface leaning out further than {spec.supports.angle:g}°",
        }
        for k in np.argsort(-seconds)
    ]


def _plain(values: np.ndarray) -> list[float]:
    return [round(float(v), 6) for v in values]
