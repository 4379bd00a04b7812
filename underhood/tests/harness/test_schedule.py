"""The cable schedule: what is cut and needed, what is left open, and the way out to CSV and back."""

import csv
import io
import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from underhood.cable import conductor
from underhood.cable.stock import of_shelf
from underhood.document.job import JobDocument
from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood.forecast.build import result_of
from underhood.forecast.forecast import make_forecast
from underhood.harness import schedule_csv
from underhood.harness.schedule import FEET_PER_M, cut_m, schedule
from underhood.tests.cable.test_sizing import UNITS
from underhood.tests.examples import changed, document, van

PRICED = WorkshopSettings.model_validate(
    {"shelf": [{"size": "1/0", "price_per_m": 10}, {"size": "4 AWG", "price_per_m": 5}]}
)


def rows_of(job, shop=None):
    return {(row.cable, row.part): row for row in schedule(job, shop).rows}


class CutList(unittest.TestCase):
    def test_a_cut_has_the_shops_allowance_and_is_rounded_up_to_the_next_tenth(self):
        """7.5 m · 1.05 + 0.2 m = 8.075 m: 8.1 m. 5 m · 1.05 + 0.2 m = 5.45: 5.5. An exact tenth stays."""
        shop = WorkshopSettings()
        self.assertEqual([cut_m(way, shop) for way in (7.5, 5, 2)], [8.1, 5.5, 2.3])
        self.assertEqual(cut_m(2, WorkshopSettings(cut_share=0, cut_ends_m=0)), 2)

    @given(st.floats(0.05, 60), st.floats(0, 0.5), st.floats(0, 2))
    def test_a_cut_is_never_shorter_than_needed_nor_a_tenth_longer(self, way, share, ends):
        needed = way * (1 + share) + ends
        cut = cut_m(way, WorkshopSettings(cut_share=share, cut_ends_m=ends))
        self.assertTrue(needed - 1e-6 <= cut < needed + 0.1 + 1e-6)

    def test_feet_are_those_of_pint(self):
        self.assertAlmostEqual(FEET_PER_M, UNITS.Quantity(1, "meter").to("foot").magnitude, places=12)
        row = next(iter(rows_of(JobDocument.model_validate(document())).values()))
        self.assertAlmostEqual(UNITS.Quantity(row.cut_ft, "foot").to("meter").magnitude, row.cut_m, places=9)

    def test_every_cable_and_return_and_speaker_lead_is_on_it_once_with_a_tag_of_its_own(self):
        job = van()
        found = schedule(job)
        made = make_forecast(job)
        tags = [row.tag for row in found.rows]
        self.assertEqual(len(set(tags)), len(tags))
        self.assertTrue(all(tag[0] in "PNES" for tag in tags))
        straps = {cable.name for cable in result_of(made).cables if cable.role == "strap"}
        self.assertEqual({row.cable for row in found.rows if row.part == "strap"}, straps)
        self.assertEqual(
            {row.cable for row in found.rows if row.part == "positive"},
            {c.name for c in result_of(made).cables} - straps,
        )
        self.assertEqual(sum(row.part == "speaker" for row in found.rows), 2)

    def test_a_positive_cable_ends_at_posts_not_at_straps(self):
        rows = rows_of(van())
        charging, run = rows["Charging cable", "positive"], rows["Main run", "positive"]
        self.assertEqual((charging.start, charging.end), ("charger", "front battery"))
        self.assertEqual((run.start, run.end), ("front battery", "rear"))
        strap = rows["Battery strap", "strap"]
        self.assertEqual((strap.start, strap.end, strap.fuse_start), ("front battery", "body", None))

    def test_a_way_back_through_the_body_has_a_short_lead_and_a_strap_nothing(self):
        rows = rows_of(JobDocument.model_validate(document()))
        short = rows["Main run", "body"]
        self.assertEqual((short.start, short.end, short.terminal_end, short.length_m), ("rear", "body", "ring", 0.5))
        self.assertTrue(short.length_assumed and "seat belt" in short.cautions[0])
        lead = rows["Lead to Marram 1200 mono", "return"]
        self.assertEqual((lead.start, lead.end, lead.size), ("Marram 1200 mono", "rear", "4 AWG"))

    def test_terminals_follow_what_a_cable_ends_in(self):
        job = changed(van(), amplifiers__0__terminal_kind="stud")
        rows = rows_of(job)
        ends = {
            name: (row.terminal_start, row.terminal_end) for (name, part), row in rows.items() if part == "positive"
        }
        self.assertEqual(ends["Main run"], ("ring", "ring"))
        self.assertEqual(ends["Feed to rear block"], ("ring", "ferrule"))
        self.assertEqual(ends["Lead to Marram 1200 mono"], ("ferrule", "ring"))
        self.assertEqual(ends["Lead to Second"], ("ferrule", "ferrule"))

    def test_fuses_are_fitted_or_advised_and_stand_within_450_mm_of_a_battery(self):
        rows = rows_of(van())
        run = rows["Main run", "positive"]
        self.assertEqual((run.fuse_start.rating_a, run.fuse_start.fitted, run.fuse_start.kind), (200, True, "bolt-in"))
        self.assertEqual((run.fuse_end.fitted, run.fuse_end.at_battery), (False, True))
        self.assertIsNone(rows["Charging cable", "positive"].fuse_start)

    def test_prices_and_weights_are_by_the_metre_that_is_cut(self):
        job = JobDocument.model_validate(document())
        run = rows_of(job, PRICED)["Main run", "positive"]
        self.assertAlmostEqual(run.price, 10 * run.cut_m)
        self.assertAlmostEqual(run.weight_kg, conductor.kg_per_m("1/0 AWG", "copper") * run.cut_m)
        own = rows_of(changed(job, cables__0__price=33), PRICED)["Main run", "positive"]
        self.assertEqual(own.price, 33)
        found = schedule(job, PRICED)
        self.assertEqual(found.unpriced, 1)
        self.assertAlmostEqual(found.price, sum(row.price or 0 for row in found.rows))

    def test_every_piece_of_every_run_is_weighed_and_paid(self):
        """Three runs of 1/0: three times the metres; two cores of a speaker lead for each of two channels: four."""
        job = changed(JobDocument.model_validate(document()), cables__0__runs=3)
        run = rows_of(job, PRICED)["Main run", "positive"]
        self.assertEqual(run.pieces, 3)
        self.assertAlmostEqual(run.price, 10 * 3 * run.cut_m)
        both = changed(JobDocument.model_validate(document()), amplifiers__0__connection="per_driver")
        both = changed(both, amplifiers__0__channels=2)
        (lead,) = (row for row in schedule(both).rows if row.part == "speaker")
        self.assertEqual(lead.pieces, 2)
        per_m = conductor.kg_per_m("12 AWG", "copper")
        self.assertAlmostEqual(lead.weight_kg, per_m * lead.cut_m * 2 * 2)
        self.assertAlmostEqual(lead.cut_ft, lead.cut_m / 0.3048)
        written = next(csv.DictReader(io.StringIO(schedule_csv.write(schedule(both)))))
        self.assertAlmostEqual(float(written["length_ft"]), float(written["length_m"]) / 0.3048, delta=0.06)

    def test_what_is_needed_adds_up_to_what_is_cut(self):
        found = schedule(changed(van(), cables__2__runs=2))
        cable = sum(each.count for each in found.needed if each.unit == "m")
        self.assertAlmostEqual(cable, sum(row.cut_m * row.pieces for row in found.rows), delta=0.3)
        fuses = sum(row.pieces for row in found.rows for end in (row.fuse_start, row.fuse_end) if end and end.rating_a)
        counted = {
            kind: sum(e.count for e in found.needed if kind in e.what)
            for kind in ("fuse", "Holder", "terminal", "Grommet")
        }
        self.assertEqual((counted["fuse"], counted["Holder"]), (2 * fuses, fuses))  # a holder's name holds "fuse" too
        ends = sum(2 * row.pieces * (2 if row.part == "speaker" else 1) for row in found.rows)
        self.assertEqual(counted["terminal"], ends + 2 * fuses)
        self.assertEqual(counted["Grommet"], sum(row.grommets for row in found.rows))

    def test_a_breaker_needs_no_holder(self):
        job = changed(JobDocument.model_validate(document()), cables__0__fuse_kind="breaker")
        needed = [each.what for each in schedule(job).needed]
        self.assertIn("Circuit breaker", needed)
        self.assertNotIn("Holder for a breaker fuse", needed)

    def test_what_an_apprentice_must_not_guess_is_left_open_until_it_is_decided(self):
        job = JobDocument.model_validate(document())
        told = " ".join(schedule(job).open)
        for words in ("P2: 60 A at the rear is advised", "length of 0.5 m is assumed", "panel on its way is assumed"):
            self.assertIn(words, told)
        decided = changed(
            job,
            cables__0__grommets=1,
            cables__0__return={"kind": "chassis", "resistance_ohm": 0.001, "length_m": 0.4},
            amplifiers__0__lead__fuse_from_a=100,
        )
        self.assertEqual(schedule(decided).open, [])
        burning = changed(decided, cables__0__fuse_from_a=400)
        self.assertIn("above the 285 A", " ".join(schedule(burning).open))
        self.assertIn("no standard fuse", " ".join(schedule(changed(decided, cables__0__size="14 AWG")).open))

    def test_a_setup_without_a_source_has_no_schedule_and_says_why(self):
        found = schedule(JobDocument.model_validate({**document(), "banks": [], "chargers": []}))
        self.assertEqual(found.rows, [])
        self.assertIn("Nothing supplies this setup", found.open[0])


class Csv(unittest.TestCase):
    def rewritten(self, job, **edits):
        """The schedule as CSV with cells of the main run's positive changed."""
        table = list(csv.DictReader(io.StringIO(schedule_csv.write(schedule(job)))))
        for row in table:
            if (row["cable"], row["part"]) == ("Main run", edits.get("part", "positive")):
                row.update({key: value for key, value in edits.items() if key != "part"})
        out = io.StringIO()
        writer = csv.DictWriter(out, schedule_csv.COLUMNS)
        writer.writeheader()
        writer.writerows(table)
        return out.getvalue()

    @settings(max_examples=10, deadline=None)
    @given(st.sampled_from([document, lambda: van().document()]), st.sampled_from(["m", "ft"]))
    def test_read_back_unchanged_it_changes_nothing(self, make, lengths):
        job = JobDocument.model_validate(make())
        text = schedule_csv.write(schedule(job, WorkshopSettings(lengths=lengths)))
        self.assertEqual(schedule_csv.read(job, text).document(), job.document())

    def test_what_somebody_changed_is_in_the_job_and_nothing_else(self):
        job = van()
        text = self.rewritten(job, size="2/0 AWG", length_m="6.25", fuse_to_a="225", pieces="2", grommets="3")
        read = schedule_csv.read(job, text)
        run = next(cable for cable in read.cables if cable.name == "Main run")
        self.assertEqual(
            (run.size, run.length_m.value, run.fuse_to_a.value, run.runs.value, run.grommets.value),
            ("2/0 AWG", 6.25, 225, 2, 3),
        )
        self.assertEqual(run.length_m.origin, "typed")
        before = next(cable for cable in job.cables if cable.name == "Main run")
        same = run.model_copy(
            update={key: getattr(before, key) for key in ("size", "length_m", "fuse_to_a", "runs", "grommets")}
        )
        self.assertEqual(same, before)
        self.assertEqual(
            [c for c in read.cables if c.name != "Main run"], [c for c in job.cables if c.name != "Main run"]
        )

    def test_what_was_read_is_written_again_as_it_was_changed(self):
        """Two runs pass three panels, each in a grommet of its own: three in their row, six to have at hand."""
        edits = {"size": "2/0 AWG", "length_m": "6.25", "pieces": "2", "grommets": "3", "fuse_from_a": "150"}
        job = schedule_csv.read(van(), self.rewritten(van(), **edits))
        made = schedule(job)
        row = next(
            each
            for each in csv.DictReader(io.StringIO(schedule_csv.write(made)))
            if (each["cable"], each["part"]) == ("Main run", "positive")
        )
        self.assertEqual({key: row[key] for key in edits}, edits)
        self.assertEqual(schedule_csv.read(job, schedule_csv.write(made)), job)
        grommets = [each for each in made.needed if each.what == "Grommet" and "2/0" in each.detail]
        self.assertEqual([each.count for each in grommets], [6])

    def test_a_way_back_that_was_never_stated_becomes_a_cable_of_its_own(self):
        job = JobDocument.model_validate(document())
        text = schedule_csv.write(schedule(job)).replace(
            "Lead to Marram 1200 mono,return,Marram 1200 mono,rear,4 AWG", "Lead to Marram 1200 mono,return,x,y,2 AWG"
        )
        way = schedule_csv.read(job, text).amplifiers[0].lead.return_
        self.assertEqual((way.kind, way.size, way.length_m.value), ("cable", "2 AWG", 0.6))

    def test_what_cannot_be_used_is_refused_with_its_line_and_changes_nothing(self):
        job = van()
        good = schedule_csv.write(schedule(job))
        for text, words in (
            (self.rewritten(job, size="O"), "'O' is not a conductor size"),
            (self.rewritten(job, length_m="200"), "200 is not allowed"),
            (self.rewritten(job, length_m="long"), "'long' is not a number"),
            (self.rewritten(job, pieces="9"), "9 is not allowed"),
            (self.rewritten(job, conductor="tin"), "is not allowed"),
            (good.replace("Main run", "Mane run"), "did you mean Main run?"),
            (good.replace("length_m", "length_cm", 1), "unknown column 'length_cm'"),
            ("", "holds no row"),
            (b"\0", "not a text file"),
        ):
            with self.subTest(words), self.assertRaises(BadInput) as caught:
                schedule_csv.read(job, text, "cut.csv")
            self.assertIn(words, caught.exception.text)
            self.assertEqual(caught.exception.file, "cut.csv")
        with self.assertRaises(BadInput) as caught:
            schedule_csv.read(job, self.rewritten(job, length_m="200"), "cut.csv")
        self.assertGreater(caught.exception.line, 2)

    def test_a_table_saved_with_semicolons_and_decimal_commas_is_understood(self):
        job = JobDocument.model_validate(document())
        plain = "cable;part;length_m\nMain run;positive;6,25\n"
        self.assertEqual(schedule_csv.read(job, plain).cables[0].length_m.value, 6.25)

    def test_a_name_that_a_spreadsheet_would_run_is_made_harmless_and_comes_back(self):
        job = changed(JobDocument.model_validate(document()), cables__0__name="=1+1")
        text = schedule_csv.write(schedule(job))
        self.assertIn("'=1+1", text)
        self.assertEqual(schedule_csv.read(job, text).cables[0].name, "=1+1")


class Settings(unittest.TestCase):
    def test_an_empty_shelf_means_every_usual_size(self):
        everything = of_shelf(WorkshopSettings().shelf)
        self.assertEqual(len(everything.sizes), 4 * len(conductor.STOCK))
        self.assertTrue(all(math.isnan(price) for price in everything.price_per_m))
        self.assertIsNone(everything.cheapest_of("4 AWG", "copper"))

    def test_of_two_alike_the_cheaper_is_reckoned_with(self):
        shelf = [{"size": "4", "price_per_m": 7}, {"size": "4 AWG", "price_per_m": 5}, {"size": "4 AWG"}]
        self.assertEqual(
            of_shelf(WorkshopSettings.model_validate({"shelf": shelf}).shelf).cheapest_of("4 AWG", "copper"), 5
        )

    def test_settings_out_of_range_are_refused(self):
        for raw in (
            {"sizes": "swg"},
            {"cut_share": 0.9},
            {"cut_ends_m": -1},
            {"currency": "euro"},
            {"colours": True},
        ):
            with self.subTest(raw), self.assertRaises(ValidationError):
                WorkshopSettings.model_validate(raw)
