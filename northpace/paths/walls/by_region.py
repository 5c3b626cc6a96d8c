"""Other numbers of walls in the regions of a plan."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from northpace.geometry.polygons import Pieces, collect
from northpace.outlines.sections import Outlines
from northpace.paths.places import Places
from northpace.paths.walls.zones import Zones
from northpace.spec import Body, PlanSpec, with_changes

#: Settings of a region that change how many walls there are.
WALL_SETTINGS = ("body.walls", "body.wall_thickness")


def zones_of(
    outlines: Outlines,
    counts: np.ndarray,
    places: Places,
    spec: PlanSpec,
    count_of: Callable[[Body], int],
) -> Zones:
    """The zones of a plan's islands, where a region changes the number (N,) of walls.

    ``count_of`` is how many walls a body's settings ask for.
    """
    islands = outlines.islands
    if not places.change(*WALL_SETTINGS):
        return Zones.none(len(islands))
    whole = Pieces(islands.polygons, np.arange(len(islands)))
    pieces, case, cases = places.partition(whole, islands.owner, WALL_SETTINGS)
    own = counts[islands.owner]
    asked = np.array([count_of(with_changes(spec, changes).body) for changes in cases])
    wanted = np.where(case > 0, asked[case], own[pieces.owner])
    varied = np.zeros(len(islands), bool)
    varied[pieces.owner[wanted != own[pieces.owner]]] = True
    areas: dict[int, np.ndarray] = {}
    mine = varied[pieces.owner]
    for count in np.unique(wanted[mine]).tolist():
        some = mine & (wanted == count)
        areas[count] = collect(Pieces(pieces.polygons[some], pieces.owner[some]), len(islands))
    return Zones(varied, areas)
