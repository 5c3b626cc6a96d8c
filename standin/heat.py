"""Temperatures of a simulated machine, as they rise while a file runs."""

from __future__ import annotations

from standin.limits import Limits
from standin.tape import Tape


def cold(limits: Limits) -> dict[str, float]:
    """Nozzle and bed in °C, and the fan, while nothing runs."""
    return {"nozzle": limits.room, "bed": limits.room, "fan": 0.0}


def heat_at(tape: Tape, seconds: float, limits: Limits) -> dict[str, float]:
    """Nozzle and bed in °C, and the fan, ``seconds`` into a file. Temperatures rise at the rates of
    the machine and fall at once.
    """
    out = cold(limits)
    for what, rate in (("nozzle", limits.nozzle_rate), ("bed", limits.bed_rate)):
        told = [(at, value) for at, name, value in tape.sets if name == what and at <= seconds]
        now = limits.room
        for k, (at, value) in enumerate(told):
            until = told[k + 1][0] if k + 1 < len(told) else seconds
            now = min(now + rate * (until - at), value) if value > now else value
        out[what] = round(now, 1)
    fan = [value for at, name, value in tape.sets if name == "fan" and at <= seconds]
    return {**out, "fan": fan[-1] if fan else 0.0}
