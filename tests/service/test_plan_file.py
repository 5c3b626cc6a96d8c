"""A plan leaves as a file and comes back, in another part's name, as the same plan."""

from django.core.files.uploadedfile import SimpleUploadedFile

from northpace.plan.file import read_plan
from service.plans.models import PlanVersion
from tests.service.base import upload, work
from tests.service.test_api import JSON, Api


class PlanFiles(Api):
    def test_out_and_in_again(self):
        plan = self.make_plan()
        self.change(
            plan,
            settings={
                "surface": {"kind": "best-fit", "target_um": 120},
                "pace": {"dial": 30},
                "place": {"turn_x": 20},
            },
        )
        work()
        first = PlanVersion.objects.filter(plan=plan).order_by("number").last()
        answer = self.client.get(f"/api/versions/{first.pk}/file")
        self.assertEqual(answer.status_code, 200)
        self.assertIn(".3mf", answer["Content-Disposition"])
        self.assertEqual(read_plan(answer.content).spec, first.whole_spec)
        part = self.client.post(
            "/api/parts", {"file": SimpleUploadedFile("theirs.3mf", answer.content)}
        ).json()
        work()
        part = self.client.get(f"/api/parts/{part['id']}").json()
        self.assertEqual((part["state"], part["filename"]), ("ready", "cube.stl"))
        self.assertEqual(part["planned"]["material"], first.material.name)
        body = {
            "part": part["id"],
            "nozzle": first.nozzle_id,
            "material": first.material_id,
            "spool": first.spool_id,
            "from_file": True,
        }
        ahead = self.client.post("/api/plans/ahead", {**body, "whole": True}, content_type=JSON)
        self.assertEqual(ahead.status_code, 200, ahead.content)
        self.assertEqual(
            ahead.json()["quick"]["time_s"]["total"], ahead.json()["time_s"], ahead.json()
        )
        again = self.client.post("/api/plans", body, content_type=JSON)
        self.assertEqual(again.status_code, 201, again.content)
        work()
        second = PlanVersion.objects.get(plan=again.json()["id"])
        self.assertEqual(second.checksum, first.checksum)
        # what is laid is stored by its content
        self.assertEqual(second.moves_key, first.moves_key)

    def test_a_part_without_a_plan_says_so(self):
        part = self.make_part()
        body = {
            "part": part,
            "nozzle": self.workshop.machines.first().nozzles.first().pk,
            "material": self.workshop.materials.first().pk,
            "from_file": True,
        }
        answer = self.client.post("/api/plans", body, content_type=JSON)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("holds no plan", answer.json()["detail"])

    def test_a_broken_file_is_refused_with_a_word(self):
        plan = self.make_plan()
        work()
        version = PlanVersion.objects.get(plan=plan)
        data = self.client.get(f"/api/versions/{version.pk}/file").content
        answer = upload(self.client, data[: len(data) // 2], "cut.3mf")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("damaged or cut short", answer.json()["detail"])
