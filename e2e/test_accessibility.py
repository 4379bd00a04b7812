"""Every main view against axe's WCAG rules, in both themes."""

from __future__ import annotations

import re
from pathlib import Path

from e2e.browser import BrowserTest
from underhood_server.bench.models import Amplifier

AXE = Path(__file__).resolve().parents[1] / "node_modules" / "axe-core" / "axe.min.js"
STATIONS = ("load", "amplifiers", "draw", "supply", "cable", "plan")
CABLE_VIEWS = ("sizes", "fuses", "leads", "schedule")
BENCH_VIEWS = ("curves", "readings", "claims", "supply", "record")


class Accessibility(BrowserTest):
    def addresses(self) -> list[str]:
        page = self.enter()
        found = [page.url]
        page.get_by_role("link", name="Estate car, two 12s").click()
        page.get_by_role("complementary", name="Ledger").wait_for()
        found += [re.sub(r"/\w+$", f"/{station}", page.url) for station in STATIONS]
        page.goto(self.live_server_url)
        page.get_by_role("link", name="Book-delivery van").click()
        page.get_by_role("complementary", name="Ledger").wait_for()
        found += [re.sub(r"/\w+$", f"/cable?view={view}", page.url) for view in CABLE_VIEWS]
        page.get_by_role("link", name="Bench").click()
        found.append(page.url)
        page.get_by_role("link", name="Sandlance 1000 mono").click()
        page.get_by_role("figure").wait_for()
        found += [re.sub(r"/\w+$", f"/{view}", page.url) for view in BENCH_VIEWS]
        here = self.live_server_url
        two = ",".join(str(each.pk) for each in Amplifier.objects.all()[:2])
        return [
            *found,
            f"{here}/bench/compare?amplifiers={two}",
            f"{here}/bench/resistors",
            f"{here}/tones",
            f"{here}/parts",
            f"{here}/parts?list=prices",
            f"{here}/shop",
        ]

    def test_views_have_no_accessibility_faults_in_either_theme(self) -> None:
        addresses, page = self.addresses(), self.page
        axe = AXE.read_text(encoding="utf-8")
        for theme in ("daylight", "garage"):
            page.evaluate(f"localStorage.setItem('under-hood-theme', '{theme}')")
            for address in addresses:
                page.goto(address)
                page.wait_for_load_state("networkidle")
                page.evaluate(axe)
                found = page.evaluate("axe.run({ runOnly: ['wcag2a', 'wcag2aa'] })")
                faults = [
                    (fault["id"], node["target"], node["failureSummary"])
                    for fault in found["violations"]
                    for node in fault["nodes"]
                ]
                self.assertEqual(faults, [], f"{theme} {address}")
