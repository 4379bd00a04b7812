"""The bench in the browser: a sheet typed by keyboard alone, the audit judged, claims, comparison, banks, tones."""

from __future__ import annotations

import re
import tempfile
from pathlib import Path

import soundfile
from playwright.sync_api import Locator, Page, expect

from e2e.browser import BrowserTest
from underhood_server.bench.models import Amplifier, Run

LOADS = ("8", "6", "4", "3", "2.67", "2", "1.5", "1.33", "1", "0.75", "0.67", "0.5")
TWELVE = [
    ("14.55", "11.2", "128"),
    ("14.53", "14.6", "167"),
    ("14.50", "21.3", "243"),
    ("14.47", "27.6", "315"),
    ("14.45", "30.7", "349"),
    ("14.41", "39.5", "447"),
    ("14.36", "49.9", "563"),
    ("14.33", "54.9", "618"),
    ("14.27", "67.0", "748"),
    ("14.22", "76.8", "842"),
    ("14.21", "77.9", "838"),
    ("14.22", "78.5", "815"),
]


class Bench(BrowserTest):
    def open_amplifier(self, name: str, tab: str) -> Page:
        page = self.enter()
        page.get_by_role("link", name="Bench").click()
        page.get_by_role("link", name=name).click()
        page.get_by_role("tab", name=tab).click()
        return page

    def tearDown(self) -> None:
        self.assertEqual((self.foreign, self.complaints), ([], []))
        super().tearDown()

    def test_a_sheet_of_twelve_readings_is_entered_by_keyboard_alone(self) -> None:
        page, keys = self.enter(), self.page.keyboard
        page.goto(f"{self.live_server_url}/bench")
        page.get_by_role("table", name="Amplifiers").wait_for()
        keys.press("n")
        keys.type("Plover 800")
        keys.press("Enter")
        page.get_by_role("table", name="Readings").wait_for()
        for _ in range(40):  # Tab from the top of the page to the first load
            keys.press("Tab")
            if page.evaluate("document.activeElement.getAttribute('aria-label')") == "Load, Ω, row 1":
                break
        keys.type(LOADS[0])
        for text in ("", "", "", "14.6"):
            keys.press("Tab")
            keys.type(text)
        keys.press("Tab")
        for row, (volts, amps, watts) in enumerate(TWELVE):
            keys.type(volts)
            for text in (amps, watts):
                keys.press("Tab")
                keys.type(text)
            if row < len(TWELVE) - 1:
                keys.press("Control+Enter")
                focused = f"Under load, V, row {row + 2}"
                expect(page.get_by_label(focused, exact=True)).to_be_focused()
        keys.press("Control+s")
        expect(page.get_by_role("button", name="Saved")).to_be_visible()
        stored = Run.objects.filter(sheet__amplifier__name="Plover 800")
        self.assertEqual([f"{run.load_ohm:g}" for run in stored], list(LOADS))
        self.assertEqual([str(run.reading["power_w"]) for run in stored], [f"{w}.0" for *_, w in TWELVE])
        table = page.get_by_role("table", name="Readings")
        first = table.get_by_role("row").nth(1)
        self.assertEqual(first.get_by_role("cell").count(), table.get_by_role("columnheader").count())
        expect(first).to_contain_text(f"{100 * 128 / 14.55 / 11.2:.0f} %")

    def test_a_bad_reading_is_found_judged_with_its_reason_and_the_curve_follows(self) -> None:
        page = self.open_amplifier("Sandlance 1000 mono", "Readings")
        page.get_by_role("button", name="row 4: off its own line").click()
        expect(page.get_by_role("button", name="Exclude from the fit")).to_be_disabled()
        page.get_by_label("Reason").fill("wrote 342 for 432")
        page.get_by_role("button", name="Exclude from the fit").click()
        expect(page.get_by_role("group", name="Audit")).not_to_contain_text("off its own line")
        page.get_by_role("button", name="Save the sheet").click()
        expect(page.get_by_role("button", name="Saved")).to_be_visible()
        run = Run.objects.get(sheet__amplifier__name="Sandlance 1000 mono", criterion="thd1", load_ohm=3)
        self.assertEqual((run.reading["excluded"], run.reading["reason"]), (True, "wrote 342 for 432"))
        page.get_by_role("tab", name="Curves").click()
        expect(page.get_by_text("lies 21")).to_have_count(0)

        page.get_by_role("tab", name="Readings").click()
        page.get_by_role("button", name="Row 4:").click()
        page.get_by_role("button", name="Open again").click()
        expect(page.get_by_role("group", name="Audit")).to_contain_text("off its own line")
        page.get_by_label("Reason").fill("the digits were swapped")
        page.get_by_role("button", name="Correct it").click()
        expect(page.get_by_text("Corrected; first read: ")).to_be_visible()
        page.get_by_label("Output, W, row 4", exact=True).fill("432")
        page.get_by_role("button", name="Save the sheet").click()
        expect(page.get_by_role("button", name="Saved")).to_be_visible()
        run = Run.objects.get(sheet__amplifier__name="Sandlance 1000 mono", criterion="thd1", load_ohm=3)
        self.assertEqual((run.reading["power_w"], "power_w 342" in run.reading["as_read"]), (432, True))

    def test_a_row_that_cannot_be_read_is_said_at_the_row_and_nothing_is_stored(self) -> None:
        page = self.open_amplifier("Cuttle 650 mono", "Readings")
        page.get_by_label("Under load, V, row 2", exact=True).fill("400")
        expect(page.get_by_text("row 2: supply_v: 400 is not allowed")).to_be_visible()
        page.get_by_role("button", name="Save the sheet").click()
        expect(page.get_by_role("alert")).to_contain_text("give a number from 5 to 64 V")
        self.assertEqual(Amplifier.objects.get(name="Cuttle 650 mono").sheets.get().version, 1)
        self.complaints.clear()  # the browser notes every refusal

    def test_a_claim_is_weighed_at_its_own_volts_and_its_sum_opens(self) -> None:
        page = self.open_amplifier("Marram 1200 mono", "Claims")
        expect(page.get_by_text("Meets its standard rating at 2 and 1 Ω.")).to_be_visible()
        page.get_by_label("Load, Ω").fill("4")
        page.get_by_label("Claimed, W").fill("500")
        page.get_by_label("Supply, V").fill("12.6")
        page.get_by_role("button", name="Add the claim").click()
        expect(page.get_by_text(re.compile(r"short at 4 Ω"))).to_be_visible()
        row = page.get_by_role("table", name="Claims").get_by_role("row").filter(has_text="12.6 V")
        row.get_by_role("button", name="show the sum").click()
        expect(page.get_by_role("dialog")).to_contain_text("Pref · share²")

    def test_two_sheets_of_one_amplifier_are_laid_over_each_other(self) -> None:
        page = self.open_amplifier("Marram 1200 mono", "Curves")
        page.get_by_label("Laid over it").select_option(label="sheet of 2022-06-02")
        expect(page.get_by_role("figure")).to_contain_text("1 % THD, 2022")
        with page.expect_download() as download:
            page.get_by_role("button", name="Save as SVG").click()
        self.assertIn("<svg", Path(download.value.path()).read_text(encoding="utf-8"))

    def test_amplifiers_are_compared_and_a_bank_is_drawn(self) -> None:
        page = self.enter()
        page.goto(f"{self.live_server_url}/bench/compare")
        for name in ("Marram 1200 mono", "Saltpan 2x90"):
            page.get_by_role("button", name=name).click()
        table = page.get_by_role("table", name="Comparison")
        single = self.cell(table, "Saltpan 2x90", 1)
        page.get_by_label("As the box of").select_option(label="Estate car, two 12s: Marram 1200 mono")
        expect(table.get_by_role("columnheader", name=re.compile(r"In the box, 1\.9"))).to_be_visible()
        page.get_by_label("Nominal load, Ω").fill("4")
        page.get_by_role("button", name="bridged").click()
        expect(table).to_contain_text("Saltpan 2x90, bridged")
        expect(table.get_by_role("columnheader", name="On 4 Ω")).to_be_visible()
        self.assertNotEqual(self.cell(table, "Saltpan 2x90", 1), single)

        page.get_by_role("link", name="Resistor bank").click()
        page.get_by_role("button", name="1 Ω", exact=True).click()
        expect(page.get_by_role("img", name=re.compile("^1 Ω"))).to_be_visible()
        expect(page.get_by_role("list", name="Cautions")).to_contain_text("burn skin")

    def cell(self, table: Locator, row: str, column: int) -> str:
        return table.get_by_role("row").filter(has_text=row).get_by_role("cell").nth(column).inner_text()

    def test_a_tone_is_played_and_kept_and_a_gain_is_set_for_a_job(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Tones").click()
        page.get_by_role("button", name="50 Hz", exact=True).click()
        page.get_by_label("Length, s").fill("2")
        with page.expect_download() as download, tempfile.TemporaryDirectory() as folder:
            page.get_by_role("link", name="Keep as a WAV file").click()
            kept = Path(folder) / download.value.suggested_filename
            download.value.save_as(kept)
            self.assertEqual((kept.name, soundfile.info(kept).duration), ("sine-50Hz-5dB-48000-16.wav", 2.0))
        played = page.locator("audio").evaluate(
            """(audio) => new Promise((done) => {
              audio.oncanplay = () => done(audio.duration);
              audio.onerror = () => done(-1);
              audio.load();
            })"""
        )
        self.assertAlmostEqual(played, 2.0, delta=0.01)

        page.get_by_role("tab", name="Set-up sheet").click()
        page.get_by_label("Amplifier").select_option(label="Estate car, two 12s: Marram 1200 mono")
        sheet = page.get_by_role("article", name="Set-up sheet")
        expect(sheet).to_contain_text("in range")
        page.get_by_label("Clean output, V").fill("9")
        expect(sheet).to_contain_text("overdriven")
        sheet.get_by_role("button", name="show the sum").first.click()
        expect(page.get_by_role("dialog")).to_contain_text("V = √(P · Z)")
