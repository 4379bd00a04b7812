"""The loop closed: a sheet from the practice bench, a job, readings in the car, the model corrected."""

import io
import re
from typing import Any

from PIL import Image
from playwright.sync_api import FilePayload, Page, expect

from e2e.browser import PHONE, BrowserTest
from underhood.document.job import JobDocument
from underhood.proof.test_card import CardItem, test_card
from underhood_server.bench.models import Amplifier
from underhood_server.jobs.models import Job
from underhood_server.proof.models import JobReading

GROUND = "cables.0.return.resistance_ohm"


class Proof(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.enter()

    def job(self, title: str = "Estate car") -> Job:
        return Job.objects.get(title__startswith=title)

    def open(self, job: Job, view: str = "card", page: Page | None = None) -> Page:
        page = page or self.page
        page.goto(f"{self.live_server_url}/jobs/{job.pk}/proof?view={view}")
        page.get_by_role("tab", name="Test card").wait_for()
        return page

    def seen_to(self, page: Page | None = None) -> None:
        """Ticks every stop of the card."""
        page = page or self.page
        page.get_by_text("Before you measure").first.wait_for()
        for tick in page.get_by_role("group", name="Before you measure").get_by_role("checkbox").all():
            tick.check()

    def item(self, job: Job, words: str, state: str) -> CardItem:
        card = test_card(JobDocument.model_validate(job.document))
        return next(each for each in card.items if each.words.startswith(words) and state in each.state.lower())

    def field(self, item: CardItem, page: Page | None = None) -> Any:
        milli = "m" if item.unit == "V" and item.meter_range is not None and item.meter_range < 1 else ""
        return (page or self.page).get_by_label(f"{item.words}, {item.state}, {milli}{item.unit}", exact=True)

    def test_a_sheet_from_the_practice_bench_is_used_in_a_job_proved_and_corrected(self) -> None:
        page = self.page
        winkle = Amplifier.objects.get(name__startswith="Winkle")
        page.goto(f"{self.live_server_url}/bench/practice?amplifier={winkle.pk}")
        page.get_by_text("On a real bench, before").wait_for()
        for tick in page.get_by_role("group", name="On a real bench").get_by_role("checkbox").all():
            tick.check()
        for ohm in ("4", "2"):
            page.get_by_label("Load, Ω").select_option(ohm)
            self.raise_to_one_percent()
            page.get_by_role("button", name="Record at 1 %").click()
        rows = page.get_by_role("table", name="Recorded").get_by_role("row")
        expect(rows).to_have_count(3)
        page.reload()
        expect(rows).to_have_count(3)  # what was recorded is kept until it is a sheet
        page.get_by_role("button", name=f"Keep as a sheet of {winkle.name}").click()
        page.get_by_text("Kept as a sheet").wait_for()
        sheet = winkle.sheets.latest("id")
        self.assertEqual(sorted(sheet.runs.values_list("load_ohm", flat=True)), [2, 4])

        page.goto(f"{self.live_server_url}/jobs/new")
        page.get_by_label("From the bench").select_option(label=winkle.name)
        page.get_by_role("group", name="The amplifier").get_by_text("bench, sheet").wait_for()
        page.get_by_role("button", name="Open the job").click()
        page.get_by_role("status").filter(has_text="saved").wait_for()
        job = Job.objects.latest("id")
        volts = self.item(job, "Volts at Winkle", "idle, full")
        ground = self.item(job, "Voltage drop along the ground", "idle, full")
        self.open(job)
        self.seen_to()
        assert volts.expected is not None and ground.expected is not None
        self.field(volts).fill(f"{volts.expected - 0.5:.2f}".replace(".", ","))
        self.field(volts).press("Enter")
        self.field(ground).fill(f"{1000 * (ground.expected + 0.5):.0f} mV")
        self.field(ground).press("Enter")
        expect(page.get_by_text("◆ outside").first).to_be_visible()
        page.get_by_role("tab", name="Verdict").click()
        expect(page.get_by_text("look at the ground point").first).to_be_visible(timeout=30_000)
        before = page.get_by_role("complementary", name="Ledger").inner_text()
        page.get_by_role("button", name=re.compile("into the job")).click()
        expect(page.get_by_text("In the job as measured")).to_be_visible()
        expect(page.get_by_role("complementary", name="Ledger")).not_to_have_text(before)
        self.saved()
        told = str(Job.objects.get(pk=job.pk).document)
        self.assertIn("'origin': 'measured', 'spread'", told)
        page.get_by_role("button", name="Undo").click()
        self.saved()
        self.assertNotIn("'spread'", str(Job.objects.get(pk=job.pk).document))
        self.assertEqual(self.complaints, [])
        self.assertEqual(self.foreign, [])

    def raise_to_one_percent(self) -> None:
        """By tenths of a decibel, waiting for the meters, which come twice a second."""
        page, record = self.page, self.page.get_by_role("button", name="Record at 1 %")
        page.get_by_role("slider").fill("-0.8")
        for _ in range(60):
            page.wait_for_timeout(800)
            if record.is_enabled():
                page.wait_for_timeout(800)  # on a busy machine they may have been of the level before
                if record.is_enabled():
                    return
            down = page.get_by_text("beyond 1 %").is_visible()
            page.get_by_role("button", name="Level down" if down else "Level up").click()
        expect(record).to_be_enabled()

    def test_exercises_are_solved_and_failed(self) -> None:
        page = self.page
        page.goto(f"{self.live_server_url}/bench/practice?view=exercises")
        page.get_by_role("button", name="Amps in silence").click()
        clamp = page.get_by_role("group", name="Meters").get_by_text(re.compile(r"^[5-6]\.\d A$"))
        expect(clamp).to_be_visible()
        page.get_by_label("What is wrong?").select_option("low_pass")
        page.get_by_role("button", name="Mark it").click()
        expect(page.get_by_text("✕ No: ")).to_be_visible()
        page.get_by_label("What is wrong?").select_option("clamp_zero")
        page.get_by_role("button", name="Mark it").click()
        expect(page.get_by_text("✓ Right. ")).to_be_visible()
        page.get_by_role("button", name="Zero the clamp").click()
        expect(clamp).not_to_be_visible()
        self.assertEqual(self.complaints, [])

    def test_readings_typed_offline_by_two_people_are_all_stored_once(self) -> None:
        job, page = self.job(), self.open(self.job())
        known = JobReading.objects.filter(job=job).count()
        self.seen_to()
        rest = self.item(job, "Resting volts", "engine off")
        amps = self.item(job, "Current through Marram", "idle, full")
        self.context.set_offline(True)
        self.field(rest).fill("12.7")
        self.field(rest).press("Enter")
        self.field(amps).fill("41")
        self.field(amps).press("Enter")
        expect(page.get_by_text("2 readings are kept in this browser")).to_be_visible()
        self.field(amps).fill("39.")  # and one half typed
        other = self.context.browser.new_context()
        second = other.new_page()
        second.goto(self.live_server_url)
        second.get_by_role("button", name="Enter the demo workshop").click()
        second.get_by_role("heading", name="Jobs").wait_for()
        self.open(job, page=second)
        self.seen_to(second)
        self.field(rest, second).fill("12.68")
        self.field(rest, second).press("Enter")
        expect(second.get_by_text("12.68 V").first).to_be_visible()
        self.context.set_offline(False)
        expect(page.get_by_text("kept in this browser")).not_to_be_visible(timeout=40_000)
        page.reload()
        expect(self.field(amps)).to_have_value("39.")
        values = sorted(row.reading["value"] for row in JobReading.objects.filter(job=job)[known:])
        self.assertEqual(values, [12.68, 12.7, 41.0])
        other.close()

    def test_a_refused_value_is_said_and_kept_and_the_log_keeps_what_was_corrected(self) -> None:
        job, page = self.job(), self.open(self.job())
        self.seen_to()
        rest = self.item(job, "Resting volts", "engine off")
        self.field(rest).fill("12.7 A")
        self.field(rest).press("Enter")
        expect(page.get_by_text("is not in V")).to_be_visible()
        page.get_by_role("button", name="Correct it").click()
        expect(self.field(rest)).to_have_value("12.7 A")
        page.get_by_role("tab", name="Log").click()
        page.get_by_role("button", name="Open the reading: Current by clamp, a1").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("It should be, A").fill("43.2")
        dialog.get_by_label("Why").fill("other range")
        dialog.get_by_role("button", name="Correct it").click()
        expect(page.get_by_role("cell", name="43 A")).to_be_visible()
        page.get_by_label("Show what was corrected").check()
        expect(page.get_by_role("cell", name=re.compile("corrected since"))).to_be_visible()
        page.get_by_role("button", name="Open the reading: Resting volts").first.click()
        picture = io.BytesIO()
        Image.new("RGB", (900, 600), (90, 120, 60)).save(picture, "JPEG")
        photo: FilePayload = {"name": "meter.jpg", "mimeType": "image/jpeg", "buffer": picture.getvalue()}
        dialog.get_by_label("Add a photograph").set_input_files(files=[photo])
        expect(dialog.get_by_role("img")).to_be_visible()
        broken: FilePayload = {"name": "meter.jpg", "mimeType": "image/jpeg", "buffer": b"no picture"}
        dialog.get_by_label("Add a photograph").set_input_files(files=[broken])
        expect(dialog.get_by_text("not a photograph that can be read")).to_be_visible()
        self.assertEqual(JobReading.objects.filter(job=job, replaces__isnull=False).count(), 1)

    def test_a_card_is_filled_with_enter_alone_on_a_phone_once_the_stops_are_ticked(self) -> None:
        job, page = self.job("Book-delivery"), self.page
        page.set_viewport_size(PHONE)
        self.open(job)
        first = self.item(job, "Resting volts of Rear", "engine off")
        hot = self.item(job, "Volts at front battery", "idle, nothing")
        expect(self.field(hot)).to_be_disabled()
        self.seen_to()
        expect(self.field(hot)).to_be_enabled()
        self.field(first).click()
        for text in ("12,8", "12.6"):
            page.keyboard.type(text)
            page.keyboard.press("Enter")
        expect(page.get_by_text("✓ inside")).to_have_count(2)
        self.assertEqual([row.reading["value"] for row in JobReading.objects.filter(job=job)], [12.8, 12.6])
