"""What moves with the tip of the nozzle, as polygons around it in mm."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely

from northpace.spec import Machine

#: How far a gantry bar reaches to both sides: over everything.
ALL_OVER = 20_000.0
#: How far around the middle of its opening a nozzle is as low as its tip, in bores.
TIP = 0.75


class HeadOutline(NamedTuple):
    """A convex outline around the tip, and the height above it from which it counts."""

    name: str
    #: (C, 2) corners in mm
    corners: np.ndarray
    height: float


def head(machine: Machine) -> list[HeadOutline]:
    """What moves with the tip: the tip itself, the outlines of the head, the bar of the gantry."""
    tip = TIP * machine.nozzle
    out = [HeadOutline("Nozzle", _box(tip, tip, tip, tip), 0.0)]
    for part in machine.head:
        corners = (
            _convex(np.array(part.points))
            if part.points
            else _box(part.left, part.right, part.front, part.back)
        )
        out.append(HeadOutline(part.name, corners, part.height))
    if not machine.head:
        four = (machine.clear_left, machine.clear_right, machine.clear_front, machine.clear_back)
        if four[0] + four[1] > 0 and four[2] + four[3] > 0:
            out.append(HeadOutline("Head", _box(*four), 0.0))
    front, back = machine.gantry_front, machine.gantry_back
    if machine.gantry != "none" and front + back > 0:
        bar = (ALL_OVER, ALL_OVER, front, back)
        if machine.gantry == "across y":
            bar = (front, back, ALL_OVER, ALL_OVER)
        out.append(HeadOutline("Gantry", _box(*bar), machine.gantry_height))
    return out


def _box(left: float, right: float, front: float, back: float) -> np.ndarray:
    return np.array([[-left, -front], [right, -front], [right, back], [-left, back]], float)


def _convex(points: np.ndarray) -> np.ndarray:
    hull = shapely.convex_hull(shapely.multipoints(points))
    return shapely.get_coordinates(hull)[:-1]
