"""How jobs get to machines: one small interface, spoken over HTTP to a printer, or as files in a
folder for a removable drive.
"""

from __future__ import annotations

import hashlib
import json
import os
import urllib.error
import urllib.request
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol
from urllib.parse import urlsplit

from northpace.errors import InputError
from service.workshop.models import Machine

#: Kinds of connection.
CONNECTIONS = ("none", "printer", "folder")
#: Seconds a printer may take to answer, and to take a file.
ANSWER, TAKE = 4.0, 120.0


class NoContact(Exception):
    """The printer does not answer: what it does is not known."""


class Declined(Exception):
    """The printer answers and refuses, with its reason."""


@dataclass(frozen=True)
class State:
    """What a printer says."""

    #: idle, heating, printing, paused, done, failed or cancelled
    phase: str
    #: run and file name on it
    run: str = ""
    name: str = ""
    #: why it is in that phase
    reason: str = ""
    #: seconds into the run, and left
    seconds: float = 0.0
    left_s: float = 0.0
    #: layer it is at, and how many there are
    layer: int = 0
    layers: int = 0
    #: filament extruded in mm
    extruded_mm: float = 0.0
    #: temperatures in °C
    nozzle: float = 0.0
    bed: float = 0.0
    #: how many times faster than real it runs
    factor: float = 1.0

    @classmethod
    def of(cls, said: dict[str, Any]) -> State:
        return cls(**{name: said[name] for name in cls.__dataclass_fields__ if name in said})


class Printer(Protocol):
    """What the service asks of a machine. A run is begun at most once, however often it is asked
    for.
    """

    #: Whether the machine says what it does; otherwise a person does.
    tells: bool

    def state(self) -> State: ...
    def ended(self, run: str) -> State | None:
        """What became of a run that has ended; None when the printer knows nothing of it."""

    def take(self, run: str, name: str, data: bytes) -> None: ...
    def start(self, run: str, name: str) -> State: ...
    def order(self, what: str, run: str) -> State:
        """``pause``, ``resume``, ``cancel`` a run, or ``clear`` the bed."""

    def reload(self, mm: float) -> None:
        """Another spool hangs on the machine, with so much filament."""


class HttpPrinter:
    """A printer on the network."""

    tells = True

    def __init__(self, address: str) -> None:
        self.address = address.rstrip("/")

    def state(self) -> State:
        return State.of(self._ask("GET", "/state"))

    def ended(self, run: str) -> State | None:
        try:
            return State.of(self._ask("GET", f"/runs/{run}"))
        except Declined:
            return None

    def take(self, run: str, name: str, data: bytes) -> None:
        self._ask(
            "PUT", f"/files/{run}", data, {"X-Checksum": hashlib.sha256(data).hexdigest()}, TAKE
        )

    def start(self, run: str, name: str) -> State:
        return State.of(
            self._ask("POST", "/start", json.dumps({"run": run, "name": name}).encode())
        )

    def order(self, what: str, run: str) -> State:
        return State.of(self._ask("POST", f"/{what}", json.dumps({"run": run}).encode()))

    def reload(self, mm: float) -> None:
        self._ask("POST", "/spool", json.dumps({"mm": mm}).encode())

    def _ask(
        self,
        method: str,
        path: str,
        body: bytes | None = None,
        headers: dict[str, str] | None = None,
        patience: float = ANSWER,
    ) -> dict[str, Any]:
        request = urllib.request.Request(
            self.address + path,
            body,
            {"Content-Type": "application/json", **(headers or {})},
            method=method,
        )
        try:
            with urllib.request.urlopen(request, timeout=patience) as answer:
                found = json.loads(answer.read())
        except urllib.error.HTTPError as error:
            try:
                detail = json.loads(error.read()).get("detail", "")
            except (ValueError, AttributeError, OSError):
                detail = ""
            raise Declined(detail or f"the printer answered {error.code}") from error
        except (OSError, ValueError) as error:
            raise NoContact(f"{self.address} does not answer") from error
        if not isinstance(found, dict):
            raise NoContact(f"{self.address} answers something else than a printer does")
        return found


class FolderPrinter:
    """A folder, such as a removable drive: files are written there, and a person says when they are
    printed.
    """

    tells = False

    def __init__(self, folder: str) -> None:
        self.folder = Path(folder)

    def state(self) -> State:
        if not self.folder.is_dir():
            raise NoContact(f"the folder {self.folder} is not there")
        return State("idle")

    def ended(self, run: str) -> State | None:
        return None

    def take(self, run: str, name: str, data: bytes) -> None:
        """Whole or not at all: written beside, then renamed."""
        try:
            spare = self.folder / f".{run}.part"
            spare.write_bytes(data)
            os.replace(spare, self.folder / Path(name).name)
        except OSError as error:
            raise NoContact(
                f"{name} cannot be written to {self.folder}: {error.strerror}"
            ) from error

    def start(self, run: str, name: str) -> State:
        return self.state()

    def order(self, what: str, run: str) -> State:
        raise Declined(
            "what this machine does is said by a person; the file is carried to it by hand"
        )

    def reload(self, mm: float) -> None:
        """Nothing to be told."""


def printer_of(machine: Machine) -> Printer | None:
    """The way to a machine; None where files are carried by hand."""
    kind = machine.connection.get("kind")
    if kind == "printer":
        return HttpPrinter(machine.connection["address"])
    return FolderPrinter(machine.connection["folder"]) if kind == "folder" else None


def check_connection(connection: dict[str, Any]) -> dict[str, Any]:
    """A connection as it is kept; raises `InputError` for one that leads nowhere."""
    kind = connection.get("kind", "none")
    if kind == "none":
        return {}
    if kind == "printer":
        address = str(connection.get("address", ""))
        parts = urlsplit(address)
        if (
            parts.scheme not in ("http", "https")
            or not parts.hostname
            or parts.query
            or parts.fragment
        ):
            raise InputError(
                f"'{address}' is no address of a printer; write http://name:port", "connection"
            )
        return {"kind": "printer", "address": address}
    if kind == "folder":
        folder = str(connection.get("folder", ""))
        if not folder.startswith("/") or not Path(folder).is_dir():
            raise InputError(
                f"'{folder}' is no folder on this machine; give its whole path", "connection"
            )
        return {"kind": "folder", "folder": folder}
    raise InputError(
        "a machine is reached as 'printer' with an address, as 'folder', or not at all ('none')",
        "connection",
    )
