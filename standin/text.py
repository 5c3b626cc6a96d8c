"""G-code text as a machine reads it: line by line, word by word."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from standin.limits import Limits

MOVE, WAIT = 0, 1


@dataclass
class Program:
    """What a file asks for, in order: steps (K,) as kind, way (K, 4: x, y, z, filament in mm), speed asked for (mm/s), push (mm/s²), seconds
    of waiting and the layer each belongs to (−1 before the first); the temperatures and fan it sets, as (step, what, value)."""

    kind: np.ndarray
    way: np.ndarray
    speed: np.ndarray
    push: np.ndarray
    wait: np.ndarray
    layer: np.ndarray
    sets: list[tuple[int, str, float]] = field(default_factory=list)


def read(text: str, limits: Limits) -> Program:
    """The program of a file. Heating that is waited for takes as long as the machine needs from what it is at."""
    at = [0.0, 0.0, 0.0]
    feed, push, travel, layer, relative = 0.0, limits.push_xy, limits.push_xy, -1, False
    heat = {"bed": limits.room, "nozzle": limits.room}
    last_e = 0.0
    kinds: list[int] = []
    ways: list[tuple[float, float, float, float]] = []
    speeds: list[float] = []
    pushes: list[float] = []
    waits: list[float] = []
    layers: list[int] = []
    sets: list[tuple[int, str, float]] = []

    def step(kind: int, way: tuple[float, float, float, float], wait: float) -> None:
        kinds.append(kind)
        ways.append(way)
        speeds.append(feed / 60.0)
        pushes.append(push if way[3] != 0.0 else travel)
        waits.append(wait)
        layers.append(layer)

    for line in text.splitlines():
        if line.startswith(";layer "):
            layer = int(line.split()[1]) - 1
            continue
        words = line.split(";", 1)[0].split()
        if not words:
            continue
        code = words[0]
        values = {word[0]: float(word[1:]) for word in words[1:] if len(word) > 1}
        if code in ("G0", "G1"):
            feed = values.get("F", feed)
            to = [values.get(axis, now) for axis, now in zip("XYZ", at, strict=True)]
            e = values.get("E", 0.0 if relative else last_e)
            fed = e if relative else e - last_e
            last_e = last_e if relative else e
            step(MOVE, (to[0] - at[0], to[1] - at[1], to[2] - at[2], fed), 0.0)
            at = to
        elif code == "G4":
            step(WAIT, (0.0, 0.0, 0.0, 0.0), values.get("S", 0.0) + values.get("P", 0.0) / 1000.0)
        elif code == "G28":
            if len(words) == 1:  # a part of the axes goes home at the end, when the print is done
                step(WAIT, (0.0, 0.0, 0.0, 0.0), limits.homing)
            at = [0.0 if axis in values or len(words) == 1 else now for axis, now in zip("XYZ", at, strict=True)]
        elif code == "G92":
            last_e = values.get("E", last_e)
        elif code in ("M82", "M83"):
            relative = code == "M83"
        elif code == "M204":
            push = values.get("P", values.get("S", push))
            travel = values.get("T", values.get("S", travel))
        elif code in ("M104", "M140"):
            sets.append((len(kinds), "nozzle" if code == "M104" else "bed", values["S"]))
        elif code in ("M109", "M190"):
            what, rate = ("nozzle", limits.nozzle_rate) if code == "M109" else ("bed", limits.bed_rate)
            sets.append((len(kinds), what, values["S"]))
            step(WAIT, (0.0, 0.0, 0.0, 0.0), max(values["S"] - heat[what], 0.0) / rate)
            heat[what] = values["S"]
        elif code in ("M106", "M107"):
            sets.append((len(kinds), "fan", values.get("S", 0.0)))
    return Program(np.array(kinds), np.array(ways).reshape(-1, 4), np.array(speeds), np.array(pushes), np.array(waits), np.array(layers), sets)
