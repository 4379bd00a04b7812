"""Numbers as people write them, against pint, which parses units for a living."""

import unittest
from typing import Any

import pint
from hypothesis import given
from hypothesis import strategies as st

from underhood.document.written import number_written
from underhood.errors import BadInput

UNITS: Any = pint.UnitRegistry()
NAMES = {"V": "volt", "A": "ampere", "Ω": "ohm", "W": "watt", "Hz": "hertz", "s": "second"}


class Written(unittest.TestCase):
    def test_prefix_and_unit_are_what_pint_makes_of_them(self):
        for unit, name in NAMES.items():
            for prefix in ("n", "µ", "m", "", "k", "M"):
                for digits in ("350", "1.2", "-0.004", ".5", "3e-2"):
                    text = f"{digits} {prefix}{unit}"
                    wanted = UNITS.Quantity(text).to(name).magnitude
                    for written in (text, text.replace(" ", ""), f"{digits}{prefix}"):
                        if written.endswith("n") and unit == "Ω":
                            continue
                        with self.subTest(written, unit=unit):
                            self.assertAlmostEqual(number_written(written, unit) / wanted, 1.0, places=12)

    @given(st.floats(-1e6, 1e6).map(lambda x: float(f"{x:.6g}")))
    def test_what_is_written_is_read_with_a_point_and_with_a_comma(self, number):
        self.assertEqual(number_written(f"{number:.6f}", "V"), float(f"{number:.6f}"))
        self.assertEqual(number_written(f"{number:.6f}".replace(".", ","), "V"), float(f"{number:.6f}"))

    def test_a_comma_that_may_mean_two_things_is_asked_back(self):
        self.assertEqual(number_written("14,2", "V"), 14.2)
        self.assertEqual(number_written("0,350", "V"), 0.35)
        self.assertEqual(number_written("1,234.5", "W"), 1234.5)
        self.assertEqual(number_written("1.234,5", "W"), 1234.5)
        with self.assertRaisesRegex(BadInput, "1.234 or 1234"):
            number_written("1,234", "W")

    def test_another_unit_an_overload_and_no_number_are_refused_by_name(self):
        for text, unit, words in (
            ("14.2 A", "V", "not in V"),
            ("14.2 kg", "V", "not in V"),
            ("9.9E37", "V", "beyond its range"),
            ("-9.91e37", "A", "beyond its range"),
            ("OL", "Ω", "not a number"),
            ("", "V", "not a number"),
            ("1.2.3 V", "V", "not a number"),
        ):
            with self.subTest(text), self.assertRaisesRegex(BadInput, words):
                number_written(text, unit)
