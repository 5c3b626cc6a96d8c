"""Regions of a plan as areas of its layers: what they change where, and rows cut at their
borders.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely

from northpace.geometry.crossing import edges_of
from northpace.geometry.polygons import Pieces, difference, explode, intersection, rings_of, union
from northpace.outlines.volumes import volume_sections
from northpace.part.place import Placed
from northpace.paths.apart import Apart
from northpace.paths.travel.cut import cut_rows
from northpace.paths.travel.rows import Rows
from northpace.spec import Region, local_settings

#: Settings of a region that change how fast or how much is laid, not where.
PACE_SETTINGS = tuple(
    name
    for name, within in local_settings().items()
    if within == "region" and not name.startswith("body.")
)
#: Pieces of a layer up to this size (mm²) are what two borders leave between them.
LEAST = 0.02


@dataclass(frozen=True)
class Places:
    """The regions of a plan and their areas (R lists of N) in its layers."""

    regions: tuple[Region, ...]
    sections: tuple[np.ndarray, ...]

    @property
    def nbytes(self) -> int:
        return sum(16 * int(shapely.get_num_coordinates(areas).sum()) for areas in self.sections)

    def among(self, regions: tuple[Region, ...]) -> Places:
        """The places of these regions, which lie where some of its own do."""
        where = {name: k for k, name in enumerate(self.names)}
        found = [where[region.volume().model_dump_json()] for region in regions]
        return Places(regions, tuple(self.sections[k] for k in found))

    def differs(self, other: Places, apart: Apart) -> np.ndarray:
        """(N,) whether other regions hold in a layer, or the same in another order."""
        mine, theirs = ({name: k for k, name in enumerate(some.names)} for some in (self, other))
        if [name for name in mine if name in theirs] != [name for name in theirs if name in mine]:
            return np.ones(apart.count, bool)
        out = np.zeros(apart.count, bool)
        for areas in (
            *(self.sections[k] for name, k in mine.items() if name not in theirs),
            *(other.sections[k] for name, k in theirs.items() if name not in mine),
        ):
            out |= ~shapely.is_empty(areas)
        return out

    @property
    def names(self) -> list[str]:
        """What tells each region from all others."""
        return [region.model_dump_json() for region in self.regions]

    def areas(self, kind: str, value: str) -> np.ndarray | None:
        """(N,) areas of the regions that say ``value`` about attention, seam or support,
        or None.
        """
        found = [
            areas
            for region, areas in zip(self.regions, self.sections, strict=True)
            if getattr(region, kind) == value
        ]
        out = None
        for areas in found:
            out = areas if out is None else union(out, areas)
        return out

    def change(self, *names: str) -> bool:
        """Whether a region that reaches into the layers changes one of these settings."""
        return bool(self._changing(names))

    def changing(self, names: tuple[str, ...], count: int) -> np.ndarray:
        """(N,) whether a region changes one of these settings in each of ``count`` layers."""
        out = np.zeros(count, bool)
        for k in self._changing(names):
            out |= ~shapely.is_empty(self.sections[k])
        return out

    def _changing(self, names: tuple[str, ...]) -> list[int]:
        return [
            k
            for k, region in enumerate(self.regions)
            if any(name in region.changes for name in names)
            and not shapely.is_empty(self.sections[k]).all()
        ]

    def partition(
        self, pieces: Pieces, layer: np.ndarray, names: tuple[str, ...]
    ) -> tuple[Pieces, np.ndarray, list[dict[str, Any]]]:
        """Pieces (P,) in layers (P,) cut at the borders of the regions that change one of these
        settings; for each the number of its case, and the changes of every case, the first being
        none.
        """
        case = np.zeros(len(pieces), np.int64)
        cases: list[dict[str, Any]] = [{}]
        polygons, owner = pieces.polygons, pieces.owner
        for k in self._changing(names):
            area = self.sections[k][layer]
            touched = np.flatnonzero(shapely.intersects(polygons, area))
            if len(touched) == 0:
                continue
            own = {name: value for name, value in self.regions[k].changes.items() if name in names}
            known: dict[int, int] = {}
            for old in np.unique(case[touched]).tolist():
                known[old] = len(cases)
                cases.append({**cases[old], **own})
            within = explode(intersection(polygons[touched], area[touched]), LEAST)
            beside = explode(difference(polygons[touched], area[touched]), LEAST)
            kept = np.setdiff1d(np.arange(len(polygons)), touched)
            inner, outer = touched[within.owner], touched[beside.owner]
            case = np.concatenate(
                [
                    case[kept],
                    np.array([known[old] for old in case[inner].tolist()], np.int64),
                    case[outer],
                ]
            )
            owner = np.concatenate([owner[kept], owner[inner], owner[outer]])
            polygons = np.concatenate([polygons[kept], within.polygons, beside.polygons])
            layer = np.concatenate([layer[kept], layer[inner], layer[outer]])
        return Pieces(polygons, owner), case, cases

    def parted(self, rows: Rows, origin: tuple[float, float]) -> Rows:
        """Rows cut where they cross the border of a region that changes the pace, each with the
        number of what holds there.
        """
        cases: list[dict[str, Any]] = [{}]
        for k in self._changing(PACE_SETTINGS):
            areas = self.sections[k]
            rows = cut_rows(rows, *edges_of(rings_of(areas), len(areas)), origin)
            laid = np.flatnonzero((rows.width > 0) & (rows.layer >= 0))
            x, y = ((column[laid - 1] + column[laid]) / 2 for column in (rows.x, rows.y))
            shapely.prepare(areas)
            here = laid[shapely.contains_xy(areas[rows.layer[laid]], x - origin[0], y - origin[1])]
            region, own = (
                rows.region.copy(),
                {
                    name: value
                    for name, value in self.regions[k].changes.items()
                    if name in PACE_SETTINGS
                },
            )
            for old in np.unique(region[here]).tolist():
                region[here[rows.region[here] == old]] = len(cases)
                cases.append({**cases[old], **own})
            rows = replace(rows, region=region)
        return replace(rows, cases=tuple(cases))

    def seams(self) -> tuple[tuple[float, np.ndarray], ...]:
        """Regions that attract the seam (+1) or keep it clear (−1), with their areas (N,)."""
        return tuple(
            (1.0 if region.seam == "attract" else -1.0, areas)
            for region, areas in zip(self.regions, self.sections, strict=True)
            if region.seam
        )


NO_PLACES = Places((), ())


def places_of(
    regions: tuple[Region, ...], placed: Placed, tops: np.ndarray, heights: np.ndarray
) -> Places:
    """Regions, cut at the middle of layers (N,)."""
    return Places(
        regions, tuple(volume_sections(region, placed, tops - heights / 2) for region in regions)
    )
