"""What an amplifier sees of a load: swept, modelled, typed, read at a tone."""

import math
import unittest
from typing import ClassVar

import numpy as np

from underhood.document.job import Load, LoadReading
from underhood.errors import BadInput
from underhood.loudspeaker import coils
from underhood.loudspeaker.coils import Arrangement
from underhood.loudspeaker.load_at_tone import (
    alpha_of,
    driver_impedance,
    from_reading,
    impedance_curve,
    load_at_tone,
    motor_of,
    nominal_driver_ohm,
    wired_as,
)
from underhood.tests.examples import DRIVER, SEALED


def load(**more) -> Load:
    return Load.model_validate({"drivers": 2, "coils_per_driver": 2, "coil_ohm": 4, **more})


def arranged(one: Load) -> Arrangement:
    """How equal drivers are wired."""
    wired = wired_as(one)
    assert isinstance(wired, Arrangement)
    return wired


class Wired(unittest.TestCase):
    """By hand: two drivers of two coils, 4 ohm labels, 3.3 ohm measured."""

    def test_motors_take_coils_in_series_or_parallel_with_their_inductance(self):
        """Le is stated for coils in series; in parallel a quarter, as the resistance is."""
        for wiring, re_ohm, le_h in (
            ("coils series, drivers parallel", 6.6, 0.0017),
            ("coils parallel, drivers parallel", 1.65, 0.0017 / 4),
        ):
            one = load(**SEALED, wiring=wiring)
            found = motor_of(one, one.driver, arranged(one))
            self.assertAlmostEqual(found.re_ohm, re_ohm)
            self.assertAlmostEqual(found.le_h, le_h)
            self.assertEqual((found.fs_hz, found.qms, found.qes), (28, 5.2, 0.47))
        single = load(**SEALED, coils_per_driver=1)
        self.assertAlmostEqual(motor_of(single, single.driver, arranged(single)).re_ohm, 3.3)

    def test_each_driver_has_its_share_of_the_box(self):
        self.assertAlmostEqual(alpha_of(load(**SEALED), load(**SEALED).driver), 2 * 62 / 70)
        open_air = load(driver=DRIVER, box={"kind": "infinite_baffle"})
        self.assertEqual(alpha_of(open_air, open_air.driver), 0.0)

    def test_far_from_resonance_a_box_leaves_coil_and_inductance(self):
        """At 5 kHz the motion is still: |Z| ≈ |R_e + jωL_e| of the coils in parallel, drivers parallel, halved."""
        one = load(**SEALED, wiring="coils parallel, drivers parallel")
        z = impedance_curve(one, np.array([5000.0])).ohm[0]
        self.assertAlmostEqual(z, (1.65 + 2j * math.pi * 5000 * 0.0017 / 4) / 2, delta=0.02)
        hot = load(**SEALED, wiring="coils parallel, drivers parallel", coil_temperature_rise_k=100)
        warmer = impedance_curve(hot, np.array([5000.0])).ohm[0]
        self.assertAlmostEqual(warmer.real - z.real, 1.65 * 0.393 / 2, delta=1e-6)
        self.assertAlmostEqual(
            driver_impedance(one, one.driver, arranged(one), np.array([5000.0]))[0], 2 * z, delta=1e-9
        )

    def test_a_typed_rise_multiplies_the_label_and_keeps_its_power_factor(self):
        found = load_at_tone(load(wiring="coils parallel, drivers parallel", rise=2.5, power_factor=0.8), 40.0)
        self.assertAlmostEqual(found.nominal_ohm, 1.0)
        self.assertAlmostEqual(found.impedance_ohm, 2.5)
        self.assertAlmostEqual(found.power_factor, 0.8)
        self.assertAlmostEqual(found.rise, 2.5)
        self.assertEqual((found.how, found.phase_known), ("rise", True))
        half = found.halved()
        self.assertAlmostEqual(half.impedance_ohm, 1.25)
        self.assertEqual((half.nominal_ohm, half.power_factor), (0.5, found.power_factor))

    def test_a_measured_rise_wins_over_the_model_and_an_assumed_one_does_not(self):
        rise = {"value": 2.1, "origin": "measured"}
        self.assertEqual(load_at_tone(load(**SEALED, rise=rise), 40.0).how, "rise")
        self.assertEqual(load_at_tone(load(**SEALED, rise=2.1), 40.0).how, "model")

    def test_a_measured_rise_bends_the_model_at_its_tone_and_fades_within_half_an_octave(self):
        of = {**SEALED, "wiring": "coils parallel, drivers parallel"}
        read = load(**of, rise={"value": 2.1, "origin": "measured"}, rise_tone_hz=40)
        hz = np.array([20.0, 28.2, 40.0, 56.7, 80.0])
        model, bent = (np.abs(impedance_curve(each, hz).ohm) for each in (load(**of), read))
        self.assertAlmostEqual(bent[2], 2.1 * 1.0)
        np.testing.assert_allclose(bent[[0, 1, 3, 4]], model[[0, 1, 3, 4]], rtol=1e-9)
        self.assertEqual([load_at_tone(read, tone).how for tone in (40.0, 80.0)], ["rise", "model"])
        halfway = abs(impedance_curve(read, np.array([40 * 2**0.25])).ohm[0])
        there = abs(impedance_curve(load(**of), np.array([40 * 2**0.25])).ohm[0])
        self.assertAlmostEqual(math.log(halfway / there), 0.5 * math.log(2.1 / model[2]))
        flat = load(wiring="coils parallel, drivers parallel", rise=read.rise, rise_tone_hz=40)
        np.testing.assert_allclose(np.abs(impedance_curve(flat, hz).ohm), 2.1)

    def test_a_phase_that_was_read_keeps_its_sign_and_true_watts_take_the_curves(self):
        """A model that is inductive at 24 Hz: −60° read there stay −60°; half the volt-amperes are +60°."""
        of = {**SEALED, "wiring": "coils parallel, drivers parallel"}
        self.assertGreater(np.angle(impedance_curve(load(**of), np.array([24.0])).ohm[0]), 0)
        for told, degrees in (({"phase_deg": -60}, -60), ({"phase_deg": 60}, 60), ({"power_w": 50}, 60)):
            reading = {"tone_hz": 24, "output_v": 20, "output_a": 5, **told}
            z = impedance_curve(load(**of, readings=[reading]), np.array([24.0])).ohm[0]
            self.assertAlmostEqual(np.degrees(np.angle(z)), degrees)

    def test_one_driver_of_several_is_wired_by_its_coils_alone(self):
        four = load(drivers=4, wiring="coils series, drivers in 2 parallel strings of 2")
        self.assertEqual(wired_as(four).load_ohm, 8.0)
        self.assertEqual(wired_as(four, one_driver=True).load_ohm, 8.0)
        parallel = load(drivers=4, wiring="coils parallel, drivers series")
        self.assertEqual((wired_as(parallel).load_ohm, wired_as(parallel, one_driver=True).load_ohm), (8.0, 2.0))
        self.assertEqual(wired_as(load(drivers=4), one_driver=True).load_ohm, 8.0)
        plain = load(coils_per_driver=1, wiring="drivers parallel")
        self.assertEqual(wired_as(plain, one_driver=True).load_ohm, 4.0)

    def test_mixed_drivers_share_by_ohms_law(self):
        """4 and 2 ohm: in parallel 1.333 ohm, a third and two thirds; in series 6 ohm, two thirds and a third."""
        series, parallel = coils.mixed([4.0, 2.0])
        self.assertAlmostEqual(parallel.load_ohm, 4 / 3)
        np.testing.assert_allclose(parallel.shares, [1 / 3, 2 / 3])
        np.testing.assert_allclose(series.shares, [2 / 3, 1 / 3])
        self.assertTrue(parallel.unequal)
        for wiring, ohm in (("drivers parallel", 4 / 3), ("drivers series", 6.0)):
            two = [{**DRIVER, "coil_ohm": 4}, {**DRIVER, "coil_ohm": 4, "coils": 2}]
            self.assertAlmostEqual(wired_as(load(drivers_mixed=two, wiring=wiring)).load_ohm, ohm)
        with self.assertRaisesRegex(BadInput, "'coils series' is no way"):
            wired_as(load(drivers_mixed=two, wiring="coils series"))

    def test_a_mixed_driver_without_a_label_goes_by_its_resistance(self):
        """Common practice: a coil has about 0.8 of its nominal ohms."""
        one = load(drivers_mixed=[{**DRIVER, "coils": 2}, DRIVER]).drivers_mixed[0]
        self.assertAlmostEqual(nominal_driver_ohm(one, load()), 3.3 / 0.8 / 2)

    def test_a_measured_box_needs_its_sweep(self):
        one = load(driver=DRIVER, box={"kind": "measured"})
        with self.assertRaisesRegex(BadInput, "needs a sweep"):
            driver_impedance(one, one.driver, arranged(one), np.array([40.0]))


class Sweeps(unittest.TestCase):
    SWEEP: ClassVar[dict[str, list[float]]] = {
        "frequency_hz": [10, 20, 40, 80, 160],
        "impedance_ohm": [2, 3, 8, 2.5, 2.2],
        "phase_deg": [20, 50, -5, -45, -10],
    }

    def test_a_sweep_overrides_the_model_and_is_met_at_its_points(self):
        load = Load.model_validate({**SEALED, "coil_ohm": 4, "sweep": self.SWEEP})
        found = impedance_curve(load, np.array(self.SWEEP["frequency_hz"], float))
        self.assertEqual(found.how, "sweep")
        np.testing.assert_allclose(np.abs(found.ohm), self.SWEEP["impedance_ohm"])
        np.testing.assert_allclose(np.degrees(np.angle(found.ohm)), self.SWEEP["phase_deg"])

    def test_smoothing_is_off_unless_asked_for_and_then_lowers_a_peak(self):
        hz = np.geomspace(10, 200, 200)
        ohm = 2 + 10 * np.exp(-((np.log2(hz / 40) / 0.2) ** 2))
        raw = {"frequency_hz": hz.tolist(), "impedance_ohm": ohm.tolist(), "phase_deg": [0.0] * 200}
        plain, smooth = (
            np.abs(impedance_curve(Load.model_validate({"coil_ohm": 4, "sweep": {**raw, **more}}), hz).ohm)
            for more in ({}, {"smoothing_octaves": 0.5})
        )
        np.testing.assert_allclose(plain, ohm)
        self.assertLess(smooth.max(), 0.85 * ohm.max())
        self.assertAlmostEqual(smooth[0], ohm[0], delta=0.05)


class Readings(unittest.TestCase):
    def test_volts_times_amps_times_cosine_is_the_mean_of_sampled_sines(self):
        """The definition: the mean over whole cycles of the product of the instantaneous volts and amps."""
        t = np.arange(100_000) / 100_000
        for volts, amps, phase in [(28.0, 9.0, 40.0), (12.0, 3.0, -71.0), (40.0, 20.0, 0.0)]:
            v = math.sqrt(2) * volts * np.sin(2 * np.pi * 40 * t)
            i = math.sqrt(2) * amps * np.sin(2 * np.pi * 40 * t - np.radians(phase))
            told = from_reading(LoadReading(tone_hz=40, output_v=volts, output_a=amps, phase_deg=phase))
            self.assertAlmostEqual(told.true_w, float(np.mean(v * i)), delta=1e-6 * volts * amps)

    def load(self, *readings: dict, **more) -> Load:
        return Load.model_validate({**SEALED, "drivers": 1, "coil_ohm": 4, "readings": list(readings), **more})

    def test_a_reading_is_met_at_its_tone_and_forgotten_half_an_octave_away(self):
        reading = {"tone_hz": 40, "output_v": 30, "output_a": 2.5, "phase_deg": -30}
        bare, bent = self.load(), self.load(reading)
        hz = np.array([20.0, 40.0, 40 * 2**0.25, 60.0])
        before, after = impedance_curve(bare, hz).ohm, impedance_curve(bent, hz).ohm
        self.assertAlmostEqual(abs(after[1]), 12.0)
        self.assertAlmostEqual(np.degrees(np.angle(after[1])), -30.0)
        np.testing.assert_allclose(after[[0, 3]], before[[0, 3]])
        halfway = math.log(abs(after[2]) / abs(before[2])) / math.log(12.0 / abs(before[1]))
        self.assertAlmostEqual(halfway, 0.5, delta=1e-9)
        at_tone = load_at_tone(bent, 40.0)
        self.assertEqual((at_tone.how, round(at_tone.power_factor, 4)), ("reading", round(math.cos(math.pi / 6), 4)))

    def test_several_readings_are_each_met(self):
        told = [
            {"tone_hz": f, "output_v": 20, "output_a": a, "phase_deg": p}
            for f, a, p in [(30, 3.0, 40), (36, 1.5, 10), (45, 2.0, -40), (90, 4.0, -20)]
        ]
        found = impedance_curve(self.load(*told), np.array([30.0, 36.0, 45.0, 90.0])).ohm
        np.testing.assert_allclose(np.abs(found), [20 / each["output_a"] for each in told])
        np.testing.assert_allclose(np.degrees(np.angle(found)), [each["phase_deg"] for each in told])

    def test_true_watts_give_the_power_factor_and_volts_with_amps_alone_do_not(self):
        """A voltage-only reading of 5000 was about 3800 W true (common practice): a power factor of 0.76."""
        told = from_reading(LoadReading(tone_hz=40, output_v=100, output_a=50, power_w=3800))
        self.assertAlmostEqual(told.power_factor, 0.76)
        alone = self.load({"tone_hz": 40, "output_v": 30, "output_a": 2.5})
        self.assertFalse(load_at_tone(alone, 40.0).phase_known)
        self.assertTrue(load_at_tone(alone, 120.0).phase_known)

    def test_more_watts_than_volt_amperes_are_refused(self):
        with self.assertRaisesRegex(ValueError, "true watts never are"):
            LoadReading(tone_hz=40, output_v=10, output_a=2, power_w=25)
