"""Bench sheets in and out."""

import unittest

from underhood.bench import sheet_csv
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
            ("118.4,1186", "118.4,", ["line 9", "power_w, or output_v"]),
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
