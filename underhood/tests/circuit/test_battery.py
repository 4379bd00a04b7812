"""A battery's resistance from a load test."""

import copy
import unittest

import numpy as np

from underhood.circuit import battery
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.tests.examples import document


def job(**changes) -> JobDocument:
    return JobDocument.model_validate({**copy.deepcopy(document()), **changes})


class LoadTests(unittest.TestCase):
    def test_two_readings_give_the_resistance(self):
        """12.70 V at 0 A and 12.15 V at 100 A: 5.5 mΩ."""
        self.assertAlmostEqual(battery.from_load_test(12.70, 0, 12.15, 100), 0.0055)

    def test_readings_that_show_none_are_refused(self):
        for readings, field in (
            ((12.7, 50, 12.1, 50), "second_a"),
            ((12.7, 50, 12.1, 20), "second_a"),
            ((12.1, 0, 12.7, 80), "second_v"),
            ((12.1, 0, 12.1, 80), "second_v"),
        ):
            with self.assertRaises(BadInput) as caught:
                battery.from_load_test(*readings)
            self.assertEqual(caught.exception.field, field)

    def test_acceptance_falls_as_a_lead_battery_fills(self):
        """0.005 of the capacity at full, 0.6 more for each part missing, a quarter at most, of 70 Ah."""
        for charge, amps in ((1.0, 0.35), (0.9, 4.55), (0.2, 17.5)):
            bank = job(banks=[{"name": "B", "capacity_ah": 70, "charge": charge}]).banks[0]
            self.assertAlmostEqual(battery.acceptance_a(bank), amps)


def bank(**more):
    return job(banks=[{"name": "B", "capacity_ah": 60, "charge": 0.8, **more}]).banks[0]


class Models(unittest.TestCase):
    """By hand, for a bank of 60 Ah."""

    def test_r0_is_as_read_or_from_cold_cranking_or_usual_for_its_chemistry(self):
        for given, ohm, words in (
            ({"resistance_ohm": {"value": 0.005, "origin": "measured"}}, 0.005, "measured"),
            ({"chemistry": "flooded", "cold_cranking_a": 540}, (12.7 - 7.2) / 540 / 1.344, "cold-cranking"),
            ({"chemistry": "flooded"}, 0.50 / 60, "chemistry"),
            ({"chemistry": "agm"}, 0.35 / 60, "chemistry"),
            ({"chemistry": "lifepo4"}, 0.40 / 60, "chemistry"),
            ({"chemistry": "lto"}, 0.12 / 60, "chemistry"),
        ):
            found, why = battery.series_ohm(bank(**given))
            self.assertAlmostEqual(found, ohm, delta=ohm * 0.02)
            self.assertIn(words, why)

    def test_a_cold_cranking_rating_is_met_at_its_own_temperature(self):
        """The rating's definition: a full battery at −18 °C gives its amps at 7.2 V."""
        for chemistry in ("flooded", "agm"):
            found = battery.model(bank(chemistry=chemistry, cold_cranking_a=600, temperature_c=-18, charge=1))
            self.assertAlmostEqual(found.ocv_v - 600 * found.r0_ohm, 7.2)

    def test_cold_and_age_raise_r0_and_batteries_in_parallel_share_it(self):
        """0.8 % a kelvin below 25 °C; nothing above; half the capacity left: twice the ohms [P]."""
        for given, ohm in (
            ({}, 0.005),
            ({"temperature_c": 0}, 0.005 * 1.2),
            ({"temperature_c": 40}, 0.005),
            ({"age_factor": 0.5}, 0.010),
            ({"count": 2}, 0.0025),
        ):
            found = battery.model(bank(**{"resistance_ohm": 0.005, "temperature_c": 25, **given}))
            self.assertAlmostEqual(found.r0_ohm, ohm)
            self.assertAlmostEqual(found.r1_discharge_ohm, 0.2 * ohm)

    def test_charging_meets_the_accepted_current_at_the_absorption_volts(self):
        """Lead: 60·(0.005 + 0.6·0.2) = 7.5 A; lithium half its capacity an hour; or as stated, on each of two."""
        for given, absorption, amps in (
            ({"chemistry": "flooded"}, 14.4, 7.5),
            ({"chemistry": "agm"}, 14.7, 7.5),
            ({"chemistry": "lifepo4"}, 14.4, 30.0),
            ({"chemistry": "lto"}, 15.6, 30.0),
            ({"chemistry": "agm", "acceptance_a": 12}, 14.7, 12.0),
            ({"chemistry": "agm", "absorption_v": 14.2}, 14.2, 7.5),
            ({"chemistry": "agm", "age_factor": 0.5}, 14.7, 3.75),
        ):
            with self.subTest(**given):
                one = bank(resistance_ohm=0.004, count=2, **given)
                found = battery.model(one)
                self.assertAlmostEqual(battery.absorption_v(one), absorption)
                self.assertAlmostEqual(battery.acceptance_a(one), amps)
                full, rise, most, _ = battery.acceptance_rule(one)
                ah = battery.capacity_as(one) / 3600
                self.assertAlmostEqual(ah * min(most, full + rise * 0.2), amps)
                self.assertAlmostEqual(found.r1_charge_ohm, (absorption - found.ocv_v) / amps / 2)
                self.assertAlmostEqual(sum(found.settled(-2 * amps)), absorption - found.ocv_v)
                self.assertAlmostEqual(found.settled(-2 * amps)[0], 0.75 * (absorption - found.ocv_v))
        stated = battery.model(bank(resistance_ohm=0.004, r1_charge_ohm=0.05, r1_discharge_ohm=0.003, count=2))
        self.assertEqual((stated.r1_charge_ohm, stated.r1_discharge_ohm), (0.025, 0.0015))
        self.assertAlmostEqual(sum(stated.settled(10)), -0.015)
        self.assertEqual(battery.fixed_r1_charge_ohm(bank(r1_charge_ohm=0.05)), 0.05)
        self.assertEqual(battery.fixed_r1_charge_ohm(bank()), 0.0)

    def test_a_stated_rest_voltage_moves_the_whole_table(self):
        plain, moved = (battery.ocv_table(bank(chemistry="agm", **more)) for more in ({}, {"ocv_v": 12.4}))
        at = float(np.interp(0.8, *plain))
        np.testing.assert_allclose(moved[1] - plain[1], 12.4 - at)
        np.testing.assert_allclose(moved[0], plain[0])
        self.assertEqual(battery.model(bank(ocv_v=12.4)).ocv_v, 12.4)
        self.assertAlmostEqual(battery.model(bank(chemistry="agm")).ocv_v, at)

    def test_what_is_stated_wins_over_what_is_usual(self):
        self.assertEqual(battery.peukert(bank(chemistry="flooded")), 1.2)
        self.assertEqual(battery.peukert(bank(chemistry="agm")), 1.12)
        self.assertEqual(battery.peukert(bank(chemistry="lifepo4")), 1.0)
        self.assertEqual(battery.peukert(bank(chemistry="flooded", peukert=1.3)), 1.3)
        self.assertEqual((battery.surface_f(bank()), battery.polarisation_f(bank())), (0.15 * 60, 35 * 60))
        self.assertEqual(battery.polarisation_f(bank(c1_f=900)), 900)
        self.assertEqual(battery.capacity_as(bank(age_factor=0.7)), 60 * 0.7 * 3600)
