"""Bands: stretches of height with settings of their own."""

from __future__ import annotations

import itertools
from typing import Any, Literal

from pydantic import model_validator

from northpace.spec.declare import Group, setting


class Edge(Group):
    """What an edge of a band is tied to, where that is not a height in mm. A point is in the file's
    coordinates, so it moves with the part.
    """

    at: Literal["layer", "foot", "top", "point"] = setting(
        "layer",
        "Tied to",
        help="The top of a layer by its number, the end of the solid foot, the top of the "
        "part, or a point of the part: a flat, a finding.",
    )
    layer: int = setting(
        1,
        "Layer",
        help="Number of the layer whose top it is, from the bed.",
        ge=0,
        le=100000,
    )
    offset: float = setting(
        0.0,
        "Above it",
        help="How far above that the edge lies; below where negative.",
        unit="mm",
        ge=-5000,
        le=5000,
    )
    x: float = setting(
        0.0,
        "x",
        help="Of the point, in the file.",
        unit="mm",
    )
    y: float = setting(
        0.0,
        "y",
        help="Of the point, in the file.",
        unit="mm",
    )
    z: float = setting(
        0.0,
        "z",
        help="Of the point, in the file.",
        unit="mm",
    )
    label: str = setting(
        "",
        "What it is",
        help="As the screen calls it.",
    )


class Band(Group):
    """A stretch of height with settings of its own; everything it does not change stays as
    it is.
    """

    name: str = setting(
        "",
        "Name",
        help="As the maker calls it.",
    )
    from_mm: float = setting(
        0.0,
        "From",
        help="Lower edge above the plate.",
        unit="mm",
        ge=0,
        le=5000,
    )
    to_mm: float = setting(
        0.0,
        "To",
        help="Upper edge above the plate.",
        unit="mm",
        ge=0,
        le=5000,
    )
    from_edge: Edge | None = setting(
        None,
        "From, tied to",
        help="Instead of a height in mm.",
    )
    to_edge: Edge | None = setting(
        None,
        "To, tied to",
        help="Instead of a height in mm.",
    )
    height_mm: float | None = setting(
        None,
        "Height",
        help="Of every layer in it.",
        unit="mm",
        ge=0.01,
        le=2.0,
    )
    least_mm: float | None = setting(
        None,
        "Not below",
        help="Least height of a layer in it.",
        unit="mm",
        ge=0.01,
        le=2.0,
    )
    greatest_mm: float | None = setting(
        None,
        "Not above",
        help="Greatest height of a layer in it.",
        unit="mm",
        ge=0.01,
        le=2.0,
    )
    worst_um: float | None = setting(
        None,
        "Nothing above",
        help="Best fit: no step taller than this in it, whatever is asked for elsewhere.",
        unit="µm",
        ge=1,
        le=5000,
    )
    changes: dict[str, Any] = setting(
        {},
        "Changes",
        help="Settings by name with their value in the band.",
    )
    ramps: dict[str, float] = setting(
        {},
        "Ramps",
        help="Settings by name with the value they reach in the band's last layer, evenly "
        "from that of its first.",
    )

    @model_validator(mode="before")
    @classmethod
    def _as_it_was(cls, data: Any) -> Any:
        """Plans kept before 0.4 have the least solid area of a band as a field of its own."""
        if isinstance(data, dict) and "least_solid_area" in data:
            data = dict(data)
            least = data.pop("least_solid_area")
            if least is not None:
                data["changes"] = {**data.get("changes", {}), "body.least_solid_area": least}
        return data

    @property
    def title(self) -> str:
        """How a sentence calls it."""
        return (
            f"band '{self.name}'"
            if self.name
            else f"the band {self.from_mm:g} to {self.to_mm:g} mm"
        )

    @property
    def sets_heights(self) -> bool:
        """Whether it says how tall its layers are."""
        return any(value is not None for value in (self.height_mm, self.least_mm, self.greatest_mm))

    @property
    def says_something(self) -> bool:
        """Whether it changes anything; one that does not is as if it were not there."""
        return self.sets_heights or self.worst_um is not None or bool(self.changes)

    @property
    def tied(self) -> bool:
        """Whether an edge is where something else is."""
        return self.from_edge is not None or self.to_edge is not None

    def edges(self) -> tuple[tuple[float, Edge | None], tuple[float, Edge | None]]:
        """Both edges: height in mm, and what it is tied to."""
        return (self.from_mm, self.from_edge), (self.to_mm, self.to_edge)


def overlaps(bands: tuple[Band, ...]) -> list[str]:
    """Sentences about bands that share a stretch of height."""
    order = sorted(
        (band for band in bands if not band.tied), key=lambda band: (band.from_mm, band.to_mm)
    )
    return [
        f"surface.bands: {one.title} and {two.title} overlap from {two.from_mm:g} to "
        f"{min(one.to_mm, two.to_mm):g} mm; move an edge, or merge them"
        for one, two in itertools.pairwise(order)
        if two.from_mm < one.to_mm - 1e-9
    ]


def merged(bands: tuple[Band, ...]) -> tuple[Band, ...]:
    """Bands without overlap: where several share a stretch it becomes a band of its own with the
    changes of all of them, the later in the list having the last word.
    """
    cuts = sorted({edge for band in bands for edge in (band.from_mm, band.to_mm)})
    out: list[Band] = []
    for low, high in itertools.pairwise(cuts):
        here = [band for band in bands if band.from_mm < high - 1e-9 and band.to_mm > low + 1e-9]
        if not here:
            continue
        if len(here) == 1 and (low, high) == (here[0].from_mm, here[0].to_mm):
            out.append(here[0])
            continue
        heights = next((band for band in reversed(here) if band.sets_heights), here[-1])
        worst = [band.worst_um for band in here if band.worst_um is not None]
        changes: dict[str, Any] = {}
        ramps: dict[str, float] = {}
        for band in here:
            for name, value in band.changes.items():
                begin, end = _ramp_within(band, name, value, low, high)
                changes[name] = begin
                ramps.pop(name, None)
                if end is not None:
                    ramps[name] = end
        ties = {
            "from_edge": next((b.from_edge for b in here if b.from_mm == low), None),
            "to_edge": next((b.to_edge for b in here if b.to_mm == high), None),
        }
        out.append(
            Band(
                name=" + ".join(band.name for band in here if band.name),
                from_mm=low,
                to_mm=high,
                **ties,
                height_mm=heights.height_mm,
                least_mm=heights.least_mm,
                greatest_mm=heights.greatest_mm,
                worst_um=worst[-1] if worst else None,
                changes=changes,
                ramps=ramps,
            )
        )
    return tuple(out)


def _ramp_within(
    band: Band, name: str, value: Any, low: float, high: float
) -> tuple[Any, float | None]:
    """Value of a change at both ends of a stretch of its band; the second is None where it stays
    the same.
    """
    if name not in band.ramps:
        return value, None
    tall = max(band.to_mm - band.from_mm, 1e-9)
    begin, end = ((edge - band.from_mm) / tall for edge in (low, high))
    way = band.ramps[name] - value
    return round(value + begin * way, 6), round(value + end * way, 6)


def repeated(
    name: str,
    first_mm: float,
    every_mm: float,
    top_mm: float,
    setting_name: str,
    start: float,
    step: float,
) -> tuple[Band, ...]:
    """Bands of ``every_mm`` each from ``first_mm`` up to ``top_mm`` that change one setting by
    ``step`` from one to the next, beginning with ``start``: a test tower in one action. A last
    stretch shorter than half of the others joins the one below.
    """
    count = max(int((top_mm - first_mm) / every_mm + 0.5), 1) if top_mm > first_mm else 0
    edges = [round(first_mm + k * every_mm, 6) for k in range(count)] + [round(top_mm, 6)]
    return tuple(
        Band(
            name=f"{name} {start + k * step:g}".strip(),
            from_mm=edges[k],
            to_mm=edges[k + 1],
            changes={setting_name: round(start + k * step, 6)},
        )
        for k in range(count)
    )
