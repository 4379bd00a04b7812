"""A user's recording in octave bands: the level of each in 10 ms, and how it is crested.

Read in blocks, so that its length costs little memory. 0 dB is a full-scale sine. Bands are Butterworth filters of the
third order between the edges of IEC 61260-1, so that neighbours add up to all of the power. Left out: what the cabin
does.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import scipy  # its signal processing is read when it is used: most processes never do
import soundfile
from numpy.typing import NDArray
from scipy.fft import next_fast_len

from underhood.arrays import Floats
from underhood.document.job import OCTAVES, Octave, ProgrammeFile
from underhood.errors import BadInput
from underhood.programme.envelopes import STEP_S
from underhood.programme.octaves import CENTRES_HZ, EDGE, QUIETEST_DB

FORMATS = ("WAV", "WAVEX", "RF64", "FLAC")
LARGEST_BYTES = 100_000_000
SECONDS = (1.0, 20 * 60.0)
RATES_HZ = (8000, 192000)
ORDER = 3
BLOCK = 1 << 16
SLOW_BANDS, SLOW_HZ = 4, 4000.0
"""Bands up to 250 Hz hold few cycles in a step: their level is that of the analytic signal, thinned to this rate."""
THINNING_ORDER, THINNING_HZ = 8, 1000.0
HIGHEST = 0.45
"""Of the sampling rate: a band that reaches beyond ends there."""
HISS = 1e-9
QUIETEST = 1e-4
"""A peak below this is silence: −80 dB."""


@dataclass(frozen=True)
class RecordingAnalysis:
    """What a recording is like.

    bands       RMS in each 10 ms of each octave, dB of a full-scale sine
    crest_db    largest sample over RMS, dB (a sine has 3.01)
    peak_dbfs   largest sample, dB of full scale
    """

    name: str
    sha256: str
    seconds: float
    sample_rate: int
    channels: int
    bands: dict[Octave, list[float]]
    peak_dbfs: float
    crest_db: float

    def programme_file(self) -> ProgrammeFile:
        """The recording as a job file holds it."""
        return ProgrammeFile(name=self.name, sha256=self.sha256, bands=self.bands, step_s=STEP_S)


def analyse(path: Path, name: str = "") -> RecordingAnalysis:
    """The recording in a file. Raises BadInput for one that cannot be used, saying what is allowed.

    path   of a file that libsndfile reads
    name   as the user knows it
    """
    name = name or path.name
    try:
        _check_size(path)
        with _opened(path) as file:
            _check(file, path)
            return _heard(file, path, name)
    except BadInput as problem:
        raise problem.at(file=name) from None


def _check_size(path: Path) -> None:
    try:
        size = path.stat().st_size
    except OSError as error:
        raise BadInput(f"cannot be read: {(error.strerror or 'unknown reason').lower()}") from None
    if size > LARGEST_BYTES:
        raise BadInput(f"larger than {LARGEST_BYTES // 1_000_000} MB; give a shorter part, or FLAC")


def _opened(path: Path) -> soundfile.SoundFile:
    try:
        return soundfile.SoundFile(path)
    except (soundfile.LibsndfileError, RuntimeError):
        raise BadInput("is no recording that can be read; give WAV or FLAC") from None


def _check(file: soundfile.SoundFile, path: Path) -> None:
    if file.format not in FORMATS:
        raise BadInput(f"is {file.format}, whatever its name says; give WAV or FLAC")
    if file.channels > 2:
        raise BadInput(f"has {file.channels} channels; give mono or stereo")
    if not RATES_HZ[0] <= file.samplerate <= RATES_HZ[1]:
        raise BadInput(f"has {file.samplerate} samples a second; give {RATES_HZ[0]} to {RATES_HZ[1]}")
    if file.format != "FLAC" and (missing := _missing_bytes(path)):
        raise BadInput(f"ends early: {missing} bytes that its header promises are missing; copy it again")
    seconds = file.frames / file.samplerate
    if not SECONDS[0] <= seconds <= SECONDS[1]:
        raise BadInput(f"lasts {seconds:.3g} s; give {SECONDS[0]:g} s to {SECONDS[1] / 60:g} minutes")


def _missing_bytes(path: Path) -> int:
    """How many bytes the RIFF header promises beyond the end of the file; 0 for a whole one."""
    with path.open("rb") as raw:
        head = raw.read(8)
    promised = int.from_bytes(head[4:8], "little") + 8
    return 0 if head[:4] != b"RIFF" or promised >= 0xFFFFFFF0 else max(promised - path.stat().st_size, 0)


def _heard(file: soundfile.SoundFile, path: Path, name: str) -> RecordingAnalysis:
    seconds, rate = file.frames / file.samplerate, file.samplerate
    steps = math.ceil(seconds / STEP_S - 1e-6)
    fast, slow = _Fast(rate, steps), _Slow(rate)
    peak = squares = 0.0
    for block, start in _mono(file):
        peak = max(peak, float(np.abs(block).max()))
        squares += float(block @ block)
        fast.add(block, start)
        slow.add(block, start)
    if peak < QUIETEST:
        raise BadInput("is silent; nothing to play")
    power = np.vstack([slow.power(steps), fast.power()])
    level = 10 * np.log10(np.maximum(power, 10 ** (QUIETEST_DB / 10)))
    rms = math.sqrt(squares / file.frames)
    return RecordingAnalysis(
        name=name,
        sha256=_digest(path),
        seconds=seconds,
        sample_rate=rate,
        channels=file.channels,
        bands=dict(zip(OCTAVES, np.round(level, 1).tolist(), strict=True)),
        peak_dbfs=20 * math.log10(peak),
        crest_db=20 * math.log10(peak / rms),
    )


def _mono(file: soundfile.SoundFile) -> Iterator[tuple[Floats, int]]:
    """(block, index of its first sample), channels averaged, with a hiss far below hearing.

    Without it, silence would let the filters die away into numbers so small that reckoning with them takes ten times
    as long.
    """
    start, hiss = 0, np.random.default_rng(1)
    for block in file.blocks(BLOCK, dtype="float64", always_2d=True):
        yield block.mean(axis=1) + HISS * hiss.standard_normal(len(block)), start
        start += len(block)


class _Filter:
    """A filter that runs on from block to block; nothing passes a band that lies above what the rate can carry."""

    def __init__(self, sos: NDArray[np.float64] | None) -> None:
        self.sos = sos
        self.state = None if sos is None else np.zeros((len(sos), 2))

    def __call__(self, block: Floats) -> Floats:
        if self.sos is None:
            return np.zeros_like(block)
        out, self.state = scipy.signal.sosfilt(self.sos, block, zi=self.state)
        return np.asarray(out, float)


def _band(i: int, rate_hz: float) -> _Filter:
    low, high = CENTRES_HZ[i] / EDGE, CENTRES_HZ[i] * EDGE
    if low >= HIGHEST * rate_hz:
        return _Filter(None)
    if high >= HIGHEST * rate_hz:
        return _Filter(scipy.signal.butter(ORDER, low, "highpass", fs=rate_hz, output="sos"))
    return _Filter(scipy.signal.butter(ORDER, (low, high), "bandpass", fs=rate_hz, output="sos"))


class _Fast:
    """Bands whose cycles are short beside a step: their mean square in each."""

    def __init__(self, rate_hz: int, steps: int) -> None:
        self.filters = [_band(i, rate_hz) for i in range(SLOW_BANDS, len(OCTAVES))]
        self.rate_hz = rate_hz
        self.squares, self.counts = np.zeros((len(self.filters), steps)), np.zeros(steps)

    def add(self, block: Floats, start: int) -> None:
        """The next block."""
        steps = len(self.counts)
        step_of = np.minimum(((start + np.arange(len(block))) / (STEP_S * self.rate_hz)).astype(int), steps - 1)
        first = step_of[0]
        self.counts[first : step_of[-1] + 1] += np.bincount(step_of - first)
        for row, each in zip(self.squares, self.filters, strict=True):
            row[first : step_of[-1] + 1] += np.bincount(step_of - first, weights=each(block) ** 2)

    def power(self) -> Floats:
        """Over that of a full-scale sine, whose mean square is a half; (bands, steps)."""
        return np.asarray(2 * self.squares / np.maximum(self.counts, 1), float)


class _Slow:
    """Bands of few cycles in a step: the squared magnitude of their analytic signal, at a lower rate."""

    def __init__(self, rate_hz: int) -> None:
        self.thin = max(int(rate_hz // SLOW_HZ), 1)
        self.rate_hz = rate_hz / self.thin
        self.low_pass: _Filter | None = None
        if self.thin > 1:
            self.low_pass = _Filter(scipy.signal.butter(THINNING_ORDER, THINNING_HZ, fs=rate_hz, output="sos"))
        self.thinned: list[NDArray[np.float32]] = []

    def add(self, block: Floats, start: int) -> None:
        """The next block."""
        smooth = block if self.low_pass is None else self.low_pass(block)
        self.thinned.append(smooth[-start % self.thin :: self.thin].astype(np.float32))

    def power(self, steps: int) -> Floats:
        """Over that of a full-scale sine, whose amplitude is 1; (bands, steps). Asked once, at the end."""
        # Short numbers, once, wherever the length of a recording counts; the filter alone has long ones.
        signal = np.concatenate(self.thinned)
        self.thinned.clear()
        starts = np.minimum(np.round(np.arange(steps) * STEP_S * self.rate_hz).astype(int), len(signal) - 1)
        counts = np.maximum(np.diff(np.append(starts, len(signal))), 1)
        out = np.empty((SLOW_BANDS, steps))
        for i in range(SLOW_BANDS):
            band = _band(i, self.rate_hz)(signal.astype(np.float64)).astype(np.float32)
            amplitude2 = np.abs(scipy.signal.hilbert(band, next_fast_len(len(band)))[: len(band)]) ** 2
            out[i] = np.add.reduceat(amplitude2, starts, dtype=np.float64) / counts
        return out


def _digest(path: Path) -> str:
    with path.open("rb") as raw:
        return hashlib.file_digest(raw, "sha256").hexdigest()
