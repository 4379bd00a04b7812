"""The cables in the browser: another metal, fuses, tests with a meter, the tree, the schedule, the shop's units."""

from __future__ import annotations

import re
from pathlib import Path
from tempfile import TemporaryDirectory

from playwright.sync_api import Locator, Page, expect

from e2e.browser import BrowserTest
from underhood_server.jobs.models import Job


class Cable(BrowserTest):
    def van(self) -> Page:
        page = self.enter()
        page.get_by_role("link", name="Book-delivery van").click()
        page.get_by_role("navigation", name="Stations").get_by_role("link", name="Cable").click()
        page.get_by_role("table", name="Sizes").wait_for()
        return page

    def tearDown(self) -> None:
        self.assertEqual((self.foreign, self.complaints), ([], []))
        super().tearDown()

    def row(self, name: str) -> Locator:
        cables = self.page.get_by_role("table", name="Cables", exact=True)
        return cables.get_by_role("row").filter(has=self.page.get_by_role("button", name=name))

    def drop(self, name: str) -> float:
        found = re.search(r"([\d.]+) V", self.row(name).inner_text())
        assert found
        return float(found[1])

    def choose(self, name: str) -> None:
        self.row(name).get_by_role("button", name=name).click()
        expect(self.page.get_by_role("region", name=name, exact=True)).to_be_visible()

    def refused(self) -> None:
        """The browser notes every refusal; one was looked for."""
        self.assertTrue(all("422" in each for each in self.complaints), self.complaints)
        self.assertNotEqual(self.complaints, [])
        self.complaints.clear()

    def ledger(self) -> Locator:
        return self.page.get_by_role("list", name="Flags")

    def test_copper_clad_aluminium_drops_more_carries_less_and_is_flagged(self) -> None:
        page = self.van()
        self.choose("Lead to Skerry 800 mono")
        before, carried = self.drop("Lead to Skerry 800 mono"), self.row("Lead to Skerry 800 mono").inner_text()
        self.assertIn("160 A", carried)
        expect(self.ledger()).not_to_contain_text("copper-clad")
        page.get_by_label("Conductor").select_option(label="copper-clad aluminium, 10 %")
        expect(self.ledger()).to_contain_text("Lead to Skerry 800 mono is copper-clad aluminium, 10 % copper.")
        expect(self.row("Lead to Skerry 800 mono")).not_to_contain_text("160 A")
        self.assertGreater(self.drop("Lead to Skerry 800 mono"), before + 0.02)
        expect(page.get_by_role("list", name="Cautions").first).to_contain_text("terminals rated for them")
        page.get_by_label("Size", exact=True).fill("10 AWG")
        expect(self.ledger()).to_contain_text("The 100 A fuse of Lead to Skerry 800 mono at the rear is above the")
        page.get_by_role("tab", name="Fuses").click()
        fit = page.get_by_role("button", name=re.compile("^Fit .* in Lead to Skerry 800 mono at the rear"))
        advised = re.search(r"Fit ([\d.]+) A", fit.inner_text())
        assert advised
        fit.click()
        expect(self.ledger()).not_to_contain_text("fuse of Lead to Skerry 800 mono at the rear is above")
        expect(page.get_by_role("textbox", name="Fuse at its start")).to_have_value(advised[1])
        page.keyboard.press("Escape")
        page.get_by_role("heading", name="Ledger").click()
        for _ in range(3):
            page.keyboard.press("z")
        expect(self.ledger()).not_to_contain_text("copper-clad")

    def test_a_size_is_taken_from_the_ranking_and_steps_tell_what_it_is_worth(self) -> None:
        page = self.van()
        self.choose("Main run")
        sizes = page.get_by_role("table", name="Sizes")
        expect(sizes).to_contain_text("✓ smallest, fuse")
        steps = page.get_by_role("table", name="Steps, a full tone")
        expect(steps).to_contain_text("one step up, for the next amplifier")
        sizes.get_by_role("button", name="Use 2/0 AWG").click()
        expect(self.row("Main run")).to_contain_text("2/0 AWG")
        expect(sizes.get_by_role("row", name="2/0 AWG")).to_contain_text("as laid")
        page.get_by_role("radio", name="mm²").click()
        expect(sizes).to_contain_text("50 mm²")
        page.get_by_label("Sizes of").select_option(label="copper-clad aluminium, 15 %")
        expect(page.get_by_text("None of this kind is on the shelf.")).to_be_visible()
        page.get_by_role("radio", name="AWG").click()
        expect(sizes.get_by_role("row", name="1/0 AWG")).to_contain_text("measured")

    def test_a_cable_is_pointed_at_on_the_strip_and_bad_sizes_are_told_at_the_field(self) -> None:
        page = self.van()
        run = page.locator("[data-path-strip] a", has=page.locator("title", has_text=re.compile("^Front to Rear:")))
        run.click()
        expect(page.get_by_role("region", name="Main run", exact=True)).to_be_visible()
        page.get_by_label("Size", exact=True).fill("O")
        expect(page.get_by_text("'O' is not a conductor size").first).to_be_visible()
        page.get_by_label("Size", exact=True).fill("2/0")
        expect(self.row("Main run")).to_contain_text("67.4 mm²")
        page.get_by_role("textbox", name="Runs", exact=True).fill("9")
        expect(page.get_by_role("alert").first).to_contain_text("9 is not allowed; give a whole number from 1 to 4")
        page.wait_for_timeout(900)
        self.refused()
        stored = Job.objects.get(title__startswith="Book-delivery").document["cables"]
        self.assertNotIn(9, [cable["runs"] for cable in stored])

    def test_what_a_meter_reads_replaces_what_was_assumed(self) -> None:
        page = self.van()
        self.choose("Main run")
        page.get_by_role("button", name="Test the joints").click()
        page.get_by_label("Read, mV").fill("30")
        page.get_by_label("Clamp, A").fill("2")
        page.get_by_role("button", name="Work it out").click()
        expect(page.get_by_role("alert")).to_contain_text("2 is not allowed; give a number from 5 to 2000 A")
        self.refused()
        page.get_by_label("Clamp, A").fill("30")
        page.get_by_role("button", name="Work it out").click()
        expect(page.get_by_role("status").filter(has_text="mΩ")).to_contain_text("1.00 mΩ")
        page.get_by_role("button", name="Take it as measured").click()
        expect(page.get_by_label("Joints and holder", exact=True)).to_have_value("1")
        expect(page.get_by_role("button", name="Joints and holder: measured")).to_be_visible()
        before = self.drop("Main run")
        page.get_by_role("button", name="Is it really that gauge?").click()
        page.get_by_label("Strands").fill("1050")
        page.get_by_label("One strand, mm").fill("0.2")
        page.get_by_role("button", name="Hold it against the label").click()
        expect(page.get_by_text("It conducts 62 % of what 1/0 AWG should")).to_be_visible()
        expect(page.get_by_text("and its fuse may be")).to_be_visible()
        page.get_by_role("button", name="Reckon with what was measured").click()
        expect(self.ledger()).to_contain_text("Main run conducts 62 % of what 1/0 AWG should.")
        self.assertGreater(self.drop("Main run"), before)

    def test_the_tree_is_built_from_what_is_offered_and_taken_down_again(self) -> None:
        page = self.van()
        page.get_by_role("button", name="Add: Distribution block at rear").click()
        expect(self.row("Feed to rear block")).to_be_visible()
        self.choose("Lead to Saltpan 2x90")
        expect(page.get_by_label("Fed from")).to_have_value("rear block")
        page.get_by_role("tab", name="Fuses").click()
        expect(page.get_by_role("table", name="Fuses", exact=True)).to_contain_text("rear block")
        page.get_by_role("tab", name="Path and sizes").click()
        self.choose("Feed to rear block")
        page.get_by_role("button", name="Take it away").click()
        expect(self.row("Feed to rear block")).to_have_count(0)
        page.get_by_role("heading", name="Ledger").click()
        page.keyboard.press("z")
        expect(self.row("Feed to rear block")).to_be_visible()

    def test_the_schedule_is_handed_over_changed_and_brought_back(self) -> None:
        page = self.van()
        page.get_by_role("tab", name="Schedule").click()
        cuts = page.get_by_role("table", name="Cut list")
        expect(cuts.get_by_role("row", name="P2 Main run")).to_contain_text("8.1 m")
        expect(cuts.get_by_role("row", name="P2 Main run")).to_contain_text("within 450 mm of the front battery")
        expect(page.get_by_text("Nothing is left open")).to_be_visible()
        expect(page.get_by_role("img", name="Wiring of Book-delivery van")).to_contain_text("250 A")
        with page.expect_download() as drawing:
            page.get_by_role("button", name="Save as SVG").click()
        self.assertIn("<svg", Path(drawing.value.path()).read_text(encoding="utf-8"))
        with page.expect_download() as download:
            page.get_by_role("button", name="Save as CSV").click()
        text = Path(download.value.path()).read_text(encoding="utf-8")
        self.assertIn(",7.5,24.6,8.1,26.6,", text)
        with TemporaryDirectory() as folder:
            changed, wrong = Path(folder) / "changed.csv", Path(folder) / "wrong.csv"
            changed.write_text(text.replace(",7.5,24.6,", ",6.2,24.6,"), encoding="utf-8")
            wrong.write_text(text.replace(",7.5,24.6,", ",620,24.6,"), encoding="utf-8")
            bring = page.get_by_label("Bring a changed CSV back")
            bring.set_input_files(wrong)
            expect(page.get_by_role("alert")).to_contain_text("wrong.csv: line 4")
            expect(cuts.get_by_role("row", name="P2 Main run")).to_contain_text("8.1 m")
            self.refused()
            bring.set_input_files(changed)
            expect(cuts.get_by_role("row", name="P2 Main run")).to_contain_text("6.8 m")
        page.get_by_role("navigation", name="Places").get_by_role("link", name="Shop").click()
        page.get_by_role("radio", name="feet").click()
        page.get_by_role("radio", name="mm²").click()
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("✓ saved")).to_be_visible()
        page.go_back()
        expect(cuts.get_by_role("row", name="P2 Main run")).to_contain_text("22.3 ft")
        expect(cuts.get_by_role("row", name="P2 Main run")).to_contain_text("6.8 m")
        page.get_by_role("tab", name="Path and sizes").click()
        self.choose("Main run")
        page.get_by_label("Length", exact=True).fill("10")
        self.saved()
        stored = Job.objects.get(title__startswith="Book-delivery").document["cables"]
        run = next(cable for cable in stored if cable["name"] == "Main run")
        self.assertAlmostEqual(run["length_m"], 3.048, places=6)

    def test_the_shelf_refuses_what_is_no_size_and_keeps_the_rest(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Shop").click()
        page.get_by_role("button", name="Add a cable").click()
        last = page.get_by_role("table", name="Cable on the shelf").get_by_role("row").last
        last.get_by_label("Size of cable").fill("O")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_role("alert")).to_contain_text("'O' is not a conductor size")
        self.refused()
        last.get_by_label("Size of cable").fill("3/0")
        last.get_by_label("Price of cable").fill("22.5")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("✓ saved")).to_be_visible()
        page.reload()
        expect(page.locator("input[value='3/0 AWG']")).to_be_visible()
