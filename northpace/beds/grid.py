"""Where a shape may lie among others, on a grid: over all places at once, how much overlaps is a
correlation, computed by Fourier transforms.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy.fft
import shapely

#: What the transform of a shape depends on: the size of a cell in mm, and how many there are.
GridKey = tuple[float, tuple[int, ...]]


class Grid:
    """Cells over a bed, with as much room around it as shapes reach."""

    def __init__(
        self, box: tuple[float, float, float, float], margin: float, cell: float = 1.0
    ) -> None:
        """``box`` holds the lowest and highest x and y of the bed in mm, ``margin`` and ``cell``
        are in mm.
        """
        self.cell = cell
        self.low = np.floor(np.array(box[:2]))
        size = np.ceil((np.array(box[2:]) - self.low) / cell).astype(int)
        #: cells of the bed, Y and X
        self.size = (int(size[1]), int(size[0]))
        room = int(np.ceil(margin / cell)) + 1
        self._room = room
        self._shape = tuple(
            int(scipy.fft.next_fast_len(n + 2 * room, real=True)) for n in self.size
        )
        #: (Y, X) middles of the cells of the bed in mm
        self.x, self.y = np.meshgrid(
            self.low[0] + cell * (np.arange(size[0]) + 0.5),
            self.low[1] + cell * (np.arange(size[1]) + 0.5),
        )

    @property
    def key(self) -> GridKey:
        """What tells transforms of shapes on this grid from those on others."""
        return self.cell, self._shape

    def empty(self) -> np.ndarray:
        """(Y, X) cells, those around the bed with it, of which none is taken."""
        return np.zeros(self._shape, np.float32)

    def take(self, cells: np.ndarray, area: shapely.Geometry) -> None:
        """Mark the cells whose middle lies in an area, in mm about the middle of the bed."""
        low = self.low - self._room * self.cell
        found = _cells(area, low, self.cell, np.array(self._shape[::-1]))
        if found is not None:
            mask, (x, y) = found
            part = cells[y : y + mask.shape[0], x : x + mask.shape[1]]
            np.maximum(part, mask, out=part)

    def transform(self, cells: np.ndarray) -> np.ndarray:
        """Transform of cells (Y, X), for `overlaps`."""
        return np.asarray(scipy.fft.rfft2(cells))

    def shape(self, area: shapely.Geometry) -> np.ndarray:
        """Transform of the cells (Y, X) of a shape about its origin, as far as the grid goes."""
        half = np.array(self._shape[::-1]) // 2
        out = self.empty()
        # the origin lies in the middle of a cell
        found = _cells(area, -(half + 0.5) * self.cell, self.cell, np.array(self._shape[::-1]))
        if found is not None:
            mask, (x, y) = found
            out[y : y + mask.shape[0], x : x + mask.shape[1]] = mask
        return np.conj(scipy.fft.rfft2(np.roll(out, tuple(-half[::-1]), (0, 1))))

    def overlaps(self, pairs: Sequence[tuple[np.ndarray, np.ndarray]]) -> np.ndarray:
        """(Y, X) whether a shape with its origin in the middle of a cell of the bed meets what is
        taken: in any of several ``pairs`` of what is taken and a shape, all of them transforms.
        """
        # how many cells overlap is never negative, so the sum over all pairs says it for any
        found = scipy.fft.irfft2(sum(taken * shape for taken, shape in pairs), self._shape)
        room = (
            slice(self._room, self._room + self.size[0]),
            slice(self._room, self._room + self.size[1]),
        )
        return np.asarray(found[room] > 0.5)


def _cells(
    area: shapely.Geometry, low: np.ndarray, cell: float, most: np.ndarray
) -> tuple[np.ndarray, tuple[int, int]] | None:
    """Which cells an area takes of ``most`` columns and rows from ``low`` (2,) mm on, and column
    and row of the first; None for none.
    """
    if shapely.is_empty(area):
        return None
    bounds = np.array(area.bounds).reshape(2, 2)
    first, last = np.clip(
        np.stack([np.floor((bounds[0] - low) / cell), np.ceil((bounds[1] - low) / cell)]), 0, most
    ).astype(int)
    if (last <= first).any():
        return None
    x, y = np.meshgrid(
        low[0] + cell * (np.arange(first[0], last[0]) + 0.5),
        low[1] + cell * (np.arange(first[1], last[1]) + 0.5),
    )
    shapely.prepare(area)
    return shapely.contains_xy(area, x, y).astype(np.float32), (int(first[0]), int(first[1]))
