"""What bands and regions come to: values layer by layer for the lanes, resolved bands, the reach of
regions, and what differs at a height.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import shapely

from northpace.figures import BandPlace, Lanes, RegionPlace
from northpace.geometry.polygons import intersection
from northpace.motion.heat import heat_by_layer
from northpace.moves import Moves
from northpace.outlines.sections import Outlines
from northpace.paths.fill.by_place import laid_density
from northpace.paths.places import Places
from northpace.paths.walls.loops import wall_counts
from northpace.spec import ByLayer, PlanSpec, Region
from northpace.spec.by_layer import layers_in, value_of


def lanes(
    moves: Moves,
    outlines: Outlines,
    spec: PlanSpec,
    turns: tuple[tuple[int, int], ...],
    nominal: float,
) -> Lanes:
    """Values (N,) of every layer: infill density (%), number of walls, mean speed laid at (mm/s),
    highest flow (mm³/s), nozzle (°C), fan (%).
    """
    count = len(outlines.tops)
    local, heat = (
        ByLayer(spec, outlines.tops, outlines.heights),
        heat_by_layer(spec, outlines.tops, outlines.heights),
    )
    laid = np.flatnonzero((moves.width > 0) & (moves.layer >= 0))
    layer, length = moves.layer[laid], moves.lengths()[laid]
    run, time = (
        np.bincount(layer, length, count),
        np.bincount(layer, length / moves.speed[laid], count),
    )
    flow = np.zeros(count)
    np.maximum.at(flow, layer, moves.flow[laid])
    walls = wall_counts(local, nominal)
    for begin, end in turns:
        walls[begin:end] = 1
    return {
        "infill": _rounded(laid_density(local, turns)),
        "walls": _rounded(walls),
        "speed": _rounded(np.divide(run, time, out=np.zeros(count), where=time > 0)),
        "flow": _rounded(flow),
        "nozzle_temp": _rounded(heat.nozzle),
        "fan": _rounded(heat.fan),
    }


def _rounded(values: np.ndarray) -> list[float]:
    return [round(float(v), 3) for v in values]


def band_rows(spec: PlanSpec) -> list[BandPlace]:
    """Every band where its edges really are."""
    return [
        {"name": band.name, "from_mm": band.from_mm, "to_mm": band.to_mm}
        for band in spec.surface.bands
    ]


def region_rows(places: Places, outlines: Outlines) -> list[RegionPlace]:
    """How far every region reaches inside the part: lowest and highest z, and its largest area in a
    layer; nothing where it lies outside.
    """
    rows: list[RegionPlace] = []
    for region, areas in zip(places.regions, places.sections, strict=True):
        size = shapely.area(intersection(areas, outlines.areas))
        here = np.flatnonzero(size > 0)
        low = high = None
        if len(here):
            low = float(outlines.tops[here[0]] - outlines.heights[here[0]])
            high = float(outlines.tops[here[-1]])
        area = float(size.max(initial=0.0))
        rows.append({"name": region.name, "from_mm": low, "to_mm": high, "area_mm2": area})
    return rows


#: Heights a band may set, and the settings of the plan they stand for.
OWN_HEIGHTS = (
    ("height_mm", "surface.layer_height"),
    ("least_mm", "surface.least_height"),
    ("greatest_mm", "surface.greatest_height"),
)


def differs_at(
    spec: PlanSpec,
    tops: np.ndarray,
    heights: np.ndarray,
    z: float,
    reaches: Callable[[Region, float], bool],
) -> list[dict[str, Any]]:
    """What is not as the plan says for the whole part in the layer (of N with ``tops`` and
    ``heights``) that holds a height in mm: setting, value there as it is laid, value elsewhere, and
    the band or region it is from. ``spec`` has its edges resolved; ``reaches`` says whether a
    region has a share in a height.
    """
    k = min(int(np.searchsorted(tops, z - 1e-6)), len(tops) - 1)
    local = ByLayer(spec, tops, heights)
    rows: list[dict[str, Any]] = []
    for band in spec.surface.bands:
        if not layers_in(band, tops, heights)[k]:
            continue
        own = {label: getattr(band, name) for name, label in OWN_HEIGHTS}
        values = {name: value for name, value in own.items() if value is not None}
        values |= {name: local[name].tolist()[k] for name in band.changes}
        rows += [
            _differs(name, value, value_of(spec, name), "band", band.title)
            for name, value in values.items()
        ]
    for region in spec.body.regions:
        if not reaches(region, float(tops[k] - heights[k] / 2)):
            continue
        rows += [
            _differs(name, value, value_of(spec, name), "region", region.title)
            for name, value in region.changes.items()
        ]
        rows += [
            _differs(kind, getattr(region, kind), "", "region", region.title)
            for kind in ("attention", "seam", "support")
            if getattr(region, kind)
        ]
    return rows


def _differs(name: str, value: Any, base: Any, kind: str, by: str) -> dict[str, Any]:
    return {"name": name, "value": value, "base": base, "kind": kind, "by": by}
