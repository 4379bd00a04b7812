"""What a cable really is, and what is read across a ground return or a joint."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from underhood.cable import ampacity, conductor, drop_test, gauge, sizing
from underhood.cable.drop_test import DropReading
from underhood.cable.gauge import DropOverLength, StrandCount
from underhood.document.job import JobDocument, Wire
from underhood.errors import BadInput
from underhood.forecast.build import build_result, result_of
from underhood.forecast.forecast import make_forecast
from underhood.tests.examples import document

AWG = st.sampled_from(["10 AWG", "8 AWG", "4 AWG", "2 AWG", "1/0 AWG", "4/0 AWG"])
METAL = st.sampled_from(["copper", "cca15", "cca10", "aluminium"])


class Gauge(unittest.TestCase):
    def test_strands_are_counted_up_by_hand(self):
        """665 strands of 0.20 mm: 665·π/4·0.04 = 20.9 mm², a true 4 AWG (21.15 mm²); 420 of them are 13.2: a 6 AWG."""
        full = gauge.by_strands("4 AWG", "copper", StrandCount(strands=665, strand_mm=0.2))
        self.assertAlmostEqual(full.copper_mm2, 20.89, delta=0.01)
        self.assertTrue(full.true)
        thin = gauge.by_strands("4 AWG", "copper", StrandCount(strands=420, strand_mm=0.2))
        self.assertFalse(thin.true)
        self.assertEqual((thin.gauge, round(thin.share, 2)), ("6 AWG", 0.62))

    @given(AWG, METAL, st.floats(0.5, 10), st.floats(10, 200), st.floats(-20, 100))
    def test_the_drop_of_a_true_cable_shows_its_gauge_at_any_temperature(self, name, metal, length, amps, celsius):
        warm = conductor.at_temperature(conductor.ohm_per_m_20c(name, metal), metal, celsius)
        volts = warm * length * amps
        if not 0.0001 <= volts <= 5:
            return
        read = DropOverLength(volts=volts, amps=amps, length_m=length, celsius=celsius)
        found = gauge.by_drop(name, metal, read)
        self.assertTrue(found.true)
        self.assertAlmostEqual(found.share, 1.0, places=6)

    @given(AWG, st.sampled_from(["cca15", "cca10", "aluminium"]))
    def test_another_metal_sold_as_copper_shows_as_less_copper(self, name, metal):
        """Its conductivity against copper's is what is left of the area."""
        ohm = conductor.ohm_per_m_20c(name, metal)
        found = gauge.by_drop(name, "copper", DropOverLength(volts=ohm * 2 * 50, amps=50, length_m=2))
        left = conductor.material("copper").ohm_m / conductor.material(metal).ohm_m
        self.assertAlmostEqual(found.copper_mm2, left * conductor.size(name).area_mm2)
        self.assertAlmostEqual(found.share, left)
        self.assertFalse(found.true)

    def test_what_no_cable_has_is_refused(self):
        with self.assertRaisesRegex(BadInput, "0.8 to 130 mm²"):
            gauge.by_strands("4 AWG", "copper", StrandCount(strands=7, strand_mm=0.1))
        with self.assertRaisesRegex(BadInput, "check volts, amps and length"):
            gauge.by_drop("4 AWG", "copper", DropOverLength(volts=4, amps=2, length_m=1))
        for raw in (
            {"strands": 0, "strand_mm": 0.2},
            {"strands": 10.5, "strand_mm": 0.2},
            {"strands": 10, "strand_mm": 9},
        ):
            with self.subTest(raw), self.assertRaises(ValidationError):
                StrandCount.model_validate(raw)

    def test_a_wire_is_reckoned_as_it_was_counted_and_as_it_measures(self):
        counted = gauge.conducts(Wire.model_validate({"size": "4", "strands": 420, "strand_mm": 0.2}))
        self.assertAlmostEqual(counted.area_mm2, 420 * math.pi / 4 * 0.04)
        self.assertAlmostEqual(counted.table_a, ampacity.table_a(counted.area_mm2))
        label = gauge.conducts(Wire.model_validate({"size": "4"}))
        for half in ({"strands": 420}, {"strand_mm": 0.2}):
            self.assertEqual(gauge.conducts(Wire.model_validate({"size": "4", **half})), label)
        measured = gauge.conducts(Wire.model_validate({"size": "4", "measured_ohm_per_m": 4 * label.ohm_per_m_20c}))
        self.assertAlmostEqual(measured.table_a, label.table_a / 2)
        better = gauge.conducts(Wire.model_validate({"size": "4", "measured_ohm_per_m": label.ohm_per_m_20c / 2}))
        self.assertEqual(better.table_a, label.table_a)

    def test_a_thin_cable_in_a_job_drops_more_carries_less_and_is_flagged(self):
        true = build_result(JobDocument.model_validate(document())).cables[0]
        thin_job = document()
        thin_job["cables"][0] |= {"strands": 1050, "strand_mm": 0.2}
        thin = make_forecast(JobDocument.model_validate(thin_job))
        self.assertGreater(result_of(thin).cables[0].drop_v, true.drop_v)
        self.assertLess(result_of(thin).cables[0].fuse_most_a, true.fuse_most_a)
        self.assertAlmostEqual(result_of(thin).cables[0].label_share, 1050 * math.pi / 4 * 0.04 / 53.48, delta=0.001)
        codes = {flag.code for flag in result_of(thin).flags}
        self.assertIn("not_its_gauge", codes)


class DropTests(unittest.TestCase):
    def test_ohms_are_volts_over_amps_within_the_meters_errors(self):
        """47 mV at 30 A are 1.567 mΩ; 46 mV/30.9 A and 48 mV/29.1 A bound it (last digit, clamp ± 3 %)."""
        found = drop_test.from_reading(DropReading(volts=0.047, amps=30))
        self.assertAlmostEqual(found.ohm, 0.0015667, places=7)
        self.assertAlmostEqual(found.low_ohm, 0.046 / 30.9, places=9)
        self.assertAlmostEqual(found.high_ohm, 0.048 / 29.1, places=9)

    def test_known_parts_narrow_nothing_and_no_bound_falls_below_nothing(self):
        """60 mV at 40 A less 1 mΩ: 59 mV/41.2 A - 1 mΩ and 61 mV/38.8 A - 1 mΩ; 1 mV could be none at all."""
        found = drop_test.from_reading(DropReading(volts=0.060, amps=40), 0.001)
        self.assertAlmostEqual(found.low_ohm, 0.059 / 41.2 - 0.001, places=9)
        self.assertAlmostEqual(found.high_ohm, 0.061 / 38.8 - 0.001, places=9)
        self.assertIn("1.50 mΩ, less 1.00 mΩ known", found.words)
        self.assertEqual(drop_test.from_reading(DropReading(volts=0.001, amps=40)).low_ohm, 0)

    @given(st.floats(0, 5), st.floats(5, 2000), st.floats(0, 0.01))
    def test_known_parts_between_the_probes_are_taken_off(self, volts, amps, known):
        reading = DropReading(volts=volts, amps=amps)
        if not 0 <= volts / amps - known <= 1:
            with self.assertRaisesRegex(BadInput, "check where the probes stood"):
                drop_test.from_reading(reading, known)
            return
        found = drop_test.from_reading(reading, known)
        self.assertAlmostEqual(found.ohm + known, volts / amps, places=12)
        self.assertTrue(0 <= found.low_ohm <= found.ohm <= found.high_ohm)

    def test_too_little_current_is_refused(self):
        for raw in ({"volts": 0.05, "amps": 2}, {"volts": -0.1, "amps": 30}, {"volts": 12, "amps": 30}):
            with self.subTest(raw), self.assertRaises(ValidationError):
                DropReading.model_validate(raw)


class Terminals(unittest.TestCase):
    def test_a_cable_that_does_not_go_in_is_flagged_and_does_not_pass(self):
        job = document()
        job["amplifiers"][0]["terminal_max"] = "8 AWG"
        made = make_forecast(JobDocument.model_validate(job))
        flag = next(flag for flag in result_of(made).flags if flag.code == "terminal")
        self.assertEqual(flag.field, "amplifiers.0.lead.size")
        self.assertIn("8 AWG", flag.text)
        two = sizing.Terminal("4 AWG", inputs=2)
        ranked = sizing.rank(sizing.Demand(60, 40, 1, terminals=(two,)))
        for i, choice in enumerate(ranked.all()):
            if ranked.runs[i] > 2:
                self.assertIn("inputs", choice.fails)
