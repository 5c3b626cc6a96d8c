"""The one pipeline of this process, with its bounded cache."""

from __future__ import annotations

from functools import lru_cache

from django.conf import settings

from northpace.plan.cache import StageCache
from northpace.plan.pipeline import Pipeline


@lru_cache(maxsize=1)
def pipeline() -> Pipeline:
    """Shared by all requests and tasks of the process; stages are pure and the cache is locked."""
    return Pipeline(StageCache(settings.CACHE_BYTES))
