"""A machine as it is drawn: its plate from above, what is kept free, what moves with the tip."""

from __future__ import annotations

import shapely
from typing_extensions import TypedDict

from northpace.beds.head import head
from northpace.geometry.polygons import intersection
from northpace.part.plate import keep_out, plate
from northpace.spec import Machine

#: Corners as x, y in mm.
Ring = list[list[float]]
#: How far beyond the plate a gantry is drawn (mm).
BEYOND = 20.0


class KeptOut(TypedDict):
    """A place where nothing may stand."""

    name: str
    outline: list[Ring]


class Plate(TypedDict):
    """The bed, about its middle."""

    outline: list[Ring]
    #: where its middle lies in the machine's coordinates, as moves have them
    origin: list[float]
    keep_out: list[KeptOut]
    height_mm: float
    bore_mm: float


class Moving(TypedDict):
    """What moves with the tip, drawn around it, and from how far above it."""

    name: str
    above_mm: float
    outline: list[Ring]


def plate_drawn(machine: Machine) -> Plate:
    """The plate of a machine."""
    return {
        "outline": rings(plate(machine)),
        "origin": list(machine.origin),
        "keep_out": [{"name": name, "outline": rings(area)} for name, area in keep_out(machine)],
        "height_mm": machine.size_z,
        "bore_mm": machine.nozzle,
    }


def head_drawn(machine: Machine) -> list[Moving]:
    """The head and the gantry with the tip in the middle of the plate, as far as the plate goes."""
    low_x, low_y, high_x, high_y = plate(machine).bounds
    seen = shapely.box(low_x - BEYOND, low_y - BEYOND, high_x + BEYOND, high_y + BEYOND)
    return [
        {
            "name": part.name,
            "above_mm": part.height,
            "outline": rings(intersection(shapely.Polygon(part.corners), seen)),
        }
        for part in head(machine)
    ]


def rings(area: shapely.Geometry) -> list[Ring]:
    """The rings of an area, to the hundredth of a millimetre."""
    return [
        [[round(float(x), 2), round(float(y), 2)] for x, y in shapely.get_coordinates(ring)]
        for ring in shapely.get_rings(shapely.get_parts(area))
    ]
