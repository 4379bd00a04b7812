"""The whole story in the browser: from a bench sheet to watts, amps, volts and a cable."""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, expect

from benchmarks.other_amplifier import Invented, measured
from e2e.browser import BrowserTest
from underhood.amplifier import sheet_csv
from underhood.document.amplifier import AmplifierRecord
from underhood_server.bench.models import Amplifier
from underhood_server.jobs.models import Job


def bench_sheet() -> str:
    """A made-up mono amplifier: eight loads, three criteria, supply volts and amps."""
    record = AmplifierRecord.model_validate(
        {"name": "Lugworm 900 mono", "class": "D", "minimum_load_ohm": 1, "idle_a": 1.0, "terminal_max": "1/0 AWG"}
    )
    amplifier = Invented(record, rail_v=38, output_ohm=0.1, current_a=36, power_w=1100, knee=9)
    return sheet_csv.write(measured(amplifier, seed=11))


class Story(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def file(self, name: str, text: str | bytes) -> str:
        path = self.folder / name
        path.write_bytes(text.encode() if isinstance(text, str) else text)
        return str(path)

    def reading(self, label: str) -> float:
        """A key figure of the ledger."""
        text = self.page.get_by_role("complementary", name="Ledger").inner_text()
        match = re.search(rf"{label}\n+([−\d.]+)", text)
        assert match, text
        return float(match[1].replace("−", "-"))

    def station(self, name: str) -> None:
        self.page.get_by_role("navigation", name="Stations").get_by_role("link", name=name).click()

    def test_from_a_bench_sheet_to_watts_amps_volts_and_a_cable(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Bench").click()
        page.get_by_label("Import a bench sheet").set_input_files(self.file("lugworm.csv", bench_sheet()))
        expect(page.get_by_role("heading", name="Lugworm 900 mono")).to_be_visible()
        self.read_the_chart(page)
        page.get_by_role("tab", name="Readings").click()
        expect(page.get_by_role("table", name="Readings").get_by_role("row")).to_have_count(25)

        page.get_by_role("link", name="Jobs", exact=True).click()
        page.get_by_role("button", name="New job").click()
        page.get_by_role("button", name="Open the job").click()
        expect(page.get_by_label("Title of the job")).to_have_value("New job")
        self.station("Amplifiers")
        page.get_by_label("Amplifier", exact=True).select_option(label="Lugworm 900 mono")
        page.get_by_role("button", name="Add to this job").click()
        self.station("Load")
        page.get_by_label("Drivers", exact=True).fill("2")
        page.get_by_role("tab", name="Wiring").click()
        page.get_by_role("radio", name="coils parallel, drivers parallel", exact=True).click()
        page.get_by_role("tab", name="Watts").click()
        self.fill("Impedance rise", "1")
        self.fill("Power factor", "1")
        in_the_box = page.get_by_role("table", name="Delivered").get_by_role("row", name="In the box")
        expect(in_the_box).to_contain_text("1.00 Ω")
        at_nominal = self.reading("Delivered")
        self.fill("Impedance rise", "2.2")
        expect(in_the_box).to_contain_text("2.20 Ω")
        self.assertLess(self.reading("Delivered"), 0.7 * at_nominal)

        self.station("Supply")
        volts = page.get_by_role("table", name="Volts at the amplifier")
        expect(volts.get_by_role("row")).to_have_count(4)
        expect(volts).to_contain_text(re.compile(r"Engine off.*Idle.*Cruise", re.S))
        before = self.reading("At the amplifier")
        path = page.locator("[data-path-strip] p.sr-only")
        path_before = path.inner_text()
        self.fill("Output at idle", "40", exact=True)
        expect(path).not_to_have_text(path_before)
        self.assertLess(self.reading("At the amplifier"), before)
        page.get_by_role("heading", name="Who carries the amps").click()
        page.keyboard.press("z")
        expect(path).to_have_text(path_before)

        self.station("Cable")
        self.fill("Length", "5.5")
        expect(page.get_by_role("table", name="Sizes")).to_contain_text("✓ smallest, fuse")
        page.get_by_role("button", name="Use 8 AWG").click()
        expect(page.get_by_role("complementary", name="Ledger")).to_contain_text("are dropped on the way")
        self.fill("Fuse at its start", "80")
        self.the_command_line_agrees(page)
        self.assertEqual(self.foreign, [])
        self.assertEqual(self.complaints, [])

    def fill(self, label: str, value: str, exact: bool = True) -> None:
        self.page.get_by_role("textbox", name=label, exact=exact).fill(value)

    def read_the_chart(self, page: Page) -> None:
        """The chart draws a curve and every reading, and is read by keyboard."""
        chart = page.get_by_role("figure", name="Watts over load")
        expect(chart.locator("svg path").first).to_be_attached()
        chart.focus()
        expect(chart).to_contain_text("8 Ω")
        first = chart.inner_text()
        for _ in range(5):
            page.keyboard.press("ArrowLeft")
        self.assertNotEqual(chart.inner_text(), first)

    def the_command_line_agrees(self, page: Page) -> None:
        """The exported job file gives the same numbers on the command line as on the screen."""
        expect(page.get_by_role("status").filter(has_text=re.compile(r"revision \d+ · saved"))).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("link", name="Export job file").click()
        path = self.folder / "exported.json"
        download.value.save_as(path)
        told = subprocess.run(  # noqa: S603 - our own program on our own file
            [sys.executable, "-m", "underhood", "forecast", str(path), "--json"],
            capture_output=True,
            text=True,
            check=True,
        )
        answer = json.loads(told.stdout)
        shown = (("delivered_w", "Delivered"), ("terminal_v", "At the amplifier"), ("draw_a", "Drawn, mean"))
        for key, label in shown:
            figure = answer["figures"][key]
            self.assertEqual(float(figure["printed"]), self.reading(label))
            self.assertAlmostEqual(float(figure["printed"]), figure["value"], delta=figure["value"] / 50)

    def test_every_headline_figure_opens_its_sum_and_switches_change_it_by_key(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Estate car, two 12s").click()
        ledger = page.get_by_role("complementary", name="Ledger")
        expect(ledger.get_by_role("button", name="show the sum").first).to_be_visible()
        for button in ledger.get_by_role("button", name="show the sum").all():
            button.click()
            dialog = page.get_by_role("dialog")
            expect(dialog).to_contain_text("= ")
            dialog.get_by_role("button", name="Close").click()
            expect(dialog).to_be_hidden()
        idle = self.reading("At the amplifier")
        page.get_by_role("heading", name="Ledger").click()
        page.keyboard.press("e")
        expect(page.get_by_role("radio", name="Cruise")).to_be_checked()
        expect(ledger).not_to_contain_text(f"{idle:.2f}")
        self.assertGreater(self.reading("At the amplifier"), idle)
        page.keyboard.press("3")
        expect(page.get_by_role("heading", name="What is played", exact=True)).to_be_visible()
        page.keyboard.press("b")
        expect(page.get_by_role("radio", name="Burst")).to_be_checked()

    def test_what_cannot_be_used_is_said_at_its_field_and_not_stored(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Bench").click()
        amplifiers = Amplifier.objects.count()
        bad = bench_sheet().replace("load_ohm,load_kind", "ohms,load_kind")
        page.get_by_label("Import a bench sheet").set_input_files(self.file("bad.csv", bad))
        expect(page.get_by_role("alert")).to_contain_text(re.compile(r"bad\.csv: line \d+: unknown column 'ohms'"))
        page.get_by_role("link", name="Jobs", exact=True).click()
        page.get_by_label("Import a job file").set_input_files(
            self.file("new.json", '{"format": "under-hood/job", "version": 2}')
        )
        expect(page.get_by_role("alert")).to_contain_text("new.json: line 1: Version: 2 cannot be read")
        self.assertEqual(Amplifier.objects.count(), amplifiers)

        page.get_by_role("link", name="Estate car, two 12s").click()
        self.station("Supply")
        self.fill("Output at idle", "500")
        expect(page.get_by_role("alert").first).to_contain_text("500 A at idle is not allowed with 120 A rated")
        page.wait_for_timeout(900)
        stored = Job.objects.get(title="Estate car, two 12s")
        self.assertEqual((stored.version, stored.document["chargers"][0]["idle_a"]["value"]), (1, 62))
        self.fill("Output at idle", "70")
        self.saved(2)

    def test_a_car_that_cannot_hold_the_voltage_is_answered_in_words(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Estate car, two 12s").click()
        self.station("Cable")
        self.fill("Length", "40")
        page.get_by_role("textbox", name="Size").fill("14 AWG")
        expect(page.get_by_role("list", name="Flags")).to_contain_text("gain cannot be set as its sheet says")
        page.get_by_role("radio", name="Off", exact=True).click()
        expect(page.locator("[data-path-strip]").get_by_role("alert")).to_contain_text("No operating point, engine off")
