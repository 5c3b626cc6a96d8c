"""The one pipeline of this process, with its bounded cache."""

from __future__ import annotations

import fcntl
from functools import lru_cache

from django.conf import settings

from northpace.moves import browser_bytes
from northpace.plan.cache import StageCache
from northpace.plan.pipeline import Pipeline
from northpace.plan.source import Source
from northpace.spec import PlanSpec
from service.hands import is_apart


@lru_cache(maxsize=1)
def pipeline() -> Pipeline:
    """Shared by all that the process computes; stages are pure and the cache is locked. Raises
    `RuntimeError` in a process that answers and has others to compute for it.
    """
    if all(settings.HANDS.values()) and not is_apart():
        raise RuntimeError("this is computed in the process that answers")
    return Pipeline(StageCache(settings.CACHE_BYTES))


def warm_up() -> None:
    """Compile or load the kernels before the first maker waits for them; one process compiles, and
    the others wait and load what it made.
    """
    from demo.shapes import sample_stl

    settings.VAR.mkdir(parents=True, exist_ok=True)
    with (settings.VAR / "kernels.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        result = pipeline().plan(Source.of(sample_stl("mast-clamp"), "warm-up.stl"), PlanSpec())
        browser_bytes(result.moves, result.outlines.tops)
