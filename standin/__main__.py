"""``python -m standin --port N --folder DIR …``: one simulated machine as a process of its own."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from standin.limits import Limits
from standin.printer import Printer
from standin.server import Server


def main() -> None:
    parser = argparse.ArgumentParser(
        prog="python -m standin", description="A simulated printer on loopback."
    )
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument(
        "--folder", type=Path, required=True, help="where it keeps its files and what it did"
    )
    parser.add_argument("--name", default="machine")
    parser.add_argument(
        "--limits",
        default="{}",
        help="what the machine states, as JSON with the names of standin.limits",
    )
    parser.add_argument("--factor", type=float, default=1.0, help="simulated seconds in a real one")
    parser.add_argument(
        "--reach", type=float, default=1.0, help="share of its stated accelerations it really has"
    )
    parser.add_argument(
        "--layer-extra", type=float, default=0.0, help="seconds a layer takes beside its moves"
    )
    parser.add_argument(
        "--storage", type=int, default=2_000_000_000, help="bytes of files it can keep"
    )
    parser.add_argument(
        "--release", action="store_true", help="forget whom it belongs to, and obey the next one"
    )
    options = parser.parse_args()
    if options.release:
        (options.folder / "owner").unlink(missing_ok=True)
    printer = Printer(
        options.folder,
        Limits(**json.loads(options.limits)),
        options.name,
        options.factor,
        options.reach,
        options.layer_extra,
        options.storage,
    )
    server = Server(options.port, printer)
    print(f"{options.name} listens on port {server.server_port}", flush=True)
    server.serve_forever()


if __name__ == "__main__":
    main()
