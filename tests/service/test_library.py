"""Parts and plans of a shop with many: searched, sorted, paged, labelled."""

import io
import zipfile

from service.parts.models import Part
from service.plans.models import Plan, PlanVersion
from service.plans.rules.library import note_figures
from tests.core.shapes import cube, stl
from tests.service.base import make_workshop, signed_in
from tests.service.planned import JSON, Planned


class Library(Planned):
    def setUp(self):
        super().setUp()
        self.plan_id = self.plan(stl(cube(10)))
        known = Plan.objects.get()
        self.part = known.part
        for n in range(1, 30):
            part = Part.objects.create(
                workshop=self.workshop,
                name=f"bracket {n:02}",
                filename=f"b{n}.stl",
                checksum=f"{n:064}",
                size_bytes=1000 - n,
                file_key="x",
                state="ready",
                labels=["frame"] if n % 3 == 0 else [],
            )
            plan = Plan.objects.create(
                workshop=self.workshop,
                part=part,
                number=100 + n,
                name="trial" if n == 7 else "",
                time_s=60.0 * n,
                mass_g=None if n == 5 else 30.0 - n,
                stops=n % 2,
                looks=n,
            )
            latest = known.latest
            PlanVersion.objects.create(
                plan=plan,
                part=part,
                number=1,
                state="failed",
                spec=latest.spec,
                nozzle=latest.nozzle,
                material=latest.material,
                checksum="x",
            )

    def get(self, what, **asked):
        answer = self.client.get(f"/api/{what}", asked)
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json(), int(answer.headers["X-Total"])

    def test_pages_in_order(self):
        rows, total = self.get("plans", sort="time", down=False, limit=10, offset=5)
        self.assertEqual(total, 30)
        seconds = [Plan.objects.get(pk=row["id"]).time_s for row in rows]
        self.assertEqual(len(rows), 10)
        self.assertEqual(seconds, sorted(seconds))
        # what has no figure comes last, whichever way
        for down in (True, False):
            rows, _ = self.get("plans", sort="mass", down=down)
            self.assertEqual(rows[-1]["number"], 105)
        rows, _ = self.get("plans", sort="findings")
        self.assertEqual([row["number"] for row in rows[:2]], [129, 127])

    def test_words_are_searched_everywhere(self):
        rows, total = self.get("plans", search="bracket trial")
        self.assertEqual(([row["number"] for row in rows], total), ([107], 1))
        machine = Plan.objects.first().latest.nozzle.machine.name.split()[0].lower()
        self.assertEqual(self.get("plans", search=machine)[1], 30)
        self.assertEqual(self.get("plans", search=f"{machine} nothing")[1], 0)
        self.assertEqual(self.get("plans", search="112")[0][0]["number"], 112)
        self.assertEqual(self.get("plans", search="%")[1], 0)
        self.assertEqual(self.get("plans", part=self.part.pk)[1], 1)
        self.assertEqual(self.get("parts", search="BRACKET 1")[1], 10 + 2)
        rows, _ = self.get("parts", sort="size", down=False, limit=3)
        self.assertEqual([row["size_bytes"] for row in rows][0], 684)

    def test_labels(self):
        self.assertEqual(self.client.get("/api/parts/labels").json()["labels"], ["frame"])
        self.assertEqual(self.get("parts", label="frame")[1], 9)
        self.assertEqual(self.get("plans", label="frame")[1], 9)
        self.assertEqual(self.get("plans", search="frame")[1], 9)
        part = Part.objects.get(name="bracket 01")
        answer = self.client.patch(
            f"/api/parts/{part.pk}", {"labels": ["Rails", "frame"]}, content_type=JSON
        )
        self.assertEqual(answer.json()["labels"], ["Rails", "frame"])
        self.assertEqual(self.client.get("/api/parts/labels").json()["labels"], ["frame", "Rails"])

    def test_what_is_asked_wrongly_is_refused(self):
        for asked in ({"sort": "beauty"}, {"limit": 0}, {"limit": 100000}, {"offset": -1}):
            for what in ("plans", "parts"):
                answer = self.client.get(f"/api/{what}", asked)
                self.assertEqual(answer.status_code, 400, asked)

    def test_a_computed_plan_keeps_its_figures(self):
        plan = Plan.objects.get(pk=self.plan_id)
        report = plan.latest.report
        self.assertAlmostEqual(plan.time_s, report["time_s"]["total"])
        self.assertAlmostEqual(plan.mass_g, report["filament"]["mass_g"])
        self.change(self.plan_id, surface={"layer_height": 0.3})
        thick = Plan.objects.get(pk=self.plan_id)
        self.assertLess(thick.time_s, plan.time_s)
        Plan.objects.update(time_s=None)
        note_figures(self.plan_id)
        self.assertAlmostEqual(Plan.objects.get(pk=self.plan_id).time_s, thick.time_s)

    def test_files_of_several_parts_as_they_came(self):
        data = stl(cube(7))
        parts = [self.make_part(data) for _ in range(2)]
        answer = self.client.get(f"/api/parts/file?parts={parts[0]},{parts[1]}")
        with zipfile.ZipFile(io.BytesIO(answer.content)) as found:
            self.assertEqual(found.namelist(), ["cube.stl", "cube 2.stl"])
            self.assertEqual([found.read(name) for name in found.namelist()], [data, data])
        for wrong, status in (("", 400), ("x", 400), ("999999", 404)):
            answer = self.client.get(f"/api/parts/file?parts={wrong}")
            self.assertEqual(answer.status_code, status, wrong)
        make_workshop("Other", "stranger")
        answer = signed_in("stranger").get(f"/api/parts/file?parts={parts[0]}")
        self.assertEqual(answer.status_code, 404)
