"""What nothing needs any more goes, what something needs stays; and how the service is, is seen."""

import os
from datetime import timedelta
from unittest import mock

from django.contrib.sessions.models import Session
from django.core.files.storage import default_storage
from django.db import connection
from django.test import override_settings
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from service.files import fetch, keep
from service.jobs.rules import tidying
from service.jobs.rules.tidying import FRESH, tidy
from service.plans.models import Plan, PlanVersion
from tests.service.minded import Minded
from tests.service.planned import JSON, Planned
from tests.service.test_people import member


class Tidying(Minded):
    def later(self, days=100):
        return timezone.now() + timedelta(days=days)

    def numbers(self, plan):
        return sorted(PlanVersion.objects.filter(plan=plan).values_list("number", flat=True))

    def versions(self, count=6):
        plan = self.plan(self.small())
        for k in range(count - 1):
            self.change(plan, surface={"layer_height": round(0.16 + 0.02 * k, 2)})
        self.assertEqual(self.numbers(plan), list(range(1, count + 1)))
        return plan

    def test_old_versions_go_and_their_files_but_the_newest_and_one_step_back_stay(self):
        plan = self.versions()
        first = PlanVersion.objects.get(plan=plan, number=2)
        self.assertEqual(tidy(), (0, 0, 0))
        gone = tidy(self.later())
        self.assertEqual(self.numbers(plan), [5, 6])
        self.assertEqual(gone.versions, 4)
        self.assertGreaterEqual(gone.files, 4)
        self.assertFalse(default_storage.exists(first.gcode_key))
        latest = Plan.objects.get(pk=plan).latest
        self.assertTrue(fetch(latest.gcode_key) and fetch(latest.moves_key))
        self.assertEqual(self.client.post(f"/api/plans/{plan}/undo").status_code, 200)
        shown = self.client.get(f"/api/plans/{plan}").json()
        self.assertFalse(shown["can_undo"])

    def test_what_a_job_and_a_baseline_are_of_stays(self):
        plan = self.plan(self.small())
        job = self.commit(plan)[0]
        for k in range(4):
            self.change(plan, surface={"layer_height": round(0.16 + 0.02 * k, 2)})
        third = PlanVersion.objects.get(plan=plan, number=3)
        self.client.patch(f"/api/plans/{plan}", {"baseline": third.pk}, content_type=JSON)
        tidy(self.later())
        self.assertEqual(self.numbers(plan), [1, 3, 4, 5])
        self.assertEqual(self.client.get(f"/api/jobs/{job['id']}/file").status_code, 200)

    def test_a_workshop_says_how_long(self):
        plan = self.versions(4)
        for days, left in ((0, 4), (200, 4), (90, 2)):
            self.client.patch("/api/workshop", {"keep_days": days}, content_type=JSON)
            tidy(self.later())
            self.assertEqual(len(self.numbers(plan)), left, days)

    def test_a_file_that_is_just_being_written_is_left(self):
        key = keep(b"soon pointed to", ".txt")
        tidy()
        self.assertEqual(fetch(key), b"soon pointed to")
        tidy(timezone.now() + FRESH + timedelta(minutes=1))
        self.assertFalse(default_storage.exists(key))

    def test_a_file_that_is_kept_again_is_as_new(self):
        key = keep(b"twice", ".txt")
        os.utime(default_storage.path(key), (0, 0))
        self.assertEqual(keep(b"twice", ".txt"), key)
        tidy()
        self.assertEqual(fetch(key), b"twice")

    def test_a_few_go_at_a_time(self):
        later = timezone.now() + FRESH + timedelta(minutes=1)
        tidy(later)  # what other tests left
        keys = [keep(f"{k}".encode(), ".txt") for k in range(5)]
        with mock.patch.object(tidying, "MOST_FILES", 3):
            self.assertEqual([tidy(later).files for _ in range(3)], [3, 2, 0])
        self.assertFalse(any(default_storage.exists(key) for key in keys))

    def test_sessions_that_have_ended_go(self):
        ended = timezone.now() - timedelta(minutes=1)
        Session.objects.create(session_key="x" * 32, session_data="", expire_date=ended)
        tidy()
        self.assertEqual(Session.objects.count(), 1)
        self.assertEqual(self.client.get("/api/plans").status_code, 200)


class State(Planned):
    def test_an_owner_sees_how_the_service_is(self):
        self.plan()
        state = self.client.get("/api/state").json()
        self.assertEqual([row["lane"] for row in state["queue"]], ["small", "large"])
        self.assertEqual(state["machines"][0]["name"], "Bench 200")
        self.assertGreater(state["room"]["parts"], 500)
        self.assertGreater(state["room"]["plans"], 1000)
        self.assertEqual((state["versions"], state["keep_days"]), (1, 60))
        self.assertIsNone(state["backup"])
        self.assertEqual(state["slowest"][0]["part"], "cube")
        self.assertEqual(member(self.workshop, "planner", "p").get("/api/state").status_code, 403)

    def test_counts_are_for_who_has_the_token(self):
        self.plan()
        self.assertEqual(self.client.get("/api/metrics").status_code, 404)
        with override_settings(METRICS_TOKEN="long-token"):
            self.assertEqual(self.client.get("/api/metrics").status_code, 404)
            found = self.client.get("/api/metrics", headers={"Authorization": "Bearer long-token"})
        text = found.content.decode()
        self.assertIn('northpace_versions{state="done"} 1.0', text)
        self.assertIn('northpace_waiting{lane="small"} 0.0', text)
        self.assertRegex(text, r"northpace_planning_seconds \d")


class Polled(Minded):
    def test_a_board_and_a_list_of_plans_carry_no_drawings_and_no_reports(self):
        plan = self.plan(self.small())
        self.commit(plan, copies=20)
        board = self.client.get("/api/board")
        self.assertLess(len(board.content), 20 * 2500)
        self.assertNotIn(b"<svg", board.content)
        address = board.json()["machines"][0]["jobs"][0]["picture"]
        self.assertIn(b"<svg", self.client.get(address).content)
        with CaptureQueriesContext(connection) as asked:
            rows = self.client.get("/api/plans").json()
        report = PlanVersion.objects.get().report
        self.assertEqual(rows[0]["time_s"], report["time_s"]["total"])
        for name in ("mean_um", "p95_um", "max_um"):
            self.assertEqual(rows[0]["surface"][name], report["surface"][name])
        for query in asked.captured_queries:
            self.assertNotIn('"plans_planversion"."report",', query["sql"])
