"""Honeycomb: six-sided cells out of zigzags that lie side by side where they meet."""

from __future__ import annotations

import numpy as np

from northpace.geometry.clip import clip_curves
from northpace.geometry.scanline import Chains
from northpace.infill.lattice import lattice
from northpace.infill.lines import JOIN
from northpace.infill.patches import Patches
from northpace.infill.pattern import Pattern


def honeycomb(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """Cells of side a: every zigzag lays 4a on 3a of its row, rows lie √3/2·a and one bead
    apart.
    """
    rise = max(pitch / 0.75 - 2 * inset, inset)
    side = rise * 2 / np.sqrt(3.0)
    rows = lattice(
        patches.polygons, np.full(len(patches), angle), rise + 2 * inset, side / 2, 2 * side
    )
    # six half sides: two level below, one rising, two level above, one falling
    place = np.array([0.0, 1.0, 2.0, 3.0, 4.0, 5.0])
    up = np.array([0.0, 0.0, 0.0, 1.0, 1.0, 1.0])
    phase = rows.along % 6
    line = rows.row[rows.curve]
    level = np.where(line % 2 == 0, up[phase], 1.0 - up[phase])
    u = (rows.along - phase + place[phase]) * side / 2
    corner = (
        (phase % 3 != 1)
        | (np.arange(len(u)) == rows.starts[rows.curve])
        | (np.arange(len(u)) == rows.starts[rows.curve + 1] - 1)
    )
    points = rows.points(u, line * (rise + 2 * inset) + level * rise)[corner]
    starts = np.r_[0, np.cumsum(np.bincount(rows.curve[corner], minlength=len(rows.of)))]
    return [clip_curves(patches.polygons, points, starts, rows.of, inset, JOIN * pitch)]


HONEYCOMB = Pattern(
    "honeycomb",
    "cells of six sides that hold in all directions",
    honeycomb,
    straight_from=0.5,
    straight=(1.1, 0.2),
)
