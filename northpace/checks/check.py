"""What a check is: a function that looks at facts of a plan and says what it finds.

One file a check, listed in `northpace.checks.registry`:

    @check("outlines", codes=("empty-layer",))
    def empty_layer(facts): ...

A check is handed only the facts it names and the settings it reads, so it is run again when one of
these changes and never otherwise.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.spec.portion import View


@dataclass(frozen=True)
class Check:
    """A check; see the module."""

    #: its name: that of its file
    name: str
    #: every code a finding of it may have
    codes: tuple[str, ...]
    #: facts it looks at, fields of `Facts`
    uses: tuple[str, ...]
    #: settings it reads
    reads: tuple[str | View, ...]
    run: Callable[[Facts], list[Finding]]


def check(
    *uses: str, codes: tuple[str, ...], reads: tuple[str | View, ...] = ()
) -> Callable[[Callable[[Facts], list[Finding]]], Check]:
    """Declare the function below as a check of these facts, which may find these codes."""

    def declared(run: Callable[[Facts], list[Finding]]) -> Check:
        return Check(run.__module__.rsplit(".", 1)[-1], codes, uses, reads, run)

    return declared
