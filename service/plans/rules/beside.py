"""What is computed about a plan, or a part before it has one, while somebody waits for it: beside
the process that asked.
"""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any, Concatenate, ParamSpec, TypeVar, cast

from service import limits
from service.hands import apart, is_here
from service.parts.models import Part
from service.plans.models import Plan

P = ParamSpec("P")
T = TypeVar("T")
S = TypeVar("S", Plan, Part)


def beside(
    room: str, limit: Callable[[int], limits.Limit]
) -> Callable[[Callable[Concatenate[S, P], T]], Callable[Concatenate[S, P], T]]:
    """A function of a module about a plan or a part that is computed in a process of a room, with
    the limits of that part.
    """

    def decorate(function: Callable[Concatenate[S, P], T]) -> Callable[Concatenate[S, P], T]:
        @functools.wraps(function)
        def ask(subject: S, *args: P.args, **kwargs: P.kwargs) -> T:
            if is_here(room):
                return function(subject, *args, **kwargs)
            whole: Any = functools.partial(ask, subject, *args, **kwargs)  # type: ignore[has-type]
            part = subject if isinstance(subject, Part) else subject.part
            return apart(room, whole, (), limit(part.size_bytes), part.checksum)

        answer: Any = ask
        return cast(Callable[Concatenate[S, P], T], answer)

    return decorate
