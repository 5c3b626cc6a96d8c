"""The motion model: every move is accelerated, cruised and braked; speeds at the junctions come
from looking ahead.

Melt pressure lag is not modelled: flow follows the head at once.
"""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

from northpace.spec import Machine

#: Moves that are looked at together at least: what is known of them is forgotten after.
WINDOW = 50_000


class Course(NamedTuple):
    """Moves (M,) for the kernel: ends in mm, filament in mm, speed asked for in mm/s (of the path,
    or of the filament when nothing else moves), acceleration in mm/s².
    """

    x: np.ndarray
    y: np.ndarray
    z: np.ndarray
    e: np.ndarray
    speed: np.ndarray
    acceleration: np.ndarray


@numba.njit(cache=True, nogil=True)
def junction(cosine: float, acceleration: float, deviation: float) -> float:
    """Squared speed (mm²/s²) at a corner between two unit directions with this cosine, by the
    deviation model: v² = a·δ·s/(1−s), s = sin(θ/2), θ the angle between the reversed entry and the
    exit; the speed at which a circle that leaves the corner by δ is run at acceleration a.
    """
    s = np.sqrt(max(0.5 * (1.0 + cosine), 0.0))  # sin(θ/2) with cos θ = −cosine
    if s > 1.0 - 1e-9:
        return 1e12
    return acceleration * deviation * s / (1.0 - s)


#: Kinds of axes by their number in the limits.
AXES = ("x-y-z", "crossed-belts", "three-columns")


def limits_of(machine: Machine) -> np.ndarray:
    """(14,) limits for the kernel: top speeds xy, z, e; top accelerations xy, z, e that are really
    reached; junction deviation; kind of axes, top speed and acceleration of a motor, radius of the
    columns and length of the arms, origin of the bed x, y.
    """
    reached = machine.acceleration_reached / 100.0
    return np.array(
        [
            machine.max_speed_xy,
            machine.max_speed_z,
            machine.max_speed_e,
            reached * machine.max_acceleration_xy,
            reached * machine.max_acceleration_z,
            reached * machine.max_acceleration_e,
            machine.junction_deviation,
            AXES.index(machine.axes),
            machine.motor_speed,
            reached * machine.motor_acceleration,
            machine.column_radius,
            machine.arm_length,
            *machine.origin,
        ]
    )


def pushed(machine: Machine, acceleration: np.ndarray) -> np.ndarray:
    """(M,) mm/s² that is really reached where the file asks for an acceleration (M,)."""
    return acceleration * np.float64(machine.acceleration_reached / 100.0)


@numba.njit(cache=True, nogil=True)
def _motor_share(limits, x, y, ux, uy, uz):  # type: ignore[no-untyped-def]
    """How far the busiest motor runs for each mm of a path in direction (ux, uy, uz) at a place.

    Crossed belts run x + y and x − y. A carriage on a column stands at z + √(arm² − d²), d the
    level distance of the head from the column; its speed is the derivative along the path.
    """
    if limits[7] == 1:
        return max(abs(ux + uy), abs(ux - uy))
    radius, arm, middle_x, middle_y = limits[10], limits[11], limits[12], limits[13]
    most = 0.0
    for k in range(3):
        turn = np.pi / 2 + 2.0 * np.pi * k / 3.0
        dx, dy = x - middle_x - radius * np.cos(turn), y - middle_y - radius * np.sin(turn)
        tall = np.sqrt(max(arm * arm - dx * dx - dy * dy, 1e-4 * arm * arm))
        most = max(most, abs(uz - (dx * ux + dy * uy) / tall))
    return most


@numba.njit(cache=True, nogil=True)
def _look_ahead(course, limits, first, last):  # type: ignore[no-untyped-def]
    """Length, top speed and acceleration of each move, and the squared speeds at the joints between
    them, from rest to rest.
    """
    count = last - first
    length, top, acc = np.empty(count), np.empty(count), np.empty(count)
    ux, uy, uz = np.empty(count), np.empty(count), np.empty(count)
    joint = np.empty(count + 1)  # squared speeds
    x, y, z, e = course.x, course.y, course.z, course.e
    speed, acceleration = course.speed, course.acceleration
    px, py, pz = 0.0, 0.0, 0.0
    if first > 0:
        px, py, pz = x[first - 1], y[first - 1], z[first - 1]
    for k in range(count):
        m = first + k
        ox, oy = px, py
        dx, dy, dz = x[m] - px, y[m] - py, z[m] - pz
        px, py, pz = x[m], y[m], z[m]
        way = np.sqrt(dx * dx + dy * dy + dz * dz)
        if way < 1e-9:
            ux[k], uy[k], uz[k] = 0.0, 0.0, 0.0
            length[k] = abs(e[m])
            top[k] = min(speed[m], limits[2])
            acc[k] = min(acceleration[m], limits[5])
            continue
        ux[k], uy[k], uz[k] = dx / way, dy / way, dz / way
        length[k] = way
        v, a = speed[m], acceleration[m]
        if abs(ux[k]) > 1e-12:
            v, a = min(v, limits[0] / abs(ux[k])), min(a, limits[3] / abs(ux[k]))
        if abs(uy[k]) > 1e-12:
            v, a = min(v, limits[0] / abs(uy[k])), min(a, limits[3] / abs(uy[k]))
        if abs(uz[k]) > 1e-12:
            v, a = min(v, limits[1] / abs(uz[k])), min(a, limits[4] / abs(uz[k]))
        ue = abs(e[m]) / way
        if ue > 1e-12:
            v, a = min(v, limits[2] / ue), min(a, limits[5] / ue)
        if limits[7] > 0:
            # the share changes along a move of a column machine: its ends and middle stand for it
            share = 0.0
            for part in range(3):
                w = 0.5 * part
                share = max(
                    share,
                    _motor_share(limits, ox + w * dx, oy + w * dy, ux[k], uy[k], uz[k]),
                )
            if share > 1e-12:
                v, a = min(v, limits[8] / share), min(a, limits[9] / share)
        top[k], acc[k] = v, a
    joint[0] = 0.0
    for k in range(1, count):
        still = (ux[k] == 0.0 and uy[k] == 0.0 and uz[k] == 0.0) or (
            ux[k - 1] == 0.0 and uy[k - 1] == 0.0 and uz[k - 1] == 0.0
        )
        if still:
            joint[k] = 0.0
            continue
        a = min(acc[k - 1], acc[k])
        cosine = ux[k - 1] * ux[k] + uy[k - 1] * uy[k] + uz[k - 1] * uz[k]
        square = junction(cosine, a, limits[6])
        if -0.999999 < cosine < 0.9999999:
            # the radius of the arc through the middles of the two segments
            half = np.sqrt((1.0 - cosine) / (1.0 + cosine))
            square = min(square, a * 0.5 * min(length[k - 1], length[k]) / half)
        slower = min(top[k - 1], top[k])
        joint[k] = min(square, slower * slower)
    joint[count] = 0.0
    for k in range(count - 1, -1, -1):
        joint[k] = min(joint[k], joint[k + 1] + 2.0 * acc[k] * length[k])
    for k in range(count):
        joint[k + 1] = min(joint[k + 1], joint[k] + 2.0 * acc[k] * length[k])
    return length, top, acc, joint


@numba.njit(cache=True, nogil=True)
def _window(course, first, last):  # type: ignore[no-untyped-def]
    """End of the moves from ``first`` on that are looked at together: the first place after
    `WINDOW` of them where the head stands, so that what comes after changes nothing of them.
    """
    x, y, z = course.x, course.y, course.z
    for m in range(max(first + WINDOW, 1), last):
        if x[m] == x[m - 1] and y[m] == y[m - 1] and z[m] == z[m - 1]:
            return m
    return last


@numba.njit(cache=True, nogil=True)
def run(course, limits, first, last, seconds):  # type: ignore[no-untyped-def]
    """Time moves first … last−1 from rest to rest; fills ``seconds`` (M,); returns the total.

    The head starts where the move before ends, or at the origin. ``limits`` (14,) of `limits_of`.
    """
    total = 0.0
    while first < last:
        end = _window(course, first, last)
        total = _run(course, limits, first, end, seconds, total)
        first = end
    return total


@numba.njit(cache=True, nogil=True)
def _run(course, limits, first, last, seconds, total):  # type: ignore[no-untyped-def]
    """The same of the moves of a window; returns what the total before comes to with them."""
    length, top, acc, joint = _look_ahead(course, limits, first, last)
    for k in range(last - first):
        if length[k] < 1e-12:
            seconds[first + k] = 0.0
            continue
        a, v0, v1 = acc[k], np.sqrt(joint[k]), np.sqrt(joint[k + 1])
        peak = np.sqrt(0.5 * (joint[k] + joint[k + 1]) + a * length[k])
        if peak <= top[k]:
            t = (2.0 * peak - v0 - v1) / a
        else:
            v = top[k]
            t = (2.0 * v - v0 - v1) / a + (
                length[k] - (2.0 * v * v - joint[k] - joint[k + 1]) / (2.0 * a)
            ) / v
        seconds[first + k] = t
        total += t
    return total


@numba.njit(cache=True, nogil=True)
def peaks(course, limits):  # type: ignore[no-untyped-def]
    """(M,) highest speed in mm/s that each move really reaches, moves run from rest to rest as by
    `run`.
    """
    first, count = 0, len(course.x)
    out = np.zeros(count)
    while first < count:
        end = _window(course, first, count)
        length, top, acc, joint = _look_ahead(course, limits, first, end)
        for k in range(end - first):
            if length[k] >= 1e-12:
                most = 0.5 * (joint[k] + joint[k + 1]) + acc[k] * length[k]
                out[first + k] = min(np.sqrt(most), top[k])
        first = end
    return out
