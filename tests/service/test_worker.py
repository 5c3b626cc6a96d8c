"""A worker killed in the middle of a plan loses nothing: another one computes it."""

import os
import signal
import subprocess
import sys
import tempfile
from pathlib import Path

from django.core.files.storage import default_storage
from django.db import connection

from service.plans.models import Plan, PlanVersion
from tests.service.base import Quiet, make_workshop, plan_body, signed_in, upload, work

ROOT = Path(__file__).resolve().parents[2]

#: A worker whose motion stage never ends, so that it is surely killed in the middle.
STUCK = """
import os, time, django
os.environ["DJANGO_SETTINGS_MODULE"] = "service.config.settings"
django.setup()
from northpace.plan.stages import moves
moves.time_rows = lambda *a: time.sleep(3600)
from django.core.management import call_command
call_command("work", "--until-empty")
"""


class LostWorker(Quiet):
    def test_killed_in_the_middle(self):
        workshop = make_workshop()
        client = signed_in()
        part = upload(client).json()["id"]
        work()
        plan = client.post(
            "/api/plans", plan_body(part, workshop), content_type="application/json"
        ).json()["id"]
        env = {
            **os.environ,
            "NORTHPACE_DB_NAME": connection.settings_dict["NAME"],
            "PYTHONPATH": str(ROOT),
            # in the worker itself: what is changed in it does not reach a process of its own
            "NORTHPACE_WORK_HANDS": "0",
        }
        var = tempfile.TemporaryDirectory(prefix="northpace-worker-")
        self.addCleanup(var.cleanup)
        env["NORTHPACE_VAR"] = var.name
        (Path(var.name) / "files").symlink_to(default_storage.location)
        stuck = subprocess.Popen([sys.executable, "-c", STUCK], cwd=ROOT, env=env)
        other = None
        try:
            self.wait_for(
                lambda: PlanVersion.objects.filter(
                    plan=plan, state="computing", stage="motion"
                ).exists()
            )
            stuck.send_signal(signal.SIGKILL)
            stuck.wait()
            self.assertEqual(Plan.objects.get(pk=plan).latest.state, "computing")
            other = subprocess.Popen([sys.executable, "manage.py", "work"], cwd=ROOT, env=env)
            self.wait_for(lambda: Plan.objects.get(pk=plan).latest.state == "done", 90)
        finally:
            for process in (stuck, other):
                if process is not None and process.poll() is None:
                    process.terminate()
                    process.wait(30)
        self.assertGreater(Plan.objects.get(pk=plan).latest.report["time_s"]["total"], 0)
