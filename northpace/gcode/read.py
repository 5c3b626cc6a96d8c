"""The G-code reader: any plain file back into moves, time and filament."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any, NamedTuple

import numba
import numpy as np

from northpace.errors import InputError
from northpace.motion.kinematics import Course, limits_of, run
from northpace.motion.slowing import layer_starts
from northpace.moves import FEATURES, PAUSE, START
from northpace.spec import Machine

_CODES = {name: code for code, name in enumerate(FEATURES)}


@dataclass(frozen=True)
class Reading:
    """What a file does, move by move (M)."""

    #: (M,) layer (−1 before the first), feature code, and placing on a bed (−1 for none)
    layer: np.ndarray
    feature: np.ndarray
    placing: np.ndarray
    #: (M,) ends in mm
    x: np.ndarray
    y: np.ndarray
    z: np.ndarray
    #: (M,) mm of filament fed
    filament: np.ndarray
    #: (M,) mm/s and mm/s² asked for
    speed: np.ndarray
    acceleration: np.ndarray
    #: (M,) how long it takes
    seconds: np.ndarray
    #: lines of the header by their key
    header: dict[str, str]
    #: seconds of heating and homing
    start_seconds: float
    #: filament in mm and g/cm³
    diameter: float
    density: float

    def summary(self) -> dict[str, Any]:
        """Time, filament, bounds and time by feature, as `check-gcode` prints them."""
        laid = self.filament > 0
        drawn = laid & ((np.diff(self.x, prepend=0) != 0) | (np.diff(self.y, prepend=0) != 0))
        length = float(self.filament[drawn].sum())
        volume = length * np.pi * self.diameter**2 / 4
        by = np.bincount(self.feature, self.seconds, minlength=len(FEATURES))
        bounds = None
        if drawn.any():
            bounds = [
                [round(float(getattr(self, axis)[drawn].min()), 3) for axis in "xyz"],
                [round(float(getattr(self, axis)[drawn].max()), 3) for axis in "xyz"],
            ]
        return {
            "time_s": {
                "total": float(self.seconds.sum()) + self.start_seconds,
                "by_feature": {FEATURES[k]: float(v) for k, v in enumerate(by) if v > 0}
                | ({"start": self.start_seconds} if self.start_seconds else {}),
            },
            "filament": {
                "length_mm": length,
                "volume_mm3": volume,
                "mass_g": volume / 1000 * self.density,
            },
            "layers": int(self.layer.max()) + 1 if len(self.layer) else 0,
            "moves": len(self.layer),
            "bounds_mm": bounds,
            "header": self.header,
        }


class Stated(NamedTuple):
    """What a file's header says of how it is timed."""

    #: (14,) limits of `limits_of`
    limits: np.ndarray
    #: seconds before the first layer
    start: float
    #: filament in mm and g/cm³
    diameter: float
    density: float
    #: share of the accelerations that is reached, and seconds a layer takes beside its moves
    reached: float
    overhead: float
    #: seconds a pause takes
    pause: float


def read_gcode(data: bytes, machine: Machine | None = None) -> Reading:
    """Read a file. Its own header says the machine's limits; ``machine`` stands in where it does
    not.

    Raises `InputError` for a file without moves.
    """
    header = _header(data)
    stated = _stated(header, machine or Machine())
    raw = np.frombuffer(data + b"\n", np.uint8)
    rows = int((raw == 10).sum()) + 1
    columns = np.zeros((rows, 6))
    marks = np.zeros((rows, 2), np.int32)
    comments = np.zeros((rows, 3), np.int64)
    used, noted, wrong = _parse(raw, columns, marks, comments)
    if wrong >= 0:
        line = int((raw[:wrong] == 10).sum()) + 1
        raise InputError(f"line {line} of the file holds a number that cannot be read")
    if used == 0:
        raise InputError("the file holds no moves")
    layer, feature, placing = _comments(data, comments[:noted], used)
    x, y, z, e, speed, acceleration = (np.ascontiguousarray(columns[:used, k]) for k in range(6))
    seconds = np.zeros(used)
    course = Course(x, y, z, e, speed, acceleration * stated.reached)
    run(course, stated.limits, 0, used, seconds)
    seconds += _pauses(marks, used)
    seconds[layer_starts(layer)] += stated.overhead
    seconds[feature == PAUSE] += stated.pause
    return Reading(
        layer,
        feature,
        placing,
        x,
        y,
        z,
        e,
        speed,
        acceleration,
        seconds,
        header,
        stated.start,
        stated.diameter,
        stated.density,
    )


def _header(data: bytes) -> dict[str, str]:
    """The ``; key: value`` lines at the head of a file."""
    head = data[:8192].decode("ascii", "replace")
    return {
        key.strip(): value.strip()
        for line in head.splitlines()
        if line.startswith("; ")
        for key, mark, value in [line[2:].partition(":")]
        if mark
    }


def _stated(header: dict[str, str], machine: Machine) -> Stated:
    """What the header says, or the machine where it says nothing."""
    usual = limits_of(machine)
    if "motion" not in header:
        reached = machine.acceleration_reached / 100.0
        return Stated(usual, 0.0, 1.75, 1.24, reached, machine.layer_overhead, 0.0)
    try:
        motion = json.loads(header["motion"])
        limits = np.array(motion["limits"], np.float64)
        if limits.shape == (7,):  # files of an older core know x, y, z only
            limits = np.r_[limits, usual[7:]]
        start, diameter, density = (
            float(motion[key]) for key in ("start_seconds", "diameter", "density")
        )
        reached, overhead, pause = (
            float(motion.get(key, other))
            for key, other in (("reached", 1.0), ("layer_overhead", 0.0), ("pause_seconds", 0.0))
        )
        if limits.shape != (14,) or not np.isfinite(limits).all():
            raise ValueError
        if (np.delete(limits, (7, 12, 13)) <= 0).any() or not 0.1 < diameter < 10:
            raise ValueError
        if not 0 < reached < 100 or not 0 <= overhead < 1e4 or not 0 <= pause < 1e6:
            raise ValueError
    except (ValueError, KeyError, TypeError) as error:
        raise InputError(
            "the 'motion' line of the header is damaged; remove it to read the file with "
            "a plain machine"
        ) from error
    return Stated(limits, start, diameter, density, reached, overhead, pause)


def _pauses(marks: np.ndarray, used: int) -> np.ndarray:
    """(used,) seconds of the pauses (G4) that follow each move."""
    return marks[:used, 0] / 1000.0


def _comments(
    data: bytes, comments: np.ndarray, used: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Layer, feature and placing of every move from the comments between them; there are few of
    those.
    """
    layer, feature = np.full(used, -1, np.int32), np.full(used, START, np.uint8)
    placing = np.full(used, -1, np.int32)
    now, kind, copy = -1, START, -1
    at = np.r_[comments[:, 2], used]
    for k, (first, last, row) in enumerate(comments):
        words = data[first:last].split()
        if len(words) > 1 and words[0] == b";layer" and words[1].isdigit():
            now = int(words[1]) - 1
        elif len(words) > 1 and words[0] == b";feature":
            kind = _CODES.get(words[1].decode("ascii", "replace"), START)
        elif len(words) > 1 and words[0] == b";placing" and words[1].isdigit():
            copy = int(words[1]) - 1
        elif words[:2] == [b";between", b"placings"]:
            copy = -1
        layer[row : at[k + 1]] = now
        feature[row : at[k + 1]] = kind
        placing[row : at[k + 1]] = copy
    return layer, feature, placing


@numba.njit(cache=True, nogil=True)
def _parse(raw, columns, marks, comments):  # type: ignore[no-untyped-def]
    """One pass over the bytes. Fills moves, pauses and the places of comments; returns their counts
    and a bad place or −1.
    """
    size, at, used, noted = len(raw), 0, 0, 0
    x, y, z, e, speed, push, push_travel = 0.0, 0.0, 0.0, 0.0, 25.0, 1000.0, 1000.0
    absolute, absolute_e, factor = True, True, 1.0
    value, given = np.zeros(26), np.zeros(26, np.bool_)
    moving = False
    while at < size:
        given[:] = False
        order, code = 0, -1
        while at < size and raw[at] != 10:
            c = raw[at]
            if c == 59:
                first = at
                while at < size and raw[at] != 10:
                    at += 1
                if (
                    at - first > 5 and raw[first + 1] == 109 and raw[first + 2] == 111
                ):  # ;moves: positions count from here
                    moving = True
                    used = 0
                    noted = 0
                    x, y, z = 0.0, 0.0, 0.0
                if moving and at - first == 4 and raw[first + 1] == 101 and raw[first + 2] == 110:
                    at = size  # ;end: what follows belongs to the machine, like its start
                    break
                comments[noted, 0], comments[noted, 1], comments[noted, 2] = first, at, used
                noted += 1
                break
            if 97 <= c <= 122:
                c = c - np.uint8(32)
            if 65 <= c <= 90:
                at += 1
                while at < size and raw[at] == 32:
                    at += 1
                sign, number, scale, digits = 1.0, 0.0, 0.0, 0
                if at < size and (raw[at] == 45 or raw[at] == 43):
                    sign = -1.0 if raw[at] == 45 else 1.0
                    at += 1
                while at < size and (48 <= raw[at] <= 57 or raw[at] == 46):
                    if raw[at] == 46:
                        if scale:
                            return used, noted, at
                        scale = 1.0
                    else:
                        number = 10.0 * number + (raw[at] - 48)
                        scale *= 10.0
                        digits += 1
                    at += 1
                number = sign * (number / scale if scale else number)
                if c in (71, 77, 84) and order == 0:
                    order, code = c, int(number)
                elif digits:
                    value[c - 65], given[c - 65] = number, True
                elif order == 71 and c in (88, 89, 90, 69, 70) and code in (0, 1):
                    return used, noted, at
            else:
                at += 1
        at += 1
        if order == 71 and code in (0, 1):
            if given[5]:
                speed = value[5] / 60.0
            nx, ny, nz = x, y, z
            if given[23]:
                nx = value[23] * factor + (0.0 if absolute else x)
            if given[24]:
                ny = value[24] * factor + (0.0 if absolute else y)
            if given[25]:
                nz = value[25] * factor + (0.0 if absolute else z)
            fed = 0.0
            if given[4]:
                fed = value[4] * factor - (e if absolute_e else 0.0)
                e = value[4] * factor if absolute_e else e + fed
            x, y, z = nx, ny, nz
            columns[used, 0], columns[used, 1], columns[used, 2] = x, y, z
            columns[used, 3], columns[used, 4], columns[used, 5] = (
                fed,
                max(speed, 1e-3),
                push if fed != 0.0 else push_travel,
            )
            marks[used, 0] = 0
            used += 1
        elif order == 71 and code == 4 and used > 0:
            marks[used - 1, 0] += (
                int(value[15]) if given[15] else (int(1000 * value[18]) if given[18] else 0)
            )
        elif order == 71 and code == 20:
            factor = 25.4
        elif order == 71 and code == 21:
            factor = 1.0
        elif order == 71 and (code == 90 or code == 91):
            absolute = code == 90
        elif order == 71 and code == 92 and given[4]:
            e = value[4] * factor
        elif order == 71 and code == 28 and not moving:
            x, y, z = 0.0, 0.0, 0.0
        elif order == 77 and (code == 82 or code == 83):
            absolute_e = code == 82
        elif order == 77 and code == 204 and given[18] and value[18] > 0:
            push, push_travel = value[18], value[18]
        elif order == 77 and code == 204:
            if given[15] and value[15] > 0:
                push = value[15]
            if given[19] and value[19] > 0:
                push_travel = value[19]
    return used, noted, -1
