"""The file of a bed: one start, one end, a word at every change of placing."""

from __future__ import annotations

from typing import Any

import numpy as np

from northpace.beds.laying import Laid
from northpace.beds.merge import DECIMALS
from northpace.gcode.write import assembled, fan_word, layer_comment
from northpace.naming import safe


def write_bed(laid: Laid, facts: dict[str, Any]) -> bytes:
    """The file as bytes; ``facts`` go into its header. Every visit has two texts: one before the
    way to it, one before its own moves.
    """
    order, machine = laid.order, laid.plans[0].spec.machine
    labels = labelled(laid)
    names = placing_names(laid)
    begun: list[str] = []
    bridges: list[str] = []
    ends: list[str] = []
    passed, before, now = -1, -1, _Now()
    for p, v, number in zip(order.placing, order.visit, order.number, strict=True):
        plan = laid.plans[p]
        layer = plan.visits.layer[v]
        way = own = ""
        if number > passed:
            way += layer_comment(number, order.top[number], order.height[number])
        if p != before:
            if before >= 0:
                way += ";between placings\n" + ("M486 S-1\n" if labels else "")
            if p < laid.own:
                own += f";placing {p + 1} {names[p]}\n" + (f"M486 S{p}\n" if labels else "")
        heat = plan.heat
        own += now.change(heat.nozzle[layer], heat.bed[layer], heat.fan[layer], machine.fan_scale)
        begun += [way, own]
        differs = heat.bridge_fan[layer] != heat.fan[layer]
        bridges += 2 * [fan_word(heat.bridge_fan[layer], machine.fan_scale) if differs else ""]
        ends += 2 * [fan_word(heat.fan[layer], machine.fan_scale) if differs else ""]
        passed, before = number, p
    visit = laid.merged.visit
    own_from = laid.merged.own[np.maximum(visit, 0)]
    marks = np.where(visit < 0, -1, 2 * visit + (np.arange(len(visit)) >= own_from))
    spec = laid.plans[order.placing[0]].spec
    known = {
        "placings": laid.own,
        "start seconds": float(laid.moves.seconds[0]),
        "pause seconds": laid.pause_seconds,
        **facts,
    }
    return assembled(laid.moves, marks, begun, [*bridges, *ends], spec, order.top, known, DECIMALS)


def labelled(laid: Laid) -> bool:
    """Whether the file says which placing a move belongs to, so that one can be left out."""
    machine = laid.plans[0].spec.machine
    # a placing that is left out leaves a hole in filament counted from the start
    return machine.object_labels == "M486" and machine.extrusion == "relative"


class _Now:
    """What the file has set so far; the start has set the first layer's temperatures."""

    def __init__(self) -> None:
        self.nozzle, self.bed, self.fan = -1.0, -1.0, 0.0

    def change(self, nozzle: float, bed: float, fan: float, scale: str) -> str:
        """The words that set what differs."""
        text = ""
        if self.nozzle not in (-1.0, nozzle):
            text += f"M104 S{nozzle:g}\n"
        if self.bed not in (-1.0, bed):
            text += f"M140 S{bed:g}\n"
        if self.fan != fan:
            text += fan_word(fan, scale)
        self.nozzle, self.bed, self.fan = nozzle, bed, fan
        return text


def placing_names(laid: Laid) -> list[str]:
    """What the placings are called in the file: the plan, and which copy of it."""
    seen: dict[str, int] = {}
    out = []
    for plan in laid.plans[: laid.own]:
        seen[plan.name] = seen.get(plan.name, 0) + 1
        out.append(f"{safe(plan.name)} copy {seen[plan.name]}")
    return out
