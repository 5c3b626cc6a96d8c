"""Django's runner with a tally at the end, and files of its own."""

from __future__ import annotations

import faulthandler
import os
import sys
import tempfile
import time
import unittest
from collections.abc import Callable
from typing import Any

from django.db import connection
from django.test.runner import DiscoverRunner
from django.test.utils import override_settings

#: Set to list that many of the slowest tests at the end.
SLOWEST = int(os.environ.get("NORTHPACE_SLOWEST", "0"))
#: Seconds after which a test that has not ended says where it stands and ends the run.
LONGEST = int(os.environ.get("NORTHPACE_LONGEST", "900"))


#: How to stop what is kept running from one test case to the next.
KEPT: list[Callable[[], object]] = []


def stop_kept() -> None:
    """Stop it: at the end, while the database is still there, and before tests whose work it would
    take.
    """
    while KEPT:
        KEPT.pop()()


class Timed(unittest.TextTestResult):
    """Records how long each test took. A test that takes longer than `LONGEST` ends the run, with a
    print of where it stands.
    """

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.seconds: dict[str, float] = {}

    def startTest(self, test: unittest.TestCase) -> None:
        self._begun = time.monotonic()
        faulthandler.dump_traceback_later(LONGEST, exit=True, file=sys.__stderr__)
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        faulthandler.cancel_dump_traceback_later()
        self.seconds[test.id()] = time.monotonic() - self._begun
        super().stopTest(test)


class Runner(DiscoverRunner):
    """Prints ``tests: N passed, N failed``; uploaded files go to a folder that is deleted."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        self._folder = tempfile.TemporaryDirectory(prefix="northpace-tests-")
        # a password is made slow to guess, which a second a test cannot afford
        self._changed = override_settings(
            LOOPBACK_PRINTERS=True,
            FOLDER_ROOTS=[tempfile.gettempdir()],
            # a test's transaction is not seen by other processes
            HANDS={"quick": 0, "exact": 0, "work": 0},
            PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"],
            STORAGES={
                "default": {
                    "BACKEND": "django.core.files.storage.FileSystemStorage",
                    "OPTIONS": {"location": self._folder.name},
                },
                "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
            },
        )
        self._changed.enable()

    def teardown_test_environment(self, **kwargs: Any) -> None:
        self._changed.disable()
        self._folder.cleanup()
        super().teardown_test_environment(**kwargs)

    def get_resultclass(self) -> Any:
        return Timed

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        stop_kept()
        if not old_config:  # these tests needed none
            return
        # threads of the live server may still hold a connection that nobody uses any more
        with connection.cursor() as cursor:
            cursor.execute(
                "select pg_terminate_backend(pid) from pg_stat_activity where datname = "
                "current_database() and pid <> pg_backend_pid()"
            )
        super().teardown_databases(old_config, **kwargs)

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> int:
        bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        if SLOWEST:
            for test, seconds in sorted(result.seconds.items(), key=lambda found: -found[1])[
                :SLOWEST
            ]:
                print(f"{seconds:8.1f} s  {test}")
        print(f"tests: {result.testsRun - bad - skipped} passed, {bad} failed", flush=True)
        return int(super().suite_result(suite, result, **kwargs))
