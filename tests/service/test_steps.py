"""Undo and doing again through the kept versions, and progress while a plan is computed."""

from __future__ import annotations

from tests.service.base import Quiet, make_workshop, plan_body, signed_in, upload, work


class Steps(Quiet):
    def setUp(self):
        self.workshop = make_workshop()
        self.client = signed_in()
        part = upload(self.client).json()["id"]
        work()
        self.plan = self.send("post", "", plan_body(part, self.workshop))["id"]

    def send(self, method, rest, body=None):
        address = f"/api/plans{rest}"
        answer = getattr(self.client, method)(address, body, content_type="application/json")
        self.assertLess(answer.status_code, 300, answer.content)
        return answer.json()

    def change(self, walls):
        return self.send("patch", f"/{self.plan}", {"settings": {"body": {"walls": walls}}})

    def step(self, way):
        return self.send("post", f"/{self.plan}/{way}")

    def walls(self, plan):
        return plan["latest"]["settings"].get("body", {}).get("walls")

    def test_steps_survive_a_reload_and_another_machine(self):
        first = self.send("get", f"/{self.plan}")
        self.assertFalse(first["can_undo"] or first["can_redo"])
        start = self.walls(first)
        for walls in (2, 4, 5):
            self.change(walls)
        self.client = signed_in()  # another browser knows nothing of the first one
        self.assertTrue(self.send("get", f"/{self.plan}")["can_undo"])
        self.assertEqual([self.walls(self.step("undo")) for _ in range(3)], [4, 2, start])
        last = self.send("get", f"/{self.plan}")
        self.assertEqual((last["can_undo"], last["can_redo"]), (False, True))
        self.assertEqual([self.walls(self.step("redo")) for _ in range(3)], [2, 4, 5])
        self.assertFalse(self.send("get", f"/{self.plan}")["can_redo"])

    def test_a_change_after_undoing_leaves_nothing_to_do_again(self):
        for walls in (2, 4):
            self.change(walls)
        self.step("undo")
        changed = self.change(6)
        self.assertFalse(changed["can_redo"])
        self.assertEqual(self.walls(self.step("undo")), 2)

    def test_computing_again_is_no_step(self):
        start = self.walls(self.send("get", f"/{self.plan}"))
        self.change(2)
        work()
        self.change(2)
        self.assertEqual(self.walls(self.step("undo")), start)

    def test_nothing_to_undo_is_said(self):
        answer = self.client.post(f"/api/plans/{self.plan}/undo")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("nothing to undo", answer.json()["detail"])

    def test_progress_is_small_and_says_when_it_is_over(self):
        address = f"/api/plans/{self.plan}/progress"
        before = self.client.get(address)
        self.assertEqual(before.json()["state"], "queued")
        self.assertLess(len(before.content), 300)
        work()
        self.assertEqual(self.client.get(address).json()["state"], "done")
