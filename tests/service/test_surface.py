"""Heights over the API: quick stacks, the frontier, baseline, copies, test slices, an
older core.
"""

import io

import numpy as np
import pyarrow as pa
from django.core.files.uploadedfile import SimpleUploadedFile

from demo.shapes import sample_stl
from northpace import VERSION
from service.plans.models import Plan, PlanVersion, TestSlice
from service.plans.rules import versions
from tests.service.base import Quiet, make_workshop, plan_body, signed_in, upload, work

JSON = "application/json"
PNG = b"\x89PNG\r\n\x1a\n" + b"\0" * 40


class SurfaceApi(Quiet):
    def setUp(self):
        self.workshop = make_workshop()
        self.client = signed_in()
        part = upload(self.client, sample_stl("anemometer-cup"), "cup.stl").json()["id"]
        work()
        self.plan = self.client.post(
            "/api/plans", plan_body(part, self.workshop), content_type=JSON
        ).json()["id"]
        work()

    def post(self, path, body=None, plan=None):
        return self.client.post(
            f"/api/plans/{plan or self.plan}/{path}", body or {}, content_type=JSON
        )

    def change(self, **surface):
        answer = self.client.patch(
            f"/api/plans/{self.plan}", {"settings": {"surface": surface}}, content_type=JSON
        )
        self.assertEqual(answer.status_code, 200, answer.content)
        work()
        return self.client.get(f"/api/plans/{self.plan}").json()

    def test_the_exact_plan_has_the_stack_the_quick_one_showed(self):
        for surface in (
            {"kind": "adaptive", "target_um": 90},
            {"kind": "best-fit", "target_um": 80, "measure": "mean"},
        ):
            quick = self.post("quick", {"settings": {"surface": surface}}).json()
            exact = self.change(**surface)["latest"]["report"]
            self.assertEqual(quick["layers"]["heights_mm"], exact["layers"]["heights_mm"])
            self.assertEqual(quick["layers"]["rule"], exact["layers"]["rule"])
            self.assertAlmostEqual(quick["surface"]["p95_um"], exact["surface"]["p95_um"], places=6)
            # a thin wall all over, where the beads between walls come and go with the layer height:
            # the hardest there is to guess
            self.assertAlmostEqual(
                quick["time_s"]["total"] / exact["time_s"]["total"], 1, delta=0.07
            )

    def test_frontier(self):
        found = self.post("frontier", {"measure": "p95", "points": 12}).json()
        times = [point["time_s"] for point in found["points"]]
        self.assertEqual(times, sorted(times))
        self.assertGreater(len(times), 8)
        self.assertEqual(found["even"][0]["layer_height"], 0.3)
        self.assertNotIn("heights_mm", found["points"][0])
        self.assertEqual(self.post("frontier", {"measure": "p95", "points": 12}).json(), found)
        self.assertEqual(self.post("frontier", {"measure": "nicest"}).status_code, 400)
        refused = self.post(
            "frontier",
            {
                "measure": "p95",
                "settings": {
                    "surface": {
                        "pins": [{"z_mm": 5, "height_mm": 0.1}, {"z_mm": 5.2, "height_mm": 0.3}]
                    }
                },
            },
        )
        self.assertEqual(refused.status_code, 422)

    def test_baseline_and_copy(self):
        first = self.client.get(f"/api/plans/{self.plan}").json()
        self.assertEqual(first["baseline"]["id"], first["latest"]["id"])
        changed = self.change(kind="adaptive", target_um=120)
        self.assertEqual(changed["baseline"]["id"], first["latest"]["id"])
        copy = self.post("copy")
        self.assertEqual(copy.status_code, 201)
        self.assertEqual(copy.json()["latest"]["settings"], changed["latest"]["settings"])
        self.assertEqual(copy.json()["baseline"]["plan_number"], 1)
        work()
        answer = self.client.patch(
            f"/api/plans/{self.plan}", {"baseline": changed["latest"]["id"]}, content_type=JSON
        ).json()
        self.assertEqual(answer["baseline"]["id"], changed["latest"]["id"])
        self.assertEqual(PlanVersion.objects.filter(plan=self.plan).count(), 2)
        rows = {row["id"]: row for row in self.client.get("/api/plans").json()}
        self.assertLess(rows[self.plan]["surface"]["max_um"], 125)
        make_workshop("Other", "stranger")
        stranger = signed_in("stranger")
        for path in ("copy", "frontier", "slices"):
            self.assertEqual(
                stranger.post(f"/api/plans/{self.plan}/{path}", {}, content_type=JSON).status_code,
                404,
            )

    def test_slice_and_verdict(self):
        exact = self.change(kind="adaptive", target_um=110)["latest"]["report"]
        made = self.post("slices", {"from_mm": 8, "to_mm": 12})
        self.assertEqual(made.status_code, 201, made.content)
        trial = self.client.get(f"/api/plans/{made.json()['trial']}").json()
        work()
        trial = self.client.get(f"/api/plans/{made.json()['trial']}").json()
        report = trial["latest"]["report"]
        heights, tops = (
            np.array(exact["layers"]["heights_mm"]),
            np.array(exact["layers"]["tops_mm"]),
        )
        inside = (tops > 8 + 1e-6) & (tops - heights < 12 - 1e-6)
        np.testing.assert_allclose(report["layers"]["heights_mm"][3:], heights[inside])
        np.testing.assert_allclose(report["layers"]["heights_mm"][:3], 0.2)
        # as long a layer as in the whole part, or longer where the cut adds a lid
        self.assertTrue(
            (
                np.array(report["layers"]["seconds"][3:])
                > 0.97 * np.array(exact["layers"]["seconds"])[inside]
            ).all()
        )
        found = self.client.get(f"/api/plans/{self.plan}").json()["slices"][0]
        self.assertEqual((found["verdict"], found["trial"]), ("open", trial["id"]))

        number = found["id"]
        self.assertEqual(
            self.client.post(
                f"/api/slices/{number}/photo", {"file": SimpleUploadedFile("a.png", PNG)}
            ).status_code,
            200,
        )
        self.assertEqual(self.client.get(f"/api/slices/{number}/photo").content, PNG)
        self.assertEqual(
            self.client.post(
                f"/api/slices/{number}/photo", {"file": SimpleUploadedFile("a.png", b"<svg/>")}
            ).status_code,
            422,
        )
        judged = self.client.post(
            f"/api/slices/{number}/verdict",
            {"verdict": "too-coarse", "note": "steps show"},
            content_type=JSON,
        )
        self.assertAlmostEqual(judged.json()["target_um"], 0.75 * found["error_um"], delta=0.06)
        latest = self.client.get(f"/api/plans/{self.plan}").json()["latest"]
        self.assertEqual(latest["settings"]["surface"]["target_um"], judged.json()["target_um"])
        self.assertEqual(TestSlice.objects.get().note, "steps show")
        self.assertEqual(
            self.post("slices", {"from_mm": 8, "to_mm": 12}).status_code, 422
        )  # the new target is not computed yet
        work()
        self.assertEqual(self.post("slices", {"from_mm": 80, "to_mm": 90}).status_code, 422)

    def test_the_shape_for_the_stage(self):
        table = pa.ipc.open_stream(
            io.BytesIO(self.client.get(f"/api/plans/{self.plan}/shape").content)
        ).read_all()
        self.assertEqual(table.column_names, ["x", "y", "z", "slope", "body", "flat", "attention"])
        self.assertEqual(len(table) % 3, 0)
        self.assertLessEqual(np.abs(table["slope"].to_numpy()).max(), 1 + 1e-6)
        self.assertIn(b"affine", table.schema.metadata)

    def test_what_an_older_core_computed_is_computed_again(self):
        PlanVersion.objects.filter(plan=self.plan).update(core_version="0.0.9")
        self.assertIsNone(self.client.get(f"/api/plans/{self.plan}").json()["exact"])
        self.assertEqual(versions.refresh_plans(), 1)
        self.assertEqual(versions.refresh_plans(), 0)
        work()
        found = Plan.objects.get(pk=self.plan).latest
        self.assertEqual((found.number, found.core_version, found.state), (2, VERSION, "done"))
