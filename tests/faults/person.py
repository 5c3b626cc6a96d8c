"""Somebody who works on while the house falls and comes back."""

import http.client
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
JSON = "application/json"
#: Seconds after which somebody gives up: nothing here takes that long on the slowest machine.
PATIENCE = 240


class Person(threading.Thread):
    """Takes parts in, plans them, changes the plans and commits them, one after the other, until
    told to stop. What it does again is what got no answer; what got one is noted.
    """

    def __init__(self, address, name, password, stop, **headers):
        super().__init__(daemon=True)
        self.address, self.jar, self.stop, self.headers = address, CookieJar(), stop, headers
        self._open = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar)).open
        #: Parts, plans with the height they were given last, and jobs by the key of their press.
        self.parts, self.plans, self.jobs = [], {}, {}
        self.done, self.wrong = 0, None
        self.ask("GET", "/api/session")
        self.ask("POST", "/api/session", {"username": name, "password": password})
        self.machine = self.ask("GET", "/api/machines")[0]
        (self.material,) = self.ask("GET", "/api/materials")
        self.spool = self.material["spools"][0]["id"]

    def ask(self, method, path, body=None, kind=JSON):
        """The answer, however long the service is away."""
        end = time.monotonic() + PATIENCE
        pauses = itertools.chain((0.1, 0.2), itertools.repeat(0.4))
        while True:
            status, answer = self.once(method, path, body, kind)
            if status and status not in AWAY:
                assert status < 400, f"{method} {path}: {status} {answer}"
                return answer
            assert time.monotonic() < end, f"{method} {path}: away for {PATIENCE} s, {status}"
            time.sleep(next(pauses))

    def once(self, method, path, body=None, kind=JSON):
        """State and body of the answer; state 0 where there was none, or half of one."""
        data = json.dumps(body).encode() if kind == JSON and body is not None else body
        token = next((one.value for one in self.jar if one.name == "csrftoken"), "")
        headers = {"Content-Type": kind, "X-CSRFToken": token, "Referer": self.address + "/"}
        headers |= self.headers
        request = urllib.request.Request(self.address + path, data, headers, method=method)
        try:
            with self._open(request, timeout=60) as answer:
                return answer.status, self._read(answer)
        except urllib.error.HTTPError as error:
            with error:
                return error.code, self._read(error)
        except (OSError, ValueError, http.client.HTTPException):
            return 0, None

    @staticmethod
    def _read(answer):
        data = answer.read()
        is_json = answer.headers.get_content_type() == JSON
        return json.loads(data or b"null") if is_json else data

    @staticmethod
    def upload(number):
        """Body and kind of a request that takes a part in."""
        edge = uuid.uuid4().hex
        words = (
            f'--{edge}\r\nContent-Disposition: form-data; name="file"; '
            f'filename="cube-{number}.stl"\r\n\r\n'
        )
        data = stl(cube(5 + number % 40 / 20))
        whole = words.encode() + data + f"\r\n--{edge}--\r\n".encode()
        return whole, f"multipart/form-data; boundary={edge}"

    def take_in(self, number):
        return self.ask("POST", "/api/parts", *self.upload(number))["id"]

    def plan(self, part):
        body = {"part": part, "nozzle": self.machine["nozzles"][0]["id"]}
        body |= {"material": self.material["id"], "spool": self.spool}
        return self.ask("POST", "/api/plans", body)["id"]

    def wait(self, path, *states):
        """Ask until it is in one of the states; raises where it is in none and rests, or takes too
        long.
        """
        end = time.monotonic() + PATIENCE
        while True:
            found = self.ask("GET", path)
            if found["state"] in states:
                return found
            if found["state"] in ("failed", "cancelled", "refused"):
                raise AssertionError(f"{path}: {found}")
            assert time.monotonic() < end, f"{path}: after {PATIENCE} s still {found}"
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
        plan = self.plan(part)
        self.plans[plan] = None
        self.wait(f"/api/plans/{plan}/progress", "done")
        height = round(0.16 + number % 12 / 100, 2)
        self.ask("PATCH", f"/api/plans/{plan}", {"settings": {"surface": {"layer_height": height}}})
        self.plans[plan] = height
        self.wait(f"/api/plans/{plan}/progress", "done")
        self.commit(plan)
