"""The API is what its description says, whatever is sent: no fault, no answer it does not name.

`NORTHPACE_SCHEMA_SECONDS=600 NORTHPACE_SCHEMA_SEED=7 ./test tests.service.test_schema` looks longer
and elsewhere.
"""

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path

from django.test import LiveServerTestCase, override_settings

from service import hands
from tests.core.shapes import cube, stl
from tests.runner import KEPT
from tests.service.base import Emptied, make_workshop, plan_body, signed_in, upload, work

ROOT = Path(__file__).resolve().parents[2]
PROGRAM = Path(sys.executable).parent / "schemathesis"
SECONDS = os.environ.get("NORTHPACE_SCHEMA_SECONDS", "40")
SEED = os.environ.get("NORTHPACE_SCHEMA_SEED", "1")
#: What is asked about each answer.
CHECKS = (
    "not_a_server_error",
    "status_code_conformance",
    "content_type_conformance",
    "response_schema_conformance",
)
#: Whatever ends the session that asks, or removes what the others are asked about.
ENDS = "session_start|session_password|person_change|plans_remove|parts_file|invitation_use"
#: What is removed is asked for at the end, but for what the session itself needs.
KEPT_TO_THE_END = "session_end|session_place_end|person_remove"
#: Numbers in addresses are those of what there is, as often as not.
SETTINGS = """
[parameters]
"path.id" = 1
"path.way" = 0
"""


@override_settings(HANDS={"quick": 1, "exact": 1, "work": 1})
class Described(Emptied, LiveServerTestCase):
    reset_sequences = True

    def setUp(self):
        if hands.close not in KEPT:
            KEPT.append(hands.close)
        self.workshop = make_workshop()
        self.client = signed_in()
        self.client.get("/api/session")
        part = upload(self.client, stl(cube(6))).json()["id"]
        work()
        body = plan_body(part, self.workshop)
        plan = self.client.post("/api/plans", body, content_type="application/json").json()["id"]
        self.client.post("/api/beds", {"plans": [plan]}, content_type="application/json")
        order = {"lines": [{"part": part, "pieces": 3}]}
        self.client.post("/api/orders", order, content_type="application/json")
        work()

    def test_every_answer_is_one_that_is_described(self):
        self.ask(SECONDS, "--exclude-method", "DELETE", "--exclude-operation-id-regex", ENDS)
        self.ask("8", "--include-method", "DELETE", "--exclude-operation-id-regex", KEPT_TO_THE_END)

    def ask(self, seconds, *which):
        """Ask operations for so long; what it was asked by has to be let in all the time."""
        cookies = {name: morsel.value for name, morsel in self.client.cookies.items()}
        with tempfile.TemporaryDirectory() as folder:
            settings = Path(folder) / "schemathesis.toml"
            settings.write_text(SETTINGS)
            words = [
                *(str(PROGRAM), "--config-file", str(settings)),
                *("run", str(ROOT / "service" / "openapi.yaml"), "--url", self.live_server_url),
                *("-H", "Cookie: " + "; ".join(f"{k}={v}" for k, v in cookies.items())),
                *("-H", f"X-CSRFToken: {cookies['csrftoken']}", "--checks", ",".join(CHECKS)),
                *("--phases", "fuzzing", "--max-time", seconds, "--seed", SEED, "-w", "2"),
                *("--generation-database", "none", "--suppress-health-check", "all"),
                *("--continue-on-failure", "--no-color", "--request-timeout", "60"),
                *("--warnings", "off", *which),
            ]
            done = subprocess.run(words, capture_output=True, text=True, cwd=folder)
        self.assertEqual(done.returncode, 0, (done.stdout + done.stderr)[-20_000:])
        passed = re.search(r"(\d+) generated, (\d+) passed", done.stdout)
        self.assertGreater(int(passed[2]), 10, done.stdout)
        # an answer that nobody is signed in says nothing about an operation
        self.assertEqual(self.client.get("/api/plans").status_code, 200)
