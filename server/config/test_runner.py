"""Django's test runner with a closing line that counts."""

from __future__ import annotations

import unittest
import warnings
from typing import Any

from django.conf import settings
from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Ends with `tests: N passed, N failed, N skipped`; warnings are errors."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        # A password of a test is no secret: the quick hash saves half a second for each person made.
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

    def run_tests(self, test_labels: list[str], **kwargs: Any) -> int:
        warnings.simplefilter("error")
        return super().run_tests(test_labels, **kwargs)

    def suite_result(self, suite: unittest.TestSuite, result: Any, **kwargs: Any) -> int:
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        print(f"tests: {result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
        return super().suite_result(suite, result, **kwargs)
