"""The placed mesh with its slopes, flats and attention, for a screen."""

from __future__ import annotations

import json

import numpy as np
import pyarrow as pa

from northpace.heights.surface import Facets


def shape_table(
    mesh: Facets, owner: np.ndarray, affine: np.ndarray, names: list[str] | None = None
) -> bytes:
    """Facets as an Arrow IPC stream for a screen: three rows a facet with x, y, z, slope, body,
    flat and attention.

    ``owner`` (F,) is the body of each facet; ``affine`` (3, 4), from file to bed coordinates, and
    the ``names`` of the bodies go into the metadata.
    """
    corners = mesh.vertices[mesh.faces].reshape(-1, 3).astype(np.float32)
    attention = np.where(mesh.weights < 1, 0, np.where(mesh.weights > 1, 2, 1)).astype(np.uint8)
    return streamed(
        corners,
        {
            "slope": mesh.slopes.ravel().astype(np.float32),
            "body": np.repeat(owner.astype(np.uint16), 3),
            "flat": np.repeat((mesh.flat >= 0).astype(np.uint8), 3),
            "attention": np.repeat(attention, 3),
        },
        affine,
        names,
    )


def streamed(
    points: np.ndarray,
    columns: dict[str, np.ndarray],
    affine: np.ndarray,
    names: list[str] | None = None,
) -> bytes:
    """Triangles, three rows (3 T, 3) each in mm, with more columns (3 T,), as an Arrow IPC stream;
    ``affine`` (3, 4) and ``names`` of bodies go into the metadata.
    """
    places = {axis: points[:, k].astype(np.float32) for k, axis in enumerate("xyz")}
    table = pa.table({**places, **columns})
    table = table.replace_schema_metadata(
        {"affine": json.dumps(affine.tolist()), "bodies": json.dumps(names or [])}
    )
    sink = pa.BufferOutputStream()
    with pa.ipc.new_stream(sink, table.schema) as writer:
        writer.write_table(table)
    return bytes(sink.getvalue())
