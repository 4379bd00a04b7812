"""Nothing typed is lost: a line that is cut, two tabs, a reload, a refused value, an expired log-in, an old page."""

import json
import re
from pathlib import Path

from django.contrib.sessions.models import Session
from playwright.sync_api import Locator, Page, Route, expect

from e2e.browser import PHONE, TABLET, BrowserTest
from underhood_server.jobs.models import Job

SLOW_S = 0.4


class InTheHand(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.job = Job.objects.get(title__startswith="Estate car")
        self.enter()

    def open(self, station: str = "load", page: Page | None = None) -> Page:
        page = page or self.page
        page.goto(f"{self.live_server_url}/jobs/{self.job.pk}/{station}")
        page.get_by_role("status").filter(has_text="saved").wait_for()
        return page

    def volume(self) -> Locator:
        return self.page.get_by_role("textbox", name="Volume").first

    def stored(self) -> dict:
        return Job.objects.get(pk=self.job.pk).document

    def title(self, page: Page | None = None) -> Locator:
        return (page or self.page).get_by_role("textbox", name="Title of the job")

    def test_the_line_is_cut_twice_and_nothing_is_missing_in_the_exported_file(self) -> None:
        """On a tablet, by touch, over a slow line."""
        context = self.browser.new_context(viewport=TABLET, has_touch=True, accept_downloads=True)
        page = context.new_page()
        page.set_default_timeout(15_000)
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Enter the demo workshop").tap()
        page.get_by_role("button", name="New job").tap()
        page.get_by_role("button", name="Open the job").tap()
        page.get_by_role("status").filter(has_text="saved").wait_for()
        page.route("**/api/**", self.slowly)
        for name in ("Tablet car", "Tablet car, second thought"):
            context.set_offline(True)
            self.title(page).fill(name)
            expect(page.get_by_role("status").filter(has_text="kept in this browser")).to_be_visible()
            context.set_offline(False)
            expect(page.get_by_role("status").filter(has_text=re.compile(r"^revision \d+ · saved$"))).to_be_visible()
        self.title(page).fill("Tablet car, exported at once")
        with page.expect_download() as download:
            page.get_by_role("link", name="Export job file").tap()
        found = json.loads(Path(download.value.path()).read_text())
        self.assertEqual(found["title"], "Tablet car, exported at once")
        context.close()

    @staticmethod
    def slowly(route: Route) -> None:
        route.request.frame.page.wait_for_timeout(1000 * SLOW_S)
        route.continue_()

    def test_a_reload_in_the_middle_of_a_word_keeps_the_word(self) -> None:
        self.open()
        self.title().press("End")
        self.title().press_sequentially(" and a half")
        self.page.reload()
        expect(self.title()).to_have_value(self.job.title + " and a half")
        self.saved()
        self.assertEqual(self.stored()["title"], self.job.title + " and a half")

    def test_a_refused_value_holds_nothing_else_up_and_is_there_after_leaving(self) -> None:
        page = self.open()
        self.volume().fill("-5")
        expect(page.get_by_role("alert").first).to_contain_text("-5")
        self.title().fill("Good edit")
        expect(page.get_by_role("status").filter(has_text="all saved but")).to_be_visible()
        self.assertEqual(self.stored()["title"], "Good edit")
        page.get_by_role("link", name="Jobs").click()
        page.get_by_role("link", name="Good edit").click()
        expect(self.volume()).to_have_value("-5")
        page.get_by_role("button", name="Throw it away").click()
        self.saved()
        expect(self.volume()).not_to_have_value("-5")

    def test_two_tabs_are_told_and_choose_field_by_field(self) -> None:
        self.open()
        other = self.open(page=self.context.new_page())
        self.title(other).fill("From the other tab")
        expect(other.get_by_role("status").filter(has_text=re.compile(r"revision \d+ · saved"))).to_be_visible()
        self.page.wait_for_timeout(800)
        self.title().fill("From this tab")
        self.page.get_by_role("button", name="See both").click()
        both = self.page.get_by_role("dialog")
        both.get_by_role("radio", name="theirs: From the other tab").check()
        both.get_by_role("button", name="Save what is chosen").click()
        expect(self.title()).to_have_value("From the other tab")
        self.saved()
        self.title().fill("On with it")
        self.page.wait_for_timeout(700)
        self.saved()
        self.assertEqual(self.stored()["title"], "On with it")

    def test_an_expired_log_in_is_asked_for_over_the_page(self) -> None:
        self.open()
        # What is asked for besides the forecast has come: else the next of it would ask for the log-in by itself.
        self.page.wait_for_load_state("networkidle")
        self.page.wait_for_timeout(500)
        Session.objects.all().delete()
        self.title().fill("Typed after the log-in expired")
        dialog = self.page.get_by_role("dialog")
        expect(dialog).to_contain_text("You were logged out")
        dialog.get_by_role("button", name="Enter the demo workshop").click()
        self.saved()
        expect(self.title()).to_have_value("Typed after the log-in expired")
        self.assertEqual(self.stored()["title"], "Typed after the log-in expired")

    def test_a_server_that_fails_for_a_moment_is_asked_again(self) -> None:
        self.open()
        failing = {"left": 2}

        def fail(route: Route) -> None:
            if route.request.method == "PUT" and failing["left"]:
                failing["left"] -= 1
                route.fulfill(status=502, body="no")
            else:
                route.continue_()

        self.page.route("**/api/v1/jobs/*", fail)
        self.title().fill("Sent at the third try")
        expect(self.page.get_by_role("status").filter(has_text="no answer from the server")).to_be_visible()
        self.saved()
        self.assertEqual([self.stored()["title"], failing["left"]], ["Sent at the third try", 0])

    def test_a_full_disk_is_told_and_what_was_typed_is_kept_over_a_reload_and_saved_when_there_is_room(self) -> None:
        self.open()
        full = {"detail": "The workshop's disk is full: nothing was saved.", "status": 507}
        address = "**/api/v1/jobs/*"

        def no_room(route: Route) -> None:
            if route.request.method == "PUT":
                route.fulfill(status=507, json=full)
            else:
                route.continue_()

        self.page.route(address, no_room)
        self.title().fill("Typed on a full disk")
        expect(self.page.get_by_role("status").filter(has_text="disk is full")).to_be_visible()
        self.page.reload()
        expect(self.title()).to_have_value("Typed on a full disk")
        self.page.unroute(address)
        self.saved()
        self.assertEqual(self.stored()["title"], "Typed on a full disk")

    def test_an_address_that_nobody_knows_says_so(self) -> None:
        self.page.goto(f"{self.live_server_url}/jobs/{self.job.pk}/nowhere")
        expect(self.page.get_by_role("alert")).to_contain_text('no place called "nowhere"')
        self.page.get_by_role("link", name="Open the job").click()
        expect(self.title()).to_have_value(self.job.title)

    def test_a_part_of_the_page_that_an_update_took_away_loads_the_new_page_once(self) -> None:
        page, gone = self.open(), {"left": 1}

        def missing(route: Route) -> None:
            if gone["left"]:
                gone["left"] -= 1
                route.fulfill(status=404, body="")
            else:
                route.continue_()

        page.route("**/assets/FrequencyChart*.js", missing)
        with page.expect_event("load"):
            page.get_by_role("tab", name="Over frequency").click()
        expect(self.title()).to_have_value(self.job.title)
        self.assertEqual(gone["left"], 0)

    def test_the_path_stays_in_view_on_a_tablet_and_a_tap_on_it_opens_the_ledger(self) -> None:
        page = self.open("supply")
        line = page.get_by_role("button", name=re.compile("the ledger:"))
        expect(line).to_be_hidden()  # on a wide screen the ledger stands beside
        page.get_by_role("button", name="Add a capacitor").scroll_into_view_if_needed()
        expect(line).to_be_in_viewport()
        page.set_viewport_size(TABLET)
        ledger = page.get_by_role("complementary", name="Ledger")
        expect(ledger).to_be_hidden()
        volts = line.locator("span").nth(1).inner_text()
        line.click()
        expect(ledger).to_be_visible()
        expect(ledger).to_contain_text(volts.split()[0])
        page.set_viewport_size(PHONE)
        places = page.get_by_role("navigation", name="Places").bounding_box()
        self.assertEqual(places and (places["x"], places["y"] + places["height"]), (0, 844))

    def test_readings_and_settings_typed_and_left_are_there_again(self) -> None:
        page = self.page
        page.goto(f"{self.live_server_url}/shop")
        share = page.get_by_role("textbox", name=re.compile("tax", re.I))
        share.fill("19")
        share.press("Tab")
        page.get_by_role("link", name="Bench").click()
        page.get_by_role("link", name="Marram 1200 mono").click()
        page.get_by_role("tab", name="Readings").click()
        page.get_by_label("About this sheet").fill("half typed")
        page.get_by_role("link", name="Shop").click()
        expect(page.get_by_text("is back, not saved yet")).to_be_visible()
        expect(share).to_have_value("19")
        page.go_back()
        expect(page.get_by_label("About this sheet")).to_have_value("half typed")
        page.get_by_role("button", name="Save the sheet").click()
        expect(page.get_by_role("button", name="Saved", exact=True)).to_be_visible()
        page.reload()
        expect(page.get_by_label("About this sheet")).to_have_value("half typed")
        expect(page.get_by_text("is back, not saved yet")).to_have_count(0)
