"""The move table as text, for a spreadsheet."""

from __future__ import annotations

import io

import pyarrow as pa
import pyarrow.csv

from northpace.export.export import Export
from northpace.moves import FEATURES


def write(moves: pa.Table) -> bytes:
    """A row a move under a row of column names, with the feature as a word."""
    sink = io.BytesIO()
    words = pa.DictionaryArray.from_arrays(moves["feature"].combine_chunks(), list(FEATURES))
    place = moves.column_names.index("feature")
    table = moves.set_column(place, "feature", words.cast(pa.string()))
    pyarrow.csv.write_csv(table, sink)
    return sink.getvalue()


EXPORT = Export(
    "moves", "csv", "text/csv", "The move table as text, for a spreadsheet; large.", write
)
