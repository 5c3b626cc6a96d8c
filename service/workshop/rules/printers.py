"""How jobs get to machines: one small interface, spoken over HTTP to a printer, or as files in a
folder for a removable drive.
"""

from __future__ import annotations

import contextlib
import hashlib
import http.client
import json
import os
import socket
import threading
from pathlib import Path
from typing import Annotated, Any, Literal, Protocol
from urllib.parse import urlsplit

from pydantic import Field, TypeAdapter, ValidationError
from pydantic.dataclasses import dataclass

from northpace.errors import InputError
from service.workshop.models import Machine
from service.workshop.rules.reach import allowed, check_address, check_folder, key_of

#: Kinds of connection.
CONNECTIONS = ("none", "printer", "folder")
#: Seconds a printer may take to answer whole, and to take a file; bytes it may answer with.
ANSWER, TAKE, MOST = 4.0, 120.0, 1_000_000

Figure = Annotated[float, Field(allow_inf_nan=False)]
Word = Annotated[str, Field(max_length=300)]


class NoContact(Exception):
    """The printer does not answer: what it does is not known."""


class Declined(Exception):
    """The printer answers and refuses, with its reason."""


@dataclass(frozen=True)
class State:
    """What a printer says."""

    #: idle, heating, printing, paused, done, failed or cancelled
    phase: Literal["idle", "heating", "printing", "paused", "done", "failed", "cancelled"]
    #: run and file name on it
    run: Word = ""
    name: Word = ""
    #: why it is in that phase
    reason: Word = ""
    #: seconds into the run, and left
    seconds: Figure = 0.0
    left_s: Figure = 0.0
    #: layer it is at, and how many there are
    layer: int = 0
    layers: int = 0
    #: filament extruded in mm
    extruded_mm: Figure = 0.0
    #: temperatures in °C
    nozzle: Figure = 0.0
    bed: Figure = 0.0
    #: how many times faster than real it runs
    factor: Figure = 1.0

    @classmethod
    def of(cls, said: dict[str, Any]) -> State:
        """What a printer said; raises `NoContact` for what no printer says."""
        try:
            return SAID.validate_python(said)
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(part) for part in first["loc"]) or "its state"
            raise NoContact(f"the printer answers nonsense: {where}: {first['msg']}") from error


SAID = TypeAdapter(State)


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

    def give_up(self, run: str, placing: int) -> State:
        """Leave out what is not laid yet of one placing, from 1; the rest goes on."""

    def reload(self, mm: float, material: str) -> None:
        """Another spool hangs on the machine, with so much filament of a material."""


class HttpPrinter:
    """A printer on the network."""

    tells = True

    def __init__(self, address: str, key: str) -> None:
        self.address, self._key = address.rstrip("/"), key

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

    def give_up(self, run: str, placing: int) -> State:
        body = json.dumps({"run": run, "thing": placing - 1}).encode()  # labels count from 0
        return State.of(self._ask("POST", "/give-up", body))

    def reload(self, mm: float, material: str) -> None:
        self._ask("POST", "/spool", json.dumps({"mm": mm, "material": material}).encode())

    def _ask(
        self,
        method: str,
        path: str,
        body: bytes | None = None,
        headers: dict[str, str] | None = None,
        patience: float | None = None,
    ) -> dict[str, Any]:
        parts, patience = urlsplit(self.address), patience or ANSWER
        kind = (
            http.client.HTTPSConnection if parts.scheme == "https" else http.client.HTTPConnection
        )
        connection = kind(parts.hostname or "", parts.port, timeout=patience)
        # a printer that answers byte by byte is cut off as one that does not answer at all
        cut = threading.Timer(patience, _cut_off, (connection,))
        cut.daemon = True
        try:
            connection.connect()
            # a name may lead somewhere else than when it was typed
            if not allowed(str(connection.sock.getpeername()[0])):
                raise NoContact(f"{self.address} is not where a printer may be")
            cut.start()
            connection.request(
                method,
                parts.path.rstrip("/") + path,
                body,
                {"Content-Type": "application/json", "X-Key": self._key, **(headers or {})},
            )
            answer = connection.getresponse()
            data, status = answer.read(MOST + 1), answer.status
        except (OSError, ValueError, http.client.HTTPException) as error:
            raise NoContact(f"{self.address} does not answer") from error
        finally:
            cut.cancel()
            connection.close()
        if len(data) > MOST:
            raise NoContact(f"{self.address} answers with more than {MOST / 1e6:.0f} MB")
        try:
            found = json.loads(data)
        except ValueError:
            found = None
        if status >= 300:
            detail = found.get("detail") if isinstance(found, dict) else None
            raise Declined(str(detail)[:300] if detail else f"the printer answered {status}")
        if not isinstance(found, dict):
            raise NoContact(f"{self.address} answers something else than a printer does")
        return found


def _cut_off(connection: http.client.HTTPConnection) -> None:
    with contextlib.suppress(OSError, AttributeError):
        connection.sock.shutdown(socket.SHUT_RDWR)


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

    def give_up(self, run: str, placing: int) -> State:
        return self.order("give up", run)

    def reload(self, mm: float, material: str) -> None:
        """Nothing to be told."""


def printer_of(machine: Machine) -> Printer | None:
    """The way to a machine; None where files are carried by hand."""
    kind = machine.connection.get("kind")
    if kind == "printer":
        return HttpPrinter(machine.connection["address"], key_of(machine))
    return FolderPrinter(machine.connection["folder"]) if kind == "folder" else None


def check_connection(connection: dict[str, Any]) -> dict[str, Any]:
    """A connection as it is kept; raises `InputError` for one that leads nowhere."""
    kind = connection.get("kind", "none")
    if kind == "none":
        return {}
    if kind == "printer":
        return {"kind": kind, "address": check_address(str(connection.get("address", "")))}
    if kind == "folder":
        return {"kind": kind, "folder": check_folder(str(connection.get("folder", "")))}
    raise InputError(
        "a machine is reached as 'printer' with an address, as 'folder', or not at all ('none')",
        "connection",
    )
