"""Even layer heights, with a first layer of its own."""

from __future__ import annotations

import numpy as np

from northpace.errors import InputError
from northpace.spec import Machine, Surface

#: The step limit: largest ratio from a layer to the next.
STEP_LIMIT = 1.25


def even_heights(top: float, surface: Surface, machine: Machine) -> np.ndarray:
    """(N,) layer heights in mm for a part of height ``top`` mm.

    All heights are whole z steps inside the machine's limits; the sum is within half a z step of
    the top. The last layers may differ from the rest to reach it, as few of them as possible, and
    within the step limit where that can be met. Raises `InputError` when no stack reaches the top.
    """
    q = machine.z_step
    whole = int(np.floor(top / q + 0.5 - 1e-9)) if top / q % 1 != 0.5 else int(np.floor(top / q))
    first, each = round(surface.first_layer_height / q), round(surface.layer_height / q)
    low, high = (
        int(np.ceil(machine.least_height / q - 1e-6)),
        int(np.floor(machine.h_max / q + 1e-6)),
    )
    if whole <= first:
        if whole < low:
            raise InputError(
                f"the part is {top:.3f} mm tall; {machine.name} lays no layer below "
                f"{machine.least_height:g} mm",
                "surface.first_layer_height",
            )
        return np.array([whole * q])
    count, rest = divmod(whole - first, each)
    if rest == 0:
        return np.array([first] + [each] * count) * q
    for keep_limit in (True, False):
        for given_up in range(count + 1):
            total = rest + given_up * each
            for layers in (given_up + 1, given_up):
                tail = _split(total, layers, each, low, high, keep_limit and count > given_up)
                if tail is not None:
                    return np.array([first] + [each] * (count - given_up) + tail) * q
    reach = [(first + low) * q, (first + high) * q]
    raise InputError(
        f"no stack of layers reaches {top:.3f} mm: above the first layer of {first * q:g} mm the "
        f"next top lies between {reach[0]:g} and {reach[1]:g} mm; change the first layer height",
        "surface.first_layer_height",
    )


def _split(
    total: int, layers: int, before: int, low: int, high: int, keep_limit: bool
) -> list[int] | None:
    """``total`` steps over ``layers`` as evenly as whole steps allow, or None where a limit is
    broken.
    """
    if layers == 0:
        return None
    small, more = divmod(total, layers)
    tail = (
        [small + 1] * more + [small] * (layers - more)
        if small < before
        else [small] * (layers - more) + [small + 1] * more
    )
    if min(tail) < low or max(tail) > high:
        return None
    if keep_limit and abs(tail[0] - before) > max(
        1, int((STEP_LIMIT - 1) * min(tail[0], before) + 1e-9)
    ):
        return None
    return tail
