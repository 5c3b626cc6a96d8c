"""Somebody who works on while the house falls and comes back."""

import itertools
import json
import threading
import time
import urllib.error
import urllib.request
import uuid
from http.cookiejar import CookieJar

from tests.core.shapes import cube, stl

#: What tells that the service is away: this is asked again, everything else is an answer.
AWAY = (502, 503, 504)


class Person(threading.Thread):
    """Takes parts in, plans them, changes the plans and commits them, one after the other, until
    told to stop. What it does again is what got no answer; what got one is noted.
    """

    def __init__(self, address, name, password, stop):
        super().__init__(daemon=True)
        self.address, self.jar, self.stop = address, CookieJar(), stop
        self._open = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar)).open
        #: Parts, plans with the height they were given last, and jobs by the key of their press.
        self.parts, self.plans, self.jobs = [], {}, {}
        self.done, self.wrong = 0, None
        self.ask("GET", "/api/session")
        self.ask("POST", "/api/session", {"username": name, "password": password})
        self.machine = self.ask("GET", "/api/machines")[0]
        (self.material,) = self.ask("GET", "/api/materials")
        self.spool = self.material["spools"][0]["id"]

    def ask(self, method, path, body=None, kind="application/json"):
        """The answer, however long the service is away."""
        data = body if kind != "application/json" or body is None else json.dumps(body).encode()
        for pause in itertools.chain((0.1, 0.2), itertools.repeat(0.4)):
            token = next((one.value for one in self.jar if one.name == "csrftoken"), "")
            headers = {"Content-Type": kind, "X-CSRFToken": token, "Referer": self.address + "/"}
            request = urllib.request.Request(self.address + path, data, headers, method=method)
            try:
                with self._open(request, timeout=60) as answer:
                    return json.loads(answer.read() or b"null")
            except urllib.error.HTTPError as error:
                if error.code not in AWAY:
                    raise AssertionError(
                        f"{method} {path}: {error.code} {error.read()[:500]}"
                    ) from error
            except (OSError, ValueError):  # no answer, or half of one
                pass
            time.sleep(pause)
        raise AssertionError("it never gives up")

    def take_in(self, number):
        edge = uuid.uuid4().hex
        data = stl(cube(5 + number % 40 / 20))
        words = (
            f'--{edge}\r\nContent-Disposition: form-data; name="file"; '
            f'filename="cube-{number}.stl"\r\n\r\n'
        )
        whole = words.encode() + data + f"\r\n--{edge}--\r\n".encode()
        kind = f"multipart/form-data; boundary={edge}"
        return self.ask("POST", "/api/parts", whole, kind)["id"]

    def wait(self, path, *states):
        """Ask until it is in one of the states; raises where it is in none and rests."""
        while True:
            found = self.ask("GET", path)
            if found["state"] in states:
                return found
            if found["state"] in ("failed", "cancelled", "refused"):
                raise AssertionError(f"{path}: {found}")
            time.sleep(0.2)

    def commit(self, plan):
        version = self.ask("GET", f"/api/plans/{plan}")["latest"]["id"]
        review = self.ask("GET", f"/api/versions/{version}/review")
        body = {
            "version": version,
            "ticked": [check["key"] for check in review["checks"]],
            "key": uuid.uuid4().hex,
        }
        (job,) = self.ask("POST", "/api/jobs", body)
        self.jobs[body["key"]] = (body, job["id"])

    def run(self):
        try:
            for number in itertools.count():
                if self.stop.is_set():
                    return
                self._one(number)
                self.done += 1
        except BaseException as error:  # said by who waits for it
            self.wrong = error
            raise

    def _one(self, number):
        part = self.take_in(number)
        self.parts.append(part)
        self.wait(f"/api/parts/{part}", "ready")
        body = {"part": part, "nozzle": self.machine["nozzles"][0]["id"]}
        body |= {"material": self.material["id"], "spool": self.spool}
        plan = self.ask("POST", "/api/plans", body)["id"]
        self.plans[plan] = None
        self.wait(f"/api/plans/{plan}/progress", "done")
        height = round(0.16 + number % 12 / 100, 2)
        self.ask("PATCH", f"/api/plans/{plan}", {"settings": {"surface": {"layer_height": height}}})
        self.plans[plan] = height
        self.wait(f"/api/plans/{plan}/progress", "done")
        self.commit(plan)
