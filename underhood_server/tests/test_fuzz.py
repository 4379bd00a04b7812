"""The published API under requests that were made from it, a few of each; `make fuzz` makes thousands."""

from __future__ import annotations

import re
import subprocess
import sys
import unittest

CASES, SEED = 3, 15
"""The same requests at every run; `make fuzz` tries new ones."""


class Fuzzed(unittest.TestCase):
    first = True

    def test_no_request_makes_the_server_fail_or_answer_what_is_not_published(self) -> None:
        command = [sys.executable, "-m", "checks.fuzz", str(CASES), str(SEED)]
        done = subprocess.run(command, capture_output=True, text=True, check=False, timeout=900)  # noqa: S603
        self.assertEqual(done.returncode, 0, done.stdout[-6000:] + done.stderr[-2000:])
        generated = re.search(r"(\d+) generated", done.stdout)
        self.assertGreater(int(generated[1]) if generated else 0, 200, done.stdout[-2000:])
