"""Claims held against readings, with the sum by hand."""

import unittest

from underhood.amplifier import claims
from underhood.amplifier.sheet import Sheet
from underhood.document.amplifier import AmplifierRecord
from underhood.tests.examples import claim, sheet


class Claims(unittest.TestCase):
    def test_a_claim_is_weighed_at_its_own_supply_volts_with_the_sum(self):
        """400 W at 14.4 V are 400·(12.6/14.4)² = 306.25 W at 12.6 V for an unregulated amplifier."""
        weighed = claims.weigh(sheet({4: 200, 2: 400, 1: 700}), claim(2, 306.25, 12.6))
        self.assertAlmostEqual(weighed.measured.value, 306.25, delta=3)  # smoothed by less than 1 %
        self.assertAlmostEqual(weighed.measured.evaluate(), 306.25, delta=3)  # smoothed by less than 1 %
        self.assertEqual((weighed.standing, round(weighed.share, 1)), ("meets", 1.0))
        self.assertIn("0.875", weighed.measured.substituted())

    def test_shortfall_in_percent_and_decibels(self):
        """425 of 500 W is 15 % short, 10·log10(0.85) = −0.706 dB."""
        weighed = claims.weigh(sheet({4: 250, 2: 425}), claim(2, 500))
        self.assertAlmostEqual(weighed.share, 0.85)
        self.assertAlmostEqual(weighed.db, -0.706, delta=0.001)

    def test_the_verdict_is_one_plain_sentence_a_kind(self):
        stated = (claim(4, 200), claim(2, 400), claim(1, 800), claim(0.5, 1000), claim(1, 2000, kind="max"))
        judged = claims.judge(sheet({4: 210, 2: 400, 1: 680}, claimed=stated, fuses_a=[40, 40]))
        self.assertEqual(
            judged.verdict,
            "Meets its standard rating at 4 and 2 Ω, 15\u00a0% short at 1 Ω, that at 0.5 Ω was not measured. "
            "66\u00a0% short of its “max” figure at 1 Ω.",
        )
        # 80 A · 14.4 V · 0.8 = 921.6 W; the fitted draw allows 1 A of idle, which shifts the efficiency a little.
        self.assertAlmostEqual(judged.fuses.value, 921.6, delta=5)
        self.assertAlmostEqual(judged.fuses.evaluate(), judged.fuses.value)

    def test_price_per_watt_is_price_over_watts_at_the_lowest_allowed_load(self):
        judged = claims.judge(sheet({4: 200, 2: 400, 1: 600}, price=320, currency="EUR", minimum_load_ohm=2))
        self.assertEqual([(each.load_ohm, round(each.price_per_watt.value, 1)) for each in judged.prices], [(2, 0.8)])
        clipped = sheet({4: 200}, price=320)
        only = Sheet(clipped.record, tuple(run.model_copy(update={"criterion": "clip"}) for run in clipped.runs))
        (alone,) = claims.judge(only).prices
        self.assertAlmostEqual(alone.price_per_watt.value, 1.6)
        pair = claims.judge(sheet({4: 100}, price=320, channels=2, measured_as="channel"))
        self.assertAlmostEqual(pair.prices[0].price_per_watt.value, 1.6)

    def test_without_claims_or_readings_it_says_so(self):
        self.assertEqual(claims.judge(sheet({4: 200})).verdict, "No claim on file.")
        only = claims.judge(Sheet(AmplifierRecord(name="Paper"), (), (claim(2, 500, kind="box"),)))
        self.assertEqual(only.verdict, "Its figure on the box at 2 Ω was not measured.")
