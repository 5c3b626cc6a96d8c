"""Work in several threads: for what frees the interpreter lock, as the kernels do."""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

T = TypeVar("T")
U = TypeVar("U")

#: As many as the machine lets this process use at once.
THREADS = len(os.sched_getaffinity(0))
#: What waits for nothing, and what may itself wait for that: one pool for both could stand still.
_leaves = ThreadPoolExecutor(THREADS, "leaves")
_whole = ThreadPoolExecutor(THREADS, "whole")


def in_threads(function: Callable[[T], U], items: Sequence[T]) -> list[U]:
    """What a function that uses no threads itself makes of items, in threads."""
    return list(_leaves.map(function, items))


def ahead(function: Callable[[T], U], items: Iterable[T]) -> Iterator[U]:
    """What a function makes of items, one after the other, while the next are under way. It may use
    `in_threads` itself.
    """
    waiting: deque[Future[U]] = deque()
    try:
        for item in items:
            waiting.append(_whole.submit(function, item))
            if len(waiting) >= THREADS:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()
    finally:  # nobody wants the rest
        for future in waiting:
            future.cancel()
