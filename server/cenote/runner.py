"""Django's test runner, closing with one line of counts."""

import logging
import sys
import time
import unittest
from typing import Any

from django.conf import settings
from django.test.runner import DiscoverRunner

SLOWEST = 12
"""Tests named with their times: where a run that grows too long has to be shortened."""


class TimedResult(unittest.TextTestResult):
    """Remembers how long each test took, its own set-up included."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.took: list[tuple[float, str]] = []

    def startTest(self, test: unittest.TestCase) -> None:
        self.began = time.perf_counter()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        self.took.append((time.perf_counter() - self.began, test.id()))
        super().stopTest(test)


class CountingRunner(DiscoverRunner):
    """Names the slowest tests; prints 'N passed, N failed' last."""

    def get_resultclass(self) -> Any:
        return super().get_resultclass() or TimedResult

    def setup_test_environment(self, **kwargs: Any) -> None:
        """Refusals are what many tests are about; only real errors are worth a line."""
        super().setup_test_environment(**kwargs)
        # A hash that takes its time is wanted of those who guess, not of hundreds of people made for tests.
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
        logging.getLogger("django.request").setLevel(logging.ERROR)

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> Any:
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        self.took = sorted(getattr(result, "took", []), reverse=True)[:SLOWEST]
        self.counts = (result.testsRun - failed - skipped, failed, skipped)
        return super().suite_result(suite, result, **kwargs)

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        """Threads of the live server may still hold connections, which would keep the database from going."""
        for connection, _, destroy in old_config:
            if destroy:
                with connection.cursor() as cursor:
                    cursor.execute(
                        "select pg_terminate_backend(pid) from pg_stat_activity"
                        " where datname = current_database() and pid <> pg_backend_pid()"
                    )
        super().teardown_databases(old_config, **kwargs)

    def run_tests(self, test_labels: Any, **kwargs: Any) -> Any:
        outcome = super().run_tests(test_labels, **kwargs)
        passed, failed, skipped = self.counts
        sys.stdout.flush()
        sys.stderr.flush()
        for seconds, name in self.took if len(self.took) == SLOWEST else []:
            print(f"{seconds:6.1f} s  {name}")
        print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""), flush=True)
        return outcome
