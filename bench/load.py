"""People who change settings at the same time: how long each waits for the quick figures.

    python -m bench.load --address http://127.0.0.1:8000 --people 30 --seconds 60

against a running `./start` with the sample workshop.
"""

from __future__ import annotations

import argparse
import json
import random
import threading
import time
import urllib.error
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

import numpy as np

#: What a person thinks between two changes, on average (s).
THINKS = 2.0


class Person:
    """Somebody at a browser."""

    def __init__(self, address: str, name: str, password: str) -> None:
        self.address, self.jar = address.rstrip("/"), CookieJar()
        self._open = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar)).open
        self.ask("GET", "/api/session")
        self.ask("POST", "/api/session", {"username": name, "password": password})

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        """The answer to a request; raises `urllib.error.HTTPError`."""
        token = next((cookie.value for cookie in self.jar if cookie.name == "csrftoken"), "") or ""
        request = urllib.request.Request(
            self.address + path,
            data=None if body is None else json.dumps(body).encode(),
            method=method,
            headers={
                "Content-Type": "application/json",
                "X-CSRFToken": token,
                "Referer": self.address + "/",
            },
        )
        with self._open(request, timeout=120) as answer:
            return json.loads(answer.read() or b"null")


def plans_of(person: Person) -> list[int]:
    """A computed plan of every part."""
    nozzle = person.ask("GET", "/api/machines")[0]["nozzles"][0]["id"]
    material = person.ask("GET", "/api/materials")[0]["id"]
    found = []
    for part in person.ask("GET", "/api/parts"):
        if part["state"] != "ready":
            continue
        body = {"part": part["id"], "nozzle": nozzle, "material": material}
        found.append((part["plans"] or [person.ask("POST", "/api/plans", body)["id"]])[0])
    for plan in found:
        while person.ask("GET", f"/api/plans/{plan}/progress")["state"] in ("queued", "computing"):
            time.sleep(0.5)
    return found


def memory(word: str) -> float:
    """Megabytes of the first process whose command has a word."""
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            if word in (folder / "cmdline").read_text():
                lines = (folder / "status").read_text().splitlines()
                return next(int(one.split()[1]) for one in lines if one.startswith("VmRSS")) / 1024
        except (OSError, StopIteration):
            continue
    return 0.0


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m bench.load", description=__doc__)
    parser.add_argument("--address", default="http://127.0.0.1:8000")
    parser.add_argument("--name", default="tern")
    parser.add_argument("--password", default="tern-point")
    parser.add_argument("--people", type=int, default=30)
    parser.add_argument("--seconds", type=float, default=60)
    options = parser.parse_args()
    person = Person(options.address, options.name, options.password)
    plans = plans_of(person)
    waits: list[float] = []
    errors: list[str] = []
    end = time.monotonic() + options.seconds

    def change(number: int) -> None:
        chance = random.Random(number)
        while True:
            time.sleep(chance.expovariate(1 / THINKS))
            if time.monotonic() > end:
                return
            height = round(chance.uniform(0.12, 0.3), 2)
            body = {"settings": {"surface": {"layer_height": height}}}
            begun = time.monotonic()
            try:
                person.ask("POST", f"/api/plans/{chance.choice(plans)}/quick", body)
            except urllib.error.HTTPError as error:
                errors.append(f"{error.code} {error.read()[:200]!r}")
            waits.append(time.monotonic() - begun)

    threads = [threading.Thread(target=change, args=(k,)) for k in range(options.people)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    half, most = np.percentile(waits, [50, 90])
    print(
        f"{options.people} people, {len(plans)} plans, {len(waits)} changes in "
        f"{options.seconds:.0f} s: half within {half:.2f} s, 90 % within {most:.2f} s, longest "
        f"{max(waits):.2f} s, {len(errors)} errors; web {memory('uvicorn'):.0f} MB"
    )
    for error in sorted(set(errors))[:5]:
        print(error)


if __name__ == "__main__":
    main()
