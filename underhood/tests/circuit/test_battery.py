"""A battery's resistance from a load test."""

import copy
import unittest

from underhood.circuit import battery
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.forecast import bottlenecks
from underhood.forecast.forecast import make_forecast
from underhood.tests.examples import document


def job(**changes) -> JobDocument:
    return JobDocument.model_validate({**copy.deepcopy(document()), **changes})


def gives(job):
    return bottlenecks.gives_first(make_forecast(job))


class LoadTests(unittest.TestCase):
    def test_two_readings_give_the_resistance(self):
        """12.70 V at 0 A and 12.15 V at 100 A: 5.5 mΩ."""
        self.assertAlmostEqual(battery.from_load_test(12.70, 0, 12.15, 100), 0.0055)

    def test_readings_that_show_none_are_refused(self):
        for readings, field in (((12.7, 50, 12.1, 50), "second_a"), ((12.1, 0, 12.7, 80), "second_v")):
            with self.assertRaises(BadInput) as caught:
                battery.from_load_test(*readings)
            self.assertEqual(caught.exception.field, field)

    def test_acceptance_falls_as_a_lead_battery_fills(self):
        """0.005 of the capacity at full, 0.6 more for each part missing, a quarter at most, of 70 Ah."""
        for charge, amps in ((1.0, 0.35), (0.9, 4.55), (0.2, 17.5)):
            bank = job(banks=[{"name": "B", "capacity_ah": 70, "charge": charge}]).banks[0]
            self.assertAlmostEqual(battery.acceptance_a(bank), amps)
