"""The workshop as its people use it: somebody joins, changes, removes and puts back, finds, prints, carries it away."""

from __future__ import annotations

import io
import json
import re
import zipfile

from django.utils import timezone
from playwright.sync_api import FilePayload, Page, expect

from e2e.browser import BrowserTest, Works
from underhood_server.accounts.models import User
from underhood_server.jobs.models import Job
from underhood_server.tests.base import PASSWORD

TITLE = "Estate car, two 12s"


class Workshop(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.job = Job.objects.get(title=TITLE)
        self.enter()

    def go(self, path: str, page: Page | None = None) -> Page:
        page = page or self.page
        page.goto(self.live_server_url + path)
        return page

    def test_somebody_joins_by_a_link_and_does_what_their_role_allows_until_they_are_sent_away(self) -> None:
        page = self.go("/shop/people")
        page.get_by_label("What they may do").select_option("viewer")
        page.get_by_role("button", name="Make a link").click()
        link = page.get_by_label(re.compile("shown this once")).input_value()
        other = self.browser.new_context()
        theirs = other.new_page()
        theirs.goto(link)
        expect(theirs.get_by_text("Saltmarsh Mobile Audio")).to_be_visible()
        theirs.get_by_label("Name to log in with").fill("noor")
        theirs.get_by_label("Password").fill("short")
        theirs.get_by_role("button", name="Join").click()
        expect(theirs.get_by_role("alert")).to_contain_text("at least 10 characters")
        theirs.get_by_label("Password").fill(PASSWORD)
        theirs.get_by_role("button", name="Join").click()
        expect(theirs.get_by_role("heading", name="Jobs")).to_be_visible()
        self.go(f"/jobs/{self.job.pk}/supply", theirs)
        theirs.get_by_label("Title of the job").fill("Changed by one who only looks")
        expect(theirs.get_by_text("change nothing").first).to_be_visible()
        page.reload()
        page.get_by_label("Role of noor").select_option("installer")
        expect(page.get_by_label("Role of noor")).to_have_value("installer")
        theirs.reload()
        theirs.get_by_label("Title of the job").fill("Changed by noor")
        expect(theirs.get_by_role("status").filter(has_text=re.compile(r"revision [23] · saved"))).to_be_visible()
        self.go("/shop/records")
        expect(page.get_by_role("row").filter(has_text="noor").filter(has_text="Changed by noor")).to_be_visible()
        self.go("/shop/people")
        page.get_by_role("button", name="noor works here no more").click()
        page.get_by_role("button", name="Send away").click()
        expect(page.get_by_text("noor")).to_have_count(0)
        theirs.get_by_label("Title of the job").fill("Changed once more")
        expect(theirs.get_by_text("What you typed is kept in this browser")).to_be_visible()
        self.assertEqual(Job.objects.get(pk=self.job.pk).title, "Changed by noor")
        theirs.goto(link)
        expect(theirs.get_by_role("alert")).to_contain_text("was used")
        other.close()

    def test_what_is_removed_comes_back_from_the_records_and_is_found_by_a_word(self) -> None:
        page = self.page
        page.keyboard.press("/")
        box = page.get_by_role("combobox", name=re.compile("Find a job"))
        box.fill("fenn")
        expect(page.get_by_role("option").filter(has_text=TITLE)).to_be_visible()
        page.keyboard.press("Enter")
        expect(page.get_by_label("Title of the job")).to_have_value(TITLE)
        page.evaluate(f"""fetch('/api/v1/jobs/{self.job.pk}', {{method: 'DELETE',
            headers: {{'X-CSRFToken': /csrftoken=([^;]*)/.exec(document.cookie)[1]}}}})""")
        self.go("/shop/records")
        page.get_by_role("button", name=f"Put {TITLE} back").click()
        expect(page.get_by_text("Nothing. What is removed")).to_be_visible()
        self.go(f"/jobs/{self.job.pk}/load")
        expect(page.get_by_label("Title of the job")).to_have_value(TITLE)

    def test_a_workshop_that_writes_commas_sees_and_types_them(self) -> None:
        page = self.page
        self.go("/shop")
        page.get_by_role("radiogroup", name="Decimal sign").get_by_role("radio", name="12,5").click()
        page.get_by_role("radiogroup", name="Dates").get_by_role("radio", name="27.11.2026").click()
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_role("status").filter(has_text="saved")).to_be_visible()
        self.go(f"/jobs/{self.job.pk}/supply")
        ledger = page.get_by_role("complementary", name="Ledger")
        expect(ledger).to_contain_text("12,43")
        expect(ledger).to_contain_text("sees 12,43 V under load, below 12,5 V")
        self.assertIsNone(re.search(r"\d\.\d", ledger.inner_text()))
        expect(page.get_by_role("group", name="Path of current")).to_contain_text("12,43 V")
        field = page.get_by_role("textbox", name="Regulated to")
        expect(field).to_have_value("14,4")
        field.fill("14,125")
        self.saved()
        self.assertEqual(Job.objects.get(pk=self.job.pk).document["chargers"][0]["setpoint_v"]["value"], 14.125)
        self.go("/jobs")
        expect(page.get_by_role("row").filter(has_text=TITLE)).to_contain_text(
            timezone.localdate().strftime("%d.%m.%Y")
        )

    def test_a_job_is_printed_handed_to_its_customer_and_the_link_taken_back(self) -> None:
        page = self.go(f"/jobs/{self.job.pk}/supply")
        page.get_by_role("link", name="Job sheet").click()
        sheet = page.frame_locator("iframe")
        expect(sheet.get_by_role("heading", name="What you get")).to_be_visible()
        page.get_by_label("Cable schedule and fuses").check()
        expect(sheet.get_by_role("heading", name="Cable schedule and fuses")).to_be_visible()
        with page.expect_download() as saved:
            page.get_by_role("link", name="Save as PDF").click()
        self.assertEqual(saved.value.suggested_filename, f"job-{self.job.pk}-revision-1.pdf")
        page.get_by_role("button", name="Make a link").click()
        link = page.get_by_label(re.compile("Shown this once")).input_value()
        other = self.browser.new_context()
        theirs = other.new_page()
        theirs.goto(link)
        expect(theirs.get_by_role("heading", name="What to expect")).to_be_visible()
        page.get_by_role("button", name="Take back").click()
        expect(page.get_by_role("button", name="Take back")).to_have_count(0)
        theirs.reload()
        expect(theirs.get_by_text("not valid, or no longer")).to_be_visible()
        other.close()

    def test_a_setting_says_which_jobs_it_moves_and_moves_those_that_are_ticked(self) -> None:
        page = self.go("/shop")
        page.get_by_label("Hold at the amplifier, V").fill("13,1")
        moves = page.get_by_role("region", name="Jobs that move")
        row = moves.get_by_role("row").filter(has_text=TITLE)
        expect(row).to_contain_text("12.43 V · 393 W · 4 flags")
        expect(row).to_contain_text("＋ Marram 1200 mono sees 12.43 V under load, below 13.1 V.")
        expect(row).to_contain_text("− Marram 1200 mono sees 12.43 V under load, below 12.5 V.")
        moves.get_by_label(TITLE).check()
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("✓ saved")).to_be_visible()
        targets = [job.document["targets"]["terminal_v"]["value"] for job in Job.objects.order_by("-title")]
        self.assertEqual(sorted(targets).count(13.1), 1)
        self.assertEqual(Job.objects.get(pk=self.job.pk).document["targets"]["terminal_v"]["value"], 13.1)

    def test_the_whole_workshop_is_carried_away_and_into_an_empty_one(self) -> None:
        works = Works()
        self.addCleanup(works.stop)
        page = self.go("/shop/data")
        page.get_by_role("button", name="Make an archive").click()
        with page.expect_download() as saved:
            page.get_by_role("link", name="Save the ZIP").click()
        raw = saved.value.path().read_bytes()
        manifest = json.loads(zipfile.ZipFile(io.BytesIO(raw)).read("manifest.json"))
        self.assertEqual(manifest["workshop"], "Saltmarsh Mobile Audio")
        file = FilePayload(name="workshop.zip", mimeType="application/zip", buffer=raw)
        page.get_by_label("Read an archive in").set_input_files(file)
        expect(page.get_by_role("alert")).to_contain_text("holds 5 jobs already")
        Job.objects.all().delete()
        owner = User.objects.get(username="saltmarsh")
        for rows in ("amplifiers", "drivers", "parts"):
            getattr(owner.workshop, rows).all().delete()
        page.get_by_label("Read an archive in").set_input_files(file)
        expect(page.get_by_text("5 jobs, 9 amplifiers")).to_be_visible(timeout=60_000)
        self.go("/jobs")
        expect(page.get_by_role("row").filter(has_text=TITLE)).to_contain_text("12.43")

    def test_where_one_is_logged_in_is_seen_and_ended(self) -> None:
        other = self.browser.new_context()
        theirs = other.new_page()
        theirs.goto(self.live_server_url)
        theirs.get_by_role("button", name="Enter the demo workshop").click()
        theirs.get_by_role("heading", name="Jobs").wait_for()
        page = self.go("/shop/you")
        expect(page.get_by_role("region", name="Logged in").get_by_role("row")).to_have_count(3)
        page.get_by_role("button", name="Log me out everywhere else").click()
        expect(page.get_by_role("region", name="Logged in").get_by_role("row")).to_have_count(2)
        theirs.reload()
        expect(theirs.get_by_role("button", name="Enter the demo workshop")).to_be_visible()
        other.close()
