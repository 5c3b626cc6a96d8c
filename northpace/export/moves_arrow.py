"""The move table as an Arrow stream."""

from __future__ import annotations

import io

import pyarrow as pa

from northpace.export.export import Export


def write(moves: pa.Table) -> bytes:
    """An Arrow IPC stream with a row a move; see `northpace.moves.Moves` for the columns."""
    sink = io.BytesIO()
    with pa.ipc.new_stream(sink, moves.schema) as writer:
        writer.write_table(moves)
    return sink.getvalue()


EXPORT = Export(
    "moves",
    "arrow",
    "application/vnd.apache.arrow.stream",
    "The move table as an Arrow stream, for programs.",
    write,
)
