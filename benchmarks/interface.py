"""How long a person waits: from a changed value to the repainted path, and to the first page."""

from __future__ import annotations

import statistics
from pathlib import Path

from django.conf import settings
from playwright.sync_api import Page, sync_playwright

from benchmarks.speed import row
from checks.server import demo
from e2e.browser import CHROMIUM, FLAGS, VIEWPORT

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


def changes(page: Page, station: str, of: list[str | int]) -> None:
    """The same value changed again and again, with a person's pauses."""
    taken = []
    for _ in range(CHANGES):
        taken.append(page.evaluate(WATCH, of))
        page.wait_for_timeout(1200)
    row(f"change of a value to repainted path, {station} station", statistics.median(taken), "≤ 60 ms")
    row("  in 95 of 100", statistics.quantiles(taken, n=20)[-1], "≤ 100 ms")


def wait(page: Page, address: str) -> None:
    """What a person does who waits for each answer."""
    page.goto(address)
    page.get_by_role("button", name="Enter the demo workshop").click()
    page.get_by_role("link", name="Book-delivery van").click()
    page.get_by_role("navigation", name="Stations").get_by_role("link", name="Supply").click()
    page.get_by_role("table", name="Sources").wait_for()
    page.wait_for_timeout(15_000)  # each worker has the engine compiled by now, and the other process has looked around
    # Less than the car takes there, so that each value shows in the path.
    changes(page, "Supply", ["chargers.0.idle_a", 40, 58])
    page.get_by_role("navigation", name="Stations").get_by_role("link", name="Load").click()
    page.get_by_role("textbox", name="High-pass").wait_for()
    page.wait_for_timeout(1500)
    changes(page, "Load", ["amplifiers.0.load.high_pass_hz", 15, 25])
    page.goto(f"{address}/jobs")
    page.get_by_role("link", name="Book-delivery van").wait_for()
    row("first page, cold, until a job can be clicked", page.evaluate("performance.now()"), "≤ 1500 ms")


def show() -> None:
    """The table of the interface, in front of a server as a workshop runs it."""
    first = Path(settings.INTERFACE) / "index.html"
    names = [part.split('"')[0] for part in first.read_text().split("/static/")[1:]]
    scripts = [settings.INTERFACE / name for name in names if name.endswith(".js")]
    size = sum(path.with_name(f"{path.name}.br").stat().st_size for path in scripts) / 1000
    print(f"  {'script of the first page, as sent (Brotli)':<58}{size:>8.0f} kB   goal ≤ 150 kB")
    with demo() as server, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        wait(browser.new_page(viewport=VIEWPORT), server.url)
        browser.close()
