"""The API: behind login, scoped to the workshop, versions, queue, commit."""

import io
import subprocess
import tempfile
from pathlib import Path
from unittest import mock

import pyarrow as pa
import pyarrow.parquet as pq
from django.core.management import call_command
from django.db import OperationalError, connection
from django.test import Client

from demo.shapes import SHAPES
from northpace import VERSION
from northpace.gcode.read import read_gcode
from service.jobs.models import Job
from service.parts.models import Part
from service.plans.models import Plan, PlanVersion
from tests.core.shapes import cube, stl
from tests.service.base import Quiet, make_workshop, plan_body, signed_in, upload, work

JSON = "application/json"
ROOT = Path(__file__).resolve().parents[2]


class Api(Quiet):
    def setUp(self):
        self.workshop = make_workshop()
        self.client = signed_in()

    def make_part(self, data=None, name="cube.stl"):
        part = upload(self.client, data, name).json()["id"]
        work()
        return part

    def make_plan(self):
        answer = self.client.post(
            "/api/plans", plan_body(self.make_part(), self.workshop), content_type=JSON
        )
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()["id"]

    def change(self, plan, **body):
        return self.client.patch(f"/api/plans/{plan}", body, content_type=JSON)


class Access(Api):
    def test_everything_is_behind_login(self):
        outside = Client(HTTP_HOST="localhost")
        for address in (
            "parts",
            "parts/1",
            "parts/1/file",
            "plans",
            "plans/1",
            "plans/1/shape",
            "versions/1",
            "versions/1/moves",
            "jobs",
            "jobs/1/file",
            "machines",
            "materials",
            "workshop",
            "settings",
        ):
            self.assertEqual(outside.get(f"/api/{address}").status_code, 401, address)
        self.assertIn(outside.get("/api/schema").status_code, (401, 403))
        self.assertEqual(outside.get("/api/docs").status_code, 302)

    def test_sign_in_and_out(self):
        client = Client(HTTP_HOST="localhost", enforce_csrf_checks=True)
        self.assertFalse(client.get("/api/session").json()["signed_in"])
        token = {"HTTP_X_CSRFTOKEN": client.cookies["csrftoken"].value}
        good = {"username": "maker", "password": "plumb-line"}
        self.assertEqual(client.post("/api/session", good, content_type=JSON).status_code, 403)
        wrong = client.post("/api/session", {**good, "password": "x"}, content_type=JSON, **token)
        self.assertEqual(
            (wrong.status_code, wrong.json()["detail"]),
            (403, "name and password do not belong together"),
        )
        self.assertTrue(
            client.post("/api/session", good, content_type=JSON, **token).json()["signed_in"]
        )
        self.assertEqual(client.get("/api/parts").status_code, 200)
        token = {"HTTP_X_CSRFTOKEN": client.cookies["csrftoken"].value}
        self.assertEqual(client.delete("/api/session", **token).status_code, 204)
        self.assertEqual(client.get("/api/parts").status_code, 401)

    def test_another_workshop_sees_nothing(self):
        plan = self.make_plan()
        work()
        version = Plan.objects.get(pk=plan).latest
        self.client.post("/api/jobs", {"version": version.pk}, content_type=JSON)
        part, job = Part.objects.get(), Job.objects.get()
        make_workshop("Other", "stranger")
        other = signed_in("stranger")
        for address in ("parts", "plans", "jobs"):
            self.assertEqual(other.get(f"/api/{address}").json(), [])
        for address in (
            f"parts/{part.pk}",
            f"parts/{part.pk}/file",
            f"plans/{plan}",
            f"plans/{plan}/shape",
            f"versions/{version.pk}",
            f"versions/{version.pk}/moves",
            f"jobs/{job.pk}/file",
        ):
            self.assertEqual(other.get(f"/api/{address}").status_code, 404, address)
        self.assertEqual(
            other.post("/api/jobs", {"version": version.pk}, content_type=JSON).status_code, 404
        )
        mine = plan_body(part.pk, self.workshop)
        self.assertEqual(other.post("/api/plans", mine, content_type=JSON).status_code, 404)
        theirs = make_workshop("Third", "third").machines.get().nozzles.first().pk
        self.assertEqual(self.change(plan, nozzle=theirs).status_code, 404)


class Parts(Api):
    def test_a_file_is_kept_as_it_came_and_read(self):
        part = self.make_part()
        found = self.client.get(f"/api/parts/{part}").json()
        self.assertEqual(
            (found["state"], found["facts"]["triangles"], found["facts"]["size_mm"]),
            ("ready", 12, [20, 20, 20]),
        )
        picture = self.client.get(found["picture"])
        self.assertIn(b"<svg", picture.content)
        self.assertIn("immutable", picture["Cache-Control"])
        self.assertEqual(self.client.get(f"/api/parts/{part}/file").content, stl(cube()))

    def test_a_fault_while_reading_is_no_part_that_is_read_for_ever(self):
        with (
            mock.patch("service.parts.rules.parts.contour_picture", side_effect=ZeroDivisionError),
            self.assertLogs("service.parts.rules.parts", "ERROR"),
        ):
            part = self.make_part()
        found = self.client.get(f"/api/parts/{part}").json()
        self.assertEqual(found["state"], "refused")
        self.assertIn("a fault of the program", found["message"])
        # the same file, tried again or sent once more, is the same part
        again = self.client.post(f"/api/parts/{part}/again")
        self.assertEqual(again.status_code, 200, again.content)
        self.assertEqual(again.json()["state"], "reading")
        work()
        self.assertEqual(self.client.get(f"/api/parts/{part}").json()["state"], "ready")
        self.assertEqual(self.client.post(f"/api/parts/{part}/again").status_code, 422)

    def test_a_refused_file_that_is_sent_again_is_the_same_part(self):
        torn = stl(cube())[:-10]
        self.assertEqual(self.make_part(torn), self.make_part(torn))
        self.assertEqual(len(self.client.get("/api/parts").json()), 1)

    def test_a_refused_file_says_why(self):
        part = self.make_part(stl(cube())[:-10])
        found = self.client.get(f"/api/parts/{part}").json()
        self.assertEqual(found["state"], "refused")
        self.assertIn("cut short", found["message"])
        answer = self.client.post("/api/plans", plan_body(part, self.workshop), content_type=JSON)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("cut short", answer.json()["detail"])

    def test_names_of_files_are_harmless(self):
        part = self.make_part(name='..\\..\\etc/"pass".stl')
        found = Part.objects.get(pk=part)
        self.assertNotIn("/", found.filename)
        self.assertNotIn("..", found.file_key)
        self.assertEqual(upload(self.client, b"").status_code, 422)
        self.assertEqual(self.client.post("/api/parts", {}).status_code, 400)

    def test_parts_with_jobs_stay(self):
        plan = self.make_plan()
        work()
        part = Part.objects.get()
        self.client.post(
            "/api/jobs", {"version": Plan.objects.get(pk=plan).latest.pk}, content_type=JSON
        )
        self.assertEqual(self.client.delete(f"/api/parts/{part.pk}").status_code, 409)
        self.assertEqual(self.client.delete(f"/api/plans/{plan}").status_code, 409)
        spare = self.make_part()
        self.assertEqual(self.client.delete(f"/api/parts/{spare}").status_code, 204)


class Plans(Api):
    def test_computed_in_the_queue(self):
        plan = self.make_plan()
        self.assertEqual(self.client.get(f"/api/plans/{plan}").json()["latest"]["state"], "queued")
        work()
        found = self.client.get(f"/api/plans/{plan}").json()
        self.assertEqual(
            (found["latest"]["state"], found["latest"]["core_version"]), ("done", VERSION)
        )
        self.assertEqual(found["exact"]["id"], found["latest"]["id"])
        resolved = found["latest"]["resolved"]
        self.assertAlmostEqual(resolved["greatest_height"], 0.3)
        self.assertEqual(
            (resolved["least_height"], resolved["nozzle_temp"], resolved["least_layer_time"]),
            (0.08, 205, 6),
        )
        report = found["latest"]["report"]
        table = pa.ipc.open_stream(
            self.client.get(f"/api/versions/{found['latest']['id']}/moves").content
        ).read_all()
        self.assertAlmostEqual(sum(table["seconds"].to_pylist()) / report["time_s"]["total"], 1, 5)
        parquet = self.client.get(f"/api/versions/{found['latest']['id']}/moves?as=parquet").content
        self.assertEqual(pq.read_table(io.BytesIO(parquet)).num_rows, table.num_rows)
        shape = pa.ipc.open_stream(
            io.BytesIO(self.client.get(f"/api/plans/{plan}/shape").content)
        ).read_all()
        self.assertEqual(len(shape), 3 * 12)

    def test_a_newer_change_supersedes_and_computed_versions_are_immutable(self):
        plan = self.make_plan()
        self.change(plan, settings={"body": {"walls": 2}})
        self.change(plan, settings={"body": {"walls": 4}})
        work()
        states = list(PlanVersion.objects.order_by("number").values_list("state", flat=True))
        self.assertEqual(states, ["superseded", "superseded", "done"])
        done = PlanVersion.objects.get(state="done")
        done.settings = {}
        with self.assertRaises(ValueError):
            done.save()
        before = PlanVersion.objects.count()
        self.change(plan, settings={"body": {"walls": 4}})
        self.assertEqual(PlanVersion.objects.count(), before)

    def test_row_and_task_commit_together(self):
        part = self.make_part()
        with mock.patch(
            "service.plans.models.PlanVersion.save",
            autospec=True,
            side_effect=OperationalError("gone"),
        ):
            answer = self.client.post(
                "/api/plans", plan_body(part, self.workshop), content_type=JSON
            )
        self.assertEqual(answer.status_code, 503)
        self.assertIn("nothing was lost", answer.json()["detail"])
        self.assertEqual(Plan.objects.count(), 0)
        with connection.cursor() as cursor:
            cursor.execute(
                "select count(*) from procrastinate_jobs where task_name like "
                "'%compute_version' and status = 'todo'"
            )
            self.assertEqual(cursor.fetchone()[0], 0)

    def test_cancel_keeps_the_last_exact_figures(self):
        plan = self.make_plan()
        work()
        self.change(plan, settings={"body": {"walls": 5}})
        found = self.client.post(f"/api/plans/{plan}/cancel").json()
        self.assertEqual((found["latest"]["state"], found["exact"]["number"]), ("cancelled", 1))
        work()
        self.assertEqual(Plan.objects.get(pk=plan).latest.state, "cancelled")
        again = self.change(plan, settings={"body": {"walls": 5}}).json()
        self.assertEqual(again["latest"]["state"], "queued")

    def test_superseded_while_computing(self):
        plan = self.make_plan()
        version = Plan.objects.get(pk=plan).latest
        from service.core import pipeline
        from service.plans.rules import computing

        original = pipeline().plan

        def slow(*arguments):
            PlanVersion.objects.filter(pk=version.pk).update(state="superseded")
            return original(*arguments)

        with mock.patch.object(pipeline(), "plan", slow):
            computing.compute_here(version.pk)
        version.refresh_from_db()
        self.assertEqual((version.state, version.report), ("superseded", None))

    def test_quick_figures_and_refusals(self):
        plan = self.make_plan()
        work()
        exact = self.client.get(f"/api/plans/{plan}").json()["latest"]["report"]
        quick = self.client.post(
            f"/api/plans/{plan}/quick", {"settings": {}}, content_type=JSON
        ).json()
        self.assertFalse(quick["exact"])
        self.assertAlmostEqual(quick["time_s"]["total"] / exact["time_s"]["total"], 1, delta=0.05)
        # what the figures are said of comes with them, before it is kept
        settings = {"body": {"walls": 5}, "air": {"nozzle_temp": 231}}
        now = self.client.post(
            f"/api/plans/{plan}/quick", {"settings": settings}, content_type=JSON
        ).json()["now"]
        self.assertEqual((now["spec"]["body"]["walls"], now["resolved"]["nozzle_temp"]), (5, 231))
        kept = self.change(plan, settings=settings).json()["latest"]
        self.assertEqual({"spec": kept["spec"], "resolved": kept["resolved"]}, now)
        for settings, words in (
            ({"body": {"walls": 99}}, "0 to 50"),
            ({"oops": {}}, "no group"),
            ({"machine": {}}, "no group"),
            ({"surface": {"layer_height": 0.4}}, "0.08 to 0.3"),
            ({"place": {"scale_x": 30000}}, "its unit right"),
        ):
            answer = self.client.post(
                f"/api/plans/{plan}/quick", {"settings": settings}, content_type=JSON
            )
            self.assertEqual(answer.status_code, 422, settings)
            self.assertIn(words, answer.json()["detail"])
        before = PlanVersion.objects.count()
        self.assertEqual(self.change(plan, settings={"body": {"walls": 99}}).status_code, 422)
        self.assertEqual(PlanVersion.objects.count(), before)

    def test_a_plan_that_cannot_be_computed_says_so(self):
        plan = self.make_plan()
        self.change(plan, settings={"ends": {"start_gcode": "{oops}"}})
        work()
        latest = self.client.get(f"/api/plans/{plan}").json()["latest"]
        self.assertEqual(latest["state"], "failed")
        self.assertIn("unknown field {oops}", latest["message"])

    def test_a_change_of_nozzle_brings_its_beads_and_keeps_the_makers_own(self):
        plan = self.make_plan()
        small, large = (nozzle.pk for nozzle in self.workshop.machines.get().nozzles.all())
        settings = {"body": {"walls": 2, "inner_width": 0.5}}
        latest = self.change(plan, settings=settings, nozzle=large).json()["latest"]
        self.assertEqual(
            latest["settings"]["body"],
            {
                "walls": 2,
                "inner_width": 0.5,
                "outer_width": 0.9,
                "solid_width": 0.9,
                "infill_width": 0.9,
            },
        )
        self.assertEqual(
            latest["settings"]["surface"], {"layer_height": 0.4, "first_layer_height": 0.4}
        )
        back = self.change(plan, settings=latest["settings"], nozzle=small).json()["latest"]
        self.assertEqual(back["settings"], settings)

    def test_a_larger_nozzle_starts_from_beads_that_fit(self):
        body = plan_body(self.make_part(), self.workshop)
        body["nozzle"] = self.workshop.machines.get().nozzles.last().pk
        self.assertEqual(self.client.post("/api/plans", body, content_type=JSON).status_code, 201)


class Jobs(Api):
    def test_commit_gives_the_file_that_was_checked(self):
        plan = self.make_plan()
        version = Plan.objects.get(pk=plan).latest.pk
        early = self.client.post("/api/jobs", {"version": version}, content_type=JSON)
        self.assertEqual(early.status_code, 422)
        work()
        name = self.client.post(f"/api/versions/{version}/name", {}, content_type=JSON).json()
        job = self.client.post("/api/jobs", {"version": version}, content_type=JSON).json()[0]
        self.assertEqual(job["file_name"], name["file_name"])
        self.assertRegex(job["file_name"], r"^0h\d\d_cube_pla_p1\.gcode$")
        answer = self.client.get(f"/api/jobs/{job['id']}/file")
        self.assertEqual(
            answer["Content-Disposition"], f'attachment; filename="{job["file_name"]}"'
        )
        read = read_gcode(answer.content).summary()
        self.assertAlmostEqual(read["time_s"]["total"], job["figures"]["time_s"], 3)
        self.assertAlmostEqual(read["filament"]["mass_g"], job["figures"]["mass_g"], 5)
        self.assertIn("plan", read["header"])
        # a later change of the plan leaves the job as it is
        self.change(plan, settings={"body": {"walls": 1}})
        work()
        self.assertEqual(self.client.get(f"/api/jobs/{job['id']}/file").content, answer.content)

    def test_stop_findings_are_not_committed(self):
        import manifold3d as m3

        floating = cube(10) + m3.Manifold.cube((5.0, 5.0, 5.0)).translate((20, 0, 6))
        part = self.make_part(stl(floating))
        plan = self.client.post(
            "/api/plans", plan_body(part, self.workshop), content_type=JSON
        ).json()
        work()
        answer = self.client.post("/api/jobs", {"version": plan["latest"]["id"]}, content_type=JSON)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("mid-air", answer.json()["detail"])

    def test_the_template_of_the_workshop(self):
        self.assertEqual(
            self.client.patch(
                "/api/workshop", {"name_template": "{oops}"}, content_type=JSON
            ).status_code,
            422,
        )
        self.assertEqual(
            self.client.patch(
                "/api/workshop", {"name_template": "{part}-{mass}"}, content_type=JSON
            ).status_code,
            200,
        )
        plan = self.make_plan()
        work()
        job = self.client.post(
            "/api/jobs", {"version": Plan.objects.get(pk=plan).latest.pk}, content_type=JSON
        ).json()[0]
        self.assertRegex(job["file_name"], r"^cube-\dg\.gcode$")


class Description(Api):
    def test_schema_and_generated_client_are_current(self):
        with tempfile.TemporaryDirectory() as folder:
            fresh = Path(folder) / "openapi.yaml"
            call_command("spectacular", "--file", str(fresh), "--validate", "--fail-on-warn")
            self.assertEqual(
                fresh.read_text(),
                (ROOT / "service" / "openapi.yaml").read_text(),
                "run: manage.py spectacular --file service/openapi.yaml, then npm run client "
                "in web/",
            )
            client = Path(folder) / "schema.d.ts"
            tool = ROOT / "web" / "node_modules" / ".bin" / "openapi-typescript"
            subprocess.run(
                [str(tool), str(ROOT / "service" / "openapi.yaml"), "-o", str(client)],
                check=True,
                capture_output=True,
            )
            self.assertEqual(
                client.read_text(),
                (ROOT / "web" / "src" / "api" / "schema.d.ts").read_text(),
                "run: npm run client in web/",
            )

    def test_docs_can_be_browsed(self):
        page = self.client.get("/api/docs").content.decode()
        self.assertIn("/api/plans/{id}/quick", page)

    def test_migrations_are_complete(self):
        call_command("makemigrations", "--check", "--dry-run", verbosity=0)

    def test_the_sample_workshop_loads_once(self):
        for _ in range(2):
            call_command("load_sample", stdout=io.StringIO())
        work()
        states = Part.objects.filter(workshop__sample=True).values_list("name", "state")
        self.assertEqual({state for _, state in states}, {"ready"})
        self.assertEqual(len(states), len(SHAPES))
        self.assertTrue(Client(HTTP_HOST="localhost").login(username="tern", password="tern-point"))
