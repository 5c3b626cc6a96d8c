"""The order within an island, as ranks: a path waits for those of a lower rank that it lies against
(`northpace.paths.travel.waits`). No rank depends on how many walls there are anywhere else.
"""

from __future__ import annotations

#: More walls than anything has.
_WALLS = 10_000
#: Beads of fitting width where walls leave room, bridges, solid layers, tops, infill.
BETWEEN, BRIDGE, SOLID, TOP, INFILL = range(_WALLS, _WALLS + 5)


def of_wall(number: int, outside_first: bool) -> int:
    """The rank of a wall by its number from outside."""
    return number if outside_first else -number
