"""The G-code writer: plain, commented, relative extrusion; every number as the move table
has it.
"""

from __future__ import annotations

import json
from io import BytesIO
from typing import Any, NamedTuple

import numba
import numpy as np

from northpace import VERSION
from northpace.gcode.template import check_heat, fill
from northpace.motion.heat import Heat, heat_by_layer
from northpace.motion.kinematics import limits_of
from northpace.moves import BRIDGE, FEATURES, Moves
from northpace.spec import PlanSpec, digest, resolve_heat


class Text(NamedTuple):
    """Pieces of text end to end: their letters, and (N + 1,) where each begins."""

    letters: np.ndarray
    at: np.ndarray


class Texts(NamedTuple):
    """What stands between moves."""

    #: what comes before the moves of a mark, a layer for a plan
    marks: Text
    #: what begins a feature, then for every feature what ends it
    features: Text
    #: what begins bridges in each mark, then what ends them
    fans: Text


class Said(NamedTuple):
    """What the lines so far have set, so that it is not said again."""

    mark: int = -1
    feature: int = -1
    #: mm/s, and mm/s² of what lays and of travels that have a word of their own
    speed: float = -1.0
    acceleration: float = -1.0
    travel: float = -1.0
    #: mm of filament, where it is counted from the start
    fed: float = 0.0


#: Moves that are written at once: letters take most of the room that a file needs.
AT_ONCE = 200_000


def write_gcode(
    moves: Moves, spec: PlanSpec, tops: np.ndarray, heights: np.ndarray, facts: dict[str, Any]
) -> bytes:
    """The file as bytes.

    ``facts`` go into the header comments (part, plan version, time, mass …). Temperatures and fan
    are set where they change: before the first layer, and with the comment of every layer that has
    others than the one below. ``tops`` and ``heights`` are (N,) for the layers, in mm.
    """
    heat, scale = heat_by_layer(spec, tops, heights), spec.machine.fan_scale
    begun = [
        layer_comment(k, top, height) + _layer_changes(heat, k, scale)
        for k, (top, height) in enumerate(zip(tops, heights, strict=True))
    ]
    fans = _bridge_fans(heat, scale)
    return assembled(moves, moves.layer, begun, fans, spec, tops, facts)


def assembled(
    moves: Moves,
    marks: np.ndarray,
    begun: list[str],
    fans: list[str],
    spec: PlanSpec,
    tops: np.ndarray,
    facts: dict[str, Any],
    decimals: int = 3,
) -> bytes:
    """The file of moves (M,), each after the text of its mark (M,): ``begun`` (N,) what is written
    before the moves of a mark, ``fans`` (2 N,) what begins bridges in it, then what ends them.
    ``tops`` are those of the layers, in mm; ``decimals`` those of x and y.
    """
    full = spec.machine.comments == "all"
    features = [f";feature {name}\n" if full or name == "pause" else "" for name in FEATURES]
    ends = [f"{spec.machine.pause_word}\n" if name == "pause" else "" for name in FEATURES]
    texts = Texts(_joined(begun), _joined(features + ends), _joined(fans))
    machine = spec.machine
    mode = (machine.extrusion == "absolute", machine.acceleration_word == "M204 P T", decimals)
    values = _values(moves, spec, tops)
    file = BytesIO()
    file.write(_header(spec, facts, len(tops)).encode())
    file.write(_start(spec, values).encode())
    out, said = np.empty(_most(texts, min(len(moves), AT_ONCE)), np.uint8), Said()
    for first in range(1, len(moves), AT_ONCE):
        last = min(first + AT_ONCE, len(moves))
        used, said = _write(out, moves.columns(), marks, texts, mode, first, last, said)
        file.write(out[:used].data)
    file.write(_end(spec, values).encode())
    return file.getvalue()


def _most(texts: Texts, lines: int) -> int:
    """Letters that so many lines take at most. A line has up to 100; before it a feature may end
    and another begin, and so may a bridge; what marks say is said once, each with a bridge's fan.
    """
    feature, fan = (int(np.diff(text.at).max()) for text in (texts.features, texts.fans))
    marks = len(texts.marks.letters) + (len(texts.marks.at) - 1) * fan
    return lines * (100 + 2 * feature + 2 * fan) + marks


def _header(spec: PlanSpec, facts: dict[str, Any], layers: int) -> str:
    machine = spec.machine
    lines = {
        "made by": f"North Pace {VERSION}",
        **facts,
        "machine": f"{machine.name}, {machine.nozzle:g} mm nozzle",
        "material": spec.material.name,
        "layers": layers,
        "spec checksum": facts.get("spec checksum") or digest(spec),
    }
    # what the reader needs to time the file again
    motion = {
        "limits": [float(v) for v in limits_of(machine)],
        "diameter": spec.material.diameter,
        "density": spec.material.density,
        "start_seconds": facts.get("start seconds", 0.0),
        "pause_seconds": facts.get("pause seconds", 0.0),
        "reached": machine.acceleration_reached / 100.0,
        "layer_overhead": machine.layer_overhead,
    }
    return (
        "".join(f"; {key}: {_one_line(value)}\n" for key, value in lines.items())
        + f"; motion: {json.dumps(motion)}\n"
    )


def _one_line(value: Any) -> str:
    return " ".join(str(value).encode("ascii", "replace").decode().split())


def _start(spec: PlanSpec, values: dict[str, float | str]) -> str:
    heat = resolve_heat(spec)
    template = spec.machine.start_gcode if spec.ends.start_gcode is None else spec.ends.start_gcode
    text = fill(
        template,
        {**values, "nozzle_temp": heat["first_nozzle_temp"], "bed_temp": heat["first_bed_temp"]},
        "ends.start_gcode",
    )
    check_heat(text, spec.machine.hottest_nozzle, spec.machine.hottest_bed, "ends.start_gcode")
    mode = "M83" if spec.machine.extrusion == "relative" else "M82"
    return f";start\n{text.rstrip()}\nG21\nG90\n{mode}\nG92 E0\nM107\n;moves\n"


def _end(spec: PlanSpec, values: dict[str, float | str]) -> str:
    template = spec.machine.end_gcode if spec.ends.end_gcode is None else spec.ends.end_gcode
    text = fill(template, values, "ends.end_gcode")
    check_heat(text, spec.machine.hottest_nozzle, spec.machine.hottest_bed, "ends.end_gcode")
    return f";end\n{text.rstrip()}\n"


def _values(moves: Moves, spec: PlanSpec, tops: np.ndarray) -> dict[str, float | str]:
    """What the fields of start and end stand for; temperatures without further word are those above
    the first layer.
    """
    heat, machine, laid = resolve_heat(spec), spec.machine, moves.width > 0
    low, high = (
        ((moves.x[laid].min(), moves.y[laid].min()), (moves.x[laid].max(), moves.y[laid].max()))
        if laid.any()
        else ((0, 0), (0, 0))
    )
    return {
        "nozzle_temp": heat["nozzle_temp"],
        "bed_temp": heat["bed_temp"],
        "first_nozzle_temp": heat["first_nozzle_temp"],
        "first_bed_temp": heat["first_bed_temp"],
        "later_nozzle_temp": heat["nozzle_temp"],
        "later_bed_temp": heat["bed_temp"],
        "nozzle": machine.nozzle,
        "size_x": machine.size_x,
        "size_y": machine.size_y,
        "size_z": machine.size_z,
        "layers": float(len(tops)),
        "top": float(tops[-1]),
        "first_layer_height": spec.surface.first_layer_height,
        "material": spec.material.name,
        "machine": machine.name,
        "low_x": float(low[0]),
        "low_y": float(low[1]),
        "high_x": float(high[0]),
        "high_y": float(high[1]),
    }


def layer_comment(k: int, top: float, height: float) -> str:
    return f";layer {k + 1} z {top:.3f} h {height:.3f}\n"


def fan_word(percent: float, scale: str) -> str:
    """The fan's word; what stands for full differs between machines."""
    most = float(scale.partition("-")[2])
    value = percent * most / 100
    return f"M106 S{value if most == 1 else round(value):g}\n" if percent > 0 else "M107\n"


def _layer_changes(heat: Heat, k: int, scale: str) -> str:
    """What a layer sets anew; the start has set the first layer's temperatures, and the fan off."""
    text = ""
    if k and heat.nozzle[k] != heat.nozzle[k - 1]:
        text += f"M104 S{heat.nozzle[k]:g}\n"
    if k and heat.bed[k] != heat.bed[k - 1]:
        text += f"M140 S{heat.bed[k]:g}\n"
    if heat.fan[k] != (heat.fan[k - 1] if k else 0.0):
        text += fan_word(heat.fan[k], scale)
    return text


def _bridge_fans(heat: Heat, scale: str) -> list[str]:
    """What starts a bridge in every layer, and then for every layer what ends it: the fan on
    bridges, and the layer's own.
    """
    differs = heat.bridge_fan != heat.fan
    return [
        fan_word(value, scale) if other else ""
        for values in (heat.bridge_fan, heat.fan)
        for value, other in zip(values, differs, strict=True)
    ]


def _joined(texts: list[str]) -> Text:
    parts = [text.encode() for text in texts]
    at = np.cumsum([0] + [len(part) for part in parts])
    return Text(np.frombuffer(b"".join(parts) or b"\0", np.uint8), at.astype(np.int64))


@numba.njit(cache=True, nogil=True)
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


@numba.njit(cache=True, nogil=True)
def _text(out, at, text, n):  # type: ignore[no-untyped-def]
    """Write a piece of text; returns the next free place."""
    for k in range(text.at[n], text.at[n + 1]):
        out[at] = text.letters[k]
        at += 1
    return at


@numba.njit(cache=True, nogil=True)
def _write(out, moves, mark, texts, mode, first, last, said):  # type: ignore[no-untyped-def]
    """Write some moves as lines, each after its ``mark`` (M,); returns how many letters they take,
    and what is said by then.
    """
    feature, x, y, z = moves.feature, moves.x, moves.y, moves.z
    acceleration, filament = moves.acceleration, moves.filament
    (absolute, two_words, decimals), at = mode, 0
    now, kind, pace, push, push_travel, fed = said
    here = (len(texts.fans.at) - 1) // 2  # what starts bridges comes first, then what ends them
    features = (len(texts.features.at) - 1) // 2
    for k in range(first, last):
        while mark[k] > now:
            now += 1
            at = _text(out, at, texts.marks, now)
            if kind == BRIDGE:
                at = _text(out, at, texts.fans, now)
        if feature[k] != kind:
            if kind == BRIDGE:
                at = _text(out, at, texts.fans, here + now)
            if kind >= 0:
                at = _text(out, at, texts.features, features + kind)
            kind = np.int64(feature[k])
            at = _text(out, at, texts.features, kind)
            if kind == BRIDGE:
                at = _text(out, at, texts.fans, now)
        moved = two_words and filament[k] == 0.0  # travel has a word of its own
        if acceleration[k] != (push_travel if moved else push):
            asked = np.float64(acceleration[k])
            if moved:
                push_travel = asked
            else:
                push = asked
            for letter in (77, 50, 48, 52, 32):  # M204
                out[at] = letter
                at += 1
            out[at] = (84 if moved else 80) if two_words else 83  # T, P or S
            at = _number(out, at + 1, asked, 0)
            out[at] = 10
            at += 1
        out[at], out[at + 1] = 71, 48 if filament[k] == 0.0 else 49
        at += 2
        if x[k] != x[k - 1] or k == 1:
            out[at], out[at + 1] = 32, 88
            at = _number(out, at + 2, x[k], decimals)
        if y[k] != y[k - 1] or k == 1:
            out[at], out[at + 1] = 32, 89
            at = _number(out, at + 2, y[k], decimals)
        if z[k] != z[k - 1] or k == 1:
            out[at], out[at + 1] = 32, 90
            at = _number(out, at + 2, z[k], 3)
        if filament[k] != 0.0:
            out[at], out[at + 1] = 32, 69
            fed = fed + filament[k] if absolute else filament[k]
            at = _number(out, at + 2, fed, 5)
        if moves.speed[k] != pace:
            pace = moves.speed[k]
            out[at], out[at + 1] = 32, 70
            at = _number(out, at + 2, 60.0 * pace, 3)
        out[at] = 10
        at += 1
    return at, Said(now, kind, pace, push, push_travel, fed)
