"""Gyroid: sections of a surface without edges that holds in every direction alike."""

from __future__ import annotations

import numpy as np

from northpace.geometry.clip import clip_curves
from northpace.geometry.scanline import Chains
from northpace.infill.lattice import lattice
from northpace.infill.lines import JOIN
from northpace.infill.patches import Patches
from northpace.infill.pattern import Pattern

#: Length of line in mm² of section and period: how the period follows from the pitch. Calibration
#: does the rest.
LENGTH = 2.44
#: A sample every so many mm, within bounds for a period: finer would not show.
STEP, FEWEST, MOST = 0.6, 8, 24


def gyroid(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """Sections of sin x cos y + sin y cos z + sin z cos x = 0.

    For |sin z| ≤ |cos z| the curves run along x, since R cos(y − φ) = −sin z cos x with R² = sin² x
    + cos² z then has a solution for every x; otherwise they run along y, in the same way.

    References
    ----------
    Schoen, "Infinite periodic minimal surfaces without self-intersections", NASA TN D-5541, 1970.
    """
    period = LENGTH * pitch
    samples = int(np.clip(period / STEP, FEWEST, MOST))
    turn = 2 * np.pi / period
    across = np.abs(np.sin(turn * patches.z)) > np.abs(np.cos(turn * patches.z))
    rows = lattice(
        patches.polygons,
        np.where(across, angle + 90.0, angle),
        period / 2,
        period / samples,
        period,
    )
    z = turn * patches.z[rows.of][rows.curve]
    swapped = across[rows.of][rows.curve]
    u = rows.along * period / samples
    t = turn * u
    s, c = np.sin(z), np.cos(z)
    # along x: sin x cos y + c sin y = −s cos x.  Along y, with u = y and v = −x: −sin v cos u + c
    # sin u + s cos v = 0.
    phi = np.where(swapped, np.arctan2(-np.cos(t), s), np.arctan2(c, np.sin(t)))
    size = np.where(swapped, np.hypot(np.cos(t), s), np.hypot(np.sin(t), c))
    right = np.where(swapped, -c * np.sin(t), -s * np.cos(t))
    way = np.arccos(np.clip(right / np.maximum(size, 1e-12), -1, 1))
    row = rows.row[rows.curve]
    v = phi + np.where(row % 2 == 0, way, -way)
    # the angle jumps by a full turn where the arctangent does: made continuous along each curve
    jump = np.r_[0.0, np.round(np.diff(v) / (2 * np.pi))]
    jump[rows.starts[:-1]] = 0.0
    total = np.cumsum(jump)
    v = v - 2 * np.pi * (total - total[rows.starts[:-1]][rows.curve])
    # the whole turns every curve starts with, so that all of its row are alike from layer to layer
    v = (
        v
        - 2 * np.pi * np.round((v[rows.starts[:-1]] - np.pi / 2) / (2 * np.pi))[rows.curve]
        + 2 * np.pi * (row // 2)
    )
    return [
        clip_curves(
            patches.polygons, rows.points(u, v / turn), rows.starts, rows.of, inset, JOIN * pitch
        )
    ]


GYROID = Pattern(
    "gyroid",
    "a wavy wall that holds in all directions",
    gyroid,
    straight_from=0.55,
    straight=(1.1, 0.2),
)
