"""Computing apart: in processes of its own, which get so long and so much memory and no more. What
is computed for one maker never stops what is computed for another, nor the process that asked.
"""

from __future__ import annotations

import atexit
import math
import multiprocessing
import os
import resource
import signal
import threading
import time
from collections.abc import Callable
from concurrent.futures import CancelledError
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any, TypeVar

import django
from django.conf import settings
from django.db import close_old_connections, connections
from pebble import ProcessExpired, ProcessPool

from northpace.errors import InputError
from service.config import logged
from service.limits import Limit

T = TypeVar("T")

#: How often it is looked whether a result is still wanted, and how long a computation that is not
#: gets to leave by itself before its process is ended (s).
LOOK, GRACE = 0.2, 0.6
#: More than this many wait for one process at most; the next one is told to come back.
MOST_WAITING = 40
#: Set in the processes that compute.
_APART = "NORTHPACE_APART"


class TooMuch(InputError):
    """A computation met its limit of time or memory; the sentence says which, and what helps."""


class TooLong(TooMuch):
    """It met its limit of time."""


class Unwanted(Exception):
    """A computation was ended because nobody wants its result any more."""


class Busy(Exception):
    """So much waits already that nothing more is taken."""


class Hand:
    """One process that computes one thing after the other, and is replaced when it ends."""

    def __init__(self) -> None:
        self.waiting = 0
        self._lock = threading.Lock()
        self._pool = self._opened()

    def _opened(self) -> ProcessPool:
        return ProcessPool(
            max_workers=1,
            initializer=_begin,
            initargs=(str(connections["default"].settings_dict["NAME"]), settings.STORAGES),
            # a fork would copy locks that other threads hold
            context=multiprocessing.get_context("spawn"),
        )

    def _standing(self) -> ProcessPool:
        """The pool, or a new one where its process was ended while it had nothing to do: pebble
        gives such a pool up for good.
        """
        with self._lock:
            if not self._pool.active:
                self._pool.stop()  # type: ignore[no-untyped-call]
                self._pool = self._opened()
            return self._pool

    def do(
        self,
        function: Callable[..., T],
        args: tuple[Any, ...],
        limit: Limit,
        wanted: Callable[[], bool] | None = None,
    ) -> T:
        """The result of a function of a module, or what it raises. Raises `TooMuch` at its limit,
        `Unwanted` once ``wanted`` says no, `Busy` where too much waits.
        """
        with self._lock:
            if self.waiting >= MOST_WAITING:
                raise Busy
            self.waiting += 1
        try:
            return self._do(function, args, limit, wanted)
        finally:
            with self._lock:
                self.waiting -= 1

    def _do(
        self,
        function: Callable[..., T],
        args: tuple[Any, ...],
        limit: Limit,
        wanted: Callable[[], bool] | None,
        again: bool = True,
    ) -> T:
        future = self._standing().schedule(
            _limited, (function, args, limit, logged.here()), timeout=limit.longest
        )
        ends = None
        while True:
            try:
                return future.result(LOOK)
            except TimeoutError as error:
                if future.done():
                    raise TooLong(limit.held_up) from error
            except MemoryError as error:
                raise TooMuch(f"{limit.too_large} {limit.remedy}") from error
            except CancelledError as error:
                raise Unwanted from error
            except (ProcessExpired, BrokenProcessPool) as error:
                if getattr(error, "exitcode", None) == -signal.SIGXCPU:
                    raise TooLong(f"{limit.too_long} {limit.remedy}") from error
                if not again:
                    raise TooMuch(f"{limit.fell_over} {limit.remedy}") from error
                # once more in a new process: this one may have been ended from outside
                return self._do(function, args, limit, wanted, again=False)
            if wanted is not None and ends is None and not wanted():
                ends = time.monotonic() + GRACE
            if ends is not None and time.monotonic() > ends:
                future.cancel()  # type: ignore[no-untyped-call]

    def close(self) -> None:
        """End the process."""
        self._pool.stop()  # type: ignore[no-untyped-call]
        self._pool.join()


class Room:
    """Some processes for one kind of work."""

    def __init__(self, count: int) -> None:
        self.hands = [Hand() for _ in range(count)]

    def nearest(self, near: str) -> Hand:
        """The process that had the same thing before, because it still knows much of it; another
        one where that has much more to do.
        """
        own = self.hands[hash(near) % len(self.hands)]
        least = min(self.hands, key=lambda hand: hand.waiting)
        return own if own.waiting <= least.waiting + 2 else least


_rooms: dict[str, Room] = {}
_opening = threading.Lock()


@atexit.register
def close() -> None:
    """End all processes that compute for this one."""
    with _opening:
        for name in list(_rooms):
            for hand in _rooms.pop(name).hands:
                hand.close()


def _opened(name: str) -> Room:
    if name not in _rooms:
        _rooms[name] = Room(settings.HANDS[name])
    return _rooms[name]


def wake(room: str) -> None:
    """Begin the processes of a room, so that the first who asks need not wait for them; where it is
    computed here, load the kernels here.
    """
    if is_here(room):
        from service.core import warm_up

        warm_up()
        return
    with _opening:
        hands = _opened(room).hands
    for hand in hands:
        hand.do(_nothing, (), Limit("beginning", 120, 1000, ""))


def _nothing() -> None:
    """What a process does that only has to be there."""


def is_apart() -> bool:
    """Whether this is a process that computes for another one."""
    return _APART in os.environ


def is_here(room: str) -> bool:
    """Whether what a room is for is computed in this very process."""
    return is_apart() or not settings.HANDS[room]


def apart(
    room: str,
    function: Callable[..., T],
    args: tuple[Any, ...],
    limit: Limit,
    near: str = "",
    wanted: Callable[[], bool] | None = None,
) -> T:
    """Call a function of a module in a process of a room. Where the settings give a room no
    process, or in such a process already, it is called here.
    """
    if is_here(room):
        return function(*args)
    with _opening:
        hand = _opened(room).nearest(near)
    return hand.do(function, args, limit, wanted)


def _begin(database: str, storages: dict[str, Any]) -> None:
    """The first thing such a process does."""
    threading.Thread(target=_end_with, args=(os.getppid(),), daemon=True).start()
    os.environ[_APART] = "1"
    django.setup()
    settings.STORAGES = storages
    settings.DATABASES["default"]["NAME"] = database
    connections["default"].settings_dict.update(NAME=database, CONN_MAX_AGE=600)
    from service.core import warm_up

    warm_up()


def _end_with(parent: int) -> None:
    """Never outlive the process it is computed for, however that ends."""
    while os.getppid() == parent:
        time.sleep(LOOK)
    os._exit(1)


def _limited(
    function: Callable[..., T], args: tuple[Any, ...], limit: Limit, facts: dict[str, str]
) -> T:
    """Call a function with so much more memory and processor time than the process has had, and no
    more; what it logs carries the facts of who asked. Where the time is over, the process ends
    with SIGXCPU.
    """
    close_old_connections()
    memory, time_ = (
        resource.getrlimit(kind) for kind in (resource.RLIMIT_DATA, resource.RLIMIT_CPU)
    )
    resource.setrlimit(resource.RLIMIT_DATA, (_data() + int(limit.megabytes * 1e6), memory[1]))
    worked = math.ceil(time.process_time() + limit.seconds)
    resource.setrlimit(resource.RLIMIT_CPU, (worked, time_[1]))
    try:
        with logged.within(**facts):
            return function(*args)
    except TimeoutError as error:
        # a store that does not answer is no computation that took too long
        raise OSError(f"something did not answer in time: {error}") from error
    finally:
        resource.setrlimit(resource.RLIMIT_DATA, memory)
        resource.setrlimit(resource.RLIMIT_CPU, time_)


def _data() -> int:
    """Bytes of this process that count towards `RLIMIT_DATA`."""
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith("VmData:"):
            return 1024 * int(line.split()[1])
    return 0
