"""The G-code writer: plain, commented, relative extrusion; every number as the move table has it."""

from __future__ import annotations

import json
from string import Formatter
from typing import Any

import numba
import numpy as np

from northpace import VERSION
from northpace.errors import InputError
from northpace.motion.heat import Heat, heat_by_layer
from northpace.motion.kinematics import limits_of
from northpace.moves import BRIDGE, FEATURES, Moves
from northpace.spec import PlanSpec, digest, resolve_heat


def write_gcode(moves: Moves, spec: PlanSpec, tops: np.ndarray, heights: np.ndarray, facts: dict[str, Any]) -> bytes:
    """The file as bytes.

    ``facts`` go into the header comments (part, plan version, time, mass …). Temperatures and fan are set where they change:
    before the first layer, and with the comment of every layer that has others than the one below.
    """
    heat = heat_by_layer(spec, tops, heights)
    layer_text = [_layer_comment(k, top, height) + _layer_changes(heat, k) for k, (top, height) in enumerate(zip(tops, heights, strict=True))]
    feature_text = [f";feature {name}\n" for name in FEATURES]
    layer_bytes, layer_at = _joined(layer_text)
    feature_bytes, feature_at = _joined(feature_text)
    bridge_bytes, bridge_at = _joined(_bridge_fans(heat))
    changes = int((np.diff(moves.feature.astype(np.int16)) != 0).sum()) + len(tops) + 2
    size = len(moves) * 72 + len(layer_bytes) + changes * 52 + 1024
    out = np.empty(size, np.uint8)
    used = _write(out, moves.layer, moves.feature, moves.x, moves.y, moves.z, moves.speed, moves.acceleration.astype(np.float64),
                  moves.filament, layer_bytes, layer_at, feature_bytes, feature_at, bridge_bytes, bridge_at)
    return b"".join([_header(spec, facts, len(tops)).encode(), _start(spec).encode(), out[:used].tobytes(), _end(spec).encode()])


def _header(spec: PlanSpec, facts: dict[str, Any], layers: int) -> str:
    machine = spec.machine
    lines = {"made by": f"North Pace {VERSION}", **facts, "machine": f"{machine.name}, {machine.nozzle:g} mm nozzle",
             "material": spec.material.name, "layers": layers, "spec checksum": facts.get("spec checksum") or digest(spec)}
    # what the reader needs to time the file again
    motion = {"limits": [float(v) for v in limits_of(machine)], "diameter": spec.material.diameter,
              "density": spec.material.density, "start_seconds": facts.get("start seconds", 0.0),
              "reached": machine.acceleration_reached / 100.0, "layer_overhead": machine.layer_overhead}
    return "".join(f"; {key}: {_one_line(value)}\n" for key, value in lines.items()) + f"; motion: {json.dumps(motion)}\n"


def _one_line(value: Any) -> str:
    return " ".join(str(value).encode("ascii", "replace").decode().split())


def _start(spec: PlanSpec) -> str:
    heat = resolve_heat(spec)
    template = spec.machine.start_gcode if spec.ends.start_gcode is None else spec.ends.start_gcode
    text = _fields(template, {"nozzle_temp": heat["first_nozzle_temp"], "bed_temp": heat["first_bed_temp"]}, "ends.start_gcode")
    return f";start\n{text.rstrip()}\nG21\nG90\nM83\nG92 E0\nM107\n;moves\n"


def _end(spec: PlanSpec) -> str:
    heat = resolve_heat(spec)
    template = spec.machine.end_gcode if spec.ends.end_gcode is None else spec.ends.end_gcode
    values = {"nozzle_temp": heat["nozzle_temp"], "bed_temp": heat["bed_temp"]}
    return ";end\n" + _fields(template, values, "ends.end_gcode").rstrip() + "\n"


def _fields(template: str, values: dict[str, float], where: str) -> str:
    try:
        names = [name for _, name, _, _ in Formatter().parse(template) if name is not None]
    except ValueError as error:
        raise InputError(f"braces do not match ({error}); write {{nozzle_temp}} or {{bed_temp}}", where) from error
    for name in names:
        if name not in values:
            raise InputError(f"unknown field {{{name}}}; there are " + ", ".join(f"{{{key}}}" for key in values), where)
    for name, value in values.items():
        template = template.replace(f"{{{name}}}", f"{value:g}")
    return template


def _layer_comment(k: int, top: float, height: float) -> str:
    return f";layer {k + 1} z {top:.3f} h {height:.3f}\n"


def _fan(percent: float) -> str:
    return f"M106 S{round(percent * 255 / 100)}\n" if percent > 0 else "M107\n"


def _layer_changes(heat: Heat, k: int) -> str:
    """What a layer sets anew; the start has set the first layer's temperatures, and the fan off."""
    text = ""
    if k and heat.nozzle[k] != heat.nozzle[k - 1]:
        text += f"M104 S{heat.nozzle[k]:g}\n"
    if k and heat.bed[k] != heat.bed[k - 1]:
        text += f"M140 S{heat.bed[k]:g}\n"
    if heat.fan[k] != (heat.fan[k - 1] if k else 0.0):
        text += _fan(heat.fan[k])
    return text


def _bridge_fans(heat: Heat) -> list[str]:
    """What starts a bridge in every layer, and then for every layer what ends it: the fan on bridges, and the layer's own."""
    differs = heat.bridge_fan != heat.fan
    return [_fan(value) if other else "" for values in (heat.bridge_fan, heat.fan) for value, other in zip(values, differs, strict=True)]


def _joined(texts: list[str]) -> tuple[np.ndarray, np.ndarray]:
    parts = [text.encode() for text in texts]
    at = np.cumsum([0] + [len(part) for part in parts])
    return np.frombuffer(b"".join(parts) or b"\0", np.uint8), at.astype(np.int64)


@numba.njit(cache=True)
def _number(out: np.ndarray, at: int, value: float, decimals: int) -> int:
    """Write a decimal number without trailing zeros; returns the next free place."""
    scale = 10**decimals
    whole = np.int64(np.round(abs(value) * scale))
    if value < 0 and whole != 0:
        out[at] = 45
        at += 1
    integer, fraction = whole // scale, whole % scale
    digits = np.int64(1)
    while integer // digits >= 10:
        digits *= 10
    while digits > 0:
        out[at] = 48 + integer // digits % 10
        at += 1
        digits //= 10
    if fraction:
        out[at] = 46
        at += 1
        while fraction:
            scale //= 10
            out[at] = 48 + fraction // scale
            at += 1
            fraction %= scale
    return at


@numba.njit(cache=True)
def _text(out: np.ndarray, at: int, texts: np.ndarray, first: int, last: int) -> int:
    for k in range(first, last):
        out[at] = texts[k]
        at += 1
    return at


@numba.njit(cache=True)
def _write(out, layer, feature, x, y, z, speed, acceleration, filament, layers, layer_at, features, feature_at, fans, fan_at):  # type: ignore[no-untyped-def]
    at, now, kind, pace, push = 0, -1, -1, -1.0, -1.0
    here = (len(fan_at) - 1) // 2  # what starts bridges comes first, then what ends them
    px, py, pz = 0.0, 0.0, 0.0
    for k in range(1, len(layer)):
        while layer[k] > now:
            now += 1
            at = _text(out, at, layers, layer_at[now], layer_at[now + 1])
            if kind == BRIDGE:
                at = _text(out, at, fans, fan_at[now], fan_at[now + 1])
        if feature[k] != kind:
            if kind == BRIDGE:
                at = _text(out, at, fans, fan_at[here + now], fan_at[here + now + 1])
            kind = feature[k]
            at = _text(out, at, features, feature_at[kind], feature_at[kind + 1])
            if kind == BRIDGE:
                at = _text(out, at, fans, fan_at[now], fan_at[now + 1])
        if acceleration[k] != push:
            push = acceleration[k]
            for letter in (77, 50, 48, 52, 32, 83):  # M204 S
                out[at] = letter
                at += 1
            at = _number(out, at, push, 0)
            out[at] = 10
            at += 1
        out[at], out[at + 1] = 71, 48 if filament[k] == 0.0 else 49
        at += 2
        if x[k] != px or k == 1:
            out[at], out[at + 1] = 32, 88
            at = _number(out, at + 2, x[k], 3)
        if y[k] != py or k == 1:
            out[at], out[at + 1] = 32, 89
            at = _number(out, at + 2, y[k], 3)
        if z[k] != pz or k == 1:
            out[at], out[at + 1] = 32, 90
            at = _number(out, at + 2, z[k], 3)
        px, py, pz = x[k], y[k], z[k]
        if filament[k] != 0.0:
            out[at], out[at + 1] = 32, 69
            at = _number(out, at + 2, filament[k], 5)
        if speed[k] != pace:
            pace = speed[k]
            out[at], out[at + 1] = 32, 70
            at = _number(out, at + 2, 60.0 * pace, 3)
        out[at] = 10
        at += 1
    return at
