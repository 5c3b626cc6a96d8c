"""Walls that cross open air: laid as bridges, where they are held at both ends."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from northpace.geometry.crossing import edges_of
from northpace.geometry.polygons import Pieces, difference, offset, rings_of, united
from northpace.moves import BRIDGE, GAP, INNER, OUTER
from northpace.paths.supports.overhangs import Leaning
from northpace.paths.travel.cut import cut_rows
from northpace.paths.travel.rows import Rows
from northpace.spec import Body, Machine

#: Half the width (mm) from which what hangs free is a span and no longer the step of a slope, and
#: its least area (mm²).
STEP, LEAST_AREA = 0.75, 3.0
#: Shortest stretch of a wall that is a bridge (mm), and how straight it must be: its chord as a
#: share of its length.
SHORTEST, STRAIGHT = 2.0, 0.95


def bridge_bead(body: Body, machine: Machine) -> float:
    """Diameter in mm of a bead across open air."""
    return machine.nozzle if body.bridge_width is None else body.bridge_width


def open_spans(leaning: Leaning, held: np.ndarray) -> np.ndarray:
    """(N,) what of each layer hangs over open air, the steps of slopes left out; ``held`` (N,) is
    what supports hold up.
    """
    pieces = leaning.pieces
    large = np.flatnonzero((leaning.area > LEAST_AREA) & (pieces.owner > 0))
    wide = offset(offset(pieces.polygons[large], -STEP), STEP)
    some = ~shapely.is_empty(wide)
    return difference(united(Pieces(wide[some], pieces.owner[large][some]), leaning.count), held)


def bridged(rows: Rows, open_air: np.ndarray, bead: float, origin: tuple[float, float]) -> Rows:
    """Rows with the stretches of walls that cross ``open_air`` (N,) straight, and go on into the
    wall at both ends, as bridges: round beads of diameter ``bead`` mm.
    """
    if shapely.is_empty(open_air).all():
        return rows
    rows = cut_rows(rows, *edges_of(rings_of(open_air), len(open_air)), origin)
    wall = np.isin(rows.feature, (OUTER, INNER, GAP)) & (rows.width > 0) & (rows.layer > 0)
    here = np.flatnonzero(wall)
    here = here[~shapely.is_empty(open_air[rows.layer[here]])]
    x, y = ((column[here - 1] + column[here]) / 2 for column in (rows.x, rows.y))
    areas = open_air.copy()
    shapely.prepare(areas)
    inside = shapely.contains_xy(areas[rows.layer[here]], x - origin[0], y - origin[1])
    flagged = np.zeros(len(wall) + 1, bool)
    flagged[here[inside]] = True
    edges = np.flatnonzero(np.diff(np.r_[False, flagged].astype(np.int8))).reshape(-1, 2)
    begin, end = edges[:, 0], edges[:, 1] - 1
    step = np.hypot(np.diff(rows.x, prepend=rows.x[:1]), np.diff(rows.y, prepend=rows.y[:1]))
    run = np.r_[0.0, np.cumsum(step)]
    length = run[end + 1] - run[begin]
    chord = np.hypot(rows.x[end] - rows.x[begin - 1], rows.y[end] - rows.y[begin - 1])
    after = np.minimum(end + 1, len(wall) - 1)
    held = (
        wall[begin - 1]
        & wall[after]
        & (rows.layer[begin - 1] == rows.layer[begin])
        & (rows.layer[after] == rows.layer[end])
    )
    good = np.flatnonzero(held & (length >= SHORTEST) & (chord >= STRAIGHT * length))
    # +1 where one begins and −1 behind its end: what adds up to more than nothing lies within one
    marks = np.zeros(len(wall) + 1, np.int64)
    marks[begin[good]] += 1
    marks[end[good] + 1] -= 1
    spans = np.cumsum(marks)[: len(wall)] > 0
    return replace(
        rows,
        feature=np.where(spans, BRIDGE, rows.feature).astype(rows.feature.dtype),
        width=np.where(spans, bead, rows.width).astype(rows.width.dtype),
        height=np.where(spans, bead, rows.height).astype(rows.height.dtype),
    )
