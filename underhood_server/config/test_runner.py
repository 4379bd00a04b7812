"""Django's test runner with a closing line that counts, and before it what took longest.

With `--parallel` what takes longest comes first, the stories in the browser among it; what wants the machine for itself
comes after everything else, one after the other.
"""

from __future__ import annotations

import logging
import time
import unittest
import warnings
from pathlib import Path
from typing import Any

from django.conf import settings
from django.test import override_settings
from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestRunner

from underhood.circuit import compiled

FIRST, ALONE = "first", "alone"
"""Set on a test case that is begun with, and on one that is not run beside others."""
SLOWEST = 10
PARTS = Path(".parts")
"""What `make test` did before: seconds and what, a line each."""


class Result(unittest.TextTestResult):
    """Knows how long each class of tests took."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.seconds: dict[str, float] = {}

    def took(self, test: unittest.TestCase, seconds: float) -> None:
        """A class is done, of which this is one."""
        self.seconds[f"{type(test).__module__}.{type(test).__qualname__}"] = seconds


class TimedRunner(RemoteTestRunner):
    """Runs a class of tests in a process of its own."""

    def run(self, test: Any) -> Any:
        began = time.perf_counter()
        result = super().run(test)
        result.events.append(("took", 0, time.perf_counter() - began))
        return result


class TimedSuite(ParallelTestSuite):
    """Classes of tests, so many at once."""

    runner_class = TimedRunner


class CountingRunner(DiscoverRunner):
    """Ends with `tests: N passed, N failed, N skipped`; warnings are errors."""

    parallel_test_suite = TimedSuite

    def get_resultclass(self) -> Any:
        return super().get_resultclass() or Result

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        compiled.prepare()  # the processes that run tests are forked from this one, and have it
        # Refusals are what many tests are about; as log lines they would hide what went wrong.
        for noisy in ("django.request", "django.security", "axes", "underhood.requests"):
            logging.getLogger(noisy).setLevel(logging.CRITICAL)
        # A password of a test is no secret: the quick hash saves half a second for each person made.
        settings.HEAVY_WORK_HERE = True
        # In memory: what code of yesterday worked out must not answer for that of today.
        memory = {"BACKEND": "django.core.cache.backends.locmem.LocMemCache", "LOCATION": "results"}
        override_settings(CACHES={**settings.CACHES, "results": memory}).enable()
        settings.CHOSEN_HASHERS = settings.PASSWORD_HASHERS
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

    def build_suite(self, *args: Any, **kwargs: Any) -> unittest.TestSuite:
        suite = super().build_suite(*args, **kwargs)
        if not isinstance(suite, ParallelTestSuite):
            return suite
        alone = [each for each in suite.subsuites if _is(ALONE, each)]
        suite.subsuites = [each for each in suite.subsuites if not _is(ALONE, each)]
        suite.subsuites.sort(key=lambda each: not _is(FIRST, each))
        return unittest.TestSuite([suite, *alone])

    def run_tests(self, test_labels: list[str], **kwargs: Any) -> int:
        warnings.simplefilter("error")
        return super().run_tests(test_labels, **kwargs)

    def suite_result(self, suite: unittest.TestSuite, result: Any, **kwargs: Any) -> int:
        # A test that fails in itself and in its clearing up, or in several of its cases, is one test.
        failed = len({_test_of(test) for test, _ in (*result.failures, *result.errors)}) + len(
            result.unexpectedSuccesses
        )
        skipped = len(result.skipped)
        parts = [(seconds, name) for name, seconds in getattr(result, "seconds", {}).items()]
        if parts and PARTS.exists():
            before = (line.split(" ", 1) for line in PARTS.read_text(encoding="utf-8").splitlines())
            parts += [(float(seconds), name) for seconds, name in before]
        for seconds, name in sorted(parts, reverse=True)[:SLOWEST]:
            print(f"{seconds:6.0f} s  {name}")
        print(f"tests: {result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
        return super().suite_result(suite, result, **kwargs)


def _is(mark: str, suite: unittest.TestSuite) -> bool:
    return any(getattr(type(each), mark, False) for each in suite)


def _test_of(test: Any) -> str:
    """The test that a failure is of; a case within it (`subTest`) counts as the test."""
    return str(getattr(test, "test_case", test).id())
