"""A user's recording as an envelope: low-passed at the crossover, its level in 10 ms, and how it is crested.

Read in blocks, so that its length costs no memory. 0 dB is the largest filtered sample: it stands for the peak of a
sine at the full commanded volts (tying it to a windowed peak would depend on the window). Left out: the slope of the
crossover and what the cabin does; the filter here is of the fourth order.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy.fft import next_fast_len
from scipy.signal import butter, hilbert, sosfilt

from underhood.arrays import Floats
from underhood.document.job import JobDocument, ProgrammeFile
from underhood.errors import BadInput
from underhood.programme.envelopes import STEP_S

__all__ = ["LARGEST_BYTES", "RecordingAnalysis", "analyse", "crossover_hz"]

FORMATS = ("WAV", "WAVEX", "RF64", "FLAC")
LARGEST_BYTES = 100_000_000
SECONDS = (1.0, 20 * 60.0)
RATES_HZ = (8000, 192000)
CROSSOVER_HZ = (20.0, 500.0)
USUAL_CROSSOVER_HZ = 80.0
BLOCK = 1 << 16
SLOW_HZ, SLOW_CROSSOVERS = 1200.0, 12
"""The filtered signal is thinned to this rate or so many crossovers, the larger: at half of it, 62 dB are gone."""
QUIETEST = 1e-4
"""A filtered peak below this is silence: −80 dB."""


@dataclass(frozen=True)
class RecordingAnalysis:
    """What a recording is like below the crossover.

    envelope   RMS in each 10 ms over the RMS of a sine whose peak is the largest filtered sample, at most 1
    crest_db   largest sample over RMS, dB (a sine has 3.01)
    mean       mean of the envelope, and `rms` of it: amps follow the one, watts the square of the other
    """

    name: str
    sha256: str
    seconds: float
    sample_rate: int
    channels: int
    low_pass_hz: float
    envelope: list[float]
    peak_dbfs: float
    crest_db: float
    mean: float
    rms: float

    def programme_file(self) -> ProgrammeFile:
        """The recording as a job holds it."""
        return ProgrammeFile(name=self.name, sha256=self.sha256, envelope=self.envelope)


def crossover_hz(job: JobDocument) -> float:
    """The lowest low-pass of the job's loads, or a usual one."""
    loads = [amplifier.load for amplifier in job.amplifiers if amplifier.load and amplifier.load.low_pass_hz]
    found = [load.low_pass_hz.value for load in loads if load.low_pass_hz]
    return min(max(min(found, default=USUAL_CROSSOVER_HZ), CROSSOVER_HZ[0]), CROSSOVER_HZ[1])


def analyse(path: Path, low_pass_hz: float, name: str = "") -> RecordingAnalysis:
    """The recording in a file. Raises BadInput for one that cannot be used, saying what is allowed.

    path          of a file that libsndfile reads
    low_pass_hz   what the amplifier plays of it, Hz
    name          as the user knows it
    """
    name = name or path.name
    try:
        if not CROSSOVER_HZ[0] <= low_pass_hz <= CROSSOVER_HZ[1]:
            raise BadInput(
                f"{low_pass_hz:g} is not allowed; give {CROSSOVER_HZ[0]:g} to {CROSSOVER_HZ[1]:g} Hz", "low_pass"
            )
        _check_size(path)
        with _opened(path) as file:
            _check(file, path)
            return _heard(file, path, low_pass_hz, name)
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


def _heard(file: soundfile.SoundFile, path: Path, low_pass_hz: float, name: str) -> RecordingAnalysis:
    thin = max(int(file.samplerate // max(SLOW_HZ, SLOW_CROSSOVERS * low_pass_hz)), 1)
    slow: list[NDArray[np.float32]] = []
    peak = squares = 0.0
    for block, start in _filtered(file, low_pass_hz):
        peak = max(peak, float(np.abs(block).max()))
        squares += float(block @ block)
        slow.append(block[-start % thin :: thin].astype(np.float32))
    if peak < QUIETEST:
        raise BadInput(f"is silent below {low_pass_hz:g} Hz; nothing to play")
    level = _levels(np.concatenate(slow), file.samplerate / thin, file.frames / file.samplerate) / peak
    envelope = np.minimum(level, 1.0)
    rms = math.sqrt(squares / file.frames)
    return RecordingAnalysis(
        name=name,
        sha256=_digest(path),
        seconds=file.frames / file.samplerate,
        sample_rate=file.samplerate,
        channels=file.channels,
        low_pass_hz=low_pass_hz,
        envelope=[round(float(each), 5) for each in envelope],
        peak_dbfs=20 * math.log10(peak),
        crest_db=20 * math.log10(peak / rms),
        mean=float(envelope.mean()),
        rms=float(np.sqrt(np.mean(envelope**2))),
    )


def _filtered(file: soundfile.SoundFile, low_pass_hz: float) -> Iterator[tuple[Floats, int]]:
    """(mono block below the crossover, index of its first sample); the filter runs on from block to block."""
    sos = butter(4, low_pass_hz, fs=file.samplerate, output="sos")
    state, start = np.zeros((sos.shape[0], 2)), 0
    for block in file.blocks(BLOCK, dtype="float64", always_2d=True):
        mono, state = sosfilt(sos, block.mean(axis=1), zi=state)
        yield mono, start
        start += len(mono)


def _levels(slow: NDArray[np.float32], rate_hz: float, seconds: float) -> Floats:
    """Amplitude (magnitude of the analytic signal), power-averaged in each step of an envelope."""
    amplitude2 = np.abs(hilbert(slow, next_fast_len(len(slow)))[: len(slow)]) ** 2
    edges = np.arange(math.ceil(seconds / STEP_S - 1e-6)) * STEP_S * rate_hz
    starts = np.minimum(np.round(edges).astype(int), len(slow) - 1)
    counts = np.diff(np.append(starts, len(slow)))
    return np.sqrt(np.add.reduceat(amplitude2, starts, dtype=np.float64) / np.maximum(counts, 1))


def _digest(path: Path) -> str:
    with path.open("rb") as raw:
        return hashlib.file_digest(raw, "sha256").hexdigest()
