"""Paths of a test part, and what they cover."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import shapely

from northpace.geometry.polygons import Pieces
from northpace.moves import FOOTING, TRAVEL
from northpace.outlines.sections import Outlines
from northpace.paths.bead import area
from northpace.paths.fill.areas import FillAreas
from northpace.paths.footing import Foot
from northpace.paths.supports.stands import Stands
from northpace.paths.travel.rows import Rows
from northpace.plan.cache import StageCache
from northpace.plan.run import Run
from northpace.plan.stage import Request
from northpace.plan.stages import fill, heights, order, supports, walls
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import source


@dataclass(frozen=True)
class Laid:
    """A part with its paths, before speeds."""

    spec: PlanSpec
    outlines: Outlines
    rows: Rows
    areas: FillAreas
    stands: Stands
    foot: Foot
    #: what of the outline is too thin for any bead
    missing: Pieces

    def ends(self) -> np.ndarray:
        """(M, 2) ends of all moves in mm from the middle of the bed."""
        rows, machine = self.rows, self.spec.machine
        return np.stack([rows.x - machine.size_x / 2, rows.y - machine.size_y / 2], axis=1)

    def lines(self, chosen: np.ndarray) -> np.ndarray:
        """Moves as line strings, in mm from the middle of the bed."""
        ends = self.ends()
        return shapely.linestrings(np.stack([ends[chosen - 1], ends[chosen]], axis=1))

    def lengths(self) -> np.ndarray:
        """(M,) in mm, the first 0."""
        return np.r_[0.0, np.hypot(*np.diff(self.ends(), axis=0).T)]

    def volume(self, *features: int) -> float:
        """Volume of the beads of some features in mm³."""
        rows = self.rows
        mine = np.isin(rows.feature, features) & (rows.width > 0)
        return float(
            (
                self.lengths()[mine]
                * area(rows.width[mine].astype(float), rows.height[mine].astype(float))
            ).sum()
        )

    def beads(self, layer: int) -> shapely.Geometry:
        """Union of the footprints of all beads of a layer, the footing apart."""
        rows = self.rows
        chosen = np.flatnonzero(
            (rows.layer == layer) & (rows.width > 0) & (rows.feature != FOOTING)
        )
        return shapely.union_all(
            shapely.buffer(self.lines(chosen), rows.width[chosen].astype(float) / 2, quad_segs=8)
        )

    def travel(self) -> float:
        """Length of all travels above the first layer's beginning in mm."""
        return float(self.lengths()[(self.rows.feature == TRAVEL) & (self.rows.layer >= 0)].sum())


def lay_out(solid: m3.Manifold, *pairs: str) -> Laid:
    """Lay the paths of a solid with some settings changed."""
    spec = with_settings(PlanSpec(), list(pairs))
    run = Run(StageCache(), Request(source(solid), spec))
    return Laid(
        spec,
        run(heights.outlines),
        run(order.rows),
        run(fill.areas),
        run(supports.stands),
        run(supports.footing),
        run(walls.gaps).missing,
    )
