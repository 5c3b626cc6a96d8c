"""Two screens on one plan: nothing is lost, and what cannot both be is shown."""

from threading import Barrier, Thread

from django.db import connection

from service.plans.models import Plan, PlanVersion, Presence
from tests.service.base import signed_in
from tests.service.planned import JSON, Planned
from tests.service.test_people import member


class Together(Planned):
    def setUp(self):
        super().setUp()
        self.number = self.plan()
        self.other = member(self.workshop, "planner", "dunlin")

    def change_on(self, client, desk, base, status=200, **body):
        answer = client.patch(
            f"/api/plans/{self.number}",
            {"base": base, **body},
            content_type=JSON,
            headers={"X-Desk": desk},
        )
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def settings(self):
        return Plan.objects.get(pk=self.number).latest.settings

    def test_changes_of_different_settings_are_both_kept(self):
        self.change_on(self.client, "a", 1, settings={"surface": {"layer_height": 0.24}})
        self.change_on(self.other, "b", 1, settings={"body": {"infill_density": 35}})
        self.assertEqual(
            self.settings(),
            {"surface": {"layer_height": 0.24}, "body": {"infill_density": 35}},
        )

    def test_one_that_is_put_back_to_its_default_is_a_change_too(self):
        self.change_on(self.client, "a", 1, settings={"body": {"infill_density": 35}})
        self.change_on(self.other, "b", 2, settings={"body": {"infill_density": 35}, "surface": {}})
        self.change_on(
            self.client,
            "a",
            2,
            settings={"body": {"infill_density": 35}, "surface": {"layer_height": 0.24}},
        )
        self.change_on(self.other, "b", 2, settings={})
        self.assertEqual(self.settings(), {"surface": {"layer_height": 0.24}})

    def test_the_same_setting_is_shown_both_ways_and_nothing_is_kept(self):
        self.change_on(self.client, "a", 1, settings={"surface": {"layer_height": 0.24}})
        wanted = {"surface": {"layer_height": 0.16}, "body": {"infill_density": 35}}
        told = self.change_on(self.other, "b", 1, 409, settings=wanted)["detail"]
        self.assertIn("Maker set Layer height to 0.24 mm, and here it is 0.16 mm", told)
        self.assertEqual(self.settings(), {"surface": {"layer_height": 0.24}})
        self.change_on(self.other, "b", 1, settings=wanted, mine=True)
        self.assertEqual(self.settings(), wanted)

    def test_the_same_value_is_no_clash_and_neither_is_what_one_did_oneself(self):
        self.change_on(self.client, "a", 1, settings={"surface": {"layer_height": 0.24}})
        self.change_on(self.other, "b", 1, settings={"surface": {"layer_height": 0.24}})
        # typed on before the answer came: still begun on version 1
        self.change_on(self.client, "a", 1, settings={"surface": {"layer_height": 0.2}})
        self.change_on(self.client, "a", 1, settings={"surface": {"layer_height": 0.28}})
        self.assertEqual(self.settings(), {"surface": {"layer_height": 0.28}})

    def test_what_was_begun_on_a_version_that_is_gone_asks_first(self):
        self.change_on(self.client, "a", 1, settings={"surface": {"layer_height": 0.24}})
        self.change_on(self.client, "a", 2, settings={"surface": {"layer_height": 0.28}})
        PlanVersion.objects.filter(number=1).delete()
        late = {"body": {"infill_density": 35}}
        told = self.change_on(self.other, "b", 1, 409, settings=late)["detail"]
        self.assertIn("begun on a version that is gone", told)
        self.change_on(self.other, "b", 1, settings=late, mine=True)
        self.assertEqual(self.settings(), late)

    def test_an_undone_change_says_who_undid_it(self):
        self.change_on(self.client, "a", 1, settings={"surface": {"layer_height": 0.24}})
        self.other.post(f"/api/plans/{self.number}/undo", headers={"X-Desk": "b"})
        wanted = {"surface": {"layer_height": 0.3}}
        told = self.change_on(self.client, "a", 2, 409, settings=wanted)["detail"]
        self.assertIn("Dunlin set Layer height to its default", told)

    def test_a_nozzle_and_a_setting_come_together(self):
        wide = self.workshop.machines.get().nozzles.last()
        self.change_on(self.client, "a", 1, nozzle=wide.pk, settings={})
        self.change_on(self.other, "b", 1, settings={"body": {"infill_density": 35}})
        latest = Plan.objects.get(pk=self.number).latest
        self.assertEqual((latest.nozzle, latest.by), (wide, "Dunlin"))
        self.assertEqual(latest.settings["body"]["infill_density"], 35)

    def test_changes_that_come_at_the_same_moment(self):
        begin = Barrier(4)
        wanted = [
            {"body": {"infill_density": 35}},
            {"surface": {"layer_height": 0.24}},
            {"pace": {"travel_speed": 111}},
            {"place": {"scale_x": 1.1}},
        ]

        def one(number):
            client = signed_in()
            begin.wait()
            try:
                self.change_on(client, f"desk {number}", 1, settings=wanted[number])
            finally:
                connection.close()

        threads = [Thread(target=one, args=(k,)) for k in range(len(wanted))]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        both = {group: values for change in wanted for group, values in change.items()}
        self.assertEqual(self.settings(), both)

    def test_a_plan_that_another_removes_at_this_moment_is_said_to_be_gone(self):
        # its versions go first, and who asks then has found the plan itself
        PlanVersion.objects.filter(plan=self.number).delete()
        plan = f"/api/plans/{self.number}"
        for answer in (
            self.client.get(f"{plan}/progress"),
            self.client.post(f"{plan}/frontier", {"measure": "p95"}, content_type=JSON),
        ):
            self.assertEqual(answer.status_code, 422, answer.content)
            self.assertIn("is gone: it was removed just now", answer.json()["detail"])

    def test_who_else_is_here_is_seen_until_they_are_gone(self):
        path = f"/api/plans/{self.number}/others"

        def look(client, desk):
            return client.post(path, headers={"X-Desk": desk}).json()

        self.assertEqual(look(self.client, "a"), {"number": 1, "others": []})
        self.assertEqual(look(self.other, "b")["others"], ["Maker"])
        self.assertEqual(look(self.client, "a")["others"], ["Dunlin"])
        Presence.objects.filter(desk="b").update(seen="2020-01-01T00:00Z")
        self.assertEqual(look(self.client, "a")["others"], [])
