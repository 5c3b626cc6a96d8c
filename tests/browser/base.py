"""The real interface in a real browser, with a real worker beside it."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import threading
from pathlib import Path

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.core.files.storage import default_storage
from django.db import connection
from playwright.sync_api import expect, sync_playwright

from tests.browser.chromium import launch
from tests.service.base import make_workshop

ROOT = Path(__file__).resolve().parents[2]
#: Seconds a worker may take to compile everything, at most.
READY = 300


def _follow(worker: subprocess.Popen, ready: threading.Event) -> None:
    """Read what a worker prints to its end, so that it never waits for a reader; its being ready, or its end, sets the event."""
    for line in worker.stdout:
        if line.strip() == "worker ready":
            ready.set()
        else:
            print(line, end="", flush=True)
    worker.wait()
    ready.set()


class BrowserCase(StaticLiveServerTestCase):
    """Opens a page on a fresh workshop for every test; fails on any error of the page's scripts."""

    @classmethod
    def setUpClass(cls):
        # the browser's driver runs an event loop in this thread; the database calls of the tests are plain ones
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        super().setUpClass()
        cls._var = tempfile.TemporaryDirectory(prefix="northpace-browser-")
        (Path(cls._var.name) / "files").symlink_to(default_storage.location)
        env = {**os.environ, "NORTHPACE_DB_NAME": connection.settings_dict["NAME"], "NORTHPACE_VAR": cls._var.name, "PYTHONPATH": str(ROOT)}
        cls._worker = subprocess.Popen([sys.executable, "manage.py", "work"], cwd=ROOT, env=env, stdout=subprocess.PIPE, text=True)
        cls.addClassCleanup(cls._stop_worker)
        # on a machine where nothing was compiled yet this takes a minute, which no test should have to wait for
        ready = threading.Event()
        cls._reader = threading.Thread(target=_follow, args=(cls._worker, ready), daemon=True)
        cls._reader.start()
        if not ready.wait(READY) or cls._worker.poll() is not None:
            raise RuntimeError(f"the worker was not ready within {READY} s, or ended with {cls._worker.poll()}")
        cls._playwright = sync_playwright().start()
        cls._browser = launch(cls._playwright)
        expect.set_options(timeout=30_000)

    @classmethod
    def tearDownClass(cls):
        cls._browser.close()
        cls._playwright.stop()
        super().tearDownClass()

    @classmethod
    def _stop_worker(cls):
        cls._worker.terminate()
        cls._worker.wait(40)
        cls._reader.join()
        cls._worker.stdout.close()
        cls._var.cleanup()

    def setUp(self):
        self.workshop = make_workshop()
        self.context = self._browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
        self.page = self.context.new_page()
        self.page.set_default_timeout(30_000)
        self.broken: list[str] = []
        self.page.on("pageerror", lambda error: self.broken.append(str(error)))

    def tearDown(self):
        # what is still being fetched would meet an empty database
        self.context.close()
        self.assertEqual(self.broken, [])

    def sign_in(self):
        self.page.goto(f"{self.live_server_url}/")
        self.page.get_by_label("Name").fill("maker")
        self.page.get_by_label("Password").fill("plumb-line")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("heading", name="Parts")).to_be_visible()

    def drop(self, data: bytes, name: str):
        """Drop a file onto the page, as a hand would."""
        handle = self.page.evaluate_handle(
            """([bytes, name]) => { const t = new DataTransfer(); t.items.add(new File([new Uint8Array(bytes)], name)); return t; }""",
            [list(data), name])
        self.page.dispatch_event("nav", "dragover", {"dataTransfer": handle})
        self.page.dispatch_event("nav", "drop", {"dataTransfer": handle})

    def figure(self, name: str) -> str:
        return self.page.locator(f"[data-figure={name}]").inner_text()

    def exact(self):
        """Wait until the exact figures stand."""
        expect(self.page.locator("dl[data-state=exact]")).to_be_visible()

    def plan(self, data: bytes, name: str):
        """Sign in, drop a file, plan it, and wait for the exact figures."""
        self.sign_in()
        self.drop(data, name)
        self.page.locator(f"[data-part={name.rsplit('.', 1)[0]}]").get_by_role("button", name="Plan it").click()
        self.page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
        self.exact()

    def commit(self, button: str = "Commit job"):
        """Tick everything on the review and commit."""
        self.page.get_by_role("button", name="Commit job").click()
        dialog = self.page.get_by_role("dialog")
        expect(dialog.locator("[data-clock]")).to_be_visible()
        for box in dialog.get_by_role("checkbox").all():
            box.check()
        dialog.get_by_role("button", name=button).click()
        expect(self.page.get_by_role("heading", name="Jobs")).to_be_visible()

    def tab(self, name: str):
        """Open an instrument beside the stage."""
        self.page.get_by_role("tab", name=re.compile(name)).click()
