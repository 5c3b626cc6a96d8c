"""The move table: one row a move, typed columns, kept as Arrow.

It is the single truth that G-code, ledger, lanes, stage and checks read. Positions are the *end* of
a move and are already rounded to what the G-code says (3 decimals, filament 5), so that a file read
back gives the same rows.
"""

from __future__ import annotations

from collections import namedtuple
from dataclasses import dataclass
from typing import Any

import numba
import numpy as np
import pyarrow as pa
import pyarrow.ipc
import pyarrow.parquet

from northpace.errors import InputError

#: Feature names by their code in the table. The order is part of the file format: only append.
FEATURES = (
    "start",
    "travel",
    "retraction",
    "footing",
    "outer-wall",
    "inner-wall",
    "solid",
    "infill",
    "gap",
    "top",
    "bridge",
    "support",
    "support-roof",
    "pause",
)
START, TRAVEL, RETRACTION, FOOTING, OUTER, INNER, SOLID, INFILL = range(8)
GAP, TOP, BRIDGE, SUPPORT, ROOF, PAUSE = range(8, 14)
COLUMNS = {
    "layer": np.int32,
    "feature": np.uint8,
    "x": np.float64,
    "y": np.float64,
    "z": np.float64,
    "width": np.float32,
    "height": np.float32,
    "speed": np.float64,
    "acceleration": np.float32,
    "flow": np.float32,
    "seconds": np.float64,
    "filament": np.float64,
    "cause": np.int32,
}
#: The table as kernels take it.
Columns: Any = namedtuple("Columns", list(COLUMNS))  # type: ignore[misc]


@dataclass(frozen=True)
class Moves:
    """The move table: columns of equal length M that all figures are sums over."""

    #: (M,) layer, −1 before the first
    layer: np.ndarray
    #: (M,) code into `FEATURES`
    feature: np.ndarray
    #: (M,) end of the move in mm
    x: np.ndarray
    y: np.ndarray
    z: np.ndarray
    #: (M,) of the bead in mm, 0 when nothing is laid
    width: np.ndarray
    height: np.ndarray
    #: (M,) mm/s asked for, after the flow limit and slowing
    speed: np.ndarray
    #: (M,) mm/s²
    acceleration: np.ndarray
    #: (M,) mm³/s at that speed
    flow: np.ndarray
    #: (M,) how long it takes
    seconds: np.ndarray
    #: (M,) mm fed; negative is pulled back
    filament: np.ndarray
    #: (M,) number of the reason a solid bead is solid, or of the stand a support belongs to; −1
    #: for none
    cause: np.ndarray

    def __len__(self) -> int:
        return len(self.layer)

    @property
    def nbytes(self) -> int:
        return sum(getattr(self, name).nbytes for name in COLUMNS)

    def columns(self) -> Any:
        """The table as kernels take it."""
        return Columns(*(getattr(self, name) for name in COLUMNS))

    def lengths(self) -> np.ndarray:
        """(M,) path length of each move in mm."""
        return _lengths(self.x, self.y, self.z)


@numba.njit(cache=True, nogil=True)
def _lengths(x: np.ndarray, y: np.ndarray, z: np.ndarray) -> np.ndarray:
    """In one pass: of millions of moves every column between counts."""
    out = np.zeros(len(x))
    for k in range(1, len(x)):
        dx, dy, dz = x[k] - x[k - 1], y[k] - y[k - 1], z[k] - z[k - 1]
        out[k] = np.sqrt(dx * dx + dy * dy + dz * dz)
    return out


def to_arrow(moves: Moves, note: dict[str, str] | None = None) -> pa.Table:
    """The table as Arrow; ``note`` becomes schema metadata."""
    table = pa.table(
        {name: np.asarray(getattr(moves, name), dtype) for name, dtype in COLUMNS.items()}
    )
    return table.replace_schema_metadata({"features": ",".join(FEATURES), **(note or {})})


def from_arrow(table: pa.Table) -> Moves:
    """Moves of an Arrow table; raises `InputError` if a column is missing."""
    missing = [name for name in COLUMNS if name not in table.column_names]
    if missing:
        raise InputError(f"the move table lacks the columns {', '.join(missing)}")
    return Moves(**{name: table[name].to_numpy() for name in COLUMNS})


def browser_bytes(moves: Moves, tops: np.ndarray) -> bytes:
    """Arrow IPC stream for the screen: the same rows, positions in single precision to halve the
    transfer; the tops (N,) of the layers in mm go along, because a layer may have no move.
    """
    small = {
        name: np.asarray(getattr(moves, name), np.float32 if dtype == np.float64 else dtype)
        for name, dtype in COLUMNS.items()
        if name != "acceleration"
    }
    heads = {"features": ",".join(FEATURES), "tops": ",".join(f"{top:.3f}" for top in tops)}
    table = pa.table(small).replace_schema_metadata(heads)
    sink = pa.BufferOutputStream()
    with pa.ipc.new_stream(sink, table.schema) as writer:
        writer.write_table(table)
    return sink.getvalue().to_pybytes()
