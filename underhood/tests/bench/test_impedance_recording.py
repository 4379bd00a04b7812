"""Impedance from a recording: against a circuit whose impedance is known, with noise, hum and a skewed card."""

import io
import unittest

import numpy as np
import soundfile

from underhood.bench.impedance_recording import Calibration, Wiring, calibrate, impedance_of
from underhood.bench.test_tones import Tone, samples
from underhood.errors import BadInput

RATE = 48000
WIRING = Wiring(volts_per_unit=40.0, amps_per_unit=20.0)


def circuit_ohm(f):
    """A coil with inductance before a resonance at 42 Hz: R_e + jωL + R_es/(1 + jQ(f/f0 − f0/f))."""
    ratio = np.where(f > 0, f, 1.0) / 42.0
    return 3.3 + 2j * np.pi * f * 1.2e-3 + 30.0 / (1 + 5.5j * (ratio - 1 / ratio))


def recording(ohm=circuit_ohm, *, noise=0.002, hum=0.02, lag_s=0.0, gain=1.0, seconds=60.0, seed=1) -> bytes:
    """Volts of the shipped sweep, and the amps that the circuit takes of it by Ohm's law, line by line."""
    rng = np.random.default_rng(seed)
    tone = samples(Tone(kind="sweep", level_db=-10, seconds=seconds))
    f = np.fft.rfftfreq(len(tone), 1 / RATE)
    spectrum = np.fft.rfft(20.0 * tone)
    amps = np.fft.irfft(spectrum / ohm(f), len(tone))
    volts = np.fft.irfft(spectrum * gain * np.exp(-2j * np.pi * f * lag_s), len(tone))
    t = np.arange(len(tone)) / RATE
    both = np.stack([volts / WIRING.volts_per_unit, amps / WIRING.amps_per_unit], axis=1)
    both += noise * rng.standard_normal(both.shape) * np.abs(both).max(axis=0)
    for k in (1, 2, 3):
        both += hum / k * np.sin(2 * np.pi * 50 * k * t + k)[:, None] * np.abs(both).max(axis=0)
    out = io.BytesIO()
    soundfile.write(out, both, RATE, format="WAV", subtype="PCM_16")
    return out.getvalue()


class Recorded(unittest.TestCase):
    def test_ohms_are_within_1_percent_and_phase_within_1_degree_through_noise_and_hum(self):
        found = impedance_of(recording(), WIRING)
        f = np.array(found.sweep.frequency_hz)
        true = circuit_ohm(f)
        ohm, phase = np.array(found.sweep.impedance_ohm), np.array(found.sweep.phase_deg)
        off, turned = ohm / np.abs(true) - 1, phase - np.degrees(np.angle(true))
        self.assertGreater(len(f), 95)  # of 103 bands of 1/24 octave from 10 to 200 Hz
        self.assertLess(np.sqrt(np.mean(off**2)), 0.004)
        self.assertLess(np.abs(off).max(), 0.01)
        self.assertLess(np.abs(turned).max(), 1.0)
        # The spread says how far off they are: nearly all within three of it, and it is no smaller than it has to be.
        spread = np.array(found.ohm_spread) + 5e-4
        self.assertGreater(np.mean(np.abs(off) < 3 * spread), 0.9)
        self.assertLess(np.median(spread), 0.01)

    def test_hum_that_is_not_cut_out_shows(self):
        """The same recording, its mains taken to be at 60 Hz: the bands at 50 Hz are off."""
        plain = impedance_of(recording(hum=0.1), WIRING)
        wrong = impedance_of(recording(hum=0.1), WIRING.model_copy(update={"mains_hz": 60}))
        off = []
        for each in (plain, wrong):
            f = np.array(each.sweep.frequency_hz)
            at = np.abs(f - 50) < 1.5
            off.append(np.abs(np.array(each.sweep.impedance_ohm)[at] / np.abs(circuit_ohm(f[at])) - 1).max())
        self.assertGreater(off[1], 3 * off[0])

    def test_gain_and_skew_of_the_card_are_calibrated_on_a_resistor(self):
        card = {"gain": 1.07, "lag_s": 2.5e-5}
        known = calibrate(recording(lambda f: np.full(len(f), 4.0 + 0j), **card), WIRING, 4.0)
        self.assertAlmostEqual(known.gain, 1.07, delta=0.002)
        self.assertAlmostEqual(known.lag_s, 2.5e-5, delta=2e-6)
        found = impedance_of(recording(**card), WIRING, known)
        f = np.array(found.sweep.frequency_hz)
        self.assertLess(np.abs(np.array(found.sweep.impedance_ohm) / np.abs(circuit_ohm(f)) - 1).max(), 0.01)
        bare = impedance_of(recording(**card), WIRING, Calibration(1.0, 0.0))
        self.assertGreater(np.abs(np.array(bare.sweep.impedance_ohm) / np.abs(circuit_ohm(f)) - 1).min(), 0.05)

    def test_recordings_that_cannot_be_used_are_refused_with_what_is_wrong(self):
        def wav(data, rate=RATE):
            out = io.BytesIO()
            soundfile.write(out, data, rate, format="WAV")
            return out.getvalue()

        noise = 0.12 * np.random.default_rng(2).standard_normal((RATE * 10, 2))
        for content, words in (
            (b"RIFF nothing", "not a recording"),
            (wav(noise[:, 0]), "1 channels"),
            (wav(noise[: RATE * 2]), "2 s at"),
            (wav(np.clip(noise * 9, -1, 1)), "overdriven"),
            (wav(noise * [1, 0]), "right channel is silent"),
            (wav(np.clip(noise, -0.9, 0.9)), "rise above noise"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadInput, words):
                impedance_of(content, WIRING)
        with self.assertRaisesRegex(BadInput, "check divider and shunt"):
            calibrate(recording(lambda f: np.full(len(f), 4.0 + 0j)), WIRING, 8.0)
