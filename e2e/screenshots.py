"""`make screenshots`: the main views of the demo, at 1280 x 800."""

from __future__ import annotations

import os
import sys
from pathlib import Path

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")

import django

django.setup()

from e2e.browser import BrowserTest  # noqa: E402 - Django must be set up first


class Screenshots(BrowserTest):
    """Not a test: found by no label that `make test` gives, run by the main program below."""

    folder = Path()

    def shoot(self, name: str) -> None:
        self.page.wait_for_load_state("networkidle")
        self.page.wait_for_timeout(350)
        self.page.screenshot(path=str(self.folder / f"{name}.png"))

    def views(self) -> None:
        page = self.enter()
        self.shoot("jobs")
        page.get_by_role("link", name="Estate car, two 12s").click()
        for key, name in enumerate(("load", "amplifiers", "draw", "supply", "cable"), start=1):
            page.keyboard.press(str(key))
            self.shoot(f"job-{name}")
        page.get_by_role("complementary").get_by_role("button", name="show the sum").first.click()
        self.shoot("the-sum")
        page.keyboard.press("Escape")
        page.get_by_role("link", name="Jobs", exact=True).click()
        page.get_by_role("link", name="Book-delivery van").click()
        page.get_by_role("button", name="Garage").click()
        page.keyboard.press("4")
        self.shoot("job-van-garage")
        page.get_by_role("button", name="Daylight").click()
        page.get_by_role("link", name="Bench").click()
        page.get_by_role("heading", name="Bench").wait_for()
        self.shoot("bench")
        page.get_by_role("link", name="Marram 1200 mono").click()
        page.get_by_role("img").first.wait_for(state="attached")
        self.shoot("bench-amplifier")


def main(folder: Path) -> int:
    """Take the pictures in a database of their own."""
    import unittest

    from django.test.runner import DiscoverRunner

    folder.mkdir(parents=True, exist_ok=True)
    Screenshots.folder = folder
    runner = DiscoverRunner(verbosity=1)
    runner.setup_test_environment()
    databases = runner.setup_databases()
    try:
        result = unittest.TextTestRunner().run(unittest.TestSuite([Screenshots("views")]))
    finally:
        runner.teardown_databases(databases)
    return 0 if result.wasSuccessful() else 1


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
