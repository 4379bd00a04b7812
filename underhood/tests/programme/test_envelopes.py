"""Programmes as envelopes: what bursts and music are, the best stretch of a window."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.document.job import Basis
from underhood.programme import envelopes
from underhood.programme.envelopes import Envelope
from underhood.programme.octaves import SAMPLES_HZ

LEVELS = st.lists(st.floats(0, 1), min_size=1, max_size=120)


def shares(low_hz: float = 0.0, high_hz: float = 1e9, order: int = 4) -> tuple[float, ...]:
    """What Butterworth filters let through of each octave, worked out here."""
    through = 1 / (1 + (low_hz / SAMPLES_HZ) ** (2 * order)) / (1 + (SAMPLES_HZ / high_hz) ** (2 * order))
    return tuple(through.mean(axis=1))


class Stretches(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(LEVELS, st.integers(1, 300))
    def test_the_best_stretch_of_a_repeating_programme_is_that_of_looking_at_each(self, level, width):
        found = envelopes.moving_mean_peak(np.array(level), 0.01, width * 0.01)
        around = np.resize(level, len(level) + width)
        each = [float(np.mean(around[start : start + width])) for start in range(len(level))]
        self.assertAlmostEqual(found, max(each))


class Made(unittest.TestCase):
    def test_a_burst_has_its_duty_and_its_quiet(self):
        """20 ms in 500 ms at −20 dB: RMS² = 0.04 + 0.96·0.01."""
        found = envelopes.common_signal(Basis(programme="burst"))
        self.assertAlmostEqual(len(found.level) * found.step_s, 0.5)
        self.assertAlmostEqual(float(np.mean(found.level**2)), 0.04 + 0.96 * 0.01)
        for on_s, off_s in ((0.0213, 0.4871), (0.001, 0.0335), (0.035, 0.455), (0.0213, 600.0)):
            made = envelopes.burst(on_s, off_s, -20.0)
            loud = float((made.level == 1.0).sum()) * made.step_s
            self.assertAlmostEqual(loud, on_s, delta=1e-9)
            self.assertAlmostEqual(len(made.level) * made.step_s - loud, off_s, delta=1e-9 if off_s < 1 else 0.005)
        short = envelopes.burst(0.002, 0.006, -6.0)
        self.assertEqual((short.step_s, len(short.level)), (0.002, 4))
        np.testing.assert_allclose(short.level, [1, *[10 ** (-6 / 20)] * 3])

    def test_a_tone_is_one_level_and_music_each_amplifiers_own(self):
        self.assertEqual(envelopes.common_signal(Basis()).level.tolist(), [1.0])
        for kind in envelopes.STYLES:
            self.assertIsNone(envelopes.common_signal(Basis(programme=kind)))

    def test_built_in_bass_is_a_minute_on_the_beat_as_its_style_says(self):
        """From the styles' own figures: never below the floor over the loudest note; onsets only on a beat; a note
        that is held, then falls by e in the decay. The loudest note through a usual bass crossover is a full tone."""
        for kind, style in envelopes.STYLES.items():
            with self.subTest(kind):
                found = envelopes.in_band(envelopes.music(kind), shares(high_hz=80), 5.0)
                level = found.level
                self.assertEqual((len(level), found.step_s), (6000, 0.01))
                self.assertAlmostEqual(level.max(), 1.0, delta=0.005)
                self.assertGreaterEqual(level.min(), style.floor)
                self.assertLess(level.min(), style.floor / 0.8 if kind != "held_bass" else 1.0)
                beat = 60 / style.beats_per_minute
                onsets = (np.flatnonzero(np.diff(level) > 0.05) + 1) * found.step_s
                late = onsets % beat
                self.assertTrue((np.minimum(late, beat - late) < 0.011).all())
                self.assertGreater(len(onsets), 0.3 * style.chance * 60 / beat)
                loudest = int(np.argmax(level))
                after = level[loudest:]
                held = np.argmax(after < 0.99) * found.step_s
                self.assertLessEqual(held, style.hold_s[1] + 0.02)
                fall = after[int(held / 0.01) :]
                steepest = float(np.min(np.diff(np.log(fall[: int(0.5 * style.decay_s / 0.01)]))))
                self.assertAlmostEqual(steepest, -0.01 / style.decay_s, delta=0.01)

    def test_a_narrower_band_and_less_overlap_ask_for_less(self):
        """Power: bands that a crossover parts add up to the whole; an overlap of 6.02 dB is twice the volts."""
        for kind in envelopes.STYLES:
            bands = envelopes.music(kind)
            low, high, whole = (
                float(np.mean(envelopes.in_band(bands, each, 5.0).level ** 2))
                for each in (shares(high_hz=300), shares(low_hz=300), shares())
            )
            self.assertAlmostEqual(low + high, whole, delta=1e-9)
            self.assertLess(4 * high, low)
            one, other = (envelopes.in_band(bands, shares(high_hz=80), db).level for db in (4.0, 10.0206))
            np.testing.assert_allclose(other, 2 * one, rtol=1e-4)


class Strips(unittest.TestCase):
    def test_a_strip_is_two_seconds_at_least_and_keeps_the_loudest(self):
        found = envelopes.strip(envelopes.burst(0.02, 0.48, -20.0))
        self.assertAlmostEqual(found.seconds, 2.0)
        self.assertEqual((max(found.level), found.level.count(1.0)), (1.0, 4))
        rms = math.sqrt(0.04 + 0.96 * 0.01)
        self.assertAlmostEqual(found.rms, rms)
        self.assertAlmostEqual(found.mean, 0.04 + 0.96 * 0.1)
        self.assertAlmostEqual(found.crest_db, 20 * math.log10(math.sqrt(2) / rms))
        music = envelopes.strip(envelopes.in_band(envelopes.music("everyday"), shares(high_hz=80), 5.0))
        self.assertEqual((len(music.level), music.seconds), (600, 60.0))
        self.assertAlmostEqual(max(music.level), 1.0, delta=0.005)
        self.assertAlmostEqual(envelopes.strip(envelopes.TONE).crest_db, 20 * math.log10(math.sqrt(2)))
        self.assertEqual(envelopes.strip(Envelope(np.zeros(3), 0.01)).crest_db, 0.0)
