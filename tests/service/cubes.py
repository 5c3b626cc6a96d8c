"""A workshop with one exact plan of a cube, asked over the API."""

import json

from tests.service.base import Quiet, make_workshop, plan_body, signed_in, upload, work


class Cubes(Quiet):
    def setUp(self):
        self.workshop = make_workshop()
        self.client = signed_in()
        self.part = upload(self.client).json()["id"]
        work()
        body = {
            **plan_body(self.part, self.workshop),
            "settings": {"body": {"infill_density": 0, "walls": 1}},
        }
        self.plan = self.send("POST", "/api/plans", body, 201)["id"]
        work()

    def send(self, method, path, body=None, status=200):
        answer = self.client.generic(
            method, path, "" if body is None else json.dumps(body), "application/json"
        )
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer.json() if answer.content else None
