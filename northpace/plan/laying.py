"""What is laid of a plan while the rest of it is computed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from northpace.moves import TRAVEL, Moves
from northpace.outlines.sections import Outlines
from northpace.paths.table import PathTable
from northpace.paths.travel.rows import Rows
from northpace.plan.run import Run
from northpace.plan.stage import Stage
from northpace.plan.stages import heights, order, walls


@dataclass(frozen=True)
class Laid:
    """Beads that are known: ``upto`` layers of them, and whether they are in their order."""

    outlines: Outlines
    what: tuple[PathTable, ...] | Rows
    upto: int
    #: whether nothing but walls is among them
    walls_alone: bool
    #: where the middle of the bed lies (mm)
    origin: tuple[float, float]

    @property
    def words(self) -> str:
        """What there is to look at."""
        if isinstance(self.what, Rows):
            return "laid, not yet timed"
        if not self.walls_alone:
            return "laid, in no order yet"
        if self.upto < len(self.outlines.tops):
            return f"walls laid up to {self.outlines.tops[self.upto - 1]:.2f} mm"
        return "walls laid in all layers"

    def moves(self) -> Moves:
        """The beads as moves without speeds, seconds and filament."""
        if isinstance(self.what, Rows):
            return _without_pace(self.what)
        # put together only when somebody looks: most of what is told nobody does
        paths = PathTable.joined(list(self.what))
        return beads_of(paths, self.outlines.tops, self.origin)


@dataclass
class Laying:
    """Listens to a run and tells what is laid. With a raft that is not before all is ordered: how
    far it raises the part is not known earlier.
    """

    run: Run
    tell: Callable[[Laid], None]
    _walls: list[PathTable] = field(default_factory=list)
    _upto: int = 0

    def __call__(self, node: Stage[Any], found: Any, whole: bool) -> None:
        """Told by a run what came of a stage, or of a part of it."""
        raised = bool(self.run.request.spec.footing.raft_layers)
        if node is walls.walls and not whole and not raised:
            self._walls.append(found.paths)
            self._upto = max(self._upto, int(found.paths.layer.max(initial=-1)) + 1)
            self._tell(tuple(self._walls), self._upto, walls_alone=True)
        elif node is order.rows or node is order.laid and not raised:
            self._tell(found, None)

    def _tell(
        self, what: tuple[PathTable, ...] | Rows, upto: int | None, walls_alone: bool = False
    ) -> None:
        # by now they are known
        outlines, origin = self.run(heights.outlines), self.run.request.spec.machine.origin
        count = len(outlines.tops) if upto is None else upto
        if count:
            self.tell(Laid(outlines, what, count, walls_alone, origin))


def beads_of(paths: PathTable, tops: np.ndarray, origin: tuple[float, float]) -> Moves:
    """Paths as moves, layer by layer and in no other order; ``tops`` (N,) are those of the layers
    in mm, ``origin`` (mm) where the middle of the bed lies.
    """
    order = np.argsort(paths.layer, kind="stable")
    size = np.diff(paths.starts)[order]
    rows = size + paths.closed[order]
    of = np.repeat(np.arange(len(order)), rows)
    along = np.arange(len(of)) - np.repeat(np.cumsum(rows) - rows, rows)
    first = paths.starts[:-1][order][of]
    here, before = first + along % size[of], first + np.maximum(along - 1, 0)
    path = order[of]
    begins = along == 0
    z = np.where(np.isnan(paths.z[path]), tops[paths.layer[path]], paths.z[path])
    bead = 0.5 * (paths.width[here] + paths.width[before])
    return _moves(
        paths.layer[path],
        np.where(begins, TRAVEL, paths.feature[path]),
        paths.points[here] + origin,
        z,
        np.where(begins, 0.0, bead),
        np.where(begins, 0.0, paths.height[path]),
        paths.cause[path],
    )


def _without_pace(rows: Rows) -> Moves:
    at = np.column_stack([rows.x, rows.y])
    return _moves(rows.layer, rows.feature, at, rows.z, rows.width, rows.height, rows.cause)


def _moves(
    layer: np.ndarray,
    feature: np.ndarray,
    at: np.ndarray,
    z: np.ndarray,
    width: np.ndarray,
    height: np.ndarray,
    cause: np.ndarray,
) -> Moves:
    """Moves (M,) that end at (M, 2) mm, with nothing known of their pace."""
    x, y = np.round(at, 3).T
    none = np.zeros(len(layer))
    return Moves(layer, feature, x, y, z, width, height, none, none, none, none, none, cause)
