"""How long a person waits: from a changed value to the repainted path, and to the first page."""

from __future__ import annotations

import statistics
import unittest
from pathlib import Path

from django.conf import settings
from django.test.utils import get_runner

from benchmarks.speed import row
from e2e.browser import BrowserTest

CHANGES = 15
WATCH = """
() => new Promise((resolve) => {
  const label = [...document.querySelectorAll("label")].find((each) => each.textContent.trim() === "Output at idle");
  const input = document.getElementById(label.htmlFor);
  const strip = document.querySelector("[data-path-strip]");
  const start = performance.now();
  const observer = new MutationObserver(() => {
    observer.disconnect();
    requestAnimationFrame(() => setTimeout(() => resolve(performance.now() - start)));
  });
  observer.observe(strip, { subtree: true, attributes: true, childList: true, characterData: true });
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set;
  set.call(input, String(40 + Math.random() * 30));
  input.dispatchEvent(new Event("input", { bubbles: true }));
})
"""


class Waiting(BrowserTest):
    """Run by `show`, never by `make test`."""

    def measure(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Book-delivery van").click()
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Supply").click()
        page.get_by_role("table", name="Sources").wait_for()
        page.wait_for_timeout(1500)
        taken = []
        for _ in range(CHANGES):
            taken.append(page.evaluate(WATCH))
            page.wait_for_timeout(1200)
        row("change of a value to repainted path, Supply station", statistics.median(taken), "≤ 100 ms")
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
    runner = get_runner(settings)(verbosity=0)
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
