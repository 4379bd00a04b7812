"""What a vehicle uses by itself."""

import copy
import unittest

from underhood.circuit import vehicle
from underhood.document.job import JobDocument
from underhood.forecast import bottlenecks
from underhood.forecast.forecast import make_forecast
from underhood.tests.examples import document


def job(**changes) -> JobDocument:
    return JobDocument.model_validate({**copy.deepcopy(document()), **changes})


def gives(job):
    return bottlenecks.gives_first(make_forecast(job))


class Vehicles(unittest.TestCase):
    def test_templates_are_assumptions_from_a_small_car_to_an_electric_one(self):
        found = {each.name: each for each in vehicle.templates()}
        self.assertEqual(set(found), {"small_car", "estate", "van", "pickup", "three_wheeler", "electric"})
        for each in found.values():
            for load in each.loads:
                self.assertEqual(load.idle_a.origin, "assumed")
                self.assertGreaterEqual(load.all_on_a.value, load.off_a.value)

    def test_a_passenger_car_with_everything_on_loses_about_a_hundred_amps_at_most(self):
        """Common practice: of 120 to 150 A a car can take about 100 A with everything on."""
        for name, low, high in (("small_car", 55, 100), ("estate", 70, 110), ("three_wheeler", 5, 20)):
            template = next(each for each in vehicle.templates() if each.name == name)
            used = vehicle.used_a(job(vehicle={"loads": [e.model_dump() for e in template.loads]}).vehicle, "all_on")
            self.assertTrue(low < used < high, (name, used))
