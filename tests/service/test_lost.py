"""Nothing is lost: work without a task, a database that goes away in the middle, damaged files, a
commit that comes twice.
"""

from threading import Barrier, Thread
from unittest.mock import patch

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import InterfaceError, OperationalError, connection
from django.test import SimpleTestCase
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from northpace.plan.pipeline import Pipeline
from service.files import Damaged, fetch, keep
from service.jobs.models import Job
from service.parts.models import Part
from service.plans.models import Plan, PlanVersion
from service.plans.rules.sweeping import put_right
from service.plans.rules.versions import refresh_plans
from service.plans.tasks import MOST_WORKERS, rescue_stalled
from service.queue import WATCH
from tests.core.shapes import cube, stl
from tests.service.base import plan_body, signed_in, upload, work
from tests.service.minded import Minded
from tests.service.test_api import JSON


def damage(key: str, data: bytes) -> None:
    """Put other bytes where those of a key are."""
    default_storage.delete(key)
    default_storage.save(key, ContentFile(data))


class NoTask(Minded):
    def queued(self) -> Plan:
        part = self.make_part(stl(cube(8)))
        answer = self.client.post(
            "/api/plans", plan_body(part, self.workshop), content_type=JSON
        ).json()
        return Plan.objects.get(pk=answer["id"])

    def forget_tasks(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("delete from procrastinate_jobs")

    def test_a_version_that_is_being_computed_by_nobody_is_computed(self):
        plan = self.queued()
        self.forget_tasks()
        PlanVersion.objects.update(state="computing", share=0.5)
        self.assertEqual(put_right(), 1)
        self.assertEqual(put_right(), 0)  # it has its task now
        work()
        self.assertEqual(Plan.objects.get(pk=plan.pk).latest.state, "done")

    def test_so_is_a_part(self):
        part = self.make_part(stl(cube(8)))
        Part.objects.filter(pk=part).update(state="reading", facts={})
        self.assertEqual(put_right(), 1)
        work()
        self.assertEqual(Part.objects.get(pk=part).state, "ready")

    def test_the_database_away_in_the_middle_is_tried_again_and_then_said(self):
        plan = self.queued()
        away = patch.object(Pipeline, "plan", side_effect=OperationalError("gone"))
        with away, self.assertLogs("procrastinate", "ERROR"):
            for attempts in range(1, 5):
                with connection.cursor() as cursor:  # its time has come
                    cursor.execute("update procrastinate_jobs set scheduled_at = null")
                work()
                job = ProcrastinateJob.objects.get(args__version_id=plan.latest.pk)
                self.assertEqual(job.attempts, attempts)
                if job.status == "failed":
                    break
        self.assertEqual((job.status, job.attempts), ("failed", 4))
        put_right()  # unless the worker has done so by then, as it does every few seconds
        latest = Plan.objects.get(pk=plan.pk).latest
        self.assertEqual(latest.state, "failed")
        self.assertIn("tried three times and never finished: the database", latest.message)
        # the same settings once more are not the stuck version
        self.client.patch(f"/api/plans/{plan.pk}", {"settings": {}}, content_type=JSON)
        work()
        self.assertEqual(Plan.objects.get(pk=plan.pk).latest.state, "done")

    def test_what_takes_its_workers_with_it_is_not_handed_on_for_ever(self):
        plan = self.queued()
        for attempts, state in ((2, "done"), (MOST_WORKERS, "failed")):
            with connection.cursor() as cursor:  # its worker is gone
                cursor.execute(
                    "update procrastinate_jobs set status = 'doing', worker_id = null, "
                    "attempts = %s where task_name like '%%compute_version'",
                    [attempts],
                )
            rescue_stalled.defer(timestamp=0)
            work()
            put_right()
            work()
            self.assertEqual(Plan.objects.get(pk=plan.pk).latest.state, state)
            plan = self.queued()


class DamagedFiles(Minded):
    def test_half_of_a_file_is_written_again(self):
        key = keep(b"whole", ".txt")
        damage(key, b"who")
        with self.assertRaises(Damaged):
            fetch(key)
        self.assertEqual(keep(b"whole", ".txt"), key)
        self.assertEqual(fetch(key), b"whole")

    def test_a_plan_whose_file_is_damaged_is_computed_anew_before_it_is_committed(self):
        plan = self.plan(self.small())
        version = Plan.objects.get(pk=plan).latest
        whole = fetch(version.gcode_key)
        damage(version.gcode_key, whole[: len(whole) // 2])
        self.assertIn("it is computed anew", self.commit(plan, 422)["detail"])
        self.assertFalse(Job.objects.exists())
        work()
        self.commit(plan)
        job = Job.objects.get()
        self.assertEqual(job.version, Plan.objects.get(pk=plan).latest)
        self.assertEqual(len(fetch(job.file_key)), len(whole))


class Twice(Minded):
    def test_the_same_press_commits_once(self):
        plan = self.plan(self.small())
        first = self.commit(plan, copies=2, key="a press")
        again = self.commit(plan, copies=2, key="a press")
        self.assertEqual([job["id"] for job in first], [job["id"] for job in again])
        self.assertEqual(Job.objects.count(), 2)
        self.commit(plan, key="another")
        self.assertEqual(Job.objects.count(), 3)

    def test_five_at_once_book_no_more_than_the_spool_holds(self):
        plan = self.plan(self.small())
        latest = self.client.get(f"/api/plans/{plan}").json()["latest"]
        each = latest["report"]["filament"]["mass_g"]
        spool = PlanVersion.objects.get(pk=latest["id"]).spool
        spool.usable_mass = 2.5 * each
        spool.save()
        checks = self.client.get(f"/api/versions/{latest['id']}/review").json()["checks"]
        body = {
            "version": latest["id"],
            "ticked": [check["key"] for check in checks if check["key"] != "spool"],
        }
        together, answers = Barrier(5), []

        def commit() -> None:
            together.wait()
            answers.append(self.client.post("/api/jobs", body, content_type=JSON).status_code)
            connection.close()

        threads = [Thread(target=commit) for _ in range(5)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(answers), [201, 201, 422, 422, 422])
        self.assertEqual(Job.objects.count(), 2)


class KeptByAnOlderProgram(Minded):
    """A setting that had another name, a choice that is no longer there."""

    def test_a_plan_for_a_wide_nozzle_goes_on_as_it_was(self):
        plan = self.plan(self.small())
        wide = self.workshop.machines.get().nozzles.get(bore=0.8)
        self.client.patch(f"/api/plans/{plan}", {"nozzle": wide.pk}, content_type=JSON)
        settings = Plan.objects.get(pk=plan).latest.settings
        # layers that no finer nozzle may lay
        self.change(plan, **{**settings, "surface": {"layer_height": 0.5}})
        before = Plan.objects.get(pk=plan).latest
        self.assertEqual(before.settings["surface"]["layer_height"], 0.5)
        PlanVersion.objects.update(core_version="0.1")
        with self.assertNoLogs("service.plans", "WARNING"):
            self.assertEqual(refresh_plans(), 1)
        latest = Plan.objects.get(pk=plan).latest
        self.assertEqual((latest.number, latest.settings), (4, before.settings))

    def test_plans_open_jobs_are_read_and_the_plan_goes_on(self):
        plan = self.plan(self.small())
        job = self.commit(plan)[0]
        version = PlanVersion.objects.get()
        old = {**version.spec, "body": {**version.spec["body"], "infill_pattern": "of old"}}
        PlanVersion.objects.update(
            spec=old,
            spec_version=0,
            core_version="0.1",
            settings={"body": {"infill_pattern": "of old", "infill_density": 35}},
        )
        material = {**old["material"], "of_old": 1}
        Job.objects.update(spec={**old, "material": material})
        for path in (f"plans/{plan}", f"plans/{plan}/shape", f"jobs/{job['id']}/slip", "board"):
            self.assertEqual(self.client.get(f"/api/{path}").status_code, 200, path)
        with self.assertLogs("service.plans", "WARNING") as told:
            self.assertEqual(refresh_plans(), 1)
        self.assertIn("goes on without body.infill_pattern", told.output[0])
        work()
        latest = Plan.objects.get(pk=plan).latest
        self.assertEqual((latest.state, latest.number), ("done", 2))
        self.assertEqual(latest.settings, {"body": {"infill_density": 35}})


class OutsideAView(Minded):
    """What is raised where it is looked who asks is answered as everything is."""

    def asked(self, error):
        client = signed_in()
        client.raise_request_exception = False
        # where it is looked up who is signed in
        with patch("django.contrib.sessions.backends.db.SessionStore.load", side_effect=error):
            return client.get("/api/plans")

    def test_a_database_that_is_away(self):
        for error in (OperationalError("gone"), InterfaceError("the connection is closed")):
            answer = self.asked(error)
            self.assertEqual(answer.status_code, 503)
            self.assertIn("the database does not answer", answer.json()["detail"])

    def test_a_fault(self):
        answer = self.asked(ZeroDivisionError())
        self.assertEqual(answer.status_code, 500)
        self.assertEqual(set(answer.json()), {"detail", "where"})
        self.assertIn("X-Request-ID", answer.json()["detail"])
        self.assertTrue(answer["X-Request-ID"])


class NoStore(Minded):
    """The place where files are kept does not answer: whatever its backend raises."""

    def test_it_is_said_and_nothing_is_half_there(self):
        plan = self.plan()
        version = Plan.objects.get(pk=plan).latest.pk
        parts = Part.objects.count()
        broken = RuntimeError("a client of its own kind")
        with patch.object(default_storage._wrapped, "_open", side_effect=broken):
            moves = self.client.get(f"/api/versions/{version}/moves")
        with patch.object(default_storage._wrapped, "exists", side_effect=broken):
            taken = upload(self.client, stl(cube(3)))
        with patch.object(default_storage._wrapped, "_open", side_effect=broken):
            archive = self.client.get("/api/workshop/archive")
        for answer in (moves, taken, archive):
            self.assertEqual(answer.status_code, 503, answer.content[:300])
            self.assertIn("files are kept does not answer", answer.json()["detail"])
        self.assertEqual(Part.objects.count(), parts)

    def test_a_plan_is_computed_once_it_answers(self):
        plan = self.plan()
        self.client.patch(
            f"/api/plans/{plan}", {"settings": {"body": {"walls": 4}}}, content_type=JSON
        )
        with patch.object(default_storage._wrapped, "_save", side_effect=RuntimeError("full")):
            work()
        self.assertIn(Plan.objects.get(pk=plan).latest.state, PlanVersion.OPEN)
        self.wait_for(lambda: work() or Plan.objects.get(pk=plan).latest.state == "done")


class TriedAgain(SimpleTestCase):
    def test_whatever_is_queued_for_somebody_is_tried_again(self):
        app.perform_import_paths()
        tasks = [one for one in app.tasks.values() if one.name.startswith("service.")]
        self.assertGreater(len(tasks), 8)
        # the watch is asked anew every few seconds anyway
        once = {one.name for one in tasks if one.queue != WATCH and one.retry_strategy is None}
        self.assertEqual(once, set())
