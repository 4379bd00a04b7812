"""`make screenshots`: the main views of the demo, at 1280 x 800."""

from __future__ import annotations

import os
import re
import sys
from pathlib import Path

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "underhood_server.config.settings")

import django

django.setup()

from playwright.sync_api import expect  # noqa: E402

from e2e.browser import PHONE, TABLET, VIEWPORT, BrowserTest, Works  # noqa: E402 - Django must be set up first


class Screenshots(BrowserTest):
    """Not a test: found by no label that `make test` gives, run by the main program below."""

    folder = Path()

    def shoot(self, name: str) -> None:
        self.page.wait_for_load_state("networkidle")
        self.page.wait_for_timeout(350)  # what was asked for by key is under way by now
        expect(self.page.get_by_text(re.compile("^(Opening|Working it out)"))).to_have_count(0)
        self.page.wait_for_timeout(350)
        self.page.screenshot(path=str(self.folder / f"{name}.png"))

    def views(self) -> None:
        page = self.enter()
        self.shoot("jobs")
        page.get_by_role("link", name="Estate car, two 12s").click()
        page.get_by_role("group", name="Path of current").wait_for()
        for key, name in enumerate(("load", "amplifiers", "draw", "supply"), start=1):
            page.keyboard.press(str(key))
            self.shoot(f"job-{name}")
        page.keyboard.press("7")
        page.get_by_role("tab", name="Verdict").click()
        page.get_by_role("table", name="The model, corrected").wait_for()
        page.get_by_role("region", name="Verdict").evaluate("at => at.scrollIntoView()")
        self.shoot("job-proof")
        page.get_by_role("link", name="Job sheet").click()
        page.frame_locator("iframe").get_by_role("heading", name="What to expect").wait_for()
        page.wait_for_timeout(600)  # what is in the frame never counts as idle
        page.screenshot(path=str(self.folder / "job-sheet.png"))
        page.go_back()
        page.get_by_role("navigation", name="Stations").wait_for()
        page.keyboard.press("4")
        self.in_the_hand()
        self.plan()
        page.get_by_role("link", name="Jobs", exact=True).click()
        page.get_by_role("link", name="Book-delivery van").click()
        self.cables()
        page.get_by_role("button", name="Garage").click()
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Supply").click()
        page.get_by_role("button", name="Run the simulation").click()
        page.get_by_role("table", name="What came of the simulation").wait_for()
        page.get_by_role("button", name="Run the simulation").scroll_into_view_if_needed()
        page.mouse.wheel(0, 420)
        self.shoot("job-van-garage")
        page.get_by_role("button", name="Daylight").click()
        self.bench()
        self.practice()
        self.tones()

    def in_the_hand(self) -> None:
        """A job on a tablet with its ledger opened, and a new one begun on a phone."""
        page = self.page
        page.set_viewport_size(TABLET)
        page.get_by_role("button", name="Open the ledger").click()
        self.shoot("tablet")
        page.get_by_role("button", name="Close the ledger").click()
        here = page.url
        page.goto(f"{self.live_server_url}/jobs/new")
        page.set_viewport_size(PHONE)
        page.get_by_label("From the bench").select_option(label="Cuttle 650 mono")
        page.get_by_role("group", name="The amplifier").get_by_text("bench, sheet").wait_for()
        page.get_by_role("heading", name="New job").evaluate("at => at.scrollIntoView()")
        self.shoot("phone")
        page.set_viewport_size(VIEWPORT)
        page.goto(here)

    def plan(self) -> None:
        """What a search of the demo's price list found for the car."""
        page = self.page
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Plan").click()
        works = Works()
        page.get_by_role("button", name="Find the plan").click()
        page.get_by_role("table", name="Plans", exact=True).wait_for(timeout=300_000)
        works.stop()
        page.get_by_role("heading", name="Where money stops buying").evaluate("at => at.scrollIntoView()")
        self.shoot("job-plan")

    def cables(self) -> None:
        """The van's cables, with the path out of the way."""
        page = self.page
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Cable").click()
        page.get_by_role("table", name="Sizes").wait_for()
        page.get_by_role("table", name="Cables", exact=True).get_by_role("button", name="Main run").click()
        page.get_by_role("heading", name="Sizes for Main run").wait_for()
        page.mouse.wheel(0, 330)
        self.shoot("job-cable")

    def bench(self) -> None:
        page = self.page
        page.get_by_role("link", name="Bench").click()
        page.get_by_role("heading", name="Bench").wait_for()
        self.shoot("bench")
        page.get_by_role("link", name="Marram 1200 mono").click()
        page.get_by_role("radio", name="1 % THD").click()
        page.get_by_label("Laid over it").select_option(label="sheet of 2022-06-02")
        page.get_by_text("1 % THD, 2022").first.wait_for()
        self.shoot("bench-curves")
        page.get_by_role("link", name="Bench", exact=True).first.click()
        page.get_by_role("link", name="Sandlance 1000 mono").click()
        page.get_by_role("tab", name="Readings").click()
        page.get_by_role("button", name="row 4: off its own line").click()
        self.shoot("bench-readings")
        page.get_by_role("link", name="Bench", exact=True).first.click()
        page.get_by_role("link", name="Compare").click()
        for name in ("Marram 1200 mono", "Groyne 3000 mono", "Skerry 800 mono", "Cuttle 650 mono", "Withy 4x70"):
            page.get_by_role("button", name=name).click()
        page.get_by_role("button", name="bridged").click()
        self.shoot("bench-compare")

    def practice(self) -> None:
        """An exercise at full output, its stops seen to."""
        page = self.page
        page.goto(f"{self.live_server_url}/bench/practice?view=exercises")
        page.get_by_role("button", name="The lights dim").click()
        page.get_by_text("On a real bench, before").wait_for()
        for tick in page.get_by_role("group", name="On a real bench").get_by_role("checkbox").all():
            tick.check()
        page.get_by_role("slider").fill("-0.6")
        page.wait_for_timeout(2000)
        page.screenshot(path=str(self.folder / "bench-practice.png"))

    def tones(self) -> None:
        page = self.page
        page.get_by_role("link", name="Parts").click()
        page.get_by_role("table", name="Drivers").wait_for()
        page.get_by_role("link", name="Shop").click()
        page.get_by_role("table", name="Cable on the shelf").wait_for()
        self.shoot("shop")
        page.get_by_role("link", name="Tones").click()
        page.get_by_role("tab", name="Set-up sheet").click()
        page.get_by_label("Amplifier").select_option(label="Estate car, two 12s: Marram 1200 mono")
        page.get_by_role("article").wait_for()
        self.shoot("set-up-sheet")


def main(folder: Path) -> int:
    """Take the pictures in a database of their own."""
    import unittest

    from django.test.runner import DiscoverRunner

    folder.mkdir(parents=True, exist_ok=True)
    Screenshots.folder = folder
    runner = DiscoverRunner(verbosity=1, interactive=False)
    runner.setup_test_environment()
    databases = runner.setup_databases()
    try:
        result = unittest.TextTestRunner().run(unittest.TestSuite([Screenshots("views")]))
    finally:
        runner.teardown_databases(databases)
    return 0 if result.wasSuccessful() else 1


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
