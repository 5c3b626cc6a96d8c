"""Django's runner with a tally at the end, and files of its own."""

from __future__ import annotations

import tempfile
from typing import Any

from django.db import connection
from django.test.runner import DiscoverRunner
from django.test.utils import override_settings


class Runner(DiscoverRunner):
    """Prints ``tests: N passed, N failed``; uploaded files go to a folder that is deleted."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        self._folder = tempfile.TemporaryDirectory(prefix="northpace-tests-")
        self._files = override_settings(STORAGES={
            "default": {"BACKEND": "django.core.files.storage.FileSystemStorage", "OPTIONS": {"location": self._folder.name}},
            "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}})
        self._files.enable()

    def teardown_test_environment(self, **kwargs: Any) -> None:
        self._files.disable()
        self._folder.cleanup()
        super().teardown_test_environment(**kwargs)

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        # threads of the live server may still hold a connection that nobody uses any more
        with connection.cursor() as cursor:
            cursor.execute("select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()")
        super().teardown_databases(old_config, **kwargs)

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> int:
        bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        print(f"tests: {result.testsRun - bad - skipped} passed, {bad} failed", flush=True)
        return int(super().suite_result(suite, result, **kwargs))
