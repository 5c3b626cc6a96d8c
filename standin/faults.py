"""Faults that can be set on a simulated machine, and when they happen."""

from __future__ import annotations

from typing import Any

from standin.tape import Tape

#: Faults that can be set, with what each does.
FAULTS = {
    "jam": "filament stops moving at a layer; the printer pauses",
    "lost-connection": "no answer for some real seconds from a layer on",
    "power-cut": "the process ends at a layer, as if the plug were pulled",
    "thermal": "the heater fails at a layer; the print ends",
    "full-storage": "no file is taken any more",
}


def fault_of(said: dict[str, Any]) -> dict[str, Any]:
    """A fault as it is kept: its kind, the layer (from 1) it happens at, and how many real seconds
    it lasts. Raises `ValueError` for a kind that does not exist.
    """
    if said.get("kind") not in FAULTS:
        raise ValueError("there are the faults " + ", ".join(FAULTS))
    return {
        "kind": said["kind"],
        "layer": int(said.get("layer", 1)),
        "for_s": float(said.get("for_s", 2.0)),
    }


def next_fault(
    faults: list[dict[str, Any]], tape: Tape, start: float, end: float
) -> tuple[float, dict[str, Any] | None]:
    """The first fault between two times (s) of a run, and when; at infinity if there is none."""
    best: tuple[float, dict[str, Any] | None] = (float("inf"), None)
    for fault in faults:
        if fault["kind"] == "full-storage" or not 1 <= fault["layer"] <= len(tape.starts):
            continue
        at = max(float(tape.starts[fault["layer"] - 1]), start)
        if at <= end and at < best[0]:
            best = (at, fault)
    return best
