"""Everything of a workshop in one archive."""

import csv
import io
import json
import zipfile

from django.core.files.storage import default_storage

from service.jobs.models import Job
from service.parts.models import Part
from tests.core.shapes import cube, stl
from tests.service.base import make_workshop, signed_in
from tests.service.planned import JSON, Planned
from tests.service.test_people import member


class Archive(Planned):
    def setUp(self):
        super().setUp()
        self.data = stl(cube(8))
        self.plan_id = self.plan(self.data)
        self.job = self.commit(self.plan_id)
        told = {"outcome": "good", "note": "=2+2", "weighed_g": 1.2}
        self.client.post(f"/api/jobs/{self.job['id']}/outcome", told, content_type=JSON)

    def archive(self):
        answer = self.client.get("/api/workshop/archive")
        self.assertEqual(answer.status_code, 200)
        return zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))

    def rows(self, archive, name):
        return list(csv.DictReader(io.StringIO(archive.read(name).decode())))

    def test_what_is_in_it(self):
        with self.archive() as found:
            self.assertIsNone(found.testzip())
            part = Part.objects.get()
            (row,) = self.rows(found, "parts.csv")
            self.assertEqual(found.read(row["file"]), self.data)
            self.assertEqual(row["sha256"], part.checksum)
            (row,) = self.rows(found, "plans.csv")
            self.assertEqual((row["plan"], row["told of"], row["good"]), ("1", "1", "1"))
            about = json.loads(found.read("plans/1.json"))
            self.assertAlmostEqual(about["report"]["time_s"]["total"], float(row["time s"]))
            self.assertEqual(about["spec"]["machine"]["name"], "Bench 200")
            (row,) = self.rows(found, "jobs.csv")
            self.assertEqual((row["outcome"], row["note"]), ("good", "'=2+2"))
            job = Job.objects.get()
            with default_storage.open(job.file_key) as stored:
                self.assertEqual(found.read(f"jobs/1/{job.file_name}"), stored.read())
            kept = json.loads(found.read("jobs/1/job.json"))
            self.assertEqual(kept["checksums"], job.checksums)
            self.assertNotIn("file_key", kept)
            (entry,) = self.rows(found, "spools.csv")
            self.assertEqual((entry["what"], entry["job"], entry["spool"]), ("taken", "1", "S-1"))
            self.assertIn("PLA", found.read("workshop.json").decode())
            self.assertNotIn("missing.txt", found.namelist())

    def test_a_file_that_is_gone_is_named_and_the_rest_is_there(self):
        default_storage.delete(Part.objects.get().file_key)
        with self.archive() as found:
            lost = found.read("missing.txt").decode().strip()
            self.assertEqual(lost, self.rows(found, "parts.csv")[0]["file"])
            self.assertIn("plans/1.json", found.namelist())

    def test_owners_alone_and_of_their_own(self):
        self.assertEqual(
            member(self.workshop, "planner", "pia").get("/api/workshop/archive").status_code, 403
        )
        make_workshop("Other", "stranger")
        answer = signed_in("stranger").get("/api/workshop/archive")
        with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as found:
            self.assertEqual(self.rows(found, "jobs.csv"), [])
            self.assertEqual(self.rows(found, "parts.csv"), [])
