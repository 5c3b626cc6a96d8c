"""The machine's HTTP interface, on loopback only: files, start, pause, cancel, state, and the
faults that can be set.
"""

from __future__ import annotations

import json
import re
import threading
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

from standin.printer import Printer, Refused

#: Largest file taken, in bytes.
LARGEST = 600_000_000
#: What only its owner may tell a printer; the rest are the knobs of the simulation.
ORDERS = {"/start", "/pause", "/resume", "/cancel", "/give-up", "/clear"}
_RUN = re.compile(r"[0-9a-f]{32}")


class Server(ThreadingHTTPServer):
    """Serves one machine and moves it on in between, so that what happens without questions is
    written down too.
    """

    daemon_threads = True
    request_queue_size = 64

    def __init__(self, port: int, printer: Printer) -> None:
        self.printer = printer
        super().__init__(("127.0.0.1", port), Handler)
        threading.Thread(target=self._run, daemon=True).start()

    def _run(self) -> None:
        pause = threading.Event()
        while not pause.wait(0.02):
            self.printer.advance()


def _word(said: Any) -> str | None:
    """A name as the machine keeps it, in the letters that a file has."""
    if not said:
        return None
    return " ".join(str(said)[:200].encode("ascii", "replace").decode().split())


class Handler(BaseHTTPRequestHandler):
    server: Server
    protocol_version = "HTTP/1.1"

    def log_message(self, format: str, *args: Any) -> None:
        """Quiet: what matters is in the state."""

    def do_GET(self) -> None:
        self._answer(
            lambda printer, body: (
                printer.state() if self.path == "/state" else printer.ended(self._run_of("/runs/"))
            )
        )

    def do_PUT(self) -> None:
        def act(printer: Printer, body: bytes) -> dict[str, Any]:
            printer.obey(self.headers.get("X-Key", ""))
            return printer.take(self._run_of("/files/"), body, self.headers.get("X-Checksum", ""))

        self._answer(act)

    def do_DELETE(self) -> None:
        self._answer(
            lambda printer, body: (
                printer.clear_faults() if self.path == "/faults" else self._nothing()
            )
        )

    def do_POST(self) -> None:
        def act(printer: Printer, body: bytes) -> dict[str, Any]:
            try:
                if self.path in ORDERS:
                    printer.obey(self.headers.get("X-Key", ""))
                said = json.loads(body or b"{}")
                run = str(said.get("run", ""))
                orders: dict[str, Callable[[], dict[str, Any]]] = {
                    "/start": lambda: printer.start(run, str(said.get("name", ""))),
                    "/pause": lambda: printer.pause(run),
                    "/resume": lambda: printer.resume(run),
                    "/cancel": lambda: printer.cancel(run),
                    "/give-up": lambda: printer.give_up(run, int(said["thing"])),
                    "/clear": printer.clear,
                    "/spool": lambda: printer.set_spool(
                        None if said.get("mm") is None else max(float(said["mm"]), 0.0),
                        _word(said.get("material")),
                    ),
                    "/factor": lambda: printer.set_factor(
                        min(max(float(said["factor"]), 0.0), 1e7)
                    ),
                    "/faults": lambda: printer.set_fault(said),
                }
                order: Callable[[], dict[str, Any]] = orders.get(self.path, self._nothing)
                return order()
            except (ValueError, KeyError, TypeError, AttributeError) as error:
                raise Refused(422, f"not understood: {error}") from error

        self._answer(act)

    def _nothing(self) -> Any:
        raise Refused(404, "there is no such address")

    def _run_of(self, before: str) -> str:
        run = self.path.removeprefix(before)
        if not self.path.startswith(before) or not _RUN.fullmatch(run):
            self._nothing()
        return run

    def _answer(self, act: Any) -> None:
        if self.server.printer.silent:
            self.close_connection = True
            return
        try:
            size = int(self.headers.get("Content-Length") or 0)
            if size > LARGEST:
                raise Refused(413, "the file is too large")
            status, found = 200, act(self.server.printer, self.rfile.read(size))
        except Refused as refused:
            status, found = refused.status, {"detail": str(refused)}
        data = json.dumps(found).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)
