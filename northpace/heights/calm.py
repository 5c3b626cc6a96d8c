"""Calm stacks: heights that change no more often than they must.

Among stacks that are as good as makes no difference, the one whose heights rise and fall least is
looked for: the same programme with a price on every change of height, which is raised as long as
time and error stay within what may be given for it.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from northpace.heights.fit import Fit, HeightTask, second_cost, with_target
from northpace.heights.rules import StackRules
from northpace.heights.solve import passes, solve, total

#: Error that may be given for calm where nothing bounds it, as a share.
ERROR = 0.01
#: Range of prices on a change of height, as shares of a mean layer's time, and how often it is
#: halved to find the highest that keeps the bounds.
PRICES, TRIES = (0.003, 30.0), 7
#: Weights of the error that are tried with a price, as shares of the one the answer was found with.
WEIGHTS = (1.0, 1.1, 1.4)
#: Changes of height that one turn from taller to finer counts as.
TURN = 4


class Calm(NamedTuple):
    """How often heights change, and turn from taller to finer or back."""

    changes: int
    turns: int


class Purse(NamedTuple):
    """What the layers above the first cost, and how much they may cost together."""

    #: (N, m) seconds of a layer, and (N, m) its price for the surface
    seconds: np.ndarray
    price: np.ndarray
    #: the most that the seconds, and the prices, of all layers may add up to
    most: float
    limit: float


class Bounds(NamedTuple):
    """Limits that a calmer stack has to keep."""

    #: the longest time in s
    seconds: float
    #: the measure of the step error (mean, p95 or max), and the largest it may be, in mm
    measure: str
    error: float
    #: whether the time is capped; then error is exchanged for calm rather than time
    capped: bool = False
    #: no step error anywhere may be larger than this (mm)
    hard: float | None = None
    #: target in mm for the layers above the first, if the first layer alone already misses it
    rest: float | None = None


def calm_of(stack: np.ndarray) -> Calm:
    """How often the heights of a stack (n,) change above its first layer."""
    ways = np.sign(np.diff(stack[1:]))
    ways = ways[ways != 0]
    return Calm(len(ways), int((np.diff(ways) != 0).sum()))


def calmed(task: HeightTask, fit: Fit, bounds: Bounds) -> Fit:
    """The calmest stack that was found within the bounds; ``fit`` itself if none is calmer."""
    rules = task.rules if bounds.hard is None else with_target(task, bounds.hard)
    if len(fit.stack) < 4 or not passes(rules):
        return fit
    if bounds.measure == "max":
        purse = Purse(task.seconds, task.seconds, bounds.seconds - task.fixed, np.inf)
    else:
        price, limit = second_cost(task, bounds.measure, bounds.rest or bounds.error)
        purse = Purse(task.seconds, price, bounds.seconds - task.fixed, limit)
    tried = _priced(task, rules, fit, purse, bounds)
    best = fit.stack
    for stack in tried:
        for one in (stack, _spliced(rules, best, stack, purse)):
            if _calmer(one, best) and _within(task, one, bounds, purse):
                best = one
    return fit if best is fit.stack else _like(task, fit, best)


def _priced(
    task: HeightTask, rules: StackRules, fit: Fit, purse: Purse, bounds: Bounds
) -> list[np.ndarray]:
    """Stacks that were chosen with a price on every change of height, the calmest first. The price
    is raised as far as the bounds can still be kept.
    """
    mean = (fit.seconds - task.fixed) / max(len(fit.stack) - 1, 1)
    shares = [1 / share for share in WEIGHTS] if bounds.capped else WEIGHTS
    weights = [fit.multiplier * share for share in shares] if np.isfinite(purse.limit) else [0.0]
    tried: list[tuple[float, np.ndarray]] = []

    def keeps(change: float) -> bool:
        for weight in weights:
            stack = solve(rules, purse.seconds, purse.price, weight, change=change * mean)
            tried.append((change, stack))
            if _within(task, stack, bounds, purse):
                return True
        return False

    low, high = np.log(PRICES)
    for _ in range(TRIES):
        middle = (low + high) / 2
        low, high = (middle, high) if keeps(float(np.exp(middle))) else (low, middle)
    return [stack for _, stack in sorted(tried, key=lambda one: -one[0])]


def _calmer(one: np.ndarray, other: np.ndarray) -> bool:
    a, b = calm_of(one), calm_of(other)
    return (a.turns, a.changes) < (b.turns, b.changes)


def _within(task: HeightTask, stack: np.ndarray, bounds: Bounds, purse: Purse) -> bool:
    if bounds.rest is not None:
        # the price is that of the target, which the error as a whole says nothing about
        spent = total(stack, task.rules.low, purse.price)
        if spent > purse.limit + 1e-6:
            return False
    return (
        task.time(stack) <= bounds.seconds + 1e-9
        and task.error(stack).of(bounds.measure) <= bounds.error + 1e-9
    )


class Offer(NamedTuple):
    """A stretch of another stack that is calmer than the base there."""

    #: what it costs of what is left, for what it calms
    share: float
    #: where it begins and ends, in z steps
    start: int
    end: int
    #: (k,) its layers in z steps
    layers: np.ndarray
    #: seconds and price more than the base there
    costs: tuple[float, float]


def _spliced(rules: StackRules, base: np.ndarray, other: np.ndarray, purse: Purse) -> np.ndarray:
    """The base with stretches of another stack put in, the cheapest for what they calm first, as
    long as the purse allows.
    """
    low, left = rules.low, np.array([purse.most, purse.limit])
    left -= total(base, low, purse.seconds), total(base, low, purse.price)
    taken: dict[int, Offer] = {}
    ends: set[int] = set()
    for offer in sorted(_offers(rules, base, other, purse, left), key=lambda one: one[:2]):
        # neighbours of a stretch that was put in were judged beside what is gone
        beside = offer.start in ends or offer.end in taken
        if not beside and (offer.costs <= left).all():
            left -= offer.costs
            taken[offer.start] = offer
            ends.add(offer.end)
    out, at = [], np.cumsum(base) - base
    n = 0
    while n < len(base):
        new = taken.get(int(at[n]))
        out.append(base[n : n + 1] if new is None else new.layers)
        n = n + 1 if new is None else int(np.searchsorted(at, new.end))
    return np.concatenate(out)


def _offers(
    rules: StackRules, base: np.ndarray, other: np.ndarray, purse: Purse, left: np.ndarray
) -> Iterator[Offer]:
    """Stretches between two boundaries that both stacks (n,) have, where the other is calmer with
    the layers on both sides; ``left`` (2,) is what may still be spent.
    """
    low = rules.low
    at, there = np.cumsum(base), np.cumsum(other)
    shared = np.intersect1d(at, there)
    for start, end in zip(shared.tolist(), shared[1:].tolist(), strict=False):  # they are few
        a, b = np.searchsorted(at, (start, end)) + 1
        c, d = np.searchsorted(there, (start, end)) + 1
        mine, new = base[a:b], other[c:d]
        if np.array_equal(mine, new):
            continue
        below, above = base[max(a - 1, 1) : a], base[b : b + 1]
        was, then = (calm_of(np.r_[0, below, some, above]) for some in (mine, new))
        gain = TURN * (was.turns - then.turns) + was.changes - then.changes
        if gain <= 0 or not _steps_kept(rules, np.r_[below, new, above] - low):
            continue
        costs = tuple(
            _cost(array, start, new, low) - _cost(array, start, mine, low)
            for array in (purse.seconds, purse.price)
        )
        share = (np.maximum(costs, 0.0) / np.maximum(left, 1e-9)).sum()
        yield Offer(float(share) / gain, start, end, new, (costs[0], costs[1]))


def _cost(array: np.ndarray, start: int, layers: np.ndarray, low: int) -> float:
    """What layers (k,) from a z step on cost of (N, m)."""
    return float(array[start + np.cumsum(layers) - layers, layers - low].sum())


def _steps_kept(rules: StackRules, heights: np.ndarray) -> bool:
    """Whether neighbours among heights (n,), as indices, keep the step limit."""
    below, above = heights[:-1], heights[1:]
    return bool(((rules.least[above] <= below) & (below <= rules.most[above])).all())


def _like(task: HeightTask, fit: Fit, stack: np.ndarray) -> Fit:
    """A stack in place of another, with what it costs more in the gap."""
    seconds, error = task.time(stack), task.error(stack)
    gap = fit.gap + max(seconds - fit.seconds, 0.0) / max(fit.seconds, 1e-9)
    return Fit(stack, seconds, error, gap, fit.reached, fit.multiplier)
