"""Programmes as envelopes: what grouping keeps, what bursts and music are, the best stretch of a window."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.document.job import Basis
from underhood.programme import envelopes
from underhood.programme.envelopes import Envelope

LEVELS = st.lists(st.floats(0, 1), min_size=1, max_size=120)


class Groups(unittest.TestCase):
    @given(LEVELS)
    def test_watts_are_kept_and_the_groups_rise(self, level):
        levels, weights = Envelope(np.array(level), 0.01).histogram
        self.assertLessEqual(len(levels), 32)
        self.assertAlmostEqual(weights.sum(), 1.0)
        self.assertTrue((np.diff(levels) >= 0).all())
        self.assertAlmostEqual(float(weights @ levels**2), float(np.mean(np.square(level))))

    def test_few_levels_stay_as_they_are(self):
        levels, weights = Envelope(np.array([1.0, 0.1, 0.1, 0.1]), 0.01).histogram
        np.testing.assert_allclose(levels, [0.1, 1.0])
        np.testing.assert_allclose(weights, [0.75, 0.25])


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
        found = envelopes.of_basis(Basis(programme="burst"))
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

    def test_a_tone_is_one_level_and_a_file_its_own(self):
        self.assertEqual(envelopes.of_basis(Basis()).level.tolist(), [1.0])
        raw = {"name": "a", "sha256": "0" * 64, "envelope": [0.5, 1.0]}
        found = envelopes.of_basis(Basis.model_validate({"programme": "file", "programme_file": raw}))
        self.assertEqual((found.level.tolist(), found.step_s), ([0.5, 1.0], 0.01))

    def test_built_in_music_is_a_minute_on_the_beat_as_its_style_says(self):
        """From the styles' own figures: never below the floor over the loudest note; onsets only on a beat; a note
        that is held, then falls by e in the decay; held bass is denser than everyday music."""
        for kind, style in envelopes.STYLES.items():
            with self.subTest(kind):
                found = envelopes.music(kind)
                level = found.level
                self.assertEqual((len(level), found.step_s, level.max()), (6000, 0.01, 1.0))
                self.assertGreaterEqual(level.min(), style.floor - 1e-12)
                self.assertLess(level.min(), style.floor / 0.85 if kind != "held_bass" else 1.0)
                beat = 60 / style.beats_per_minute
                onsets = (np.flatnonzero(np.diff(level) > 0.05) + 1) * found.step_s
                late = onsets % beat
                self.assertTrue((np.minimum(late, beat - late) < 0.011).all())
                self.assertGreater(len(onsets), 0.3 * style.chance * 60 / beat)
                loudest = int(np.argmax(level))
                after = level[loudest:]
                held = np.argmax(after < 0.999) * found.step_s
                self.assertLessEqual(held, style.hold_s[1] + 0.02)
                fall = after[int(held / 0.01) :]
                steepest = float(np.min(np.diff(np.log(fall[: int(0.5 * style.decay_s / 0.01)]))))
                self.assertAlmostEqual(steepest, -0.01 / style.decay_s, delta=0.002)
        means = [float(envelopes.music(kind).level.mean()) for kind in ("everyday", "bass_heavy", "held_bass")]
        self.assertEqual(means, sorted(means))
        self.assertLess(2 * means[0], means[2])


class Strips(unittest.TestCase):
    def test_a_strip_is_two_seconds_at_least_and_keeps_the_loudest(self):
        found = envelopes.strip(envelopes.burst(0.02, 0.48, -20.0))
        self.assertAlmostEqual(found.seconds, 2.0)
        self.assertEqual((max(found.level), found.level.count(1.0)), (1.0, 4))
        rms = math.sqrt(0.04 + 0.96 * 0.01)
        self.assertAlmostEqual(found.rms, rms)
        self.assertAlmostEqual(found.mean, 0.04 + 0.96 * 0.1)
        self.assertAlmostEqual(found.crest_db, 20 * math.log10(math.sqrt(2) / rms))
        music = envelopes.strip(envelopes.music("everyday"))
        self.assertEqual((len(music.level), music.seconds, max(music.level)), (600, 60.0, 1.0))
        self.assertAlmostEqual(envelopes.strip(envelopes.TONE).crest_db, 20 * math.log10(math.sqrt(2)))
        self.assertEqual(envelopes.strip(Envelope(np.zeros(3), 0.01)).crest_db, 0.0)
