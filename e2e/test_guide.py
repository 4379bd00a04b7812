"""Words lead to what they mean, the path to its fields, and nothing moves when a forecast comes."""

from __future__ import annotations

import re

from playwright.sync_api import Route, expect

from e2e.browser import PHONE, BrowserTest
from underhood_server.jobs.models import Job

SHIFTS = """() => {
  window.shifted = 0;
  new PerformanceObserver((list) => {
    for (const entry of list.getEntries()) window.shifted += entry.value;
  }).observe({ type: "layout-shift", buffered: true });
}"""


class Guide(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.job = Job.objects.get(title__startswith="Estate car")
        self.enter()

    def open(self, station: str) -> None:
        self.page.goto(f"{self.live_server_url}/jobs/{self.job.pk}/{station}")
        self.page.get_by_role("group", name="Path of current").wait_for()

    def test_a_word_says_what_it_means_and_leads_to_all_words(self) -> None:
        page = self.page
        self.open("supply")
        page.get_by_role("complementary", name="Ledger").get_by_role("link", name="Lost to sag").click()
        said = page.get_by_role("dialog", name="lost to sag")
        expect(said).to_contain_text("decibels that are missing")
        said.get_by_role("link", name="All words").click()
        expect(page).to_have_url(re.compile("/guide/glossary#lost-to-sag$"))
        page.set_viewport_size(PHONE)
        for name in ("Ten steps", "Multimeter and clamp", "When the car disagrees", "Schools", "Formulas", "Cautions"):
            page.get_by_role("navigation", name="Pages of the guide").get_by_role("link", name=name).click()
            expect(page.get_by_role("heading", level=1)).to_be_visible()
        page.get_by_role("navigation", name="Pages of the guide").get_by_role("link", name="Schools").click()
        expect(page.get_by_role("region", name="What this workshop chose")).to_contain_text("1 % THD")
        self.assertEqual((self.complaints, self.foreign), ([], []))

    def test_what_the_path_draws_leads_to_its_field(self) -> None:
        page = self.page
        self.open("load")
        path = page.get_by_role("group", name="Path of current")
        path.get_by_role("link", name=re.compile("^Front battery")).click()
        expect(page.locator(":focus")).to_have_attribute("data-field", re.compile(r"^banks\.0"))
        path.get_by_role("link", name=re.compile("^In the coils")).click()
        expect(page.locator(":focus")).to_have_attribute("data-field", re.compile(r"^amplifiers\.0\.load"))
        path.get_by_role("link", name=re.compile("^Lead to Marram")).click()
        expect(page).to_have_url(re.compile("/cable"))

    def test_nothing_moves_when_a_late_forecast_comes(self) -> None:
        page = self.page

        def late(route: Route) -> None:
            page.wait_for_timeout(900)
            route.continue_()

        page.add_init_script(f"({SHIFTS})()")
        page.route("**/api/v1/overviews", late)
        for station in ("load", "amplifiers", "draw", "supply", "cable"):
            with self.subTest(station):
                self.open(station)
                page.wait_for_load_state("networkidle")
                page.wait_for_timeout(500)
                self.assertLess(page.evaluate("window.shifted"), 0.02)
        ledger = page.get_by_role("complementary", name="Ledger")
        figure = ledger.locator(".figure").first
        told, stands = ledger.get_by_text("of before your change"), figure.bounding_box()
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Supply").click()
        page.wait_for_timeout(400)  # what that station asks for the first time is on its way
        self.assertEqual(page.locator("[data-old]").count(), 0)
        page.wait_for_load_state("networkidle")
        expect(told).to_be_hidden()
        page.get_by_role("radio", name="Off", exact=True).click()
        expect(told).to_be_visible(timeout=500)  # long before the answer
        expect(figure).to_have_css("opacity", "0.45")
        self.assertEqual(figure.bounding_box(), stands)
        expect(ledger).to_contain_text("12.31")
        expect(told).to_be_hidden()
        expect(figure).to_have_css("opacity", "1")
        page.wait_for_timeout(500)
        self.assertLess(page.evaluate("window.shifted"), 0.02)
        page.unroute_all(behavior="ignoreErrors")  # what is late of the last station
