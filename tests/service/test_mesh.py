"""The mesh of a plan over the API: faults where they stand, choices, bodies, parts made of it."""

import io

import pyarrow as pa

from service.parts.models import Part
from tests.core.shapes import arrays, cube
from tests.intake.shapes import both, moved, open_box, stl_of
from tests.service.base import work
from tests.service.planned import JSON, Planned

TWO = stl_of(both(arrays(cube(10)), moved(open_box(8), 20, 0, 0)))


class Mesh(Planned):
    def setUp(self):
        super().setUp()
        self.plan_id = self.plan(TWO)

    def taken(self):
        answer = self.client.get(f"/api/plans/{self.plan_id}/mesh")
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def post(self, what, body, status):
        answer = self.client.post(f"/api/plans/{self.plan_id}/{what}", body, content_type=JSON)
        self.assertEqual(answer.status_code, status, answer.content)
        work()
        return answer.json()

    def test_faults_are_where_they_stand(self):
        taken = self.taken()
        (fault,) = taken["faults"]
        self.assertEqual((fault["kind"], fault["count"]), ("open", 1))
        # 28 mm wide in the file, so its middle stands in the middle of the bed
        self.assertEqual(fault["places"], [[10, -1, 8]])
        self.assertAlmostEqual(taken["added_mm2"], 64, 3)
        self.assertEqual([body["name"] for body in taken["bodies"]], ["body 1", "body 2"])
        turned = self.change(self.plan_id, place={"turn_z": 90})
        self.assertEqual(turned["latest"]["state"], "done")
        self.assertEqual(self.taken()["faults"][0]["places"], [[1, 10, 8]])

    def test_the_changes_as_a_table(self):
        answer = self.client.get(f"/api/plans/{self.plan_id}/mesh/changes")
        table = pa.ipc.open_stream(io.BytesIO(answer.content)).read_all()
        states = table["state"].to_numpy()
        self.assertEqual(((states == 0).sum(), (states == 1).sum()), (3 * 22, 3 * 2))
        self.assertEqual(set(table["z"].to_numpy()[states == 1]), {8.0})

    def test_a_choice_is_a_new_version(self):
        changed = self.change(self.plan_id, mesh={"openings": "drop"})
        self.assertEqual(changed["latest"]["report"]["part"]["bodies"], 1)
        # a body there is not is said by the version that asks for it
        failed = self.change(self.plan_id, mesh={"bodies": [{"name": "body 7"}]})["latest"]
        self.assertEqual(failed["state"], "failed")
        self.assertIn("there is no body 'body 7' in the file", failed["message"])

    def test_bodies_and_halves_become_parts(self):
        made = self.post("apart", {"bodies": ["body 2"]}, 201)
        self.assertEqual([part["name"] for part in made], ["cube body 2"])
        halves = self.post("cut", {"normal": [0, 0, 1], "offset_mm": 4}, 201)
        parts = [Part.objects.get(pk=part["id"]) for part in halves]
        self.assertEqual([part.state for part in parts], ["ready", "ready"])
        self.assertAlmostEqual(sum(part.facts["volume_mm3"] for part in parts), 1512, 1)
        # each stands on the cut
        self.assertEqual([part.facts["size_mm"][2] for part in parts], [4, 6])

    def test_what_is_marked_on_a_body_goes_with_it(self):
        marks = [{"x": 24, "y": 4, "z": 8, "attention": "seen"}]
        said = {"settings": {"surface": {"marks": marks}}}
        moves = {"bodies": [{"name": "body 2", "shift_x": 3}]}
        values = self.post("bodies", said | moves, 200)["values"]
        self.assertEqual(values["mesh.bodies"], moves["bodies"])
        self.assertEqual(values["surface.marks"][0]["x"], 27)
        refused = self.post("bodies", said | {"bodies": [{"name": "body 2", "turn_x": 999}]}, 422)
        self.assertIn("turn_x", str(refused))

    def test_what_cannot_be_says_so(self):
        said = self.post("apart", {"bodies": ["lid"]}, 422)
        self.assertIn("there is no body 'lid'", said["detail"])
        said = self.post("cut", {"normal": [0, 0, 1], "offset_mm": 40}, 422)
        self.assertIn("misses the part", said["detail"])
        said = self.post("cut", {"normal": [0, 0, 0], "offset_mm": 4}, 422)
        self.assertIn("needs a direction", said["detail"])
        self.post("cut", {"normal": [0, 1], "offset_mm": 4}, 400)
        self.assertEqual(Part.objects.count(), 1)

    def test_a_new_mesh_takes_its_bodies_along(self):
        bodies = [{"name": "body 1", "shift_x": 3}, {"name": "body 2", "left_out": True}]
        self.change(self.plan_id, mesh={"bodies": bodies, "looked_at": True})
        other = self.make_part(stl_of(both(arrays(cube(12)), moved(arrays(cube(9)), 30, 0, 0))))
        done = self.post("mesh", {"part": other}, 200)
        self.assertEqual(done["left_out"], [])
        self.assertEqual(done["plan"]["latest"]["settings"]["mesh"], {"bodies": bodies})
        # settings of a body of its own go with the body
        own = {"name": "lid", "shape": "body", "body": "body 2", "changes": {"body.walls": 4}}
        self.change(self.plan_id, mesh={"bodies": bodies[:1]}, body={"regions": [own]})
        alone = self.make_part(stl_of(arrays(cube(12))))
        done = self.post("mesh", {"part": alone}, 200)
        self.assertEqual(done["left_out"][0], "body 'body 1': the new part has none")
        self.assertIn("region 'lid': there is no such body in the part", done["left_out"][1])
        self.assertNotIn("mesh", done["plan"]["latest"]["settings"])
