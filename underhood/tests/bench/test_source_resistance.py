"""How stiff a bench's supply is, from readings made up with a known resistance."""

import math
import unittest

import numpy as np
from scipy.stats import linregress

from underhood.amplifier.sheet import Sheet, fitted
from underhood.bench import source_resistance
from underhood.document.amplifier import AmplifierRecord, Measurement


class Stiffness(unittest.TestCase):
    def runs(
        self, ohm: float, spread: float = 0.0, amps_read: bool = True, before: bool = True
    ) -> tuple[Measurement, ...]:
        draw = np.random.default_rng(5)
        out = []
        for load, amps in [(8, 12.0), (4, 30.0), (2, 61.0), (1, 98.0)]:
            under = 14.6 - ohm * amps + spread * draw.standard_normal()
            out.append(
                Measurement(
                    load_ohm=load,
                    criterion="thd1",
                    power_w=under * amps * 0.8,
                    supply_v=under,
                    supply_before_v=14.6 if before else None,
                    supply_a=amps if amps_read else None,
                )
            )
        return tuple(out)

    def test_source_resistance_of_synthetic_runs_is_that_of_numpys_least_squares(self):
        runs = self.runs(0.006, spread=0.03)
        found = source_resistance.source_resistance(runs, None)
        sag = np.array([run.supply_before_v - run.supply_v for run in runs])
        amps = np.array([[run.supply_a] for run in runs])
        solved, residual, *_ = np.linalg.lstsq(amps, sag, rcond=None)
        self.assertAlmostEqual(found.ohm, solved[0])
        self.assertAlmostEqual(found.spread_ohm, math.sqrt(residual[0] / 3 / (amps.T @ amps)[0, 0]))
        self.assertAlmostEqual(source_resistance.source_resistance(self.runs(0.006), None).ohm, 0.006)

    def test_amps_that_nobody_read_are_worked_out_from_the_output(self):
        """Class D without readings of current: the fitted draw for these watts over the volts under load."""
        read, unread = self.runs(0.006), self.runs(0.006, amps_read=False)
        record = AmplifierRecord(name="An amplifier", minimum_load_ohm=1)
        found = fitted(Sheet(record, read), "thd1", None)
        told = source_resistance.source_resistance(unread, found)
        amps = []
        for each in unread:
            out_a = math.sqrt(each.power_w / each.load_ohm)
            law = found.input(each.load_ohm).law
            in_w = law.idle_a * each.supply_v + each.power_w + law.linear_v * out_a + law.quadratic_ohm * out_a**2
            amps.append(in_w / each.supply_v)
        sag = np.array([each.supply_before_v - each.supply_v for each in unread])
        self.assertAlmostEqual(told.ohm, float(sag @ amps / np.dot(amps, amps)))
        self.assertEqual((told.readings, told.amps_estimated), (4, 4))
        self.assertIsNone(source_resistance.source_resistance(unread, None))

    def test_the_spread_of_a_slope_is_that_of_scipy(self):
        runs = self.runs(0.006, spread=0.03, before=False)
        found = source_resistance.source_resistance(runs, None)
        line = linregress([run.supply_a for run in runs], [run.supply_v for run in runs])
        self.assertAlmostEqual(found.ohm, -line.slope)
        self.assertAlmostEqual(found.spread_ohm, line.stderr)

    def test_without_volts_before_the_slope_of_volts_over_amps_stands(self):
        runs = self.runs(0.006, spread=0.03, before=False)
        slope = np.polyfit([run.supply_a for run in runs], [run.supply_v for run in runs], 1)[0]
        self.assertAlmostEqual(source_resistance.source_resistance(runs, None).ohm, -slope)

    def test_without_amps_they_are_worked_out_and_said_to_be(self):
        runs = self.runs(0.006, amps_read=False)
        record = AmplifierRecord(name="Unread")
        found = source_resistance.source_resistance(runs, fitted(Sheet(record, runs), "thd1", None))
        self.assertEqual((found.readings, found.amps_estimated), (4, 4))
        self.assertAlmostEqual(found.ohm, 0.006, delta=0.0015)

    def test_readings_at_held_volts_and_the_setting_that_shows_them(self):
        """Fell from 14.6 to 14.012 V: ·(14.4/14.012)² for the watts; the supply must be R·I above 14.4 V."""
        runs = self.runs(0.006)
        record = AmplifierRecord(name="A", supply="unregulated")
        held = source_resistance.stiffness(Sheet(record, runs)).readings[3]
        self.assertAlmostEqual(held.held_w, runs[3].power_w * (14.4 / runs[3].supply_v) ** 2, delta=0.01)
        self.assertAlmostEqual(held.lost_db, 20 * math.log10(runs[3].supply_v / 14.6), delta=1e-6)
        amps_at_reference = 98.0 * 14.4 / runs[3].supply_v
        self.assertAlmostEqual(held.set_v, 14.4 + 0.006 * amps_at_reference, delta=0.02)
        weaker = source_resistance.stiffness(Sheet(record, self.runs(0.009))).readings[3]
        self.assertEqual((held.limited, weaker.limited), (False, True))
