"""Django's test runner with a closing line that counts."""

from __future__ import annotations

import logging
import unittest
import warnings
from typing import Any

from django.conf import settings
from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Ends with `tests: N passed, N failed, N skipped`; warnings are errors."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        # Refusals are what many tests are about; as log lines they would hide what went wrong.
        for noisy in ("django.request", "django.security", "axes"):
            logging.getLogger(noisy).setLevel(logging.CRITICAL)
        # A password of a test is no secret: the quick hash saves half a second for each person made.
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

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


def _test_of(test: Any) -> str:
    """The test that a failure is of; a case within it (`subTest`) counts as the test."""
    return str(getattr(test, "test_case", test).id())
