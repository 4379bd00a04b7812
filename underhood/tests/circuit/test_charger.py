"""Chargers: the output curve, derating, set-point."""

import math
import unittest

from underhood.circuit import charger
from underhood.document.job import Charger, JobDocument, Vehicle
from underhood.document.quantity import Quantity
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
        """What was read at idle in the car is that; heat takes its share of the rated output and of a guess."""
        one = self.alternator(hot_derating=0.9)
        self.assertAlmostEqual(charger.available_a(one, "idle"), 62.0)
        self.assertEqual(charger.available_a(one, "off"), 0.0)
        self.assertTrue(62 < charger.available_a(one, "cruise") < 108)
        for guessed in ({"idle_a": {"value": 62, "origin": "assumed"}}, {"idle_a": None, "rated_a": 62 / 0.45}):
            self.assertAlmostEqual(charger.available_a(self.alternator(hot_derating=0.9, **guessed), "idle"), 55.8)

    def test_an_impossible_pair_of_points_is_refused_with_what_is_allowed(self):
        for idle in (120, 20):
            with self.assertRaisesRegex(BadInput, "with 120 A rated: at .* more than 28 A and less than 120 A"):
                charger.available_a(self.alternator(idle_a=idle), "cruise")
            with self.assertRaisesRegex(BadInput, "with 120 A rated, 108 A hot: at .* less than 108 A"):
                charger.available_a(self.alternator(idle_a=idle, hot_derating=0.9), "cruise")

    def test_the_range_of_outputs_at_idle_is_the_one_that_a_curve_passes_through(self):
        """By the curve itself, just inside and well outside; heat takes its share of both ends."""
        for derating in (1.0, 0.8):
            one = self.alternator(hot_derating=derating)
            low, high = charger.idle_range(one)
            self.assertAlmostEqual(high, 120 * derating, delta=0.02 * 120)
            for idle in (low, high):
                amps = charger.available_a(self.alternator(idle_a=idle, hot_derating=derating), "cruise")
                self.assertTrue(0 < amps <= 120 * derating)
            for idle in (0.95 * low, 1.05 * high):
                with self.assertRaises(BadInput):
                    charger.available_a(self.alternator(idle_a=idle, hot_derating=derating), "cruise")

    def test_a_converter_needs_no_engine_and_may_have_an_unknown_limit(self):
        """It runs with the engine, or always where it is so wired."""
        converter = Charger(name="Converter", kind="dc_dc")
        always = Charger(name="Converter", kind="dc_dc", always_on=True)
        asked = [charger.available_a(each, engine) for each in (converter, always) for engine in ("off", "idle")]
        self.assertEqual(asked, [0.0, math.inf, math.inf, math.inf])

    def test_what_feeds_a_converter_is_stated_or_the_traction_battery_or_the_front(self):
        for drive, stated, place in (
            ("electric", None, None),
            ("hybrid", None, None),
            ("combustion", None, "front"),
            ("electric", "front", "front"),
        ):
            one = Charger.model_validate({"name": "C", "kind": "dc_dc", "from": stated})
            self.assertEqual(charger.fed_from(one, Vehicle(drive=drive)), place)
        self.assertIsNone(charger.fed_from(self.alternator(), Vehicle()))
        self.assertEqual(charger.converter_efficiency(one), 0.9)
        self.assertEqual(charger.converter_efficiency(self.alternator(efficiency=0.85)), 0.85)

    def test_the_set_point_falls_as_it_gets_warm(self):
        one = self.alternator(setpoint_v=14.4, setpoint_mv_per_k=-10)
        self.assertAlmostEqual(charger.setpoint_v(one, 25.0), 14.4)
        self.assertAlmostEqual(charger.setpoint_v(one, 65.0), 14.0)
        self.assertAlmostEqual(charger.setpoint_v(self.alternator(setpoint_mv_per_k=-10, ambient_c=85), 0.0), 13.8)

    def test_one_point_of_the_curve_stands_in_for_the_other_and_none_is_refused(self):
        """Idle is taken as 0.45 of the rated output [P]."""
        self.assertEqual(charger.idle_and_rated(self.alternator(idle_a=None)), (54.0, 120.0))
        self.assertEqual(charger.idle_and_rated(self.alternator(rated_a=None)), (62.0, 62 / 0.45))
        with self.assertRaisesRegex(BadInput, "give the rated output or that at idle"):
            charger.idle_and_rated(self.alternator(rated_a=None, idle_a=None))

    def test_what_cannot_be_is_said_of_the_charger_and_the_field(self):
        first, second = (self.alternator(idle_a=idle_a) for idle_a in (62, 119))
        job = JobDocument(chargers=[first, second.model_copy(update={"hot_derating": Quantity(0.5)})])
        with self.assertRaises(BadInput) as caught:
            charger.each_available_a(job, "cruise")
        self.assertEqual(caught.exception.field, "chargers.1.idle_a")
        self.assertEqual(len(charger.each_available_a(JobDocument(chargers=[first]), "cruise")), 1)

    def test_a_converter_gives_its_limit_in_every_state(self):
        for limits, amps in (({"limit_a": 30}, 30), ({"rated_a": 40}, 40), ({"limit_a": 30, "rated_a": 40}, 30)):
            for engine in ("off", "idle", "cruise"):
                one = Charger.model_validate({"name": "Converter", "kind": "dc_dc", "always_on": True, **limits})
                self.assertEqual(charger.available_a(one, engine), amps)

    def test_the_belt_gives_what_comes_out_over_the_efficiency(self):
        """14 V at 100 A from 55 %: 2545 W."""
        self.assertAlmostEqual(charger.shaft_watts(self.alternator(efficiency=0.55), 14.0, 100.0), 1400 / 0.55)
