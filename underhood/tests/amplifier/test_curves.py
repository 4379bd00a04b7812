"""Curves over load for the bench's charts, each point by the sum that defines it."""

import csv
import io
import math
import unittest

import numpy as np

from underhood.amplifier import curves
from underhood.amplifier.sheet import Sheet, fitted, predict
from underhood.document.amplifier import AmplifierRecord, Measurement

RECORD = AmplifierRecord(name="An amplifier", minimum_load_ohm=1)
READ = ((4, 402, 14.31, 33.1), (2, 716, 14.12, 63.0), (1, 1186, 13.78, 118.4))


def run(ohm, watts, volts=None, amps=None, criterion="thd1", tone=40) -> Measurement:
    return Measurement(load_ohm=ohm, criterion=criterion, power_w=watts, supply_v=volts, supply_a=amps, tone_hz=tone)


SHEET = Sheet(RECORD, tuple(run(*each) for each in READ))


class Curves(unittest.TestCase):
    def setUp(self):
        self.found = curves.curve(SHEET, "thd1")
        self.fit = fitted(SHEET, "thd1", None)

    def test_watts_are_those_at_14_4_volts_with_their_band_and_limits(self):
        found = self.found
        self.assertEqual((found.load_ohm[0], found.load_ohm[-1]), (1, 4))
        self.assertTrue({1, 2, 4} <= set(found.load_ohm))
        self.assertTrue(90 <= len(found.load_ohm) <= 93)
        for i, ohm in enumerate(found.load_ohm):
            at = predict(self.fit, ohm, 14.4)
            self.assertEqual((found.power_w[i], found.low_w[i], found.high_w[i]), (at.power_w, at.low_w, at.high_w))
            self.assertEqual(found.limited_by[i], at.limited_by)
            volts = self.fit.fit.limits.each_v(ohm)
            told = [found.limits_w[rule][i] for rule in ("voltage", "current", "power")]
            np.testing.assert_allclose(told, np.square(volts) / ohm)
        self.assertEqual((found.tone_hz, found.criterion, found.input_assumed), (40, "thd1", False))

    def test_what_the_bench_saw_is_drawn_at_its_own_supply_volts(self):
        """Between two loads the bench's volts lie on a line over ln load: halfway from 4 to 2 ohm at 2.83."""
        found = self.found
        for i, ohm in enumerate(found.load_ohm):
            far = 1 if ohm <= 2 else 2
            (near_v, far_v) = (13.78, 14.12) if far == 1 else (14.12, 14.31)
            volts = near_v + (far_v - near_v) * math.log(ohm / far) / math.log(2)
            self.assertAlmostEqual(found.supply_v[i], volts)
            at = predict(self.fit, ohm, volts)
            self.assertAlmostEqual(found.efficiency[i], at.efficiency)
            self.assertAlmostEqual(found.supply_a[i], at.supply_a)
            self.assertAlmostEqual(found.heat_w[i], at.supply_a * volts - at.power_w, delta=1e-6 * at.power_w)

    def test_readings_stand_on_the_chart_as_read_and_carried_to_14_4_volts(self):
        for point, (ohm, watts, volts, amps), row in zip(self.found.readings, READ, (1, 2, 3), strict=True):
            self.assertEqual((point.row, point.load_ohm, point.as_read_w), (row, ohm, watts))
            self.assertEqual((point.supply_a, point.supply_v), (amps, volts))
            self.assertAlmostEqual(point.power_w, watts * (14.4 / volts) ** 2)
            self.assertAlmostEqual(point.efficiency, watts / (volts * amps))
            self.assertAlmostEqual(point.heat_w, volts * amps - watts)

    def test_without_supply_volts_14_4_is_taken_and_without_amps_the_input_is_assumed(self):
        found = curves.curve(Sheet(RECORD, (run(4, 402), run(2, 716))), "thd1")
        self.assertEqual(set(found.supply_v), {14.4})
        self.assertTrue(found.input_assumed)
        self.assertEqual([each.power_w for each in found.readings], [402, 716])
        self.assertIsNone(found.readings[0].efficiency)

    def test_one_curve_for_each_criterion_that_was_read_at_the_nearest_tone(self):
        more = Sheet(RECORD, (*SHEET.runs, run(4, 450, criterion="clip"), run(2, 700, criterion="clip", tone=60)))
        self.assertEqual([each.criterion for each in curves.curves(more, 60)], ["thd1", "clip"])
        clipped = {each.criterion: each for each in curves.curves(more, 60)}["clip"]
        self.assertEqual([each.row for each in clipped.readings], [5])
        self.assertEqual((clipped.tone_hz, clipped.load_ohm), (60, [2]))
        self.assertIsNone(curves.curve(more, "burst"))

    def test_rated_is_at_the_lowest_load_allowed_and_measured(self):
        watts, ohm = curves.rated(SHEET)
        self.assertEqual(ohm, 1)
        self.assertAlmostEqual(watts, predict(self.fit, 1, 14.4).power_w)
        self.assertIsNone(curves.rated(Sheet(RECORD)))

    def test_as_csv_every_point_is_a_row(self):
        rows = list(csv.DictReader(io.StringIO(curves.csv_text([self.found]))))
        self.assertEqual(len(rows), len(self.found.load_ohm))
        for i in (0, 40, len(rows) - 1):
            for column in ("power_w", "low_w", "high_w", "efficiency", "supply_a", "heat_w", "supply_v"):
                value = getattr(self.found, column)[i]
                self.assertAlmostEqual(float(rows[i][column]) / value, 1, delta=1e-4)
            self.assertEqual((rows[i]["criterion"], rows[i]["limited_by"]), ("thd1", self.found.limited_by[i]))
