"""The load in the browser: an arrangement picked by its result, a sweep, the marker, a reading, a driver."""

from __future__ import annotations

import math
import re
import tempfile
from pathlib import Path

from playwright.sync_api import Page, expect

from e2e.browser import BrowserTest
from underhood_server.jobs.models import Job


def sweep() -> str:
    """A made-up sweep with a peak of 9 ohm at 44 Hz, in steps of a twentieth of an octave."""
    rows = ["frequency_hz,impedance_ohm,phase_deg"]
    for n in range(90):
        hz = 10 * 2 ** (n / 20)
        away = math.log2(hz / 44)
        rows.append(f"{hz:.3f},{1.1 + 7.9 / (1 + (6 * away) ** 2):.4f},{-60 * math.tanh(4 * away):.2f}")
    return "\n".join(rows) + "\n"


class Load(BrowserTest):
    def open_job(self, tab: str) -> Page:
        page = self.enter()
        page.get_by_role("link", name="Estate car, two 12s").click()
        page.get_by_role("tab", name=tab).click()
        return page

    def tearDown(self) -> None:
        self.assertEqual((self.foreign, self.complaints), ([], []))
        super().tearDown()

    def at_the_marker(self, name: str) -> str:
        figures = self.page.locator("dl[aria-label='Figures at the marker']")
        return figures.locator("div").filter(has=self.page.get_by_text(name, exact=True)).locator("dd").inner_text()

    def watts_at_the_marker(self) -> float:
        return float(self.at_the_marker("true power").removesuffix(" W"))

    def test_the_watts_fall_from_the_bench_to_the_box_in_one_look(self) -> None:
        page = self.open_job("Watts")
        rows = page.get_by_role("table", name="Fall of the watts").get_by_role("row")
        expect(rows).to_have_count(5)
        watts = [float(re.search(r"([\d.]+) W", row.inner_text())[1]) for row in rows.all()]
        self.assertEqual(watts, sorted(watts, reverse=True))
        ledger = page.get_by_role("complementary", name="Ledger")
        expect(ledger.get_by_role("button", name=re.compile("Delivered by"))).to_contain_text(f"{watts[-1]:.0f}")
        expect(rows.nth(4)).to_contain_text("power factor")

    def test_an_arrangement_is_picked_by_what_it_delivers_and_drawn(self) -> None:
        page = self.open_job("Wiring")
        table = page.get_by_role("table", name="Ways to wire it")
        expect(table).to_contain_text("below its lowest safe load")
        page.get_by_role("radio", name="coils series, drivers parallel", exact=True).click()
        expect(page.get_by_role("radio", name="coils series, drivers parallel", exact=True)).to_be_checked()
        expect(page.get_by_role("img", name="coils series, drivers parallel: 4 Ω")).to_be_visible()
        expect(page.get_by_text("3.30 Ω")).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("button", name="Save as SVG").click()
        self.assertIn("<path", Path(download.value.path()).read_text(encoding="utf-8"))
        expect(page.get_by_role("status").filter(has_text="revision 2")).to_be_visible()
        stored = Job.objects.get(title="Estate car, two 12s").document["amplifiers"][0]["load"]
        self.assertEqual(stored["wiring"], "coils series, drivers parallel")

    def test_a_sweep_takes_over_and_the_marker_reads_true_power(self) -> None:
        page = self.open_job("Over frequency")
        modelled = self.watts_at_the_marker()
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "sweep.csv"
            path.write_text(sweep(), encoding="utf-8")
            page.get_by_label("Import a sweep").set_input_files(path)
            expect(page.get_by_text(re.compile("90 points, 10 to"))).to_be_visible()
        expect(page.get_by_text(re.compile(r"rise")).first).to_be_visible()
        page.wait_for_function(
            "(before) => !document.querySelector('dl')?.innerText.includes(before)", arg=f"{modelled:.0f} W"
        )
        marker = page.get_by_role("slider")
        marker.focus()
        at_tone = self.watts_at_the_marker()
        for _ in range(40):
            page.keyboard.press("ArrowRight")
        moved = float(str(marker.get_attribute("aria-valuetext")).removesuffix(" Hz"))
        self.assertGreater(moved, 60)
        self.assertGreater(self.watts_at_the_marker(), at_tone)
        ohms, phase = self.at_the_marker("|Z|"), self.at_the_marker("phase")
        output = re.match(r"([\d.]+) V", self.at_the_marker("output"))
        assert output
        volts, z = float(output[1]), float(ohms.removesuffix(" Ω"))
        cosine = math.cos(math.radians(float(phase.removesuffix("°").replace("−", "-"))))
        # What is shown is rounded: volts to 0.1, ohms to 0.01, degrees to 1; the lead takes one percent.
        self.assertAlmostEqual(self.watts_at_the_marker() / (volts**2 / z * cosine), 1.0, delta=0.05)

    def test_a_reading_in_the_car_replaces_the_model_at_its_tone(self) -> None:
        page = self.open_job("Readings")
        for label, text in (("Output, V", "20"), ("Output, A", "5"), ("or true watts", "70")):
            page.get_by_label(label, exact=True).fill(text)
        page.get_by_role("button", name="Take it as measured").click()
        row = page.get_by_role("table", name="Readings of the load").get_by_role("row").nth(1)
        expect(row).to_contain_text("4.00 Ω")
        expect(row).to_contain_text("70 W")
        page.get_by_role("tab", name="Watts").click()
        expect(page.get_by_role("table", name="Delivered").get_by_role("row", name="In the box")).to_contain_text(
            "4.00 Ω"
        )
        page.get_by_role("tab", name="Readings").click()
        page.get_by_label("Output, V").fill("10")
        page.get_by_label("Output, A").fill("1")
        page.get_by_label("or true watts").fill("50")
        page.get_by_role("button", name="Take it as measured").click()
        expect(page.get_by_role("alert")).to_contain_text("true watts never are")
        self.complaints.clear()  # the browser notes every refusal

    def test_a_driver_is_entered_among_the_parts_and_picked_in_a_job(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Parts").click()
        page.get_by_role("button", name="New driver").click()
        form = page.get_by_role("form", name="New driver")
        for label, text in (
            ("Name", "Turnstone 10"),
            ("Nominal size, in", "10"),
            ("Nominal ohms a coil, Ω", "4"),
            ("Resistance of one coil, Ω", "3,4"),
            ("Resonance fs, Hz", "30"),
            ("Qms", "5"),
            ("Qes, all coils", "0.45"),
            ("Vas, l", "36"),
            ("Piston area Sd, cm²", "34"),
        ):
            form.get_by_label(label).fill(text)
        form.get_by_role("button", name="Save the driver").click()
        row = page.get_by_role("table", name="Drivers").get_by_role("row", name="Turnstone 10")
        expect(row).to_contain_text("▲")
        row.get_by_role("button").click()
        expect(page.get_by_text("is it in cm²?")).to_be_visible()
        page.get_by_label("Piston area Sd, cm²").fill("340")
        page.get_by_role("button", name="Save the driver").click()
        expect(row).to_contain_text("✓")
        page.get_by_role("link", name="Jobs", exact=True).click()
        page.get_by_role("link", name="Estate car, two 12s").click()
        page.get_by_role("combobox", name="Driver", exact=True).select_option(label="Turnstone 10")
        expect(page.get_by_text("Vas 36 l")).to_be_visible()
        expect(page.get_by_role("status").filter(has_text="revision 2")).to_be_visible()
