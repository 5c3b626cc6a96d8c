"""The move table as Parquet."""

from __future__ import annotations

import io

import pyarrow as pa
import pyarrow.parquet as pq

from northpace.export.export import Export


def write(moves: pa.Table) -> bytes:
    """A Parquet file with a row a move."""
    sink = io.BytesIO()
    pq.write_table(moves, sink)
    return sink.getvalue()


EXPORT = Export(
    "moves",
    "parquet",
    "application/vnd.apache.parquet",
    "The move table as Parquet, small and quick to read.",
    write,
)
