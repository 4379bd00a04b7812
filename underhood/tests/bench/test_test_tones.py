"""Test tones, re-read as anybody would re-read them: soundfile and scipy's own WAV reader, and an FFT."""

import io
import math
import unittest

import numpy as np
import soundfile
from pydantic import ValidationError
from scipy.io import wavfile

from underhood.bench.test_tones import PRESETS, Tone, rms_dbfs, samples, wav


def reread(tone: Tone) -> tuple[np.ndarray, int, str]:
    with soundfile.SoundFile(io.BytesIO(wav(tone))) as file:
        return file.read(), file.samplerate, file.subtype


class Sines(unittest.TestCase):
    def test_frequency_within_one_bin_and_level_within_a_tenth_of_a_decibel(self):
        for hz, level, rate, bits in [
            (20, 0, 48000, 16),
            (40, -5, 44100, 24),
            (80, -3, 48000, 24),
            (1000, -5, 44100, 16),
        ]:
            tone = Tone(tone_hz=hz, level_db=level, seconds=4, sample_rate=rate, bits=bits)
            heard, at, subtype = reread(tone)
            self.assertEqual((at, subtype, len(heard)), (rate, f"PCM_{bits}", 4 * rate))
            middle = heard[rate : 3 * rate]
            spectrum = np.abs(np.fft.rfft(middle * np.hanning(len(middle))))
            self.assertLessEqual(abs(np.argmax(spectrum) * rate / len(middle) - hz), rate / len(middle))
            self.assertAlmostEqual(rms_dbfs(math.sqrt(np.mean(middle**2))), level, delta=0.1)

    def test_scipys_reader_agrees_with_soundfile(self):
        tone = Tone(tone_hz=50, level_db=-6, seconds=1, bits=16)
        rate, whole = wavfile.read(io.BytesIO(wav(tone)))
        self.assertEqual(rate, 48000)
        np.testing.assert_allclose(whole / 32768, reread(tone)[0], atol=1e-9)

    def test_nothing_clicks(self):
        """No step from one sample to the next is steeper than the tone itself at its steepest."""
        for tone in (
            Tone(tone_hz=40, seconds=2),
            Tone(kind="burst", tone_hz=50, seconds=2),
            Tone(kind="sweep", seconds=5),
            *(each.tone for each in PRESETS),
        ):
            heard = samples(tone)
            top_hz = 200.0 if tone.kind == "sweep" else tone.tone_hz
            steepest = 10 ** (tone.level_db / 20) * 2 * np.pi * top_hz / tone.sample_rate
            self.assertLessEqual(np.abs(np.diff(heard)).max(), steepest * 1.01, tone)
            self.assertLessEqual(max(abs(heard[0]), abs(heard[-1])), steepest)


class Bursts(unittest.TestCase):
    def test_on_and_off_times_of_ihf_a_202_within_a_sample(self):
        for rate in (44100, 48000):
            heard, *_ = reread(Tone(kind="burst", tone_hz=1000, seconds=3, sample_rate=rate, bits=24))
            loud = np.flatnonzero(np.abs(heard) > 0.11)
            starts = [loud[0], *loud[1:][np.diff(loud) > rate // 10]]
            ends = [*loud[:-1][np.diff(loud) > rate // 10], loud[-1]]
            self.assertEqual(len(starts), 6)
            # The threshold is crossed up to 2 samples inside the first and last cycle at 1 kHz.
            for start, end in zip(starts, ends, strict=True):
                self.assertAlmostEqual((end - start) / rate, 0.020, delta=4 / rate)
            np.testing.assert_allclose(np.diff(starts), 0.5 * rate, atol=1)
            quiet = heard[round(0.1 * rate) : round(0.4 * rate)]
            self.assertAlmostEqual(rms_dbfs(math.sqrt(np.mean(quiet**2))), -20, delta=0.1)
        self.assertEqual(rms_dbfs(0.0), -math.inf)

    def test_a_burst_that_does_not_hold_whole_cycles_is_refused(self):
        with self.assertRaises(ValidationError):
            Tone(kind="burst", tone_hz=40)


class Sweeps(unittest.TestCase):
    def test_it_runs_from_10_to_200_hz_in_equal_ratios(self):
        heard, rate, _ = reread(Tone(kind="sweep", seconds=20, level_db=-3))
        crossings = np.flatnonzero((heard[:-1] < 0) & (heard[1:] >= 0)) / rate
        hz = 1 / np.diff(crossings)
        for at, wanted in [(2, 10 * 20**0.1), (10, 10 * 20**0.5), (18, 10 * 20**0.9)]:
            self.assertAlmostEqual(np.interp(at, crossings[1:], hz) / wanted, 1.0, delta=0.02)
