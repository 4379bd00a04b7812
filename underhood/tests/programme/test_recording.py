"""Recordings as envelopes: synthetic files of known crest factor, and files that cannot be used."""

import math
import tempfile
import unittest
from pathlib import Path

import numpy as np
import soundfile
from scipy.signal import butter, hilbert, sosfilt

from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.programme import envelopes, recording

RATE = 44100


def time(seconds: float) -> np.ndarray:
    return np.arange(round(seconds * RATE)) / RATE


class Recordings(unittest.TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def write(self, samples: np.ndarray, name: str = "a.wav", rate: int = RATE, **more) -> Path:
        path = self.folder / name
        soundfile.write(path, samples, rate, **more)
        return path

    def heard(self, samples: np.ndarray, low_pass_hz: float = 80.0, **more) -> recording.RecordingAnalysis:
        return recording.analyse(self.write(samples, **more), low_pass_hz)

    def refused(self, path: Path, low_pass_hz: float = 80.0) -> str:
        with self.assertRaises(BadInput) as caught:
            recording.analyse(path, low_pass_hz)
        return str(caught.exception)

    def test_a_sine_has_a_crest_of_three_decibels_and_a_level_of_one(self):
        """The crest factor of a sine is √2, 3.01 dB; its envelope is 1 wherever it plays."""
        found = self.heard(0.5 * np.sin(2 * np.pi * 40 * time(6)))
        self.assertAlmostEqual(found.crest_db, 3.01, delta=0.15)
        self.assertAlmostEqual(float(np.median(found.envelope)), 1.0, delta=0.03)
        self.assertEqual(len(found.envelope), 600)

    def test_a_gated_sine_has_a_mean_and_rms_of_its_duty(self):
        """On for a quarter of the time: mean 0.25, RMS √0.25 = 0.5, crest 3.01 + 10·log10(4) = 9.03 dB."""
        t = time(16)
        found = self.heard(0.7 * np.sin(2 * np.pi * 45 * t) * ((t % 2) < 0.5))
        self.assertAlmostEqual(found.mean, 0.25, delta=0.02)
        self.assertAlmostEqual(found.rms, 0.5, delta=0.03)
        self.assertAlmostEqual(found.crest_db, 9.03, delta=0.4)

    def test_the_envelope_is_the_analytic_signals_worked_out_all_at_once(self):
        """The definition, all of it at the full rate: |analytic|/√2, power-averaged in 10 ms, over peak/√2."""
        draw = np.random.default_rng(4)
        t = time(8)
        signal = np.sin(2 * np.pi * 37 * t) * (0.4 + 0.3 * np.sin(2 * np.pi * 0.7 * t)) + 0.2 * draw.standard_normal(
            len(t)
        )
        found = self.heard(signal / 2, subtype="FLOAT")
        filtered = sosfilt(butter(4, 80.0, fs=RATE, output="sos"), signal / 2)
        steps = np.abs(hilbert(filtered))[: 441 * 800].reshape(800, 441)
        expected = np.minimum(np.sqrt((steps**2).mean(axis=1)) / np.abs(filtered).max(), 1.0)
        np.testing.assert_allclose(found.envelope[5:-5], expected[5:-5], atol=0.02)

    def test_what_lies_above_the_crossover_does_not_count(self):
        t = time(4)
        bass, treble = 0.3 * np.sin(2 * np.pi * 40 * t), 0.3 * np.sin(2 * np.pi * 2000 * t)
        both, alone = self.heard(bass + treble), self.heard(bass)
        self.assertAlmostEqual(both.peak_dbfs, alone.peak_dbfs, delta=0.1)
        self.assertLess(self.heard(bass + treble, 20.0).peak_dbfs, alone.peak_dbfs - 6)

    def test_stereo_and_flac_and_other_rates_are_read_alike(self):
        t = time(3)
        tone = 0.5 * np.sin(2 * np.pi * 50 * t)
        stereo = self.heard(np.column_stack([tone, tone]), name="b.flac")
        slower = np.sin(2 * np.pi * 50 * np.arange(3 * 16000) / 16000) / 2
        for other in (stereo, self.heard(slower, rate=16000)):
            self.assertAlmostEqual(other.crest_db, self.heard(tone).crest_db, delta=0.1)
        self.assertEqual((stereo.channels, len(stereo.sha256)), (2, 64))

    def test_it_plays_in_a_job_as_its_own_programme(self):
        found = self.heard(0.5 * np.sin(2 * np.pi * 40 * time(2)))
        basis = {"programme": "file", "programme_file": found.programme_file().model_dump()}
        job = JobDocument.model_validate({"basis": basis})
        np.testing.assert_allclose(envelopes.of_basis(job.basis).level, found.envelope)

    def test_files_that_cannot_be_used_are_named_with_what_is_allowed(self):
        whole = self.write(np.sin(2 * np.pi * 40 * time(3)), "whole.wav")
        cut = self.folder / "cut.wav"
        cut.write_bytes(whole.read_bytes()[:90_000])
        text = self.folder / "text.wav"
        text.write_text("no sound at all")
        for path, words in [
            (self.write(np.zeros(RATE * 2), "silent.wav"), "silent below 80 Hz"),
            (self.write(np.ones(1), "one.wav"), "lasts"),
            (self.write(np.zeros((RATE * 2, 8)), "eight.wav"), "8 channels; give mono or stereo"),
            (self.write(np.zeros(RATE * 2), "mp3.wav", format="MP3"), "MP3, whatever its name says"),
            (cut, "ends early"),
            (text, "no recording that can be read"),
            (self.folder / "missing.wav", "cannot be read"),
        ]:
            with self.subTest(path.name):
                message = self.refused(path)
                self.assertIn(words, message)
                self.assertTrue(message.startswith(path.name))
        self.assertIn("20 to 500 Hz", self.refused(whole, 5000))

    def test_the_crossover_is_the_lowest_low_pass_of_the_job(self):
        def crossover(*low_pass: float) -> float:
            amplifiers = [{"id": f"a{n}", "name": "A", "load": {"low_pass_hz": hz}} for n, hz in enumerate(low_pass)]
            return recording.crossover_hz(JobDocument.model_validate({"amplifiers": amplifiers}))

        self.assertEqual((crossover(120, 90), crossover(), crossover(5000)), (90, 80, 500))


class CommonPractice(unittest.TestCase):
    def test_loud_everyday_music_draws_a_tenth_to_a_quarter_of_the_full_tone(self):
        """Common practice: a clamp shows about a quarter to a half of the tone's current at most (see `make bench`)."""
        level = envelopes.music("everyday").level
        self.assertTrue(0.1 < float(np.mean(level)) < 0.35)
        self.assertTrue(math.isclose(float(level.max()), 1.0))
