"""Chargers: the output curve, derating, set-point."""

import math
import unittest

from underhood.circuit import charger
from underhood.document.job import Charger
from underhood.errors import BadInput


class Chargers(unittest.TestCase):
    def alternator(self, **more) -> Charger:
        return Charger.model_validate({"name": "Alternator", "rated_a": 120, "idle_a": 62, **more})

    def test_the_output_curve_passes_through_idle_and_rated_points_and_rises(self):
        one = self.alternator()
        amps = [charger.alternator_a(one, rpm, 62, 120) for rpm in (500, 1000, 2160, 4000, 6000, 12000)]
        self.assertEqual(amps[:2], [0.0, 0.0])
        self.assertAlmostEqual(amps[2], 62.0, delta=1e-6)  # 800 rpm at a ratio of 2.7
        self.assertAlmostEqual(amps[4], 120.0, delta=1e-6)
        self.assertEqual(amps, sorted(amps))

    def test_derating_and_the_engine_decide_what_is_available(self):
        one = self.alternator(hot_derating=0.9)
        self.assertAlmostEqual(charger.available_a(one, "idle"), 55.8)
        self.assertEqual(charger.available_a(one, "off"), 0.0)
        self.assertTrue(55.8 < charger.available_a(one, "cruise") < 108)

    def test_an_impossible_pair_of_points_is_refused_with_what_is_allowed(self):
        for idle in (120, 20):
            with self.assertRaisesRegex(BadInput, "more than 28 A and less than 120 A"):
                charger.available_a(self.alternator(idle_a=idle), "cruise")

    def test_a_converter_needs_no_engine_and_may_have_an_unknown_limit(self):
        converter = Charger(name="Converter", kind="dc_dc")
        self.assertEqual(charger.available_a(converter, "off"), math.inf)
