"""Where the edges of bands lie that are tied to something else than a height."""

from __future__ import annotations

import numpy as np

from northpace.errors import InputError
from northpace.part.place import Placed
from northpace.spec import Band, Edge, PlanSpec

#: Edges that are known only when the layers are.
BY_LAYERS = ("layer", "foot")


def with_bands(spec: PlanSpec, bands: tuple[Band, ...]) -> PlanSpec:
    """The spec with other bands."""
    return spec.model_copy(update={"surface": spec.surface.model_copy(update={"bands": bands})})


def needs_layers(spec: PlanSpec) -> bool:
    """Whether an edge can only be found once there is a stack of layers."""
    return any(
        edge is not None and edge.at in BY_LAYERS
        for band in spec.surface.bands
        for _, edge in band.edges()
    )


def without_open_edges(spec: PlanSpec) -> PlanSpec:
    """The spec without the bands whose edges depend on the layers: what those layers are
    chosen by.
    """
    return with_bands(
        spec,
        tuple(
            band
            for band in spec.surface.bands
            if not any(edge is not None and edge.at in BY_LAYERS for _, edge in band.edges())
        ),
    )


def resolved(spec: PlanSpec, placed: Placed, tops: np.ndarray) -> PlanSpec:
    """The spec with every edge as a height in mm; ``tops`` (N,) of the layers, which may be empty
    where no edge is tied to them.

    Raises `InputError` for a band whose edges come out the wrong way round or beyond the part.
    """
    bands = []
    for band in spec.surface.bands:
        if not band.tied:
            bands.append(band)
            continue
        low, high = (
            height if edge is None else _height(edge, spec, placed, tops, band)
            for height, edge in band.edges()
        )
        if high <= low + 1e-9:
            raise InputError(
                f"{band.title} would run from {low:.2f} to {high:.2f} mm by what its edges "
                "are tied to; the upper one has to lie higher",
                "surface.bands",
            )
        bands.append(
            band.model_copy(
                update={
                    "from_mm": round(low, 6),
                    "to_mm": round(high, 6),
                    "from_edge": None,
                    "to_edge": None,
                }
            )
        )
    return with_bands(spec, tuple(bands))


def _height(edge: Edge, spec: PlanSpec, placed: Placed, tops: np.ndarray, band: Band) -> float:
    if edge.at == "top":
        at = placed.height
    elif edge.at == "point":
        at = float(
            (placed.affine[:, :3] @ np.array([edge.x, edge.y, edge.z]) + placed.affine[:, 3])[2]
        )
    elif edge.at == "foot":
        at = float(tops[foot_layers(tops, spec) - 1]) if len(tops) else 0.0
    elif edge.layer > len(tops):
        raise InputError(
            f"{band.title} is tied to the top of layer {edge.layer}; there are {len(tops)} layers",
            "surface.bands",
        )
    else:
        at = float(tops[edge.layer - 1]) if edge.layer > 0 else 0.0
    return float(np.clip(at + edge.offset, 0.0, None))


def foot_layers(tops: np.ndarray, spec: PlanSpec) -> int:
    """How many layers from the bed on are solid because of the bed's side: the solid foot, at least
    the first layer. ``tops`` is (N,), in mm.
    """
    body = spec.body
    thick = (
        int(np.searchsorted(tops, body.bottom_thickness - 1e-6)) + 1
        if body.bottom_thickness > 0
        else 0
    )
    return int(min(max(thick, body.bottom_layers, 1), len(tops)))
