"""Driving a program: the head is moved in small steps of time, as fast as the axes allow and the
way ahead permits.
"""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

from standin.limits import Limits
from standin.text import WAIT, Program

#: Seconds of a step.
TICK = 0.0005


class Asked(NamedTuple):
    """What the steps of a program want, for the kernel."""

    #: (K, 4) mm along x, y, z and of filament
    way: np.ndarray
    #: (K,) mm/s
    speed: np.ndarray
    #: (K,) mm/s²
    push: np.ndarray


class Frame(NamedTuple):
    """What the machine allows."""

    #: (4,) mm/s of x, y, z and filament
    bounds: np.ndarray
    #: (4,) mm/s² of the same
    pushes: np.ndarray
    #: mm a corner may be cut by
    deviation: float
    #: seconds of a step of time
    tick: float


def drive(program: Program, limits: Limits) -> np.ndarray:
    """(K,) seconds each step of a program takes."""
    bounds = np.array([limits.speed_xy, limits.speed_xy, limits.speed_z, limits.speed_e])
    pushes = np.array([limits.push_xy, limits.push_xy, limits.push_z, limits.push_e])
    far, motor = np.linalg.norm(program.way[:, :3], axis=1), motor_way(program.way, limits)
    # what the motors allow, said as limits of the whole move
    with np.errstate(divide="ignore", invalid="ignore"):
        speed = np.where(
            motor > 1e-12,
            np.minimum(program.speed, limits.speed_motor * far / motor),
            program.speed,
        )
        push = np.where(
            motor > 1e-12, np.minimum(program.push, limits.push_motor * far / motor), program.push
        )
    frame = Frame(bounds, pushes, limits.deviation, TICK)
    return _drive(program.kind, program.wait, Asked(program.way, speed, push), frame)


def motor_way(way: np.ndarray, limits: Limits) -> np.ndarray:
    """(K,) mm that the busiest motor would run in each step (K, 4) at the pace it has where it is
    quickest; 0 where the axes have motors of their own.
    """
    if limits.axes == "crossed-belts":
        return np.maximum(np.abs(way[:, 0] + way[:, 1]), np.abs(way[:, 0] - way[:, 1]))
    if limits.axes != "three-columns":
        return np.zeros(len(way))
    ends = np.cumsum(way[:, :3], axis=0)
    # carriages measured at points along the step, the quickest piece between two of them taken for
    # the whole
    parts, eps = np.array([0.0, 0.5, 1.0]), 1e-4
    quickest = np.zeros(len(way))
    for part in parts:
        first, last = np.clip(part - eps, 0, 1), np.clip(part + eps, 0, 1)
        here, there = (ends - (1 - w) * way[:, :3] for w in (first, last))
        moved = np.abs(_carriages(there, limits) - _carriages(here, limits)).max(axis=1) / (
            last - first
        )
        quickest = np.maximum(quickest, moved)
    return quickest


def _carriages(at: np.ndarray, limits: Limits) -> np.ndarray:
    """(K, 3) heights of the carriages for a head at (K, 3)."""
    turn = np.radians([90.0, 210.0, 330.0])
    x, y, r = at[:, 0] - limits.middle_x, at[:, 1] - limits.middle_y, limits.column_radius
    away = [np.hypot(x - r * np.cos(a), y - r * np.sin(a)) for a in turn]
    return np.stack(
        [at[:, 2] + np.sqrt(np.maximum(limits.arm**2 - d**2, 1e-4 * limits.arm**2)) for d in away],
        axis=1,
    )


@numba.njit(cache=True)
def _drive(kind, wait, asked, frame):  # type: ignore[no-untyped-def]
    """(K,) seconds each step takes."""
    count = len(kind)
    seconds = np.zeros(count)
    first = 0
    while first < count:
        if kind[first] == WAIT:
            seconds[first] = wait[first]
            first += 1
            continue
        last = first
        while last < count and kind[last] != WAIT:
            last += 1
        _stretch(asked, frame, first, last, seconds)
        first = last
    return seconds


@numba.njit(cache=True)
def _stretch(asked, frame, first, last, seconds):  # type: ignore[no-untyped-def]
    """Moves from rest to rest."""
    tick = frame.tick
    n = last - first
    far, cruise, gain = np.zeros(n), np.zeros(n), np.zeros(n)
    heading = np.zeros((n, 3))
    for k in range(n):
        w = asked.way[first + k]
        far[k] = np.sqrt(w[0] ** 2 + w[1] ** 2 + w[2] ** 2)
        alone = far[k] < 1e-9  # only the filament moves
        if alone:
            far[k] = abs(w[3])
        cruise[k], gain[k] = asked.speed[first + k], asked.push[first + k]
        if far[k] <= 0.0:
            continue
        for axis in range(4):
            share = abs(w[axis]) / far[k]
            if share > 1e-12:
                cruise[k] = min(cruise[k], frame.bounds[axis] / share)
                gain[k] = min(gain[k], frame.pushes[axis] / share)
        if not alone:
            for axis in range(3):
                heading[k, axis] = w[axis] / far[k]
    # how fast each move may be left: what its corner allows, and from where the next ones can still
    # be braked
    leave = np.zeros(n)
    for k in range(n - 2, -1, -1):
        corner = _corner(
            heading[k],
            heading[k + 1],
            far[k],
            far[k + 1],
            min(gain[k], gain[k + 1]),
            frame.deviation,
        )
        ahead = np.sqrt(leave[k + 1] ** 2 + 2.0 * gain[k + 1] * far[k + 1])
        leave[k] = min(min(corner, ahead), min(cruise[k], cruise[k + 1]))
    v, k, done, rest = 0.0, 0, 0.0, tick
    while k < n:
        if far[k] - done < 1e-9:
            v = min(v, leave[k]) if k + 1 < n else 0.0
            k += 1
            done = 0.0
            continue
        a = gain[k]
        # the speed after the tick: gained, but never above the cruise nor above what can still be
        # braked from where that leads
        faster = min(v + a * rest, cruise[k])
        left = far[k] - done - 0.5 * (v + faster) * rest
        if left < 0.0:
            left = 0.0
        brake = np.sqrt(leave[k] ** 2 + 2.0 * a * left)
        faster = max(min(faster, brake), v - a * rest, 0.0)
        mean = 0.5 * (v + faster)
        if mean * rest >= far[k] - done:
            took = (far[k] - done) / mean
            v = v + (faster - v) * took / rest
            seconds[first + k] += took
            done = far[k]
            rest -= took
            if rest <= 1e-12:
                rest = tick
            continue
        if mean <= 0.0:
            # on the last hair of a move that ends at rest
            seconds[first + k] += np.sqrt(2.0 * (far[k] - done) / a)
            done = far[k]
            v = 0.0
            continue
        seconds[first + k] += rest
        done += mean * rest
        v = faster
        rest = tick


@numba.njit(cache=True)
def _corner(one, two, before, after, gain, deviation):  # type: ignore[no-untyped-def]
    """Speed at which a corner between two headings is taken: that of the circle which leaves it by
    the deviation, and on fine curves that of the curve itself.
    """
    if (one == 0.0).all() or (two == 0.0).all():
        return 0.0
    straight = one[0] * two[0] + one[1] * two[1] + one[2] * two[2]
    if straight >= 1.0 - 1e-12:
        return 1e9
    if straight <= -1.0 + 1e-12:
        return 0.0
    turn = np.arccos(straight)
    # inner angle between the two sides is pi - turn; a circle tangent to both leaves the corner by
    # r (1/cos(turn/2) - 1)
    radius = deviation / (1.0 / np.cos(turn / 2.0) - 1.0)
    if turn < 1e-3:
        radius = 8.0 * deviation / turn**2
    curve = 0.5 * min(before, after) / np.tan(turn / 2.0)
    return np.sqrt(gain * min(radius, curve))
