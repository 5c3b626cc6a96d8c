"""Adaptive and best-fit stacks: least time for a surface target, best surface within a time
(`docs/computations.md` §4).

A target on the mean or on the 95th percentile is a bound on a sum over layers. A multiplier prices
it; multipliers reach only the convex hull of what is possible, so exchanges of stretches between
the stacks on either side close most of what is left, and the remaining gap to the multiplier's
bound (which nothing can beat) is reported.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from northpace.heights.exchange import Deal, exchange
from northpace.heights.labels import search
from northpace.heights.measure import (
    TAIL,
    SurfaceError,
    area_above,
    flat_cells,
    mean_cost,
    measure,
    worst_error,
)
from northpace.heights.rules import TARGET, StackRules, finest, spans
from northpace.heights.solve import solve, total
from northpace.heights.surface import SurfaceTable

MOST_ROUNDS = 40
#: Step errors (mm) that differ by less show alike.
AS_GOOD = 0.0005
#: The same where the first layer alone decides the measure, as a share of it.
FIRST = 0.02
#: Step errors of a stack in mm: by the measure that was asked for, the mean, and the max.
Errors = tuple[float, float, float]
#: How far the multiplier is moved to prefer one corner of the hull over the other, and how often
#: the change is halved.
NUDGE = 0.6
SPLITS = 7
#: A gap below this share is not worth more work.
CLOSE = 0.001
#: Parts of at most so many z steps are searched to the end, with at most so many labels; on taller
#: ones it seldom ends in time.
EXACT_STEPS = 500
LABELS = 60_000


@dataclass(frozen=True)
class HeightTask:
    """What a stack is chosen by."""

    #: what any stack does to the surface
    table: SurfaceTable
    #: which layers are allowed
    rules: StackRules
    #: (N, m) of a layer that starts at a z step with a height
    seconds: np.ndarray
    #: seconds that the layers above the first do not change, the first included
    fixed: float
    #: (N, m) its share of the mean error, and its largest error in mm
    mean: np.ndarray = field(repr=False)
    worst: np.ndarray = field(repr=False)
    #: what flats add to the errors, by height
    flats: tuple[np.ndarray, ...] = field(repr=False)
    #: the stacks (n,) in z steps with the least time and with the least mean error; empty where
    #: the rules leave none
    fastest: np.ndarray = field(repr=False)
    smoothest: np.ndarray = field(repr=False)

    @property
    def nbytes(self) -> int:
        return 3 * self.seconds.nbytes + self.rules.nbytes

    def time(self, stack: np.ndarray) -> float:
        """Seconds of a stack in all. ``stack`` (N,) is in z steps."""
        return self.fixed + (total(stack, self.rules.low, self.seconds) if len(stack) > 1 else 0.0)

    def error(self, stack: np.ndarray) -> SurfaceError:
        """The step error of a stack (N,) in z steps, in µm."""
        return measure(self.table, stack)


def prepared(
    table: SurfaceTable, rules: StackRules, seconds: np.ndarray, fixed: float
) -> HeightTask:
    """Prepare the costs that do not depend on a target. ``seconds`` (B, H) are what a layer takes
    by its bottom in z steps and its height; ``fixed`` is what no choice changes, in s.
    """
    flats = flat_cells(table, rules.heights)
    steepest = spans(table.steepest, rules.heights)
    # single precision: the solver reads these a thousand times, and a layer's time is not known to
    # the ten millionth
    seconds, mean = seconds.astype(np.float32), mean_cost(table, rules.heights).astype(np.float32)
    worst = worst_error(table, rules.heights, steepest, flats).astype(np.float32)
    return HeightTask(
        table,
        rules,
        seconds,
        fixed,
        mean,
        worst,
        flats,
        solve(rules, seconds, mean, 0.0),
        solve(rules, mean, seconds, 1e-9),
    )


@dataclass(frozen=True)
class Fit:
    """A stack in z steps, its seconds and surface error; ``gap``: at most this share above the
    least time (or error) possible; ``reached``: whether the target or the cap is kept.
    """

    stack: np.ndarray
    seconds: float
    error: SurfaceError
    gap: float = 0.0
    reached: bool = True
    multiplier: float = 0.0


def _fit(
    task: HeightTask,
    stack: np.ndarray,
    gap: float = 0.0,
    reached: bool = True,
    multiplier: float = 0.0,
) -> Fit:
    return Fit(stack, task.time(stack), task.error(stack), gap, reached, multiplier)


def adaptive(task: HeightTask, target: float) -> Fit | None:
    """Least time with every error at most ``target`` mm; the finest layer stays allowed where even
    that is too tall.

    None when the rules allow no stack at all. Where the finest layers cannot be placed to meet the
    target everywhere (a top that only other heights reach), the excess is made as small as
    possible.
    """
    rules, bound = task.rules, with_target(task, target)
    stack = solve(bound, task.seconds, task.seconds, 0.0)
    if not len(stack):
        excess = np.maximum(task.worst - target, 0.0)
        stack = solve(
            rules,
            task.seconds,
            excess,
            1e3 * float(np.abs(task.seconds).max()) / max(task.rules.z_step, 1e-6),
        )
    if not len(stack):
        return None
    found = _fit(task, stack)
    return Fit(stack, found.seconds, found.error, 0.0, found.error.max <= target + 1e-9)


def with_target(task: HeightTask, target: float) -> StackRules:
    """The rules of a task with no error above ``target`` mm, the finest layers left as they are."""
    rules = task.rules
    over = task.worst > target + 1e-9
    over[np.arange(len(over)), finest(rules.broken)] = False
    return rules._replace(broken=rules.broken | np.where(over, np.uint8(TARGET), np.uint8(0)))


def least_time(
    task: HeightTask, name: str, target: float, start: float = 0.0, polish: bool = True
) -> Fit | None:
    """Least time with the measure ``name`` at most ``target`` mm; the best surface there is where
    the target is out of reach.

    Without ``polish`` the answer is a corner of the hull, found in a third of the time.
    """
    if not len(task.fastest):
        return None
    bounded = adaptive(task, target) if polish or name == "max" else None
    if name == "max":
        assert bounded is not None
        return bounded
    cost, limit = second_cost(task, name, target)
    found, gap, multiplier = _bounded(
        Deal(task.rules, task.seconds, cost, limit), start, task.fixed, task.fastest, polish
    )
    if found is None:
        return _nearest(task, name, target)
    best = _fit(task, found, gap, multiplier=multiplier)
    if bounded is not None and bounded.reached and bounded.seconds < best.seconds:
        best = Fit(bounded.stack, bounded.seconds, bounded.error, 0.0)
    return best


def _nearest(task: HeightTask, name: str, target: float) -> Fit:
    """The least time for the best measure there is, where a target is out of reach: the finest of
    everything would take longer for nothing. As its area above the target counts no micrometres,
    the best percentile is taken to be that of the least mean.
    """
    smoothest = _fit(task, task.smoothest, reached=False)
    best = smoothest.error.of(name) + AS_GOOD
    if first_alone(task, name, target):
        best = _least_of_the_rest(task, name, target, best)
    if best <= target:
        return smoothest
    quicker = least_time(task, name, best, polish=False)
    if quicker is None or not quicker.reached or quicker.seconds >= smoothest.seconds:
        return smoothest
    return replace(quicker, reached=False)


def _least_of_the_rest(task: HeightTask, name: str, low: float, high: float) -> float:
    """The lowest target in mm that the smoothest stack keeps above its first layer. It lies between
    ``low``, which is missed, and ``high``.
    """
    while high - low > AS_GOOD:
        middle = 0.5 * (low + high)
        cost, limit = second_cost(task, name, middle)
        kept = total(task.smoothest, task.rules.low, cost) <= limit
        low, high = (low, middle) if kept else (middle, high)
    return high


def best_surface(
    task: HeightTask, name: str, cap: float, low: float = 0.0, high: float | None = None
) -> Fit | None:
    """Best measure ``name`` within ``cap`` seconds; the fastest stack, marked as not reached, where
    even that takes longer.

    ``low``, ``high`` (mm): a known bracket of the answer, for percentile and max.
    """
    fastest = task.fastest
    if not len(fastest):
        return None
    if task.time(fastest) > cap + 1e-6:
        return _fit(task, fastest, reached=False)
    if name == "mean":
        found, gap, price = _bounded(
            Deal(task.rules, task.mean, task.seconds, cap - task.fixed), 0.0, 0.0, task.smoothest
        )
        assert found is not None
        return _fit(task, found, gap, multiplier=1 / price if price > 0 else 0.0)
    # percentile and max: the least target whose least time keeps the cap; found roughly by corners
    # of the hull alone, whose times are a little too long, then to half a micrometre with
    # everything
    best = _fit(task, fastest)
    high = best.error.of(name) if high is None else high
    reply = least_time(task, name, high)
    if (
        reply is not None
        and reply.reached
        and reply.seconds <= cap
        and reply.error.of(name) <= best.error.of(name)
    ):
        best = reply
    multiplier, slow = 0.0, 2 * cap
    quick = best.seconds
    for polish in (False, True):
        while high - low > max(0.0005, 0.0 if polish else 0.02 * high):
            # where a straight line meets the cap, but well inside what is left
            share = float(np.clip((slow - cap) / max(slow - quick, 1e-9), 0.15, 0.85))
            middle = low + share * (high - low)
            reply = least_time(task, name, middle, multiplier, polish)
            if reply is not None:
                multiplier = reply.multiplier
            if reply is not None and reply.reached and reply.seconds <= cap + 1e-6:
                best = reply if reply.error.of(name) <= best.error.of(name) else best
                high, quick = min(middle, reply.error.of(name)), reply.seconds
            else:
                low, slow = middle, reply.seconds if reply is not None and reply.reached else slow
        if not polish:
            # what was too slow by corners alone may not be, with everything
            low = max(0.9 * low, 0.0)
    # stacks can be alike by this measure and differ in the mean: the time left is used for that
    smooth = best_surface(task, "mean", cap)
    if smooth is None:
        return best
    one, other = ((fit.error.of(name), fit.error.mean, fit.error.max) for fit in (smooth, best))
    return smooth if compared(task, name, one, other) < 0 else best


def compared(
    task: HeightTask, name: str, one: Errors, other: Errors, exactly: float = AS_GOOD
) -> int:
    """−1 if the first of two stacks has less step error, 1 if it has more, 0 if they are alike.

    The measure ``name`` decides; if it is alike for both then the mean does, and then the max.
    Errors are alike if they differ by no more than ``exactly`` mm. A measure that the first layer
    alone decides is alike for all stacks: the rest of the surface only moves it a little.
    """
    least = min(one[0], other[0])
    alike = FIRST * least if first_alone(task, name, 0.95 * least) else exactly
    for a, b, most in zip(one, other, (alike, exactly, exactly), strict=True):
        if abs(a - b) > most:
            return -1 if a < b else 1
    return 0


def _between(
    deal: Deal, multiplier: float, kept: np.ndarray, tried: list[np.ndarray]
) -> np.ndarray:
    """The best stack that follows one corner of the hull up to some height and the other above it.

    With the multiplier well below and well above the one that prices both corners alike, the
    programme itself joins them; how high the change lies decides how much of the limit is used. (A
    small difference would not pay for the join.)
    """
    rules, goal, price = deal.rules, deal.goal, deal.price
    low = rules.low
    if multiplier <= 0:
        return kept
    best, best_goal = kept, total(kept, low, goal)
    under, over = multiplier * (1 - NUDGE), multiplier * (1 + NUDGE)
    for below, above, rising in ((under, over, True), (over, under, False)):
        least, most = rules.first, rules.steps
        for _ in range(SPLITS):
            split = (least + most) // 2
            stack = solve(rules, goal, price, below, split, above)
            fits = total(stack, low, price) <= deal.slack
            if fits:
                value = total(stack, low, goal)
                tried.append(stack)
                if value < best_goal:
                    best, best_goal = stack, value
            # more of the cheap corner where it fits, less where it does not
            if fits == rising:
                least = split
            else:
                most = split
            if most - least <= low:
                break
    return best


def second_cost(task: HeightTask, name: str, target: float) -> tuple[np.ndarray, float]:
    """The cost (N, m) of every layer towards a target in mm, and how much of it all layers above
    the first may come to.

    If the first layer misses the target alone, the target is that of the rest of the surface.
    """
    table = task.table
    alone = first_alone(task, name, target)
    surface = table.total - (_first_above(task, 0.0) if alone else 0.0)
    if name == "mean":
        return task.mean, target * surface - (0.0 if alone else _first_cost(task))
    cost = area_above(table, task.rules.heights, target, task.flats).astype(np.float32)
    return cost, TAIL * surface - (0.0 if alone else _first_above(task, target))


def first_alone(task: HeightTask, name: str, target: float) -> bool:
    """Whether the first layer misses a target in mm alone, whatever the other layers are. No choice
    of heights changes the first layer.
    """
    if name == "mean":
        return _first_cost(task) > target * task.table.total
    return name == "p95" and _first_above(task, target) > TAIL * task.table.total


def _first_cost(task: HeightTask) -> float:
    """Area times step error of the first layer in mm³."""
    return float(mean_cost(task.table, _first_height(task))[0, 0])


def _first_above(task: HeightTask, target: float) -> float:
    """Area in mm² of the first layer whose step error is above a target in mm."""
    first = _first_height(task)
    return float(area_above(task.table, first, target, flat_cells(task.table, first))[0, 0])


def _first_height(task: HeightTask) -> np.ndarray:
    """(1,) the height of the first layer in z steps."""
    return np.array([min(task.rules.first, task.table.steps)])


def _bounded(
    deal: Deal, start: float, offset: float, fast: np.ndarray, polish: bool = True
) -> tuple[np.ndarray | None, float, float]:
    """The stack with least Σ goal whose Σ price is within the limit, the gap to the bound as a
    share of goal + offset, and the multiplier.

    ``fast`` is the stack with the least Σ goal of all; ``start`` a multiplier to begin with.

    Walks along the hull: from a stack that breaks the limit and one that keeps it, the multiplier
    that prices both alike gives the next (Handler and Zang, "A dual algorithm for the constrained
    shortest path problem", Networks 10, 1980).
    """
    if deal.both(fast)[1] <= deal.slack:
        return fast, 0.0, 0.0
    tried = [fast]
    fast, kept, multiplier = _bracket(deal, start, fast, tried)
    if kept is None:
        return None, 0.0, 0.0
    fast, kept, multiplier = _corners(deal, fast, kept, multiplier, tried)
    (fast_goal, fast_price), kept_goal = deal.both(fast), deal.both(kept)[0]
    bound = fast_goal + multiplier * (fast_price - deal.limit)
    scale = max(abs(bound + offset), 1e-9)
    if not polish:
        return kept, max((kept_goal - bound) / scale, 0.0), multiplier
    if kept_goal - bound > CLOSE * scale:
        kept = _between(deal, multiplier, kept, tried)
    rules = deal.rules
    improved = exchange(kept, tried, deal._replace(limit=deal.slack))
    reached = deal.both(improved)[0]
    if reached - bound > 1e-9 * scale and rules.steps <= EXACT_STEPS:
        found, complete = search(
            rules, deal.goal, deal.price, multiplier, deal.slack, reached, LABELS
        )
        improved = found if len(found) else improved
        reached = deal.both(improved)[0]
        bound = reached if complete else bound
    return improved, max((reached - bound) / scale, 0.0), multiplier


def _bracket(
    deal: Deal, start: float, fast: np.ndarray, tried: list[np.ndarray]
) -> tuple[np.ndarray, np.ndarray | None, float]:
    """A stack that breaks the limit, one that keeps it (None where none does), and a multiplier."""
    goal, price = deal.both(fast)
    multiplier = start or max(abs(goal), 1e-9) / max(price, 1e-12)
    for _ in range(12):  # a multiplier large enough to keep the limit
        found = solve(deal.rules, deal.goal, deal.price, multiplier)
        tried.append(found)
        if deal.both(found)[1] <= deal.slack:
            return fast, found, multiplier
        fast = found
        multiplier *= 8
    found = solve(deal.rules, deal.price, deal.goal, 1e-9)
    if deal.both(found)[1] > deal.slack:
        return fast, None, multiplier
    tried.append(found)
    return fast, found, multiplier


def _corners(
    deal: Deal, fast: np.ndarray, kept: np.ndarray, multiplier: float, tried: list[np.ndarray]
) -> tuple[np.ndarray, np.ndarray, float]:
    """The two corners of the hull on both sides of the limit, and the multiplier between them."""
    (fast_goal, fast_price), (kept_goal, kept_price) = deal.both(fast), deal.both(kept)
    for _ in range(MOST_ROUNDS):
        if fast_price - kept_price < 1e-12:
            break
        multiplier = max((kept_goal - fast_goal) / (fast_price - kept_price), 0.0)
        found = solve(deal.rules, deal.goal, deal.price, multiplier)
        goal, price = deal.both(found)
        now = kept_goal + multiplier * kept_price
        if goal + multiplier * price >= now - 1e-7 * max(1.0, abs(kept_goal)):
            break
        tried.append(found)
        if price <= deal.slack:
            kept, kept_goal, kept_price = found, goal, price
        else:
            fast, fast_goal, fast_price = found, goal, price
    return fast, kept, multiplier
