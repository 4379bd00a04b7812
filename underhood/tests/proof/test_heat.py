"""A sink's resistance and time constant: against the closed form, and the spread against drawn sinks."""

import math
import unittest

import numpy as np
from scipy.integrate import solve_ivp

from underhood.amplifier.heat_sink import seconds_until, temperature
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.forecast.build import build_result
from underhood.forecast.forecast import make_forecast
from underhood.proof.correction import proof
from underhood.proof.heat import HeatRun, fit_heat
from underhood.proof.reading import Reading
from underhood.proof.test_card import test_card
from underhood.tests.examples import job


def run(k=0.42, tau=1500.0, heat=180.0, minutes=20, every=60.0, noise=0.5, seed=0, early=True):
    rng = np.random.default_rng(seed)
    t = np.arange(0 if early else 240, minutes * 60 + 1, every)
    shown = temperature(t, heat, k, tau, 22.0, 22.0) + noise * rng.standard_normal(len(t))
    shown[t < 120] += 4.0  # near the transistors it runs ahead
    readings = [{"seconds": float(a), "sink_c": float(b)} for a, b in zip(t, shown, strict=True) if a > 0 or not early]
    return HeatRun.model_validate({"heat_w": heat, "air_c": 22, "readings": readings})


class Heat(unittest.TestCase):
    def test_the_closed_form_solves_the_equation_of_one_capacity(self):
        heat, k, tau = 150.0, 0.5, 900.0
        solved = solve_ivp(lambda _, y: (22 + heat * k - y) / tau, (0, 3600), [30.0], rtol=1e-9, t_eval=[600, 3600])
        np.testing.assert_allclose(temperature(solved.t, heat, k, tau, 22.0, 30.0), solved.y[0], rtol=1e-6)
        until = seconds_until(80.0, heat, k, tau, 22.0, 30.0)
        self.assertAlmostEqual(float(temperature(np.array([until]), heat, k, tau, 22.0, 30.0)[0]), 80.0, places=9)
        self.assertEqual(seconds_until(98.0, heat, k, tau, 22.0, 30.0), math.inf)
        self.assertEqual(seconds_until(25.0, heat, k, tau, 22.0, 30.0), 0.0)

    def test_twenty_minutes_tell_the_temperature_after_an_hour_to_4_kelvin(self):
        off, within = [], []
        rng = np.random.default_rng(7)
        for seed in range(60):
            k, tau = 0.35 * np.exp(0.5 * rng.standard_normal()), 1200 * np.exp(0.5 * rng.standard_normal())
            found = fit_heat(run(k, tau, seed=seed)).after(3600.0, 180.0)
            true = float(temperature(np.array([3600.0]), 180.0, k, tau, 22.0, 22.0)[0])
            off.append(found.sink_c - true)
            within.append(abs(found.sink_c - true) < 1.96 * found.sigma)
        self.assertLess(float(np.sqrt(np.mean(np.square(off)))), 4.0)
        self.assertTrue(0.9 <= np.mean(within) <= 1.0, np.mean(within))

    def test_both_numbers_come_back_from_a_clean_run_of_an_hour(self):
        found = fit_heat(run(minutes=60, noise=0.0))
        self.assertAlmostEqual(found.k_per_w, 0.42, delta=0.01)
        self.assertAlmostEqual(found.time_s, 1500, delta=60)
        self.assertLess(found.k_spread, 0.07)
        trip = found.trips_after_s(75.0, 180.0)
        self.assertAlmostEqual(trip, seconds_until(75.0, 180.0, 0.42, 1500.0, 22.0, 22.0), delta=60)

    def test_too_few_temperatures_are_refused(self):
        with self.assertRaisesRegex(BadInput, "3 or more"):
            fit_heat(run(minutes=4, every=60.0))


class InTheCar(unittest.TestCase):
    def test_a_measured_sink_warms_as_its_law_says_on_the_card_in_the_forecast_and_trips(self):
        raw = job(engine="idle", programme="bass_heavy").document()
        raw["amplifiers"][0] |= {"sink_k_per_w": 0.5, "sink_time_s": 900, "trip_c": 45}
        car = JobDocument.model_validate(raw)
        report = make_forecast(car).first_amplifier
        hour = 25 + 0.5 * report.heat_w * (1 - math.exp(-3600 / 900))
        self.assertAlmostEqual(report.sink_hour_c, hour, places=6)
        self.assertAlmostEqual(
            report.trips_after_min, 15 * math.log(0.5 * report.heat_w / (0.5 * report.heat_w - 20)), places=6
        )
        flags = {flag.code for flag in build_result(car).flags}
        self.assertIn("trips", flags)
        item = next(each for each in test_card(car).items if each.reading.what == "sink_temperature")
        self.assertAlmostEqual(item.expected, 25 + 0.5 * report.heat_w * (1 - math.exp(-600 / 900)), delta=0.3)
        read = Reading.model_validate({**item.reading.model_dump(by_alias=True), "value": item.expected + 30})
        told = proof(car, [read]).readings[0]
        self.assertFalse(told.inside)
        self.assertIsNone(told.corrected)
        self.assertIsNone(make_forecast(job()).first_amplifier.sink_hour_c)
