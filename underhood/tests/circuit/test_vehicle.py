"""What a vehicle uses by itself."""

import copy
import unittest

from underhood.circuit import vehicle
from underhood.document.job import JobDocument
from underhood.tests.examples import document


def job(**changes) -> JobDocument:
    return JobDocument.model_validate({**copy.deepcopy(document()), **changes})


class Vehicles(unittest.TestCase):
    def test_templates_are_assumptions_from_a_small_car_to_an_electric_one(self):
        found = {each.name: each for each in vehicle.templates()}
        self.assertEqual(set(found), {"small_car", "estate", "van", "pickup", "three_wheeler", "electric", "truck"})
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

    def test_loads_add_up_in_each_state_and_cruise_stands_in_for_everything_on(self):
        loads = [
            {"name": "Lights", "off_a": 1, "idle_a": 10, "cruise_a": 12, "all_on_a": 20},
            {"name": "Pump", "off_a": 0.5, "idle_a": 4, "cruise_a": 5},
        ]
        one = job(vehicle={"loads": loads}).vehicle
        self.assertEqual(
            [vehicle.used_a(one, state) for state in ("off", "idle", "cruise", "all_on")], [1.5, 14, 17, 25]
        )
