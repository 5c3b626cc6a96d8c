"""What is computed about a plan while somebody waits for it: beside the process that asked."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any, Concatenate, ParamSpec, TypeVar, cast

from service import limits
from service.hands import apart, is_here
from service.plans.models import Plan

P = ParamSpec("P")
T = TypeVar("T")
Asked = Callable[Concatenate[Plan, P], T]


def beside(room: str, limit: Callable[[int], limits.Limit]) -> Callable[[Asked[P, T]], Asked[P, T]]:
    """A function of a module about a plan that is computed in a process of a room, with the limits
    of the plan's part.
    """

    def decorate(function: Asked[P, T]) -> Asked[P, T]:
        @functools.wraps(function)
        def ask(plan: Plan, *args: P.args, **kwargs: P.kwargs) -> T:
            if is_here(room):
                return function(plan, *args, **kwargs)
            whole: Any = functools.partial(ask, plan, *args, **kwargs)
            return apart(room, whole, (), limit(plan.part.size_bytes), plan.part.checksum)

        answer: Any = ask
        return cast(Asked[P, T], answer)

    return decorate
