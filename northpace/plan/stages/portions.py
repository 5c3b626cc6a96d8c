"""What of the spec several stages of the paths are handed, and how they read it by layer."""

from __future__ import annotations

import numpy as np

from northpace.outlines.sections import Outlines
from northpace.paths.walls.loops import widths_by_layer
from northpace.spec import ByLayer, PlanSpec, Region
from northpace.spec.portion import View, regions_changing

#: What says how tall a layer usually is.
NOMINAL = ("surface.kind", "surface.layer_height", "surface.stack")
#: What says where the middle of the bed lies.
ORIGIN = (
    "machine.bed",
    "machine.size_x",
    "machine.size_y",
    "machine.origin_x",
    "machine.origin_y",
)


def volumes(regions: tuple[Region, ...]) -> tuple[Region, ...]:
    return tuple(region.volume() for region in regions)


def saying(kind: str) -> View:
    """The regions that say something about attention, seam or support, and what they say."""

    def chosen(regions: tuple[Region, ...]) -> tuple[Region, ...]:
        return tuple(
            region.volume().model_copy(update={kind: getattr(region, kind)})
            for region in regions
            if getattr(region, kind)
        )

    return View("body.regions", chosen)


def changing(*names: str) -> View:
    """The regions that change one of these settings, with these changes alone."""
    return View("body.regions", lambda regions: regions_changing(regions, names))


def layered(spec: PlanSpec, outlines: Outlines) -> ByLayer:
    return ByLayer(spec, outlines.tops, outlines.heights)


def widths(spec: PlanSpec, outlines: Outlines, name: str, instead: str = "") -> np.ndarray:
    """(N,) width of a bead in mm; that of ``instead`` where it is left open."""
    local = layered(spec, outlines)
    own = local.numbers(name, local[instead] if instead else 0.0)
    return widths_by_layer(own, spec.body.first_layer_width)
