"""The simulated machine: it takes a file, heats, moves and extrudes in simulated time, and keeps
what it did on disk.

What stands on disk is what happened: a process that is killed in the middle has printed exactly as
far as it had written down.
"""

from __future__ import annotations

import hashlib
import hmac
import json
import os
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from standin.faults import fault_of, next_fault
from standin.files import Files
from standin.heat import cold, heat_at
from standin.limits import Limits
from standin.tape import Tape, without

ACTIVE = ("heating", "printing", "paused")
ENDED = ("done", "failed", "cancelled")
#: Runs remembered after they ended.
REMEMBERED = 1000
#: What is said of a run, as it is while none is on the machine.
NO_RUN: dict[str, Any] = {
    "run": "",
    "name": "",
    "reason": "",
    "seconds": 0.0,
    "extruded_mm": 0.0,
    "layer": 0,
    "layers": 0,
    "total_s": 0.0,
    "given_up": [],
}


class Refused(Exception):
    """A request the machine does not take, with the HTTP status that says so."""

    def __init__(self, status: int, why: str) -> None:
        super().__init__(why)
        self.status = status


class Printer:
    """One simulated machine. Every method may be called from any thread."""

    def __init__(
        self,
        folder: Path,
        limits: Limits,
        name: str = "machine",
        factor: float = 1.0,
        reach: float = 1.0,
        layer_extra: float = 0.0,
        storage: int = 2_000_000_000,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self.folder, self.limits, self.name, self.reach, self.layer_extra, self.storage = (
            folder,
            limits,
            name,
            reach,
            layer_extra,
            storage,
        )
        self._clock, self._lock = clock, threading.RLock()
        self._files = Files(folder / "files", limits, reach, layer_extra)
        self._book = folder / "state.json"
        self.s: dict[str, Any] = {
            "phase": "idle",
            **NO_RUN,
            "spool_mm": None,
            "material": None,
            "faults": [],
            "history": {},
            "factor": factor,
            "silent_s": 0.0,
        }
        if self._book.exists():
            self.s |= json.loads(self._book.read_text())
            if self.s["phase"] in ACTIVE:
                self._end("failed", f"the power was lost at layer {self.s['layer']}")
        self.s["factor"] = factor
        self._silent_until = 0.0
        self._last = clock()
        self._write()

    # what it is asked for

    def state(self) -> dict[str, Any]:
        with self._lock:
            self.advance()
            s = self.s
            return {
                **{key: s[key] for key in ("phase", *NO_RUN, "spool_mm", "material", "factor")},
                "machine": self.name,
                "left_s": max(s["total_s"] - s["seconds"], 0.0) if s["phase"] in ACTIVE else 0.0,
                **self._heat(),
                "free_bytes": 0
                if self._has("full-storage")
                else max(self.storage - self._files.used(), 0),
                "faults": s["faults"],
            }

    def ended(self, run: str) -> dict[str, Any]:
        """What became of a run that has ended."""
        with self._lock:
            self.advance()
            if run not in self.s["history"]:
                raise Refused(404, "this run is not known here")
            return dict(self.s["history"][run])

    def obey(self, key: str) -> None:
        """Take an order only of whom this printer belongs to: who gave it a key first, until it is
        released by hand (``--release``).
        """
        with self._lock:
            kept = self.folder / "owner"
            if not kept.exists():
                if key:
                    kept.write_text(key)
            elif not hmac.compare_digest(kept.read_text().encode(), key.encode()):
                raise Refused(403, "this printer belongs to another workshop")

    def take(self, run: str, data: bytes, checksum: str) -> dict[str, Any]:
        """Keep a file under its run; the same one again is no matter."""
        with self._lock:
            if hashlib.sha256(data).hexdigest() != checksum:
                raise Refused(422, "the file arrived damaged")
            if self._files.holds(run, data):
                return self.state()
            if self._has("full-storage") or self._files.used() + len(data) > self.storage:
                raise Refused(507, "the storage is full")
            self._files.keep(run, data)
            return self.state()

    def start(self, run: str, name: str) -> dict[str, Any]:
        """Begin a run whose file is here. A run is begun once: asked again, the answer is what
        became of it.
        """
        with self._lock:
            self.advance()
            if self.s["run"] == run or run in self.s["history"]:
                return self.state()
            if self.s["phase"] in ACTIVE:
                raise Refused(409, f"busy with {self.s['name']}")
            if self.s["phase"] in ENDED:
                raise Refused(409, f"{self.s['name']} still lies on the bed")
            if not self._files.has(run):
                raise Refused(404, "there is no file of this run")
            tape = self._tape(run)
            self.s |= {
                **NO_RUN,
                "phase": "heating",
                "run": run,
                "name": name,
                "layers": len(tape.starts),
                "total_s": float(tape.clock[-1]),
            }
            self._last = self._clock()
            wanted = self._files.material(run)
            if self.s["material"] and wanted and wanted != self.s["material"]:
                self._end("failed", f"{self.s['material']} hangs here; the file is for {wanted}")
            self._write()
            return self.state()

    def pause(self, run: str) -> dict[str, Any]:
        return self._switch(run, ("heating", "printing"), "paused", "paused by hand")

    def resume(self, run: str) -> dict[str, Any]:
        with self._lock:
            self.advance()
            if self.s["run"] != run or self.s["phase"] != "paused":
                raise Refused(409, "this run is not paused")
            if self.s["spool_mm"] is not None and self.s["spool_mm"] <= 1e-6:
                raise Refused(409, "the spool is empty")
            self.s |= {"phase": self._moving_phase(), "reason": ""}
            self._last = self._clock()
            self._write()
            return self.state()

    def cancel(self, run: str) -> dict[str, Any]:
        with self._lock:
            self.advance()
            if self.s["run"] == run and self.s["phase"] in ACTIVE:
                self._end("cancelled", "cancelled by hand")
                self._write()
            return self.state()

    def give_up(self, run: str, thing: int) -> dict[str, Any]:
        """Leave out what has not begun yet of one labelled thing; the rest goes on. Given up once,
        it stays so.
        """
        with self._lock:
            self.advance()
            if self.s["run"] != run or self.s["phase"] not in ACTIVE:
                raise Refused(409, "this run is not on the machine")
            if thing in self.s["given_up"]:
                return self.state()
            try:
                tape = without(
                    self._tape(run),
                    thing,
                    float(self.s["seconds"]),
                    self.limits,
                    self.reach,
                    self.layer_extra,
                )
            except ValueError as error:
                raise Refused(422, str(error)) from error
            self._files.change(run, tape)
            self.s |= {
                "given_up": [*self.s["given_up"], thing],
                "total_s": float(tape.clock[-1]),
            }
            self._write()
            return self.state()

    def clear(self) -> dict[str, Any]:
        """The part was taken off the bed."""
        with self._lock:
            self.advance()
            if self.s["phase"] in ACTIVE:
                raise Refused(409, f"busy with {self.s['name']}")
            self.s |= {"phase": "idle", **NO_RUN}
            self._write()
            return self.state()

    def set_spool(self, mm: float | None, material: str | None = None) -> dict[str, Any]:
        """Hang up a spool with so many mm of filament (None for one that never ends). If its
        material is named, files for another material fail.
        """
        with self._lock:
            self.advance()
            self.s |= {"spool_mm": mm, "material": material or self.s["material"]}
            self._write()
            return self.state()

    def set_factor(self, factor: float) -> dict[str, Any]:
        """Simulated seconds in a real one."""
        with self._lock:
            self.advance()
            self.s["factor"] = factor
            self._write()
            return self.state()

    def set_fault(self, fault: dict[str, Any]) -> dict[str, Any]:
        """Set a fault: kind, layer (from 1) it happens at, real seconds it lasts."""
        with self._lock:
            try:
                found = fault_of(fault)
            except ValueError as error:
                raise Refused(422, str(error)) from error
            self.advance()
            self.s["faults"] = [*self.s["faults"], found]
            self._write()
            return self.state()

    def clear_faults(self) -> dict[str, Any]:
        with self._lock:
            self.s["faults"] = []
            self._write()
            return self.state()

    @property
    def silent(self) -> bool:
        """Whether the connection is lost at the moment."""
        return self._clock() < self._silent_until

    # what it does

    def advance(self) -> None:
        """Bring the machine to the present: move on by the real time that has passed times the
        factor, up to whatever stops it.
        """
        with self._lock:
            now = self._clock()
            passed, self._last = (now - self._last) * self.s["factor"], now
            if self.s["phase"] not in ("heating", "printing") or passed <= 0:
                return
            tape = self._tape(self.s["run"])
            start, spool = float(self.s["seconds"]), self.s["spool_mm"]
            wanted = min(start + passed, self.s["total_s"])
            empty = (
                tape.when_fed(float(self.s["extruded_mm"]) + spool)
                if spool is not None
                else float("inf")
            )
            stop, fault = next_fault(self.s["faults"], tape, start, min(wanted, empty))
            to = min(wanted, empty, stop, tape.hit)
            self._move_to(tape, to)
            if to == tape.hit:
                self._end(
                    "failed",
                    f"the {tape.hits_with.lower()} hit what stands on the bed, in layer "
                    f"{self.s['layer']}",
                )
            elif fault is not None and to == stop:
                self._happen(fault)
            elif to == empty and to < self.s["total_s"]:
                self.s |= {"phase": "paused", "reason": "the spool is empty", "spool_mm": 0.0}
            elif to >= self.s["total_s"]:
                self._end("done", "")
            else:
                self.s["phase"] = self._moving_phase()
            self._write()

    def _move_to(self, tape: Tape, to: float) -> None:
        fed = tape.fed_at(to)
        if self.s["spool_mm"] is not None:
            self.s["spool_mm"] = max(self.s["spool_mm"] - (fed - self.s["extruded_mm"]), 0.0)
        self.s |= {
            "seconds": to,
            "extruded_mm": fed,
            "layer": int(np.searchsorted(tape.starts, to + 1e-9, "right")),
        }

    def _happen(self, fault: dict[str, Any]) -> None:
        self.s["faults"] = [other for other in self.s["faults"] if other is not fault]
        layer = self.s["layer"]
        if fault["kind"] == "jam":
            self.s |= {
                "phase": "paused",
                "reason": f"the filament does not move any more at layer {layer}",
            }
        elif fault["kind"] == "thermal":
            self._end("failed", f"the heater no longer follows at layer {layer}")
        elif fault["kind"] == "lost-connection":
            self._silent_until = self._clock() + fault["for_s"]
        else:  # the plug is pulled: what was done until here is on disk, nothing after it
            self._write()
            os._exit(9)

    def _switch(self, run: str, phases: tuple[str, ...], phase: str, reason: str) -> dict[str, Any]:
        with self._lock:
            self.advance()
            if self.s["run"] != run or self.s["phase"] not in phases:
                raise Refused(
                    409,
                    "this run is "
                    f"{self.s['phase'] if self.s['run'] == run else 'not on the machine'}",
                )
            self.s |= {"phase": phase, "reason": reason}
            self._write()
            return self.state()

    def _end(self, phase: str, reason: str) -> None:
        s = self.s
        s |= {"phase": phase, "reason": reason}
        history = {**s["history"], s["run"]: {key: s[key] for key in ("phase", *NO_RUN)}}
        s["history"] = dict(list(history.items())[-REMEMBERED:])
        self._files.drop(s["run"])

    def _moving_phase(self) -> str:
        return "printing" if self.s["layer"] > 0 else "heating"

    def _heat(self) -> dict[str, float]:
        """Temperatures and fan as they are now."""
        if self.s["phase"] not in ACTIVE:
            return cold(self.limits)
        return heat_at(self._tape(self.s["run"]), float(self.s["seconds"]), self.limits)

    def _tape(self, run: str) -> Tape:
        """The run's file, ready to run. Raises `Refused` for one that cannot be read."""
        try:
            return self._files.tape(run)
        except ValueError as error:
            raise Refused(422, str(error)) from error

    def _has(self, kind: str) -> bool:
        return any(fault["kind"] == kind for fault in self.s["faults"])

    def _write(self) -> None:
        spare = self._book.with_suffix(".part")
        spare.write_text(json.dumps(self.s))
        os.replace(spare, self._book)
