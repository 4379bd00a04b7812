"""The plan in the browser: goals, a search, its stages as jobs, cancelling, and the price list behind it."""

import re

from playwright.sync_api import Page, Route, expect

from e2e.browser import BrowserTest
from underhood.plan import parts_csv
from underhood_server.accounts.models import Workshop
from underhood_server.demo.services import DATA
from underhood_server.jobs.models import Job
from underhood_server.parts.models import Part

FEW = ("Hour in the workshop", "Heron 180", "Heron 180 second-hand", "Curlew 95 AGM", "Fuse 200 A", "Fuse 150 A")


class Plans(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        Part.objects.exclude(name__in=FEW).delete()

    def open_plan(self) -> Page:
        page = self.enter()
        page.get_by_role("link", name="Estate car, two 12s").click()
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Plan").click()
        return page

    def test_goals_a_plan_its_reasons_and_a_stage_as_a_job(self) -> None:
        page = self.open_plan()
        expect(page.get_by_text("▲ missed: 12.35 V")).to_be_visible()
        expect(page.get_by_text(re.compile("✓ met: 38"))).to_be_visible()
        page.get_by_label("at least, V").fill("12,2")
        expect(page.get_by_text("✓ met: 12.35 V")).to_be_visible()
        page.get_by_label("at least, V").fill("13")
        page.get_by_label("Remove the goal: Cost").click()
        page.get_by_label("Budget, parts and hours").fill("700")
        expect(page.get_by_label("Remove the goal: Cost")).to_be_visible()
        page.get_by_role("button", name="Find the plan").click()
        plans = page.get_by_role("table", name="Plans")
        row = plans.get_by_role("row", name=re.compile("that meets every goal"))
        expect(row).to_contain_text("Heron 180 second-hand", timeout=60_000)
        expect(row).to_contain_text("✓ met")
        expect(page.get_by_role("img", name=re.compile(r"^\d+ sets by cost"))).to_be_visible()
        expect(page.get_by_text("Not taken: Front battery: Curlew 95 AGM in its place")).to_be_visible()
        page.get_by_label("at least, V").fill("13.1")
        expect(page.get_by_text("changed since: find the plan again")).to_be_visible()
        page.get_by_role("list", name="Stages").get_by_role("button", name="Open as a job").first.click()
        expect(page.get_by_role("heading", name=re.compile("Estate car, two 12s, stage 1"))).to_be_visible()
        made = Job.objects.get(title="Estate car, two 12s, stage 1").document
        self.assertEqual(made["chargers"][0]["name"], "Heron 180 second-hand")
        self.assertEqual(made["goals"][0]["at_least"], 13)
        self.assertEqual(made["goals"][-1]["at_most"], 700)

    def test_a_search_is_cancelled_and_an_empty_list_says_what_to_do(self) -> None:
        page = self.open_plan()
        held: list[Route] = []

        def hold(route: Route) -> None:
            held.append(route)

        page.route("**/api/v1/plans", hold)
        page.get_by_role("button", name="Find the plan").click()
        page.get_by_role("button", name="Cancel").click()
        expect(page.get_by_text("Cancelled.")).to_be_visible()
        held[0].abort()
        page.unroute("**/api/v1/plans")
        Part.objects.all().delete()
        page.get_by_role("button", name="Find the plan").click()
        expect(page.get_by_role("alert")).to_contain_text("is empty; add at least one part")
        self.complaints.clear()  # the browser notes every refusal
        page.get_by_role("link", name="price list").click()
        expect(page.get_by_text("No part here yet")).to_be_visible()
        page.get_by_label("Import a price list").set_input_files(DATA / "parts.csv")
        expect(page.get_by_text(re.compile(r"✓ 8\d added, 0 changed"))).to_be_visible()
        page.get_by_label("Kind").select_option("charger")
        price = page.get_by_label("Price of Heron 140")
        price.fill("251,5")
        price.press("Enter")
        expect(price).to_have_value("251.5")
        stored = next(part for part in parts_csv.read((DATA / "parts.csv").read_bytes()) if part.name == "Heron 140")
        saved = Part.objects.get(workshop=Workshop.objects.get(is_demo=True), name="Heron 140").part
        self.assertEqual((saved["price"], saved["rated_a"]), (251.5, stored.rated_a))
