"""What may be changed to make a plan quicker, family by family: each option a change of settings
with its words and what it gives up.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

from northpace.paths.walls.loops import wall_count, wall_thickness
from northpace.proposals.held import Held, skin_mm, thinner
from northpace.spec import PlanSpec
from northpace.spec.by_layer import value_of

#: Beads up to this many nozzles wide are proposed.
WIDEST = 1.75


@dataclass(frozen=True)
class Option:
    """A change by setting name, what it is in words, what it gives up (may be empty), and the
    family it belongs to.
    """

    family: str
    words: str
    change: dict[str, Any] = field(hash=False)
    gives_up: str = ""


def with_change(spec: PlanSpec, change: dict[str, Any]) -> PlanSpec:
    """The spec with a change, unchecked: for ranking thousands. What is proposed is checked when it
    is computed.
    """
    groups: dict[str, dict[str, Any]] = {}
    for name, value in change.items():
        group, _, key = name.partition(".")
        groups.setdefault(group, {})[key] = value
    return spec.model_copy(
        update={
            group: getattr(spec, group).model_copy(update=values)
            for group, values in groups.items()
        }
    )


def options(spec: PlanSpec, held: Held, height: float) -> list[Option]:
    """Every option that keeps the thickness held and touches nothing that stays, at a usual layer
    height in mm.
    """
    found = []
    for name, family in FAMILIES.items():
        if held.families and name not in held.families:
            continue
        for option in family(spec, held, height):
            changes = {
                key: value for key, value in option.change.items() if value != value_of(spec, key)
            }
            if (
                not changes
                or any(key in held.keep for key in changes)
                or thinner(held, with_change(spec, changes), height)
            ):
                continue
            found.append(Option(name, option.words, changes, option.gives_up))
    return found


def _widths(spec: PlanSpec, now: float) -> list[float]:
    """Widths above one, up to the widest proposed, in twentieths of a millimetre."""
    tallest = spec.tallest
    return [
        w / 20
        for w in range(int(20 * now + 1e-6) + 1, int(20 * WIDEST * spec.machine.nozzle + 1e-6) + 1)
        if w / 20 > tallest
    ]


def _heights(spec: PlanSpec, held: Held, height: float) -> Iterator[Option]:
    surface = spec.surface
    if surface.stack:
        return
    words = (
        f"layer heights fitted to at most {held.p95_um:.0f} µm"
        if surface.kind == "even"
        else f"surface target {held.p95_um:.0f} µm"
    )
    yield Option(
        "",
        words,
        {
            "surface.kind": "best-fit",
            "surface.measure": "p95",
            "surface.target_um": round(held.p95_um, 1),
            "surface.time_cap_min": None,
        },
    )


def _walls(spec: PlanSpec, held: Held, height: float) -> Iterator[Option]:
    body = spec.body
    if body.build != "ordinary":
        return
    count = wall_count(body, height)
    outers, inners = (
        [body.outer_width, *_widths(spec, body.outer_width)],
        [body.inner_width, *_widths(spec, body.inner_width)],
    )
    for outer in outers:
        for inner in inners:
            fitted = body.model_copy(
                update={"outer_width": outer, "inner_width": inner, "wall_thickness": None}
            )
            fewest = next(
                (
                    n
                    for n in range(1, count + 1)
                    if wall_thickness(fitted, n, height) >= held.wall_mm - 1e-9
                ),
                None,
            )
            if fewest is None:
                continue
            parts = (
                [f"outer wall {body.outer_width:g} → {outer:g}"]
                if outer != body.outer_width
                else []
            )
            parts += (
                [f"inner walls {body.inner_width:g} → {inner:g}"]
                if inner != body.inner_width
                else []
            )
            parts += [f"{count} → {fewest} of them"] if fewest != count else []
            change = {
                "body.outer_width": outer,
                "body.inner_width": inner,
                "body.walls": fewest,
                "body.wall_thickness": None,
            }
            yield Option(
                "",
                ", ".join(parts),
                change,
                "the outer bead shows wider, narrow details fill less"
                if outer != body.outer_width
                else "",
            )


def _skins(spec: PlanSpec, held: Held, height: float) -> Iterator[Option]:
    body = spec.body
    if body.build != "ordinary":
        return
    for layers in range(min(body.top_layers, body.bottom_layers) - 1, 0, -1):
        yield Option(
            "",
            f"skins by their thickness, at least {layers} layers",
            {
                "body.top_layers": min(layers, body.top_layers),
                "body.bottom_layers": min(layers, body.bottom_layers),
            },
        )
    for side, least in (("top", held.top_mm), ("bottom", held.bottom_mm)):
        thickness, count = getattr(body, f"{side}_thickness"), getattr(body, f"{side}_layers")
        fewest = next((n for n in range(1, 60) if n * height >= least - 1e-9), None)
        if fewest and skin_mm(thickness, count, height) > fewest * height + 1e-9:
            yield Option(
                "",
                f"{side} {thickness:g} → {fewest * height:g} mm",
                {
                    f"body.{side}_thickness": round(fewest * height, 3),
                    f"body.{side}_layers": min(count, fewest),
                },
            )


def _solid(spec: PlanSpec, held: Held, height: float) -> Iterator[Option]:
    body = spec.body
    for width in _widths(spec, body.solid_width):
        yield Option(
            "",
            f"solid lines {body.solid_width:g} → {width:g}, the top as it is",
            {"body.solid_width": width, "body.top_width": body.top_width or body.solid_width},
        )
        yield Option(
            "",
            f"solid lines {body.solid_width:g} → {width:g}",
            {"body.solid_width": width, "body.top_width": None},
            "top lines wider",
        )


def _infill(spec: PlanSpec, held: Held, height: float) -> Iterator[Option]:
    body = spec.body
    if body.build != "ordinary" or not 0 < body.infill_density < 100:
        return
    for width in _widths(spec, body.infill_width):
        yield Option(
            "", f"infill lines {body.infill_width:g} → {width:g}", {"body.infill_width": width}
        )
    for density in (20, 15, 13, 12, 11, 10, 9, 8, 7, 6, 5):
        if density < body.infill_density:
            yield Option(
                "",
                f"infill {body.infill_density:g} → {density} %",
                {"body.infill_density": float(density)},
                "tops rest on fewer lines",
            )
    for every in (2, 3):
        if every > body.infill_every:
            yield Option("", f"infill every {every} layers", {"body.infill_every": every})
    if body.infill_pattern != "lines":
        yield Option(
            "",
            f"infill {body.infill_pattern} → lines",
            {"body.infill_pattern": "lines"},
            "one direction a layer",
        )
    if body.caught_infill == "keep":
        yield Option(
            "", "low hollows solid where that is quicker", {"body.caught_infill": "when-quicker"}
        )


def _pace(spec: PlanSpec, held: Held, height: float) -> Iterator[Option]:
    for share, shown, step in (
        (90, 45, 60),
        (95, 60, 60),
        (100, 60, 60),
        (100, 80, 60),
        (100, 100, 100),
    ):
        yield Option(
            "",
            f"speeds from limits, {share} % of the safe flow, {shown} % for what shows",
            {
                "pace.dial": None,
                "pace.derived": True,
                "pace.flow_share": float(share),
                "pace.outer_share": float(shown),
                "pace.flow_step": float(step),
            },
            "what shows is laid quicker" if shown > 45 else "",
        )
    machine = spec.machine
    if spec.pace.travel_speed < machine.max_speed_xy:
        yield Option(
            "",
            f"travel {spec.pace.travel_speed:g} → {machine.max_speed_xy:g} mm/s",
            {"pace.travel_speed": machine.max_speed_xy},
        )


def _supports(spec: PlanSpec, held: Held, height: float) -> Iterator[Option]:
    held_up = spec.supports
    if not held_up.enabled:
        return
    for density in (20.0, 15.0, 10.0):
        if density < held_up.density:
            yield Option(
                "",
                f"supports {held_up.density:g} → {density:g} %",
                {"supports.density": density},
                "what they bear may sag",
            )
    for width in _widths(spec, held_up.width):
        yield Option("", f"support lines {held_up.width:g} → {width:g}", {"supports.width": width})


def _footing(spec: PlanSpec, held: Held, height: float) -> Iterator[Option]:
    foot = spec.footing
    if foot.raft_layers:
        yield Option("", "no raft", {"footing.raft_layers": 0}, "the part holds by itself")
    if foot.brim_reach:
        yield Option("", "no brim", {"footing.brim_reach": 0.0}, "the part holds by itself")


#: Families in the order they are told.
FAMILIES: dict[str, Callable[[PlanSpec, Held, float], Iterator[Option]]] = {
    "heights": _heights,
    "walls": _walls,
    "skins": _skins,
    "solid": _solid,
    "infill": _infill,
    "pace": _pace,
    "supports": _supports,
    "footing": _footing,
}
