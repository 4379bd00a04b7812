"""Django's test runner with a closing line that counts.

With `--parallel` some still come one after the other, after everything else: the stories in the browser, which wait for
a page as a person does while the page waits for the processor, and what begins processes of its own.
"""

from __future__ import annotations

import logging
import unittest
import warnings
from typing import Any

from django.conf import settings
from django.test import override_settings
from django.test.runner import DiscoverRunner, ParallelTestSuite

ALONE = "alone"
"""Set on a test case that is not run beside others."""


class CountingRunner(DiscoverRunner):
    """Ends with `tests: N passed, N failed, N skipped`; warnings are errors."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
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
        alone = [each for each in suite.subsuites if _alone(each)]
        suite.subsuites = [each for each in suite.subsuites if not _alone(each)]
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
        print(f"tests: {result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
        return super().suite_result(suite, result, **kwargs)


def _alone(suite: unittest.TestSuite) -> bool:
    return any(getattr(type(each), ALONE, False) for each in suite)


def _test_of(test: Any) -> str:
    """The test that a failure is of; a case within it (`subTest`) counts as the test."""
    return str(getattr(test, "test_case", test).id())
