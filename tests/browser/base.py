"""The real interface in a real browser, with a real worker beside it."""

from __future__ import annotations

import functools
import os
import subprocess
import sys
import tempfile
import threading
from pathlib import Path

import numpy as np
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.core.files.storage import default_storage
from django.db import connection
from django.test import override_settings
from playwright.sync_api import Browser, expect, sync_playwright

from service import hands
from service.plans.models import Plan
from tests.browser.chromium import launch, open_tab
from tests.runner import KEPT
from tests.service.base import Emptied, make_workshop

ROOT = Path(__file__).resolve().parents[2]
#: Seconds a worker may take to compile everything, at most.
READY = 300
#: Milliseconds something may take at most until it is so: long, because other tests and their
#: workers share the machine.
PATIENCE = 60_000


def _follow(worker: subprocess.Popen, ready: threading.Event) -> None:
    """Read what a worker prints to its end, so that it never waits for a reader; its being ready,
    or its end, sets the event.
    """
    for line in worker.stdout:
        if line.strip() == "worker ready":
            ready.set()
        else:
            print(line, end="", flush=True)
    worker.wait()
    ready.set()


@functools.cache
def _worker() -> subprocess.Popen:
    """A worker for all tests of this run, once it is ready."""
    var = tempfile.TemporaryDirectory(prefix="northpace-browser-")
    (Path(var.name) / "files").symlink_to(default_storage.location)
    env = {
        **os.environ,
        "NORTHPACE_DB_NAME": connection.settings_dict["NAME"],
        "NORTHPACE_VAR": var.name,
        "PYTHONPATH": str(ROOT),
    }
    worker = subprocess.Popen(
        [sys.executable, "manage.py", "work"], cwd=ROOT, env=env, stdout=subprocess.PIPE, text=True
    )
    # on a machine where nothing was compiled yet this takes a minute, which no test should have to
    # wait for
    ready = threading.Event()
    reader = threading.Thread(target=_follow, args=(worker, ready), daemon=True)
    reader.start()

    def stop() -> None:
        worker.terminate()
        worker.wait(40)
        reader.join()
        worker.stdout.close()
        var.cleanup()
        _worker.cache_clear()

    KEPT.append(stop)
    if not ready.wait(READY) or worker.poll() is not None:
        raise RuntimeError(
            f"the worker was not ready within {READY} s, or ended with {worker.poll()}"
        )
    return worker


@functools.cache
def _browser() -> Browser:
    """The browser for all tests of this run."""
    playwright = sync_playwright().start()
    browser = launch(playwright)

    def stop() -> None:
        browser.close()
        playwright.stop()
        _browser.cache_clear()

    KEPT.append(stop)
    return browser


@override_settings(HANDS={"quick": 1, "exact": 1, "work": 1})
class BrowserCase(Emptied, StaticLiveServerTestCase):
    """Opens a page on a fresh workshop for every test; fails on any error of the page's scripts."""

    @classmethod
    def setUpClass(cls):
        # the browser's driver runs an event loop in this thread; the database calls of the tests
        # are plain ones
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        super().setUpClass()
        if _worker().poll() is not None:
            raise RuntimeError(f"the worker has ended with {_worker().poll()}")
        if hands.close not in KEPT:
            KEPT.append(hands.close)
        cls._browser = _browser()
        expect.set_options(timeout=PATIENCE)

    def _callTestMethod(self, method):
        try:
            super()._callTestMethod(method)
        except Exception:
            self.tell()
            raise

    def tell(self):
        """Print what the page shows and what is queued: a test that waited in vain cannot say what
        was there instead.
        """
        print(
            f"\n{self.id()} ended on "
            f"{self.page.url}\n{self.page.locator('body').inner_text(timeout=5_000)[:3000]}",
            flush=True,
        )
        with connection.cursor() as cursor:
            for table in ("parts_part", "procrastinate_jobs", "procrastinate_workers"):
                cursor.execute(
                    f"select row_to_json(t)::text from (select * from {table} order by id "
                    "desc limit 8) t"
                )
                for (row,) in cursor.fetchall():
                    print(table, row[:400], flush=True)

    def setUp(self):
        self.workshop = make_workshop()
        self.context = self._browser.new_context(
            viewport={"width": 1280, "height": 800},
            # a quarter of the pixels of the stage, which is drawn without a graphics processor
            device_scale_factor=0.5,
            accept_downloads=True,
        )
        self.page = self.context.new_page()
        self.page.set_default_timeout(PATIENCE)
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
            """([bytes, name]) => {
                const transfer = new DataTransfer();
                transfer.items.add(new File([new Uint8Array(bytes)], name));
                return transfer;
            }""",
            [list(data), name],
        )
        self.page.dispatch_event("nav", "dragover", {"dataTransfer": handle})
        self.page.dispatch_event("nav", "drop", {"dataTransfer": handle})

    def figure(self, name: str) -> str:
        return self.page.locator(f"[data-figure={name}]").inner_text()

    def exact(self):
        """Wait until the exact figures stand."""
        expect(self.page.locator("dl[data-state=exact]")).to_be_visible()

    def saved(self, do, words=""):
        """Do something that keeps a new version; return its settings once the exact
        figures stand.
        """
        with self.page.expect_response(
            lambda answer: (
                (answer.request.method == "PATCH" or answer.url.endswith("/undo"))
                and words in (answer.request.post_data or "")
            )
        ) as kept:
            do()
        number = kept.value.json()["latest"]["number"]
        expect(self.page.locator(f"dl[data-state=exact][data-version='{number}']")).to_be_visible()
        return Plan.objects.get().latest.settings

    def plan(self, data: bytes, name: str):
        """Sign in, drop a file, plan it, and wait for the exact figures."""
        self.sign_in()
        self.drop(data, name)
        self.page.locator(f"[data-part={name.rsplit('.', 1)[0]}]").get_by_role(
            "button", name="Plan it"
        ).click()
        self.page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
        self.exact()

    def on_stage(self, point, size):
        """Where a point of the bed (mm) is on the page, as the stage looks at a part of a size when
        it comes.
        """
        box = self.page.get_by_label("The part on the bed").bounding_box()
        target = np.array([0, 0, 0.45 * size[2]])
        from_ = np.array([0.55, -1, 0.72])
        away = np.linalg.norm(size) / 2 * 4.1 / min(1, box["width"] / box["height"])
        at = target + from_ / np.linalg.norm(from_) * away
        look = (target - at) / np.linalg.norm(target - at)
        right = np.cross(look, [0, 0, 1])
        right /= np.linalg.norm(right)
        way = np.asarray(point, float) - at
        scale = box["height"] / 2 / np.tan(np.radians(16)) / (way @ look)
        x, y = way @ right * scale, way @ np.cross(right, look) * scale
        return box["x"] + box["width"] / 2 + x, box["y"] + box["height"] / 2 - y

    def drag(self, from_, to):
        """Drag from one place of the page to another."""
        self.page.mouse.move(*from_)
        self.page.mouse.down()
        self.page.mouse.move(*to, steps=6)
        self.page.mouse.up()

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
        open_tab(self.page, name)
