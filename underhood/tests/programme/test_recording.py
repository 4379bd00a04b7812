"""Recordings in octave bands: synthetic files of known power and crest factor, and files that cannot be used."""

import math
import tempfile
import unittest
from pathlib import Path

import numpy as np
import soundfile
from scipy.signal import butter, hilbert, sosfilt

from underhood.circuit.build import build_circuit
from underhood.document.job import OCTAVES, JobDocument
from underhood.document.job_file import read_job, write_job
from underhood.errors import BadInput
from underhood.programme import octaves, recording
from underhood.tests.examples import document

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

    def heard(self, samples: np.ndarray, **more) -> recording.RecordingAnalysis:
        return recording.analyse(self.write(samples, **more))

    def refused(self, path: Path) -> str:
        with self.assertRaises(BadInput) as caught:
            recording.analyse(path)
        return str(caught.exception)

    def test_a_full_scale_sine_is_nothing_but_0_db_of_its_own_octave(self):
        """IEC 61260-1: mid-bands a factor 10^0.3 apart about 1 kHz; at its mid-band a filter passes all."""
        self.assertAlmostEqual(octaves.CENTRES_HZ[0], 31.623, places=3)
        self.assertAlmostEqual(octaves.CENTRES_HZ[-1], 15848.93, places=2)
        for name, hz in zip(OCTAVES, octaves.CENTRES_HZ, strict=True):
            found = self.heard(np.sin(2 * np.pi * hz * time(2)), subtype="FLOAT")
            for other, level in found.bands.items():
                middle = float(np.median(level))
                if other == name:
                    self.assertAlmostEqual(middle, 0.0, delta=0.11)
                else:
                    self.assertLess(middle, -12)
            self.assertEqual(len(found.bands[name]), 200)
            self.assertAlmostEqual(found.crest_db, 3.01, delta=0.05)

    def test_the_octaves_of_noise_hold_its_power_by_their_width(self):
        """White noise: power over frequency is flat, so each octave holds its width over half the sampling rate; a
        Butterworth band-pass of order 3 lets through π/6/sin(π/6) = 1.047 of that."""
        noise = 0.1 * np.random.default_rng(5).standard_normal(RATE * 20)
        found = self.heard(noise, subtype="FLOAT")
        for name, hz in list(zip(OCTAVES, octaves.CENTRES_HZ, strict=True))[:9]:
            width = hz * (10**0.15 - 10**-0.15) / (RATE / 2) * (math.pi / 6) / math.sin(math.pi / 6)
            power = float(np.mean(10 ** (np.array(found.bands[name]) / 10)))
            expected = 2 * 0.1**2 * width
            self.assertAlmostEqual(power / expected, 1.0, delta=0.06 if hz > 100 else 0.15, msg=name)

    def test_a_gated_sine_is_loud_for_its_duty(self):
        """On for a quarter of the time: crest 3.01 + 10·log10(4) = 9.03 dB."""
        t = time(16)
        found = self.heard(0.7 * np.sin(2 * np.pi * 63.1 * t) * ((t % 2) < 0.5))
        level = np.array(found.bands["63"])
        self.assertAlmostEqual(float(np.mean(level > -9)), 0.25, delta=0.02)
        self.assertAlmostEqual(float(np.quantile(level, 0.9)), 20 * math.log10(0.7), delta=0.15)
        self.assertAlmostEqual(found.crest_db, 9.03, delta=0.1)

    def test_a_low_octave_is_the_analytic_signals_worked_out_all_at_once(self):
        """The definition at the full rate: the squared magnitude of the analytic signal, averaged over 10 ms."""
        draw = np.random.default_rng(4)
        t = time(8)
        signal = 0.5 * np.sin(2 * np.pi * 60 * t) * (0.6 + 0.4 * np.sin(2 * np.pi * 0.7 * t))
        signal += 0.1 * draw.standard_normal(len(t))
        found = self.heard(signal, subtype="FLOAT")
        edges = octaves.CENTRES_HZ[1] * np.array([10**-0.15, 10**0.15])
        filtered = sosfilt(butter(3, edges, "bandpass", fs=RATE, output="sos"), signal)
        steps = (np.abs(hilbert(filtered)) ** 2)[: 441 * 800].reshape(800, 441).mean(axis=1)
        told = 10 ** (np.array(found.bands["63"]) / 10)
        np.testing.assert_allclose(told[5:-5], steps[5:-5], atol=0.02)

    def test_stereo_and_flac_and_other_rates_are_read_alike(self):
        t = time(3)
        tone = 0.5 * np.sin(2 * np.pi * 50 * t)
        stereo = self.heard(np.column_stack([tone, tone]), name="b.flac")
        slower = np.sin(2 * np.pi * 50 * np.arange(3 * 8000) / 8000) / 2
        mono = self.heard(tone)
        for other in (stereo, self.heard(slower, rate=8000)):
            self.assertAlmostEqual(other.crest_db, mono.crest_db, delta=0.1)
            np.testing.assert_allclose(other.bands["63"][20:-20], mono.bands["63"][20:-20], atol=0.15)
        self.assertEqual(set(self.heard(slower, rate=8000).bands["8000"]), {octaves.QUIETEST_DB})
        self.assertEqual((stereo.channels, len(stereo.sha256)), (2, 64))

    def test_one_recording_gives_each_amplifier_of_a_job_its_own_band(self):
        """50 Hz at −6 dB below a crossover, 2 kHz at −26 dB above it; gains set with 5 and with 10 dB of overlap."""
        t = time(2)
        both = 10 ** (-6 / 20) * np.sin(2 * np.pi * 50 * t) + 10 ** (-26 / 20) * np.sin(2 * np.pi * 2000 * t)
        raw = document()
        bass = raw["amplifiers"][0]
        bass["load"] |= {"low_pass_hz": 200}
        front = bass | {"id": "front", "overlap_db": 10, "load": bass["load"] | {"low_pass_hz": None}}
        front["load"] |= {"high_pass_hz": 400}
        file = self.heard(both, subtype="FLOAT").programme_file().model_dump()
        raw |= {"amplifiers": [bass, front], "basis": {"programme": "file", "programme_file": file}}
        job = read_job(write_job(JobDocument.model_validate(raw)))
        low, high = (20 * math.log10(float(np.median(each.level))) for each in build_circuit(job).envelopes)
        self.assertAlmostEqual(low, -6 + 5, delta=0.3)
        self.assertAlmostEqual(high, -26 + 10, delta=0.3)

    def test_a_job_whose_analysis_is_kept_elsewhere_says_so(self):
        basis = {"programme": "file", "programme_file": {"name": "a.wav", "sha256": "0" * 64}}
        with self.assertRaises(BadInput) as caught:
            _ = build_circuit(JobDocument.model_validate(document() | {"basis": basis})).envelopes
        self.assertIn("a.wav is not with this job", str(caught.exception))

    def test_files_that_cannot_be_used_are_named_with_what_is_allowed(self):
        whole = self.write(np.sin(2 * np.pi * 40 * time(3)), "whole.wav")
        cut = self.folder / "cut.wav"
        cut.write_bytes(whole.read_bytes()[:90_000])
        text = self.folder / "text.wav"
        text.write_text("no sound at all")
        for path, words in [
            (self.write(np.zeros(RATE * 2), "silent.wav"), "is silent"),
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
