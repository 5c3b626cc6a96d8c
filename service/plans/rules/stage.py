"""What the stage of the desk shows."""

from __future__ import annotations

import numpy as np
import pyarrow as pa

from northpace.heights.attention import told_apart
from northpace.heights.shape import shape_table
from northpace.heights.surface import facets_from
from northpace.part.stl import mesh_arrays
from northpace.part.thin import merged
from northpace.spec import PlanSpec
from service.core import pipeline
from service.limits import figuring
from service.plans.models import Plan, PlanVersion
from service.plans.rules import stored
from service.plans.rules.beside import beside

#: A shape for the stage has at most this many triangles; more only costs the browser.
STAGE_TRIANGLES = 150_000


@beside("quick", figuring)
def stage_shape(plan: Plan, spec: PlanSpec) -> bytes:
    """The placed part for the stage as an Arrow stream: three rows a facet, thinned out where it is
    finer than a screen shows.

    Columns: x, y, z (mm), slope (smooth n_z), body, flat (0 or 1), attention (0 hidden, 1 ordinary,
    2 seen). The schema's metadata has the matrix from file to bed coordinates.
    """
    placed = pipeline().placed(plan.part.source, spec)
    vertices, faces, owner = mesh_arrays(
        tuple(told_apart(body, spec.body.regions) for body in placed.bodies)
    )
    names = list(placed.named)
    if len(faces) > STAGE_TRIANGLES:
        vertices, faces = merged(vertices, faces, STAGE_TRIANGLES)
        # thinning mixes the faces of bodies
        owner, names = np.zeros(len(faces), np.int32), []
    mesh = facets_from(
        vertices.astype(np.float64),
        faces.astype(np.int64),
        placed,
        spec.surface,
        spec.machine.z_step,
        spec.body.regions,
    )
    return shape_table(mesh, owner, placed.affine, names)


def moves_of(version: PlanVersion) -> pa.Table:
    """The move table of a computed version, as the screen has it."""
    return pa.ipc.open_stream(stored.moves(version)).read_all()
