"""A picture of a part: its contour lines seen from above and aside, as on a surveyor's sheet."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.outlines.sections import sections
from northpace.part.place import Placed

LINES = 22
#: The view: turned about z, then seen from this height.
TURN, TILT = np.radians(35.0), np.radians(32.0)


#: Most strokes of a hatching, and half their length in pixels.
STROKES, STROKE = 140, 2.5


def contour_picture(placed: Placed, size: int = 160, hatched: np.ndarray | None = None) -> str:
    """SVG text, ``size`` pixels square: contours from the bed up, each hiding what lies behind it
    and saying at which share of the height it lies; places (P, 3) in mm are hatched.
    """
    levels = (np.arange(LINES) + 0.5) / LINES * placed.height
    areas = shapely.simplify(sections(placed.solid, levels), max(placed.size) / 400)
    drawn, box = [], []
    for level, area in zip(levels, areas, strict=True):
        for polygon in shapely.get_parts(area):
            rings = []
            for ring in (polygon.exterior, *polygon.interiors):
                p = np.asarray(ring.coords)[:-1]
                rings.append(_seen(np.c_[p, np.full(len(p), level)]))
            box.append(rings[0])
            drawn.append((level / placed.height, rings))
    if not drawn:
        return ""
    every = np.concatenate(box)
    low, high = every.min(axis=0), every.max(axis=0)
    scale = (size - 16) / max(float((high - low).max()), 1e-9)
    shift = (size - (high - low) * scale) / 2
    paths = []
    for share, rings in drawn:
        d = "".join(
            "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in (ring - low) * scale + shift) + "Z"
            for ring in rings
        )
        paths.append(f'<path data-z="{share:.3f}" d="{d}"/>')
    strokes = ""
    if hatched is not None and len(hatched):
        some = hatched[:: max(len(hatched) // STROKES, 1)]
        marks = "".join(
            f"M{x - STROKE:.1f} {y + STROKE:.1f}l{2 * STROKE:.1f} {-2 * STROKE:.1f}"
            for x, y in (_seen(some) - low) * scale + shift
        )
        strokes = f'<path class="hatched" fill="none" stroke="#A3262A" d="{marks}"/>'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {size} {size}" fill="#F5F2EA" '
        'fill-rule="evenodd" '
        f'stroke="#4A5766" stroke-width="0.9" stroke-linejoin="round">{"".join(paths)}'
        f"{strokes}</svg>"
    )


def _seen(points: np.ndarray) -> np.ndarray:
    """(P, 2) where points (P, 3) are seen, y down."""
    cosine, sine = np.cos(TURN), np.sin(TURN)
    x = points[:, 0] * cosine - points[:, 1] * sine
    deep = points[:, 0] * sine + points[:, 1] * cosine
    return np.stack([x, -(deep * np.sin(TILT) + points[:, 2] * np.cos(TILT))], axis=1)
