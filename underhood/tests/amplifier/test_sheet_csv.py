"""Bench sheets in and out."""

import csv
import datetime
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.amplifier import sheet_csv
from underhood.amplifier.sheet import Sheet
from underhood.amplifier.sheet_csv import SPELT
from underhood.document.amplifier import AmplifierRecord, Claim, Measurement
from underhood.errors import BadInput

SHEET = """# amplifier: Marram 1200 mono
# class: D
# fuses_a: 40 40 40
# price: 310 EUR
# claim: 1 1200 14.4 1 standard
load_ohm,load_kind,criterion,tone_hz,supply_v,supply_a,power_w,protect,note
4,resistive,thd1,40,14.31,33.1,402,no,
2,resistive,thd1,40,14.12,63.0,716,no,"warm, fans on"
1,resistive,thd1,40,13.78,118.4,1186,yes,'=1+1
"""


class Reading(unittest.TestCase):
    def refused(self, content: str | bytes) -> str:
        with self.assertRaises(BadInput) as caught:
            sheet_csv.read(content, "sheet.csv")
        return str(caught.exception)

    def test_a_sheet_reads_and_writes_back_unchanged(self):
        sheet = sheet_csv.read(SHEET, "sheet.csv")
        self.assertEqual([run.power_w for run in sheet.runs], [402, 716, 1186])
        self.assertEqual(sheet.record.fuses_a, (40, 40, 40))
        self.assertEqual((sheet.record.price.value, sheet.record.currency), (310, "EUR"))
        self.assertEqual((sheet.runs[1].note, sheet.runs[2].note), ("warm, fans on", "=1+1"))
        self.assertEqual(sheet_csv.read(sheet_csv.write(sheet)), sheet)

    def test_what_a_spreadsheet_would_take_for_a_formula_is_written_harmless(self):
        written = sheet_csv.write(sheet_csv.read(SHEET))
        self.assertIn(",'=1+1,", written)
        self.assertNotIn(",=1+1", written)

    def test_semicolons_with_decimal_commas_read_the_same(self):
        rows = [row for row in SHEET.splitlines() if not row.startswith("#")]
        swapped = "\n".join(row.split(',"')[0].replace(",", ";").replace(".", ",") for row in rows)
        self.assertEqual(
            [run.supply_v for run in sheet_csv.read(swapped).runs],
            [run.supply_v for run in sheet_csv.read(SHEET).runs],
        )

    def test_each_slip_is_named_with_line_column_and_what_is_allowed(self):
        for old, new, words in [
            ("criterion,", "", ["line 6", "criterion", "missing"]),
            ("power_w", "watts", ["line 6", "unknown column 'watts'"]),
            ("14.31", "fourteen", ["line 7", "supply_v", "'fourteen' is not a number"]),
            ("\n4,", "\n-4,", ["line 7", "load_ohm", "-4", "0.1 to 64 ohm"]),
            ("\n2,resistive,thd1", "\n2,resistive,thd2", ["line 8", "criterion", "thd2", "'thd1'"]),
            ("# class: D", "# clas: D", ["line 2", "did you mean class"]),
            ("# class: D", "# class: Z", ["line 2", "class"]),
            ("14.4 1 standard", "14.4 standard", ["line 5", "claim"]),
            ("63.0,716", "63.0,", ["line 8", "its watts or its volts"]),
        ]:
            with self.subTest(new):
                message = self.refused(SHEET.replace(old, new, 1))
                for word in ["sheet.csv", *words]:
                    self.assertIn(word, message)

    def test_wrong_separators_junk_and_size_are_refused(self):
        self.assertIn("tabs", self.refused(SHEET.replace(",", "\t")))
        self.assertIn("UTF-8", self.refused(b"\xff\xfe\x00junk"))
        self.assertIn("larger than", self.refused(b"\x00" * 10_000_000))
        self.assertIn("2000", self.refused(SHEET + "4,resistive,thd1,40,14,33,402,no,\n" * 2500))
        self.assertIn("no reading", self.refused("# amplifier: Nothing\n"))


FULL = {
    "name": "Everything 900",
    "class": "AB",
    "band": "full",
    "pass_band_hz": [10, 20000],
    "supply": "regulated",
    "supply_exponent": 0.2,
    "idle_a": 1.4,
    "dropout_v": 10.5,
    "cutout_v": 9,
    "supply_max_v": 15.5,
    "system_v": 24,
    "overlap_db": 8,
    "all_channels_driven": True,
    "channels": 4,
    "measured_as": "bridged",
    "minimum_load_ohm": 2,
    "bridgeable": True,
    "strappable": False,
    "fuses_a": [30, 30],
    "terminal_max": "4 AWG",
    "terminal_inputs": 2,
    "terminal_kind": "stud",
    "damping_factor": 200,
    "speaker_terminals": 4,
    "inputs": ["line", "high_level"],
    "input_range_v": [0.2, 6],
    "high_pass_range_hz": [30, 300],
    "low_pass_range_hz": [40, 400],
    "high_pass_set_hz": 30,
    "low_pass_set_hz": 400,
    "boost_max_db": 12,
    "boost_hz": 45,
    "lights": ["clip"],
    "remote_level": True,
    "fans": 2,
    "size_mm": [300, 200, 60],
    "mass_kg": 3.2,
    "price": 310,
    "price_date": "2026-03-01",
    "list_price": 399,
    "list_price_date": "2026-03-02",
    "currency": "EUR",
    "likes": "=cool and quiet",
    "dislikes": "-heavy",
}

numbers = st.floats(0.5, 60).map(lambda x: round(x, 3))
texts = st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")), max_size=12)


@st.composite
def runs(draw) -> Measurement:
    """Any reading that the schema allows, with text that a spreadsheet might take for a formula."""
    return Measurement.model_validate(
        {
            "load_ohm": draw(st.floats(0.5, 16).map(lambda x: round(x, 2))),
            "load_kind": draw(st.sampled_from(["resistive", "reactive"])),
            "criterion": draw(st.sampled_from(["thd1", "clip", "burst", "unstated"])),
            "supply_v": draw(st.none() | st.floats(9, 17)),
            "supply_a": draw(st.none() | numbers),
            "power_w": draw(numbers),
            "output_v": draw(st.none() | numbers),
            "power_factor": draw(st.none() | st.floats(0.1, 1)),
            "level_db": draw(st.none() | st.floats(-30, 0)),
            "protect": draw(st.booleans()),
            "excluded": draw(st.booleans()),
            "date": draw(st.none() | st.dates(datetime.date(2000, 1, 1), datetime.date(2099, 1, 1)).map(str)),
            "note": draw(st.sampled_from(["", "=", "+", "-", "@"])) + draw(texts),
            "reason": draw(texts),
        }
    )


class Writing(unittest.TestCase):
    def test_a_record_with_every_field_comes_back_whole(self):
        record = AmplifierRecord.model_validate(FULL)
        said = {SPELT.get(field, field) for field in AmplifierRecord.model_fields}
        self.assertEqual(said - {"amplifier"}, set(FULL) - {"name"})
        claims = (Claim(load_ohm=2, power_w=500, kind="box"), Claim(load_ohm=4, power_w=300, thd_percent=1, kind="max"))
        sheet = Sheet(record, (), claims)
        self.assertEqual(sheet_csv.read(sheet_csv.write(sheet)), sheet)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(runs(), min_size=1, max_size=6))
    def test_any_readings_come_back_as_they_were_and_no_cell_is_a_formula(self, readings):
        sheet = Sheet(AmplifierRecord(name="Any"), tuple(readings))
        written = sheet_csv.write(sheet)
        self.assertEqual(sheet_csv.read(written).runs, sheet.runs)
        for row in list(csv.reader(written.splitlines()))[2:]:
            for cell in row:
                self.assertFalse(cell.startswith(("=", "+", "@")), cell)
                if cell.startswith("-"):
                    float(cell)

    @settings(max_examples=60, deadline=None)
    @given(runs())
    def test_a_reading_as_typed_cells_is_the_same_reading(self, reading):
        again = sheet_csv.run_of_cells(sheet_csv.cells_of_run(reading), 1)
        self.assertEqual(again.model_dump(), reading.model_copy(update=_rounded(reading)).model_dump())


def _rounded(reading: Measurement) -> dict:
    """The grid shows ten significant digits, and texts without blanks at their ends."""
    floats = {k: float(f"{v:.10g}") for k, v in reading.model_dump().items() if isinstance(v, float)}
    return floats | {field: getattr(reading, field).strip() for field in ("note", "reason")}


class Fuzz(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(
        st.binary(max_size=400)
        | st.text(max_size=400)
        | st.builds(lambda a, b: SHEET[:a] + b + SHEET[a:], st.integers(0, len(SHEET)), st.text(max_size=6))
    )
    def test_whatever_a_file_holds_it_is_read_or_refused_in_one_line(self, content):
        for reader in (sheet_csv.read, sheet_csv.read_claims):
            try:
                reader(content, "any.csv")
            except BadInput as problem:
                self.assertTrue(str(problem).startswith("any.csv: "))
                self.assertEqual(str(problem).count("\n"), 0)

    def test_a_hundred_thousand_rows_are_refused_at_once_with_the_limit(self):
        rows = "load_ohm,criterion,power_w\n" + "4,thd1,400\n" * 100_000
        with self.assertRaises(BadInput) as caught:
            sheet_csv.read(rows)
        self.assertIn("2000 rows", str(caught.exception))

    def test_more_loads_than_a_fit_can_take_are_refused(self):
        rows = "".join(f"{1 + n / 10},thd1,400\n" for n in range(30))
        with self.assertRaises(BadInput) as caught:
            sheet_csv.read("load_ohm,criterion,power_w\n" + rows)
        self.assertIn("a sheet may hold 24", str(caught.exception))


class Claims(unittest.TestCase):
    def test_a_file_of_claims_reads_with_commas_or_semicolons(self):
        comma = sheet_csv.read_claims(
            "load_ohm,power_w,supply_v,thd_percent,kind\n2,500.5,13.8,1,standard\n4,300,,,box\n"
        )
        semicolon = sheet_csv.read_claims(
            "load_ohm;power_w;supply_v;thd_percent;kind\n2;500,5;13,8;1;standard\n4;300;;;box\n"
        )
        self.assertEqual(comma, semicolon)
        self.assertEqual(
            [(c.power_w, c.supply_v, c.kind) for c in comma], [(500.5, 13.8, "standard"), (300, 14.4, "box")]
        )

    def test_slips_are_named(self):
        for text, words in [
            ("load_ohm,power_w\n2,500\n", "kind: this column is missing"),
            ("load_ohm,power_w,kind\n", "holds no claim"),
            ("load_ohm,power_w,kind\n2,500,guess\n", "line 2: kind"),
            ("load_ohm,watts,kind\n2,500,box\n", "unknown column 'watts'"),
        ]:
            with self.subTest(words), self.assertRaises(BadInput) as caught:
                sheet_csv.read_claims(text, "claims.csv")
            self.assertIn(words, str(caught.exception))
