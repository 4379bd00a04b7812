"""Draw and supply in the browser: a recording of one's own, a simulation over time, sources added and measured."""

from __future__ import annotations

import re
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from playwright.sync_api import Page, expect

from e2e.browser import BrowserTest
from underhood_server.jobs.models import Job, Recording


class Supply(BrowserTest):
    def open_job(self, title: str, station: str) -> Page:
        page = self.enter()
        page.get_by_role("link", name=title).click()
        page.get_by_role("navigation", name="Stations").get_by_role("link", name=station).click()
        return page

    def tearDown(self) -> None:
        self.assertEqual((self.foreign, self.complaints), ([], []))
        super().tearDown()

    def lowest(self) -> float:
        """Lowest volts at the front battery in the simulation that was run."""
        row = (
            self.page.get_by_role("table", name="What came of the simulation")
            .get_by_role("row", name="Front battery")
            .first
        )
        found = re.search(r"([\d.]+) V", row.inner_text())
        assert found
        return float(found[1])

    def run_with(self, programme: str, level_db: str) -> float:
        page = self.page
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Draw").click()
        page.get_by_label("Programme", exact=True).select_option(label=programme)
        page.get_by_role("textbox", name="Level", exact=True).fill(level_db)
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Supply").click()
        # What comes above it moves it: it is pressed once it stands still.
        expect(page.get_by_role("list", name="What gives first")).to_be_visible()
        page.get_by_label("Length, s").fill("600")
        page.get_by_role("button", name="Run the simulation").click()
        # The first simulation after an installation compiles its kernel, which takes longer than any later one.
        expect(page.get_by_text(f"{programme}, engine idle")).to_be_visible(timeout=60_000)
        return self.lowest()

    def test_lights_dim_at_idle_with_held_bass_and_not_with_quieter_everyday_music(self) -> None:
        page = self.open_job("Estate car, two 12s", "Supply")
        expect(page.get_by_role("list", name="What gives first")).to_contain_text("At idle the Alternator is short by")
        everyday = self.run_with("Everyday music", "-6")
        expect(page.get_by_text("✓ The lights do not dim")).to_be_visible()
        held = self.run_with("Long held bass", "0")
        expect(page.get_by_text("▲ The lights dim")).to_be_visible()
        self.assertLess(held, everyday - 0.5)
        chart = page.get_by_role("figure", name="Volts over time")
        before = chart.inner_text()
        chart.focus()
        for _ in range(3):
            page.keyboard.press("PageUp")
        self.assertNotEqual(chart.inner_text(), before)
        with page.expect_download() as download:
            page.get_by_role("button", name="Save as CSV").click()
        self.assertTrue(Path(download.value.path()).read_text(encoding="utf-8").startswith("time_s,front_v"))

    def test_a_recording_is_sent_listened_to_and_played(self) -> None:
        page = self.open_job("Estate car, two 12s", "Draw")
        t = np.arange(8 * 8000) / 8000
        with tempfile.TemporaryDirectory() as folder:
            beat, junk = Path(folder) / "beat.wav", Path(folder) / "junk.wav"
            soundfile.write(beat, 0.6 * np.sin(2 * np.pi * 45 * t) * ((t % 2) < 0.4), 8000)
            junk.write_bytes(b"nothing that sounds")
            page.get_by_label("Play a recording of yours").set_input_files(junk)
            expect(page.get_by_role("alert")).to_contain_text("junk.wav: is no recording that can be read")
            self.complaints.clear()  # the browser notes every refusal
            page.get_by_label("Play a recording of yours").set_input_files(beat)
            expect(page.get_by_text(re.compile(r"beat\.wav: 8 s, crest"))).to_be_visible()
        expect(page.get_by_role("img", name="Level over 8 seconds, Marram 1200 mono")).to_be_visible()
        expect(page.get_by_label("Programme", exact=True)).to_have_value("file")
        row = page.get_by_role("table", name="Draw by programme").get_by_role("row", name="Your recording")
        amps = [float(each) for each in re.findall(r"([\d.]+) A", row.inner_text())]
        self.assertTrue(amps[0] < 0.5 * amps[3], amps)
        expect(page.get_by_role("status").filter(has_text="revision 2")).to_be_visible()
        stored = Job.objects.get(title="Estate car, two 12s").document["basis"]
        self.assertEqual((stored["programme"], stored["programme_file"]["bands"]), ("file", None))
        self.assertEqual(len(Recording.objects.get(name="beat.wav").analysis["bands"]["63"]), 800)
        page.get_by_role("button", name="Remove it").click()
        expect(page.get_by_label("Programme", exact=True)).to_have_value("tone")
        expect(row).to_have_count(0)
        expect(page.get_by_role("status").filter(has_text="revision 3")).to_be_visible()

    def test_a_battery_is_added_and_its_resistance_taken_from_a_load_test(self) -> None:
        page = self.open_job("Electric van", "Supply")
        expect(page.get_by_role("table", name="Reserve")).to_contain_text("measure it")
        page.get_by_label("Usual loads of").select_option(label="van")
        expect(page.get_by_text("Alarm and tracker", exact=True)).to_be_visible()
        page.get_by_role("button", name="Add a battery").click()
        battery = page.get_by_role("region", name="Battery 2")
        battery.get_by_text("From a load test").click()
        for label, text in (
            ("First reading, V", "12,70"),
            ("Second reading, V", "12.15"),
            ("Second reading, A", "100"),
        ):
            battery.get_by_label(label).fill(text)
        battery.get_by_role("button", name="Take the resistance").click()
        expect(battery.get_by_label("Resistance: measured")).to_be_visible()
        self.saved()
        bank = Job.objects.get(title="Electric van, no engine").document["banks"][1]
        self.assertAlmostEqual(bank["resistance_ohm"]["value"], 0.0055)
        self.assertEqual(bank["resistance_ohm"]["origin"], "measured")
