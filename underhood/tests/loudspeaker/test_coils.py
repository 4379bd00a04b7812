"""The load: arrangements of coils, and impedance of drivers in boxes."""

import itertools
import math
import unittest
from fractions import Fraction

import numpy as np

from underhood.document.job import Load
from underhood.errors import BadInput
from underhood.loudspeaker import coils, impedance
from underhood.loudspeaker.load_at_tone import load_at_tone

DRIVER = {"re_ohm": 3.4, "fs_hz": 29, "qms": 5.5, "qes": 0.48, "vas_l": 60, "sd_cm2": 480, "le_mh": 1.9}


def equal_share_loads(coil_count: int) -> set[Fraction]:
    """Loads of all series-parallel circuits of equal 1 Ω coils in which every coil takes the same power.

    Brute force: a circuit of n coils is a series or parallel join of equal smaller ones.
    """
    if coil_count == 1:
        return {Fraction(1)}
    found = set()
    for parts in range(2, coil_count + 1):
        if coil_count % parts == 0:
            for one in equal_share_loads(coil_count // parts):
                found |= {one * parts, one / parts}
    return found


class Arrangements(unittest.TestCase):
    def test_they_are_the_equal_share_circuits_of_brute_force(self):
        for drivers, per_driver in itertools.product((1, 2, 3, 4, 6), (1, 2)):
            loads = {
                Fraction(each.load_ohm).limit_denominator(1000) for each in coils.arrangements(drivers, per_driver, 1.0)
            }
            self.assertEqual(loads, equal_share_loads(drivers * per_driver))
            for each in coils.arrangements(drivers, per_driver, 1.0):
                self.assertAlmostEqual(each.coil_share * drivers * per_driver, 1.0)

    def test_names_are_single_and_an_unknown_one_is_refused(self):
        words = [each.words for each in coils.arrangements(4, 2, 4.0)]
        self.assertEqual(len(words), len(set(words)))
        self.assertEqual(coils.arrangement(2, 2, 4.0, "coils parallel, drivers parallel").load_ohm, 1.0)
        with self.assertRaisesRegex(BadInput, "coils parallel, drivers series"):
            coils.arrangement(2, 2, 4.0, "coils parallel, drivers serial")


class Impedance(unittest.TestCase):
    def test_a_sealed_box_peaks_at_its_resonance_with_the_height_theory_gives(self):
        """Small 1972: Z at f_c = R_e + R_es, real when L_e = 0; f_c = f_s·sqrt(1 + α). With losses of Q_L the peak is
        lower by Q_mc'/Q_mc; boxes of cars show some three to eight times the nominal ohms (common practice)."""
        motor = impedance.Motor(3.4, 29.0, 5.5, 0.48)
        at = np.array([29 * math.sqrt(3)])
        for ql, share in ((math.inf, 1.0), (7.0, 7 / (7 + 5.5 * math.sqrt(3)))):
            z = impedance.impedance(motor, at, box="sealed", alpha=2.0, ql=ql)[0]
            self.assertAlmostEqual(z.real, 3.4 + 3.4 * 5.5 / 0.48 * share)
            self.assertAlmostEqual(z.imag, 0.0, delta=1e-9)
        self.assertTrue(3 < z.real / 4 < 8)

    def test_a_lossless_vented_box_falls_back_to_the_coil_at_its_tuning(self):
        motor = impedance.Motor(3.4, 29.0, 5.5, 0.48)
        z = impedance.impedance(motor, np.array([35.0]), box="vented", alpha=1.5, tuning_hz=35.0, ql=1e9)[0]
        self.assertAlmostEqual(abs(z), 3.4, delta=1e-6)

    def test_far_from_resonance_only_the_coil_is_left(self):
        motor = impedance.Motor(3.4, 29.0, 5.5, 0.48)
        for box in ("infinite_baffle", "sealed"):
            z = impedance.impedance(motor, np.array([0.01, 50000.0]), box=box, alpha=1.0)
            np.testing.assert_allclose(np.abs(z), 3.4, rtol=1e-3)

    def test_wiring_scales_the_model_as_it_scales_the_coils(self):
        """le_mh is for coils in series: in parallel both resistance and inductance are a quarter."""
        at = {}
        for words in ("coils series, drivers parallel", "coils parallel, drivers parallel"):
            load = Load.model_validate(
                {
                    "drivers": 2,
                    "coils_per_driver": 2,
                    "coil_ohm": 4,
                    "wiring": words,
                    "driver": DRIVER,
                    "box": {"kind": "sealed", "volume_l": 60},
                }
            )
            at[words] = load_at_tone(load, 40.0)
        series, parallel = at.values()
        self.assertAlmostEqual(series.impedance_ohm / parallel.impedance_ohm, 4.0)
        self.assertAlmostEqual(series.power_factor, parallel.power_factor)

    def test_a_measured_rise_wins_over_the_model_and_a_sweep_without_phase_says_so(self):
        base = {"coil_ohm": 4, "driver": DRIVER, "box": {"kind": "sealed", "volume_l": 60}}
        measured = Load.model_validate({**base, "rise": {"value": 2.5, "origin": "measured"}})
        self.assertAlmostEqual(load_at_tone(measured, 40.0).impedance_ohm, 10.0)
        sweep = {"frequency_hz": [20, 80], "impedance_ohm": [4.0, 16.0]}
        found = load_at_tone(Load.model_validate({**base, "sweep": sweep}), 40.0)
        self.assertAlmostEqual(found.impedance_ohm, 8.0)
        self.assertFalse(found.phase_known)
