"""What a stack of layers must keep to: every rule as a mask over (boundary, height), in whole z
steps (`docs/computations.md` §4).
"""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

from northpace.errors import InputError
from northpace.heights.measure import flat_cells, worst_error
from northpace.heights.surface import SurfaceTable
from northpace.spec import Band, Machine, Surface

#: Bits of the rules that can forbid a layer.
LIMIT, PIN, BAND, EDGE, FLAT, OVERHANG, TARGET = 1, 2, 4, 8, 16, 32, 64
#: How far a bead may reach past the one below it, as a share of its width.
OVERHANG_SHARE = 0.5


class StackRules(NamedTuple):
    """Rules over N z steps and the m heights ``low … low + m - 1``: ``broken`` (N, m) bits of the
    rules a layer that starts at a step with a height would break; ``least``, ``most`` (m,): the
    heights a layer below may have, as indices (the step limit). Kernels take it as it is.
    """

    z_step: float
    steps: int
    first: int
    low: int
    broken: np.ndarray
    least: np.ndarray
    most: np.ndarray

    @property
    def heights(self) -> np.ndarray:
        """(m,) layer heights in z steps."""
        return self.low + np.arange(self.broken.shape[1])

    @property
    def nbytes(self) -> int:
        return self.broken.nbytes


def step_reach(heights: np.ndarray, ratio: float) -> np.ndarray:
    """(m,) how many z steps a layer of these heights may differ from a taller neighbour: max(1, (r
    - 1)·smaller).
    """
    return np.maximum(1, np.floor((ratio - 1) * heights + 1e-9)).astype(np.int64)


def within_step_limit(below: np.ndarray, above: np.ndarray, ratio: float) -> np.ndarray:
    """Whether neighbours of these heights in z steps keep the step limit. Both are (N,), or one of
    them a number.
    """
    return np.abs(below - above) <= step_reach(np.minimum(below, above), ratio)


def finest(broken: np.ndarray) -> np.ndarray:
    """(N,) index of the finest layer that no rule forbids at each z step; 0 where every one is
    forbidden.
    """
    return (broken == 0).argmax(axis=1)


def overhang_limit(lean: np.ndarray, bead: float) -> np.ndarray:
    """Tallest layer in mm whose bead of width ``bead`` mm hangs at most half over the one below,
    where a surface leans out by -n_z.
    """
    lean = np.clip(lean, 0, 1)
    with np.errstate(divide="ignore"):
        return OVERHANG_SHARE * bead * np.sqrt(1 - lean**2) / lean


def rules_of(
    table: SurfaceTable, surface: Surface, machine: Machine, bead: float, free_edges: bool = False
) -> StackRules:
    """Masks of all rules of a plan; ``bead`` is the width in mm of the outer wall.

    ``free_edges``: bands need not begin and end at a layer boundary, because their own height does
    not divide them.
    """
    q, steps = table.z_step, table.steps
    first = round(surface.first_layer_height / q)
    low, high = machine_steps(machine)
    heights = np.arange(low, high + 1)
    broken = np.zeros((steps, len(heights)), np.uint8)
    inside = np.arange(steps)[:, None] + heights <= steps
    own = (heights * q < (surface.least_height or 0) - 1e-9) | (
        heights * q > (surface.greatest_height or np.inf) + 1e-9
    )
    broken[:, own] |= LIMIT
    for pin in surface.pins:
        at = int(np.floor(pin.z_mm / q + 1e-6))
        for j, h in enumerate(heights):
            start, end = max(at - h + 1, 0), min(at + 1, steps)
            broken[start:end, j] &= ~np.uint8(LIMIT)
            if h != round(pin.height_mm / q):
                broken[start:end, j] |= PIN
    for band in speaking(surface):
        _apply_band(broken, heights, band, q, first, free_edges)
    if surface.meet_flats:
        for z in np.unique(np.round(table.flat_z / q).astype(int)):
            if first < z < steps:
                _no_crossing(broken, heights, z, FLAT)
    if surface.overhang_rule:
        most = overhang_limit(spans(table.leaning, heights), bead)
        # the finest layer is always allowed: where it is not enough, no layer height helps
        over = (heights * q > most + 1e-9) & (
            heights > max(low, int(np.ceil((surface.least_height or 0) / q - 1e-6)))
        )
        broken[over] |= OVERHANG
    broken[~inside] = 255
    if surface.is_bounded and surface.kind == "best-fit":
        worst = worst_error(
            table, heights, spans(table.steepest, heights), flat_cells(table, heights)
        )
        over = worst > _bounds(surface, heights, steps, q) + 1e-9
        # what the other rules leave as the finest stays: where it is not enough, the finding says
        # so
        over[np.arange(steps), finest(broken)] = False
        broken[over] |= TARGET
    reach = step_reach(heights, surface.step_limit)
    index = np.arange(len(heights))
    allowed = np.abs(index[:, None] - index) <= np.minimum(reach[:, None], reach)
    return StackRules(
        q,
        steps,
        first,
        low,
        broken,
        allowed.argmax(axis=1),
        len(heights) - 1 - allowed[:, ::-1].argmax(axis=1),
    )


def _bounds(surface: Surface, heights: np.ndarray, steps: int, q: float) -> np.ndarray:
    """(N, H) the most step error in mm that a layer may have, by where its middle lies."""
    least = np.full((steps, len(heights)), np.inf)
    if surface.worst_um is not None:
        least[:] = surface.worst_um / 1000
    for band in surface.bands:
        if band.worst_um is None:
            continue
        for j, h in enumerate(heights):
            low, high = (
                max(int(np.ceil(edge / q - h / 2 - 1e-6)), 0) for edge in (band.from_mm, band.to_mm)
            )
            least[low:high, j] = np.minimum(least[low:high, j], band.worst_um / 1000)
    return least


def speaking(surface: Surface) -> list[Band]:
    """Bands that change something; layers end at their edges."""
    return [band for band in surface.bands if band.says_something]


def machine_steps(machine: Machine) -> tuple[int, int]:
    """Least and greatest layer height in whole z steps."""
    return int(np.ceil(machine.least_height / machine.z_step - 1e-6)), int(
        np.floor(machine.h_max / machine.z_step + 1e-6)
    )


def _apply_band(
    broken: np.ndarray, heights: np.ndarray, band: Band, q: float, first: int, free_edges: bool
) -> None:
    """A layer belongs to the band that its middle lies in."""
    start, end = band.from_mm / q, band.to_mm / q
    wrong = np.zeros(len(heights), bool)
    if band.height_mm is not None:
        wrong = heights != round(band.height_mm / q)
    if band.least_mm is not None:
        wrong |= heights * q < band.least_mm - 1e-9
    if band.greatest_mm is not None:
        wrong |= heights * q > band.greatest_mm + 1e-9
    for j, h in enumerate(heights if band.sets_heights else ()):
        low = max(int(np.ceil(start - h / 2 - 1e-6)), 0)
        high = max(int(np.ceil(end - h / 2 - 1e-6)), low)
        broken[low:high, j] &= ~np.uint8(LIMIT)
        if wrong[j]:
            broken[low:high, j] |= BAND
    if not free_edges:
        for edge in (round(start), round(end)):
            if first < edge < len(broken):
                _no_crossing(broken, heights, edge, EDGE)


def _no_crossing(broken: np.ndarray, heights: np.ndarray, at: int, rule: int) -> None:
    """Forbid layers that begin below and end above a boundary."""
    for j, h in enumerate(heights):
        broken[max(at - h + 1, 0) : at, j] |= rule


@numba.njit(cache=True, nogil=True)
def spans(values, heights):  # type: ignore[no-untyped-def]
    """(N, m) largest of (N,) values over a layer that starts at a step and has a height in steps;
    beyond the top what is there.
    """
    steps, count = len(values), len(heights)
    out = np.empty((steps, count))
    for b in range(steps):
        most = 0.0
        n = b
        for j in range(count):
            while n < min(b + heights[j], steps):
                most = max(most, values[n])
                n += 1
            out[b, j] = most
    return out


def check_stack_settings(surface: Surface, machine: Machine, top: float) -> None:
    """Refuse pins and bands above the part; raises `InputError`."""
    for number, pin in enumerate(surface.pins, 1):
        if pin.z_mm > top:
            raise InputError(
                f"pin {number} is at {pin.z_mm:g} mm; the part ends at {top:.2f} mm", "surface.pins"
            )
    for band in speaking(surface):
        if band.from_mm >= top - machine.z_step / 2:
            raise InputError(
                f"{band.title} begins at {band.from_mm:g} mm; the part ends at {top:.2f} mm",
                "surface.bands",
            )
