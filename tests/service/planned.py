"""Plans made and changed over the API, each computed before the test goes on."""

from tests.core.shapes import cube, stl
from tests.service.base import plan_body, work
from tests.service.test_api import JSON, Api


class Planned(Api):
    def plan(self, data=None, **body):
        part = self.make_part(stl(cube(8)) if data is None else data)
        answer = self.client.post(
            "/api/plans", {**plan_body(part, self.workshop), **body}, content_type=JSON
        )
        self.assertEqual(answer.status_code, 201, answer.content)
        work()
        return answer.json()["id"]

    def change(self, plan, **settings):
        answer = self.client.patch(f"/api/plans/{plan}", {"settings": settings}, content_type=JSON)
        self.assertEqual(answer.status_code, 200, answer.content)
        work()
        return self.client.get(f"/api/plans/{plan}").json()

    def commit(self, plan):
        version = self.client.get(f"/api/plans/{plan}").json()["latest"]["id"]
        checks = self.client.get(f"/api/versions/{version}/review").json()["checks"]
        ticked = [check["key"] for check in checks]
        return self.client.post(
            "/api/jobs", {"version": version, "ticked": ticked}, content_type=JSON
        ).json()[0]
