"""Amplifiers side by side, with the sum by hand."""

import math
import unittest

from underhood.amplifier import comparison
from underhood.amplifier.comparison import Conditions
from underhood.amplifier.sheet import Sheet, fitted, predict
from underhood.document.amplifier import AmplifierRecord
from underhood.errors import BadInput
from underhood.tests.examples import sheet


class Comparison(unittest.TestCase):
    def test_twice_the_watts_are_three_decibels_and_price_counts_in_the_box(self):
        one, other = sheet({4: 200, 2: 400, 1: 700}, price=200), sheet({4: 400, 2: 800, 1: 1000}, price=300)
        at = Conditions(load_ohm=2, supply_v=14.4, rise=2.0, power_factor=0.8)
        first, second = comparison.compare([(one, False), (other, False)], at)
        self.assertEqual((first.nominal.db, round(second.nominal.db, 1)), (0.0, 3.0))
        # Both double the load without touching a watts limit: volts stay, watts are V²/4·0.8.
        volts = first.in_box.output_v
        self.assertAlmostEqual(first.in_box.power_w, volts**2 / 4 * 0.8)
        self.assertAlmostEqual(first.price_per_watt, 200 / first.in_box.power_w)
        self.assertAlmostEqual(first.in_box.heat_w, first.in_box.supply_a * 14.4 - first.in_box.power_w, delta=0.01)

    def test_in_the_box_it_is_the_amplifier_on_that_impedance(self):
        """2 ohm that rise by a half are 3 ohm."""
        some = [(sheet({4: 200, 2: 400, 1: 700}), False)] * 2
        risen = comparison.compare(some, Conditions(load_ohm=2, supply_v=14.4, rise=1.5, power_factor=1.0))[0]
        plain = comparison.compare(some, Conditions(load_ohm=3, supply_v=14.4))[0]
        self.assertAlmostEqual(risen.in_box.power_w, plain.nominal.power_w)

    def test_a_bridged_pair_is_two_channels_on_half_the_load(self):
        pair = sheet({8: 50, 4: 95, 2: 160}, channels=2, measured_as="channel", minimum_load_ohm=2)
        bridged, single = comparison.compare([(pair, True), (pair, False)], Conditions(load_ohm=4, supply_v=14.4))
        self.assertAlmostEqual(bridged.nominal.power_w, 2 * 160, delta=0.01)
        self.assertAlmostEqual(bridged.nominal.output_v, math.sqrt(2 * 160 * 4), delta=0.01)
        idle = sheet({8: 50, 4: 95, 2: 160}, channels=2, measured_as="channel", idle_a=2)
        both, one = (predict(fitted(idle, "thd1", None), 4 * n, 14.4, in_series=n) for n in (2, 1))
        self.assertAlmostEqual(both.supply_a - 2.0, 2 * (one.supply_a - 2.0))  # one idle current for both channels
        self.assertAlmostEqual(single.nominal.db, 10 * math.log10(95 / 320), delta=0.02)

    def test_what_cannot_be_compared_is_refused(self):
        mono = sheet({4: 200, 2: 400})
        self.assertEqual(len(comparison.compare([(mono, False)] * 6, Conditions(2, 14.4))), 6)
        for entries, at, field in [
            ([(mono, False)], Conditions(2, 14.4), "amplifiers"),
            ([(mono, False), (mono, True)], Conditions(2, 14.4), "amplifiers"),
            ([(mono, False)] * 7, Conditions(2, 14.4), "amplifiers"),
            ([(mono, False)] * 2, Conditions(0, 14.4), "load_ohm"),
            ([(mono, False)] * 2, Conditions(2, 400), "supply_v"),
            ([(mono, False), (Sheet(AmplifierRecord(name="Empty")), False)], Conditions(2, 14.4), "amplifiers"),
        ]:
            with self.subTest(field), self.assertRaises(BadInput) as caught:
                comparison.compare(entries, at)
            self.assertEqual(caught.exception.field, field)
