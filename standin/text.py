"""G-code text as a machine reads it: line by line, word by word."""

from __future__ import annotations

from dataclasses import dataclass, field

import numba
import numpy as np

from standin.limits import Limits

MOVE, WAIT = 0, 1
#: Letters whose numbers a machine listens to; columns of what is read from a line.
LETTERS = np.frombuffer(b"XYZEFSPT", np.uint8)
X, Z, E, F, S, P, T = 0, 2, 3, 4, 5, 6, 7
#: Commands by letter and number; comments that name a layer count as one. What is not among them is
#: passed over, whatever follows it.
G, M = 1000 * ord("G"), 1000 * ord("M")
LAYER = -1
KNOWN = np.array(
    [
        G,
        G + 1,
        G + 4,
        G + 28,
        G + 92,
        M + 82,
        M + 83,
        M + 104,
        M + 106,
        M + 107,
        M + 109,
        M + 140,
        M + 190,
        M + 204,
        M + 486,
    ]
)
#: What a file sets beside moves.
WHATS = ("nozzle", "bed", "fan")
NOZZLE, BED, FAN = range(3)


@dataclass
class Program:
    """What a file asks for, in order, step by step (K,)."""

    #: a move or a wait
    kind: np.ndarray
    #: (K, 4) x, y, z and filament in mm
    way: np.ndarray
    #: mm/s and mm/s² asked for
    speed: np.ndarray
    push: np.ndarray
    #: seconds of waiting
    wait: np.ndarray
    #: layer, −1 before the first, and labelled thing, −1 for none
    layer: np.ndarray
    thing: np.ndarray
    #: temperatures and fan, as (step, what, value)
    sets: list[tuple[int, str, float]] = field(default_factory=list)


def read(text: str, limits: Limits) -> Program:
    """The program of a file; raises `ValueError` with the line for a number that is none. Heating
    that is waited for takes as long as the machine needs from what it is at.
    """
    data = np.frombuffer(text.encode("ascii", "replace") + b"\n", np.uint8)
    code, values, named, wrong = _lines(data, LETTERS, KNOWN)
    if wrong:
        raise ValueError(
            f"line {wrong} has a word that is no number: {text.splitlines()[wrong - 1][:80]}"
        )
    kind, way, speed, push, wait, layer, thing, step, what, value = _steps(
        code,
        values,
        named,
        limits.push_xy,
        limits.homing,
        limits.room,
        limits.nozzle_rate,
        limits.bed_rate,
    )
    sets = [
        (at, WHATS[k], to)
        for at, k, to in zip(step.tolist(), what.tolist(), value.tolist(), strict=True)
    ]
    return Program(kind, way, speed, push, wait, layer, thing, sets)


@numba.njit(cache=True)
def _number(data, at, end):  # type: ignore[no-untyped-def]
    """The number that begins at a byte and where it ends; it ends where it began if there
    is none.
    """
    begin, sign = at, 1.0
    if at < end and (data[at] == 45 or data[at] == 43):  # - +
        sign = -1.0 if data[at] == 45 else 1.0
        at += 1
    whole, scale, digits, after = 0.0, 1.0, 0, False
    while at < end:
        c = data[at]
        if 48 <= c <= 57:
            whole = 10.0 * whole + (c - 48)
            scale *= 10.0 if after else 1.0
            digits += 1
        elif c == 46 and not after:  # .
            after = True
        else:
            break
        at += 1
    return (sign * whole / scale, at) if digits else (0.0, begin)


@numba.njit(cache=True)
def _lines(data, letters, known):  # type: ignore[no-untyped-def]
    """Command of every line (0: nothing to do), its numbers (NaN where it has none), letters it
    names as bits, and the first line (from 1) with a word that is no number, 0 if none has.
    """
    count = 0
    for c in data:
        count += c == 10
    code, named = np.zeros(count, np.int64), np.zeros(count, np.int64)
    values = np.full((count, len(letters)), np.nan)
    at = 0
    for line in range(count):
        end = at
        while data[end] != 10:
            end += 1
        stop = at
        while stop < end and data[stop] != 59:  # ;
            stop += 1
        if (
            stop == at
            and end - at > 7
            and data[at + 1] == 108
            and data[at + 2] == 97
            and data[at + 3] == 121
            and data[at + 4] == 101
            and data[at + 5] == 114
            and data[at + 6] == 32
        ):  # ;layer
            code[line], values[line, 0] = LAYER, _number(data, at + 7, end)[0]
        first = True
        while at < stop:
            c = data[at]
            if c <= 32:
                at += 1
                continue
            number, past = _number(data, at + 1, stop)
            ends = past == stop or data[past] <= 32
            if first:
                found = (
                    1000 * int(c) + int(number)
                    if past > at + 1 and ends and number == int(number)
                    else 0
                )
                if not (known == found).any():
                    break
                code[line], first = found, False
            else:
                if not ends:
                    return code, values, named, line + 1
                for k in range(len(letters)):
                    if letters[k] == c:
                        named[line] |= 1 << k
                        if past > at + 1:
                            values[line, k] = number
            at = past
        at = end + 1
    return code, values, named, 0


@numba.njit(cache=True)
def _steps(  # type: ignore[no-untyped-def]
    code, values, named, push_xy, homing, room, nozzle_rate, bed_rate
):
    """Steps and settings of the lines of a file, as arrays of `Program`."""
    count = len(code)
    kind, way, speed = np.zeros(count, np.int64), np.zeros((count, 4)), np.zeros(count)
    push, wait, layers = np.zeros(count), np.zeros(count), np.zeros(count, np.int64)
    things, thing = np.full(count, -1), -1
    step, what, value = np.zeros(count, np.int64), np.zeros(count, np.int64), np.zeros(count)
    at, heat = np.zeros(3), np.array([room, room])
    feed, laying, travel, layer, relative, last = 0.0, push_xy, push_xy, -1, False, 0.0
    k, told = 0, 0
    for line in range(count):
        c, v = code[line], values[line]
        things[k] = thing
        if c == LAYER:
            layer = int(v[0]) - 1
        elif c == M + 486:
            thing = -1 if np.isnan(v[S]) else int(v[S])
        elif c == G or c == G + 1:
            feed = feed if np.isnan(v[F]) else v[F]
            for axis in range(3):
                to = at[axis] if np.isnan(v[axis]) else v[axis]
                way[k, axis], at[axis] = to - at[axis], to
            if not np.isnan(v[E]):
                way[k, 3] = v[E] if relative else v[E] - last
                last = last if relative else v[E]
            kind[k], speed[k], push[k], layers[k] = (
                MOVE,
                feed / 60.0,
                laying if way[k, 3] != 0.0 else travel,
                layer,
            )
            k += 1
        elif c == G + 4 or (c == G + 28 and named[line] == 0) or c == M + 109 or c == M + 190:
            if c == G + 4:
                wait[k] = (0.0 if np.isnan(v[S]) else v[S]) + (
                    0.0 if np.isnan(v[P]) else v[P]
                ) / 1000.0
            elif c == G + 28:
                wait[k] = homing
                at[:] = 0.0
            elif not np.isnan(v[S]):
                which = NOZZLE if c == M + 109 else BED
                wait[k] = max(v[S] - heat[which], 0.0) / (
                    nozzle_rate if which == NOZZLE else bed_rate
                )
                heat[which] = v[S]
                step[told], what[told], value[told] = k, which, v[S]
                told += 1
            kind[k], speed[k], push[k], layers[k] = WAIT, feed / 60.0, travel, layer
            k += 1
        elif c == G + 28:  # a part of the axes goes home at the end, when the print is done
            for axis in range(3):
                if named[line] >> axis & 1:
                    at[axis] = 0.0
        elif c == G + 92:
            last = last if np.isnan(v[E]) else v[E]
        elif c == M + 82 or c == M + 83:
            relative = c == M + 83
        elif c == M + 204:
            both = v[S]
            laying = v[P] if not np.isnan(v[P]) else laying if np.isnan(both) else both
            travel = v[T] if not np.isnan(v[T]) else travel if np.isnan(both) else both
        elif (c == M + 106 or c == M + 107 or not np.isnan(v[S])) and c != 0:
            step[told], value[told] = k, 0.0 if np.isnan(v[S]) else v[S]
            what[told] = NOZZLE if c == M + 104 else BED if c == M + 140 else FAN
            told += 1
    return (
        kind[:k],
        way[:k],
        speed[:k],
        push[:k],
        wait[:k],
        layers[:k],
        things[:k],
        step[:told],
        what[:told],
        value[:told],
    )
