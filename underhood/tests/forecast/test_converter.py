"""A converter makes no power: what it gives it takes somewhere, in the forecast and over time."""

import unittest

import numpy as np

from underhood.circuit.operating_point import OperatingPoint
from underhood.document.job import JobDocument
from underhood.forecast.build import result_of
from underhood.forecast.forecast import make_forecast
from underhood.forecast.power_path import _given_w
from underhood.forecast.simulation import simulate
from underhood.tests.examples import changed, two_banks

CONVERTER = {"name": "Converter", "kind": "dc_dc", "at": "rear", "from": "front", "setpoint_v": 14.4, "limit_a": 60}


def car(**converter) -> JobDocument:
    """An alternator and two banks, and a converter of 60 A from the front to the rear."""
    raw = two_banks(programme="tone").document()
    raw["chargers"].append({**CONVERTER, **converter})
    return JobDocument.model_validate(raw)


def bank_w(point: OperatingPoint) -> float:
    """Watts that all banks give together."""
    volts = [point.volts[point.circuit.node_of(bank.at)] for bank in point.circuit.job.banks]
    return float(np.dot(point.bank_a, volts))


class Converters(unittest.TestCase):
    def test_watts_balance_with_a_converter_in_every_state_and_programme(self):
        for engine in ("off", "idle", "cruise"):
            for programme in ("tone", "burst", "held_bass"):
                forecast = make_forecast(changed(car(always_on=True), basis__engine=engine, basis__programme=programme))
                told = result_of(forecast).balance
                self.assertLess(told.error, 1e-4, (engine, programme))
                self.assertGreater(told.converter_w, 0)
                given_w = _given_w(forecast.point, ["front", "rear"], "charger_a")[1]
                self.assertAlmostEqual(told.converter_w, given_w / 0.9, delta=0.1)

    def test_it_brings_nothing_that_was_not_there(self):
        """With the engine off it only moves charge from one battery to the other; the reserve is the alternator's."""
        bare = changed(car(), chargers=car().document()["chargers"][:1])
        for engine in ("idle", "cruise"):
            plain, with_ = (make_forecast(changed(each, basis__engine=engine)) for each in (bare, car()))
            self.assertAlmostEqual(plain.reserve_a, with_.reserve_a)
        off = make_forecast(changed(car(), basis__engine="off")).point
        self.assertEqual(off.charger_a, (0.0, 0.0))
        always = make_forecast(changed(car(always_on=True), basis__engine="off")).point
        without = make_forecast(changed(bare, basis__engine="off")).point
        self.assertGreater(bank_w(always), bank_w(without) + 50)
        self.assertGreater(always.bank_a[0], without.bank_a[0])

    def test_an_electric_vehicles_converter_brings_the_traction_batterys_power(self):
        raw = car().document() | {"chargers": car(**{"from": None}).document()["chargers"][1:]}
        raw["vehicle"]["drive"] = "electric"
        found = make_forecast(JobDocument.model_validate(raw))
        self.assertEqual((found.point.fed, found.point.converter_w), ((), 0.0))
        self.assertAlmostEqual(found.reserve_a, 60 - found.point.vehicle_a)

    def test_over_time_it_takes_what_it_gives_as_well(self):
        job = changed(car(always_on=True), basis__engine="off", basis__programme="everyday")
        found, point = simulate(job, 60), make_forecast(job)
        self.assertLess(found.error, 2e-3)
        self.assertAlmostEqual(found.terminal_v.mean, point.amplifiers[0].terminal_v, delta=0.05)
