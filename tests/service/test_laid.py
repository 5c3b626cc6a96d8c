"""Beads can be looked at while a version is computed, and leave nothing behind."""

from unittest import mock

import pyarrow as pa
from django.core.files.storage import default_storage

from northpace.outlines import sections
from service.plans.models import PlanVersion
from service.plans.rules import computing, shown
from tests.core.shapes import knob, stl
from tests.service.planned import Planned


class WhatIsLaid(Planned):
    def setUp(self):
        super().setUp()
        self.seen = []
        plain = shown.Shown.__call__

        def kept(own, laid):
            """Keep it, and look at it as the desk would."""
            plain(own, laid)
            version = PlanVersion.objects.get(state="computing")
            now = self.client.get(f"/api/plans/{version.plan_id}/progress").json()
            answer = self.client.get(f"/api/versions/{version.pk}/laid?of={now['laid']}")
            self.seen.append((now, version.laid_key, answer))

        for patch in (
            mock.patch.object(shown, "EVERY", 0.0),
            mock.patch.object(shown.Shown, "__call__", kept),
            mock.patch.object(sections.Outlines.windows, "__defaults__", (500,)),
        ):
            patch.start()
            self.addCleanup(patch.stop)

    def test_more_and_more_of_it(self):
        # parts of their own: what was computed before is not laid again
        plan = self.plan(stl(knob(7.3)))
        self.assertGreater(len(self.seen), 4)
        rows = []
        for now, key, answer in self.seen:
            self.assertEqual(answer.status_code, 200)
            table = pa.ipc.open_stream(answer.content).read_all()
            rows.append(len(table))
            self.assertEqual(table["seconds"].to_numpy().sum(), 0)
            self.assertTrue(now["laid"] and now["laid_words"], key)
        self.assertEqual(rows[:-2], sorted(rows[:-2]))
        self.assertIn("walls laid up to", self.seen[0][0]["laid_words"])
        self.assertEqual(self.seen[-1][0]["laid_words"], "laid, not yet timed")
        self.gone(plan)

    def test_a_version_that_fails_leaves_nothing(self):
        with mock.patch.object(computing, "browser_bytes", side_effect=ValueError):
            plan = self.plan(stl(knob(7.5)))
        self.assertTrue(self.seen)
        self.assertEqual(PlanVersion.objects.get(plan=plan).state, "failed")
        self.gone(plan)

    def test_what_is_quick_is_not_shown(self):
        with mock.patch.object(shown, "EVERY", 60.0):
            self.plan(stl(knob(7.7)))
        self.assertTrue(self.seen)
        for now, key, answer in self.seen:
            self.assertEqual((now["laid"], key, answer.status_code), ("", "", 404))

    def gone(self, plan):
        version = PlanVersion.objects.get(plan=plan)
        self.assertEqual((version.laid_key, version.laid_words), ("", ""))
        for _, key, _ in self.seen:
            self.assertFalse(default_storage.exists(key))
        answer = self.client.get(f"/api/versions/{version.pk}/laid")
        self.assertEqual(answer.status_code, 404)
