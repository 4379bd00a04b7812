"""What to measure next against forecasts of both ends, made by hand."""

import math
import unittest

from underhood.document import paths
from underhood.document.job import JobDocument
from underhood.forecast.forecast import make_forecast
from underhood.forecast.inputs import inputs
from underhood.forecast.sensitivity import measure_next
from underhood.tests.examples import document, replaced, van


def job(**values) -> JobDocument:
    return JobDocument.model_validate(replaced(document(), **values))


class MeasureNext(unittest.TestCase):
    def test_an_input_is_worth_what_the_ends_of_its_95_percent_differ(self):
        """±1.96 standard deviations: of the logarithm, or in its unit; the nearer the source the narrower."""
        for field, value, origin, low, high in (
            ("banks.0.resistance_ohm", 0.005, "typed", 0.005 * math.exp(-0.588), 0.005 * math.exp(0.588)),
            ("banks.0.charge", 0.7, "assumed", 0.7 - 0.2352, 0.7 + 0.2352),
            ("banks.0.charge", 0.95, "assumed", 0.95 - 0.2352, 1.0),
            ("chargers.0.source_ohm", 0.004, "measured", 0.004 * math.exp(-0.196), 0.004 * math.exp(0.196)),
            ("chargers.0.setpoint_v", 14.4, "typed", 14.204, 14.596),
            ("chargers.0.idle_a", 62.0, "measured", 62 * math.exp(-0.098), 62 * math.exp(0.098)),
            ("cables.0.length_m", 5.0, "measured", 5 * math.exp(-0.0784), 5 * math.exp(0.0784)),
            ("cables.0.joints_ohm", 0.0008, "assumed", 0.0008 * math.exp(-1.568), 0.0008 * math.exp(1.568)),
            ("cables.0.return.resistance_ohm", 0.001, "typed", 0.001 * math.exp(-0.98), 0.001 * math.exp(0.98)),
            ("amplifiers.0.load.rise", 1.6, "measured", 1.6 * math.exp(-0.0588), 1.6 * math.exp(0.0588)),
            ("amplifiers.0.load.power_factor", 0.9, "typed", 0.9 - 0.294, 1.0),
        ):
            of = paths.replaced(job(), field, {"value": value, "origin": origin})
            ends = [make_forecast(paths.replaced(of, field, end)).amplifiers[0] for end in (low, high)]
            found = next((each for each in measure_next(of, 99) if each.field == field), None)
            volts = abs(ends[0].terminal_low_v - ends[1].terminal_low_v)
            watts = abs(ends[0].delivered_w - ends[1].delivered_w)
            with self.subTest(field, origin=origin):
                if volts < 0.01 and watts < 1:
                    self.assertIsNone(found)
                else:
                    # A speaker lead is as warm as with the load as it is.
                    near = 3e-3 if ".load." in field else 1e-9
                    self.assertAlmostEqual(found.volts, volts, delta=near * (1 + volts))
                    self.assertAlmostEqual(found.watts, watts, delta=near * (1 + watts))
                    self.assertEqual(found.origin, origin)

    def test_what_was_left_at_its_default_counts_as_assumed(self):
        """A battery of 70 Ah without ohms has 0.35/70 of them; a chassis return without a reading 1 mΩ."""
        chassis = {"kind": "chassis"}
        bare = job(banks__0__resistance_ohm=None, cables__0__return=chassis, amplifiers__0__load__rise=1.0)
        found = {each.field: each for each in inputs(bare)}
        battery, back = found["banks.0.resistance_ohm"], found["cables.0.return.resistance_ohm"]
        self.assertAlmostEqual(battery.given.value, 0.35 / 70)
        self.assertEqual((back.given.value, back.given.origin), (0.001, "assumed"))
        named = {each.field: each for each in measure_next(bare, 99)}
        self.assertEqual(named["banks.0.resistance_ohm"].name, "Battery's internal resistance")
        self.assertEqual(named["cables.0.return.resistance_ohm"].where, "with a helper")
        stated = job(
            banks__0__resistance_ohm={"value": 0.35 / 70, "origin": "assumed"},
            cables__0__return=chassis,
            amplifiers__0__load__rise=1.0,
        )
        again = {each.field: each for each in measure_next(stated, 99)}
        self.assertAlmostEqual(again["banks.0.resistance_ohm"].volts, named["banks.0.resistance_ohm"].volts, places=6)

    def test_the_largest_stand_first_and_what_moves_nothing_is_not_named(self):
        engine_off = measure_next(job(basis__engine="off"), 99)
        self.assertFalse([each for each in engine_off if each.field.startswith("chargers")])
        found = measure_next(job(basis__engine="cruise"), 99)
        most_v, most_w = (max(getattr(each, name) for each in found) for name in ("volts", "watts"))
        weights = [max(each.volts / most_v, each.watts / most_w) for each in found]
        self.assertEqual((weights[0], weights), (1.0, sorted(weights, reverse=True)))
        self.assertEqual(len(measure_next(job(basis__engine="cruise"))), 3)

    def test_every_input_is_a_path_of_the_job(self):
        of = van()
        for each in inputs(of):
            moved = paths.replaced(of, each.field, {"value": each.given.value, "origin": "measured"})
            self.assertEqual(paths.get(moved.document(), each.field)["origin"], "measured", each.field)
