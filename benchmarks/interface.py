"""How long a person waits: from a changed value to the repainted path, and to the first page."""

from __future__ import annotations

import statistics
import unittest
from pathlib import Path

from django.conf import settings
from django.test.utils import get_runner

from benchmarks.speed import row
from e2e.browser import BrowserTest

CHANGES = 40
WATCH = """
([field, low, high]) => new Promise((resolve, reject) => {
  const input = document.querySelector(`[data-field="${field}"]`);
  const strip = document.querySelector("[data-path-strip]");
  const start = performance.now();
  setTimeout(() => reject(new Error("nothing was painted")), 10000);
  const observer = new MutationObserver(() => {
    observer.disconnect();
    requestAnimationFrame(() => setTimeout(() => resolve(performance.now() - start)));
  });
  observer.observe(strip, { subtree: true, attributes: true, childList: true, characterData: true });
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set;
  set.call(input, String(low + Math.random() * (high - low)));
  input.dispatchEvent(new Event("input", { bubbles: true }));
})
"""


class Waiting(BrowserTest):
    """Run by `show`, never by `make test`."""

    def changes(self, station: str, of: list[str | int]) -> None:
        """The same value changed again and again, with a person's pauses."""
        taken = []
        for _ in range(CHANGES):
            taken.append(self.page.evaluate(WATCH, of))
            self.page.wait_for_timeout(1200)
        row(f"change of a value to repainted path, {station} station", statistics.median(taken), "≤ 60 ms")
        row("  in 95 of 100", statistics.quantiles(taken, n=20)[-1], "≤ 100 ms")

    def measure(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Book-delivery van").click()
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Supply").click()
        page.get_by_role("table", name="Sources").wait_for()
        page.wait_for_timeout(1500)
        # Less than the car takes there, so that each value shows in the path.
        self.changes("Supply", ["chargers.0.idle_a", 40, 58])
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Load").click()
        page.get_by_role("textbox", name="High-pass").wait_for()
        page.wait_for_timeout(1500)
        self.changes("Load", ["amplifiers.0.load.high_pass_hz", 15, 25])
        page.goto(self.live_server_url + "/jobs")
        page.get_by_role("link", name="Book-delivery van").wait_for()
        ready = page.evaluate("performance.now()")
        row("first page, cold, until a job can be clicked", ready, "≤ 1500 ms")


def show() -> None:
    """The table of the interface."""
    first = Path(settings.INTERFACE) / "index.html"
    names = [part.split('"')[0] for part in first.read_text().split("/static/")[1:]]
    scripts = [settings.INTERFACE / name for name in names if name.endswith(".js")]
    size = sum(path.with_name(f"{path.name}.br").stat().st_size for path in scripts) / 1000
    print(f"  {'script of the first page, as sent (Brotli)':<58}{size:>8.0f} kB   goal ≤ 150 kB")
    runner = get_runner(settings)(verbosity=0, interactive=False)
    runner.setup_test_environment()
    databases = runner.setup_databases()
    try:
        result = unittest.TestResult()
        unittest.TestSuite([Waiting("measure")]).run(result)
        for _, trouble in [*result.errors, *result.failures]:
            print(trouble)
    finally:
        runner.teardown_databases(databases)
        runner.teardown_test_environment()
