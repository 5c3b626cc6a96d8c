"""Ways up over the API: looked for in the queue, put in order by weights, one of them taken."""

import json

from service.plans.models import WaySearch
from service.plans.rules import sweeping
from tests.core.shapes import stl
from tests.service.base import make_workshop, signed_in, work
from tests.service.planned import JSON, Planned
from tests.ways.shapes import HOLE


class Ways(Planned):
    def setUp(self):
        super().setUp()
        self.plan_id = self.plan(stl(HOLE))
        self.path = f"/api/plans/{self.plan_id}/ways"

    def find(self, status=201, **body):
        answer = self.client.post(self.path, body, content_type=JSON)
        self.assertEqual(answer.status_code, status, answer.content)
        work()
        return answer.json()

    def found(self, **query):
        answer = self.client.get(self.path, query)
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()[0] if answer.json() else None

    def test_they_come_in_and_the_best_is_taken(self):
        self.assertIsNone(self.found())
        self.find()
        found = self.found()
        self.assertEqual((found["state"], found["stale"]), ("done", False))
        self.assertEqual(len(found["ways"]), found["of"])
        now = next(way for way in found["ways"] if way["way"] == 0)
        self.assertEqual((now["kind"], now["differs"]["time_s"]), ("now", 0))
        drawn = self.client.get(now["picture"])
        self.assertEqual(drawn["Content-Type"], "image/svg+xml")
        self.assertIn(b'class="hatched"', drawn.content)
        self.assertEqual(self.client.get(now["picture"].replace("/0.", "/99.")).status_code, 404)
        best = found["ways"][0]
        self.assertEqual(best["scar_mm2"], 0)
        self.assertAlmostEqual(abs(best["down"][1]), 1)
        # asked again, the answer is there; changed, it is another question
        self.assertEqual(self.find()["id"], found["id"])
        place = {key.split(".")[1]: value for key, value in best["change"].items()}
        changed = self.change(self.plan_id, place=place)
        self.assertEqual(changed["latest"]["state"], "done")
        self.assertTrue(self.found()["stale"])
        self.assertNotEqual(self.find()["id"], found["id"])
        again = self.found()["ways"][0]
        self.assertEqual(again["way"], 0)

    def test_weights_and_seen_faces(self):
        mark = {"x": 10, "y": 10, "z": 15, "attention": "seen", "spread": 40}
        self.change(self.plan_id, surface={"marks": [mark]})
        self.find()
        plain, quick = self.found(), self.found(time=10, scars=0, surface=0)
        # how far behind the last way is depends on what counts
        self.assertNotEqual(*(round(one["ways"][-9]["score"], 2) for one in (plain, quick)))
        clear = self.found(keep_seen="true")
        self.assertGreater(clear["left_out"], 0)
        self.assertTrue(all(way["scar_seen_mm2"] <= 0.5 for way in clear["ways"]))
        for query in (
            {"time": "much"},
            {"time": -1},
            {"time": 0, "scars": 0, "surface": 0, "strength": 0},
        ):
            self.assertEqual(self.client.get(self.path, query).status_code, 422)

    def test_a_load_is_counted(self):
        self.find(422, pull=[0, 0, 0])
        self.find(pull=[0, 0, 1])
        self.assertEqual(self.found()["pull"], [0, 0, 1])
        lying = self.found(time=0, scars=0, surface=0, strength=5)["ways"][0]
        self.assertLess(lying["load_deg"], 1)

    def test_it_is_stopped_and_nothing_waits_for_ever(self):
        answer = self.client.post(self.path, {}, content_type=JSON)
        self.assertEqual(answer.json()["state"], "queued")
        self.assertEqual(self.client.delete(self.path).status_code, 204)
        work()
        search = WaySearch.objects.get()
        self.assertEqual((search.state, search.ways), ("cancelled", []))
        search.state = "computing"
        search.save()
        self.assertEqual(sweeping.put_right(), 1)
        work()
        self.assertEqual(self.found()["state"], "done")

    def test_of_another_workshop_nothing_is_seen(self):
        make_workshop("Elsewhere", "other")
        other = signed_in("other")
        self.assertEqual(other.get(self.path).status_code, 404)
        self.assertEqual(other.post(self.path, json.dumps({}), content_type=JSON).status_code, 404)
        self.find()
        picture = self.found()["ways"][0]["picture"]
        self.assertEqual(other.get(picture).status_code, 404)
