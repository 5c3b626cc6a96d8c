"""What follows from the bore of a nozzle, in one place."""

from __future__ import annotations

from typing import Any

#: Tallest layer as a share of the bore, where a machine states none of its own.
TALLEST = 0.75
#: Usual bead width as a share of the bore.
USUAL = 1.125
#: Narrowest and widest bead a nozzle lays, as shares of the bore.
BEAD = (0.6, 3.0)
#: The same of a wall that rises without a stop, which has to hold by itself.
SPIRAL = (0.8, 2.0)
#: The same of a thread across open air.
BRIDGE = (0.6, 2.0)


def usual_width(bore: float) -> float:
    """The usual bead width in mm for a bore in mm.

    >>> usual_width(0.4), usual_width(0.6)
    (0.45, 0.67)
    """
    return round(USUAL * bore, 2)


def tallest_layer(bore: float) -> float:
    """The tallest layer in mm for a bore in mm, where a machine states none.

    >>> round(tallest_layer(0.4), 6)
    0.3
    """
    return TALLEST * bore


def suggested(bore: float, least: float = 0.0, greatest: float | None = None) -> dict[str, Any]:
    """Settings by group that go with a bore: beads of the usual width, layers of half the bore
    within what the nozzle lays (mm).

    >>> suggested(0.6)["surface"]
    {'layer_height': 0.3, 'first_layer_height': 0.3}
    """
    most = tallest_layer(bore) if greatest is None else greatest
    height, width = min(max(round(0.5 * bore, 2), least), most), usual_width(bore)
    return {
        "surface": {"layer_height": height, "first_layer_height": height},
        "body": dict.fromkeys(("outer_width", "inner_width", "solid_width", "infill_width"), width),
        "footing": {"skirt_width": width},
        "supports": {"width": width},
    }
