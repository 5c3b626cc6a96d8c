"""Other ways up as proposals: the most promising by their quick figures."""

from __future__ import annotations

from collections.abc import Callable

from northpace.proposals.exact import Exact
from northpace.proposals.held import Held
from northpace.proposals.options import Option
from northpace.spec import PlanSpec
from northpace.ways.figures import WayFigures
from northpace.ways.find import find_ways

#: The family of these proposals.
FAMILY = "standing"
#: How many are computed exactly, at most.
MOST = 3
#: A way that tips over at less than this (°) is not proposed.
STEADY = 8.0
#: Quick step errors beyond what is held by this share are not worth an exact plan.
SLACK = 1.1


def standing(
    exact: Exact, spec: PlanSpec, held: Held, worth: float, over: Callable[[], bool]
) -> list[Option]:
    """Ways up that promise more than ``worth`` seconds, the quickest first, of those that were
    looked at before the time was ``over()``. None where the maker keeps the way it stands.
    """
    if held.families and FAMILY not in held.families:
        return []
    ways = [
        way.figures
        for way in find_ways(
            exact.pipeline.part(exact.source, spec),
            spec,
            exact.correction,
            cancelled=lambda: over() or bool(exact.cancelled and exact.cancelled()),
        )
    ]
    if not ways:
        return []
    now = ways[0]
    better = [way for way in ways[1:] if _promises(way, now, held, worth)]
    better.sort(key=lambda way: way["time_s"])
    return [
        Option(FAMILY, _words(way, now), dict(way["change"]), _gives_up(way, now))
        for way in better
        if not any(name in held.keep for name in way["change"])
    ][:MOST]


def _promises(way: WayFigures, now: WayFigures, held: Held, worth: float) -> bool:
    return (
        not way["misfit"]
        and way["tips_at_deg"] >= STEADY
        and way["time_s"] < now["time_s"] - worth
        and way["p95_um"] <= SLACK * held.p95_um
        and way["scar_seen_mm2"] <= now["scar_seen_mm2"] + 0.5
        and way["loose_starts"] <= now["loose_starts"]
        and way["hanging_mm2"] <= now["hanging_mm2"] + 0.5
    )


def _words(way: WayFigures, now: WayFigures) -> str:
    x, y, z = way["down"]
    held = (
        f"supports {way['support_mm3'] / 1000:.1f} cm³"
        if way["support_mm3"] > 0.5
        else "no supports needed"
    )
    return (
        f"stand it another way up ({x:.2f}, {y:.2f}, {z:.2f} of the file down): "
        f"{way['size_mm'][2]:.0f} mm tall instead of {now['size_mm'][2]:.0f}, {held}"
    )


def _gives_up(way: WayFigures, now: WayFigures) -> str:
    said = ["layers run another way through it"]
    if way["scar_mm2"] > now["scar_mm2"] + 1:
        said.append(f"supports touch {way['scar_mm2']:.0f} mm² instead of {now['scar_mm2']:.0f}")
    return ", ".join(said)
