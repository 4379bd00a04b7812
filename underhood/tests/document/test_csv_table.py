"""CSV as people save it: separators, decimal commas, comment lines, and refusals that name line and column."""

import unittest

from pydantic import BaseModel

from underhood.document import csv_table
from underhood.errors import BadInput

KNOWN, NEEDED = ("load_ohm", "power_w", "note"), ("load_ohm",)


def read(text: str, most_rows: int = 5):
    return csv_table.table(text, KNOWN, NEEDED, most_rows, "a sheet")


class Reading(unittest.TestCase):
    def test_commas_and_semicolons_comments_and_empty_lines(self):
        found = read("# a remark\n\n Load_Ohm ,power_w\n4, 402 \n,,\n2,\n")
        self.assertEqual(found.columns, ("load_ohm", "power_w"))
        self.assertEqual(found.rows, ((4, {"load_ohm": "4", "power_w": "402"}), (6, {"load_ohm": "2"})))
        self.assertEqual((found.title_line, found.decimal_comma), (3, False))
        found = read('load_ohm;note\n3,9;"a; b"\n')
        self.assertEqual(found.rows[0][1], {"load_ohm": "3,9", "note": "a; b"})
        self.assertTrue(found.decimal_comma)
        self.assertIsNone(read("# nothing\n ;;\n"))

    def test_refusals_name_line_and_column(self):
        for text, line, field, words in (
            ("load_ohm\tpower_w\n", 1, "", "has tabs; separate columns with commas or semicolons"),
            ("load_ohm|power_w\n", 1, "", "has bars"),
            ("#\nload_ohm\n", 2, "", "neither commas nor semicolons"),
            ("load_ohm,powr_w\n", 1, "", "unknown column 'powr_w'; did you mean power_w"),
            ("load_ohm,load_ohm\n", 1, "load_ohm", "twice"),
            ("power_w,note\n", 1, "load_ohm", "missing; load_ohm are needed"),
            ("load_ohm,note\n1,a,b\n", 2, "", "3 cells under 2 columns"),
            ("load_ohm,note\n" + "1,a\n" * 6, 7, "", "6 rows; a sheet may hold 5"),
        ):
            with self.subTest(words), self.assertRaises(BadInput) as caught:
                read(text)
            self.assertEqual((caught.exception.line, caught.exception.field), (line, field))
            self.assertIn(words, caught.exception.text)
        self.assertEqual(len(read("load_ohm,note\n" + "1,a,,\n" * 5).rows), 5)

    def test_bytes_are_text_or_refused(self):
        self.assertEqual(csv_table.text_of(b"\xef\xbb\xbfload", 4_000, "a sheet"), "load")
        self.assertEqual(csv_table.text_of("load", 4, "a sheet"), "load")
        for content, words in (
            (b"\xff\xfe", "not UTF-8 text"),
            (b"a\0b", "not a text file"),
            ("x" * 5001, "larger than 5 kB; a sheet is smaller"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                csv_table.text_of(content, 5_000, "a sheet")

    def test_numbers_have_a_decimal_comma_where_the_file_has(self):
        self.assertEqual(csv_table.number("3,9", "load_ohm", 2, decimal_comma=True), 3.9)
        self.assertEqual(csv_table.number("3.9", "load_ohm", 2), 3.9)
        with self.assertRaises(BadInput) as caught:
            csv_table.number("3,9", "load_ohm", 2)
        self.assertEqual(str(caught.exception), "line 2: load_ohm: '3,9' is not a number")

    def test_a_row_that_is_not_allowed_is_refused_at_its_line(self):
        class Row(BaseModel):
            load_ohm: float

        self.assertEqual(csv_table.validated(Row, {"load_ohm": "4"}).load_ohm, 4.0)
        with self.assertRaises(BadInput) as caught:
            csv_table.validated(Row, {"load_ohm": "x"}, 9)
        self.assertEqual((caught.exception.line, caught.exception.field), (9, "load_ohm"))


class Formulas(unittest.TestCase):
    def test_what_a_spreadsheet_would_run_is_quoted_and_comes_back_as_it_was(self):
        for text in ("=SUM(A1)", "+1", "-1", "@x"):
            self.assertEqual(csv_table.harmless(text), f"'{text}")
            self.assertEqual(csv_table.harmed(f"'{text}"), text)
        for text in ("4 ohm", "'tis", "a=b", ""):
            self.assertEqual((csv_table.harmless(text), csv_table.harmed(text)), (text, text))
        self.assertEqual(csv_table.harmless(" two\n lines "), "two lines")
