"""How numbers are printed: the cases that the page prints alike, and the published examples of rounding."""

import json
import math
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from underhood.number_format import in_unit, step_of

CASES = json.loads(Path(__file__).with_name("number_cases.json").read_text())


class Printed(unittest.TestCase):
    def test_the_cases_that_the_page_prints_alike(self) -> None:
        for case in CASES:
            with self.subTest(**case):
                self.assertEqual(in_unit(case["value"], case["unit"], case["half_band"]), case["printed"])

    def test_what_is_no_number_or_has_no_end_is_printed_too(self) -> None:
        """JSON cannot carry these, so that they stand here alone: a limit that is unknown is infinite inside a sum."""
        self.assertEqual([in_unit(x, "A") for x in (math.inf, -math.inf, math.nan)], ["∞", "−∞", "–"])
        self.assertEqual((in_unit(12.5, "V", math.inf), in_unit(12.345, "V")), ("12.50", "12.35"))

    def test_the_particle_data_groups_own_examples(self) -> None:
        """Review of Particle Physics, Introduction, section 5.3: 0.827 ± 0.119 is 0.83 ± 0.12, ± 0.367 is 0.8 ± 0.4."""
        for half, value in ((0.119, "0.83"), (0.367, "0.8")):
            self.assertEqual(in_unit(0.827, "", half), value)

    @given(st.floats(1e-3, 1e5), st.floats(1e-3, 1e4))
    def test_what_is_lost_is_small_beside_the_band(self, value: float, half: float) -> None:
        step = step_of(half)
        self.assertTrue(3.5499 < half / step < 35.501)
        printed = float(in_unit(value, "", half))
        self.assertLessEqual(abs(printed - value), step / 2 * (1 + 1e-9))
