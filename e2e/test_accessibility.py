"""Every main view at three widths and in both themes: axe's rules, targets of a finger's size, readable letters.

One load of each view; the window is resized and the theme switched under it, as somebody does who turns a tablet.
"""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

from playwright.sync_api import ViewportSize

from e2e.browser import PHONE, TABLET, VIEWPORT, BrowserTest
from underhood_server.bench.models import Amplifier
from underhood_server.jobs.models import Job

AXE = Path(__file__).resolve().parents[1] / "node_modules" / "axe-core" / "axe.min.js"
STATIONS = ("load", "amplifiers", "draw", "supply", "cable", "plan", "proof")
LOAD_VIEWS = ("wiring", "curves", "heat", "readings")
PROOF_VIEWS = ("verdict", "log", "history", "more")
CABLE_VIEWS = ("sizes", "fuses", "leads", "schedule")
BENCH_VIEWS = ("curves", "readings", "claims", "supply", "record")
HALF = ViewportSize(width=640, height=400)
"""What 200 % leaves of 1280 x 800."""
FAULTS = "resultTypes: ['violations'], preload: false"
"""What axe tells of: naming all that is as it should be takes it three times as long."""
SERIOUS = ("moderate", "serious", "critical")

LOOK = """() => {
  const found = [], room = document.documentElement.clientWidth;
  const wide = document.documentElement.scrollWidth;
  if (wide > room + 1) found.push(`the page is ${wide} px wide in ${room}`);
  const seen = (e) => {
    const box = e.getBoundingClientRect();
    return box.width > 1 && box.height > 1 && getComputedStyle(e).visibility !== "hidden" && !e.closest(".sr-only");
  };
  const targets = "a[href], button, input, select, textarea, summary, [role=tab], [role=radio]";
  for (const e of document.querySelectorAll(targets)) {
    // A word of the glossary stands in its line (WCAG 2.5.5, inline); a band of the path has its words beside it.
    if (!seen(e) || e.matches("[data-term], [aria-hidden=true]")) continue;
    const ticked = e.type === "checkbox" || e.type === "radio";
    const { width, height } = ((ticked && e.labels?.[0]) || e).getBoundingClientRect();
    if (width < 43.5 || height < 43.5)
      found.push(`${e.tagName} "${(e.ariaLabel ?? e.textContent).slice(0, 40)}" ${width | 0} x ${height | 0}`);
  }
  const words = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (words.nextNode()) {
    const { textContent, parentElement } = words.currentNode;
    const size = parseFloat(getComputedStyle(parentElement).fontSize);
    if (textContent.trim() && seen(parentElement) && size < 12) found.push(`"${textContent}" in ${size} px`);
  }
  return [...new Set(found)];
}"""


SETTLE = "new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))"


class Views(BrowserTest):
    def faults(self, more: str = "") -> list[Any]:
        found = self.page.evaluate(f"axe.run({{ {FAULTS}{more} }})")
        return [
            (fault["id"], node["target"], node["failureSummary"])
            for fault in found["violations"]
            for node in fault["nodes"]
            if fault["impact"] in SERIOUS
        ]

    def look_at(self, addresses: list[str]) -> None:
        """At every width, in either theme."""
        page, axe = self.page, AXE.read_text(encoding="utf-8")
        for address in addresses:
            page.set_viewport_size(VIEWPORT)
            page.goto(address)
            page.wait_for_load_state("networkidle")
            page.evaluate("document.querySelectorAll('details').forEach((each) => (each.open = true))")
            page.evaluate(axe)
            with self.subTest(address, theme="garage"):
                page.evaluate("document.documentElement.dataset.theme = 'garage'")
                self.assertEqual(self.faults(", runOnly: ['color-contrast']"), [])
                page.evaluate("document.documentElement.dataset.theme = 'daylight'")
            for size in (VIEWPORT, TABLET, HALF, PHONE):
                page.set_viewport_size(size)
                page.evaluate(SETTLE)
                with self.subTest(address, width=size["width"]):
                    self.assertEqual(page.evaluate(LOOK), [])
                    # Names, roles and colours are those of the widest and the narrowest; what scrolls is its own.
                    seen = ", runOnly: ['scrollable-region-focusable']" if size is TABLET else ""
                    self.assertEqual([] if size is HALF else self.faults(seen), [])


class Jobs(Views):
    def test_views_of_a_job_have_no_faults(self) -> None:
        page = self.enter()
        found = [page.url, f"{page.url}/new"]
        page.get_by_role("link", name="Estate car, two 12s").click()
        page.get_by_role("complementary", name="Ledger").wait_for()
        found += [re.sub(r"/\w+$", f"/{station}", page.url) for station in STATIONS]
        found += [re.sub(r"/\w+$", f"/load?view={view}", page.url) for view in LOAD_VIEWS]
        found += [re.sub(r"/\w+$", f"/proof?view={view}", page.url) for view in PROOF_VIEWS]
        page.goto(self.live_server_url)
        page.get_by_role("link", name="Book-delivery van").click()
        page.get_by_role("complementary", name="Ledger").wait_for()
        found += [re.sub(r"/\w+$", f"/cable?view={view}", page.url) for view in CABLE_VIEWS]
        found.append(f"{self.live_server_url}/jobs/{Job.objects.get(title='Estate car, two 12s').pk}/sheet")
        self.look_at(found)


class Others(Views):
    def test_all_other_views_have_no_faults(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Bench").click()
        found = [page.url]
        page.get_by_role("link", name="Sandlance 1000 mono").click()
        page.get_by_role("figure").wait_for()
        found += [re.sub(r"/\w+$", f"/{view}", page.url) for view in BENCH_VIEWS]
        here = self.live_server_url
        two = ",".join(str(each.pk) for each in Amplifier.objects.all()[:2])
        self.look_at(
            [
                *found,
                f"{here}/bench/compare?amplifiers={two}",
                f"{here}/bench/resistors",
                f"{here}/bench/practice?view=exercises",
                *(f"{here}/guide/{page}" for page in ("steps", "model", "schools", "glossary")),
                f"{here}/tones",
                f"{here}/tones?view=set-up",
                f"{here}/parts",
                f"{here}/parts?list=prices",
                *(f"{here}/shop{part}" for part in ("", "/people", "/records", "/data", "/you")),
            ]
        )
