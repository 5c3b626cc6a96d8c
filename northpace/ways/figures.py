"""What is said of a way up, as types."""

from __future__ import annotations

from typing import Literal

from typing_extensions import TypedDict

#: What a way is found by: as the part stands now, a face it can stand on, or a direction.
Kind = Literal["now", "face", "direction"]


class WayFigures(TypedDict):
    """A way up: the placement, and what it comes to with supports where they are needed."""

    kind: Kind
    #: settings by their names that stand the part so, supports included where it needs some
    change: dict[str, float | bool | str]
    #: (3,) the direction of the file that points down
    down: list[float]
    size_mm: list[float]
    #: ≈ s, g, money
    time_s: float
    mass_g: float
    cost: float
    #: ≈ s without supports, where it needs some and the plan has none
    bare_time_s: float | None
    layers: int
    #: mm³ that stands take, with what is open between their lines
    support_mm3: float
    #: mm² of surface that supports touch: in all, of faces marked as seen, and of hidden ones
    scar_mm2: float
    scar_seen_mm2: float
    scar_hidden_mm2: float
    #: the same weighted by attention
    scar_weighted_mm2: float
    #: µm, of the plan's own rule for heights
    mean_um: float
    p95_um: float
    #: mm² on the bed; mm from the bed to the top for each mm across the bed; degrees by which it
    #: can be tilted before it falls, negative where it cannot stand
    contact_mm2: float
    slenderness: float
    tips_at_deg: float
    #: outlines that start in mid-air, those of them that supports cannot hold because they stand on
    #: the bed only, and level spans that are bridged
    starts_in_air: int
    loose_starts: int
    bridges: int
    #: mm² that lean out and that nothing holds, because supports stand on the bed only
    hanging_mm2: float
    #: degrees between the load and the layers, where a load is said
    load_deg: float | None
    #: why it does not fit the machine; "" where it does
    misfit: str


class RankedWay(TypedDict):
    """A way with its place."""

    #: number of the way, as they were found
    way: int
    #: from 0, the best
    score: float
    #: whether no other way is at least as good in everything
    unbeaten: bool
