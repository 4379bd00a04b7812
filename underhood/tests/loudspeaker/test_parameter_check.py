"""Checks between a driver's parameters."""

import unittest

from underhood.document.job import Box
from underhood.loudspeaker.parameter_check import check, q_total
from underhood.tests.examples import driver


class Consistency(unittest.TestCase):
    def fields(self, **more) -> list[str]:
        return [each.field for each in check(driver(**more))]

    def test_parameters_that_follow_from_each_other_pass(self):
        """Small 1972, by hand: Q_ts = 5.2·0.47/5.67 = 0.431. C_ms = 0.062/(1.204·343.2²·0.048²) = 0.1897 mm/N.
        M_ms = 1/((2π·28)²·0.0001897) = 170.3 g. Bl = √(175.93·0.1703·3.3/0.47) = 14.50 T·m."""
        self.assertEqual(self.fields(qts=0.431, cms_mm_per_n=0.19, mms_g=170, bl_tm=14.5), [])
        self.assertAlmostEqual(q_total(5.2, 0.47), 0.431, delta=0.0005)

    def test_each_contradiction_is_named_with_what_follows(self):
        for field, value, follows in [
            ("qts", 0.5, "0.431"),
            ("cms_mm_per_n", 0.3, "0.19"),
            ("mms_g", 120, "170"),
            ("bl_tm", 20, "14.5"),
        ]:
            found = check(driver(**{field: value}))
            self.assertEqual([each.field for each in found], [field])
            self.assertIn(follows, found[0].text)

    def test_units_that_are_often_mistaken_are_asked_about(self):
        self.assertIn("is the unit right?", check(driver(mms_g=0.17))[0].text)
        self.assertEqual(self.fields(sd_cm2=48), ["sd_cm2"])
        self.assertIn("le_mh", self.fields(le_mh=17))
        self.assertIn("xmax_mm", self.fields(xmax_mm=60))
        self.assertIn("vas_l", self.fields(vas_l=1.2))
        self.assertIn("re_ohm", self.fields(re_ohm=6.6))

    def test_the_force_factor_of_two_coils_may_be_stated_in_series_or_in_parallel(self):
        """Twice the resistance with the same Q is √2 times the force in series, 1/√2 in parallel."""
        dual = {"coils": 2, "coil_ohm": 2, "re_ohm": 1.65}
        for bl in (14.5, 14.5 / 2):
            self.assertEqual(self.fields(**dual, bl_tm=bl), [])
        self.assertEqual(self.fields(**dual, bl_tm=10.3), ["bl_tm"])

    def test_impossible_parameters_are_refused_by_the_schema(self):
        for field, value in [("qms", 0), ("vas_l", -60), ("fs_hz", 0), ("sd_cm2", 0), ("re_ohm", 0)]:
            with self.subTest(field), self.assertRaises(ValueError):
                driver(**{field: value})
        with self.assertRaisesRegex(ValueError, "10 to 200 Hz"):
            Box.model_validate({"kind": "vented", "volume_l": 60, "tuning_hz": 240})
