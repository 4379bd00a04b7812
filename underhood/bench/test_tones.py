"""Test tones as WAV files: sines, bursts after IHF-A-202, and a sweep, at a level below full scale.

0 dBFS is a sine whose peaks touch full scale. Every tone begins and ends at rest, so that nothing clicks. Left out:
dither (a full-scale test tone lies 90 dB above what it would hide).
"""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
import scipy  # its signal processing is read when it is used: most processes never do
import soundfile
from pydantic import model_validator
from pydantic_core import PydanticCustomError

from underhood.arrays import Floats
from underhood.document.quantity import Number, StrictModel

FADE_S = 0.02
"""Raised-cosine rise and fall of sines and sweeps; long enough that no click is heard."""
BURST_ON_S, BURST_PERIOD_S, BURST_REST_DB = 0.02, 0.5, -20.0
"""IHF-A-202 (1978, from memory): 20 ms at full level, then 20 dB below until half a second is over."""
WHOLE_CYCLES_HZ = 1 / BURST_ON_S
SWEEP_HZ = (10.0, 200.0)
Rate = Literal[44100, 48000]
Bits = Literal[16, 24]


class Tone(StrictModel):
    """A test tone: kind, frequency (not used by a sweep), level, length and file format."""

    kind: Literal["sine", "burst", "sweep"] = "sine"
    tone_hz: Annotated[float, Number("Hz", 10, 1000)] = 40.0
    level_db: Annotated[float, Number("dB", -60, 0)] = 0.0
    seconds: Annotated[float, Number("s", 1, 300)] = 30.0
    sample_rate: Rate = 48000
    bits: Bits = 16

    @model_validator(mode="after")
    def _burst_holds_whole_cycles(self) -> Tone:
        if self.kind == "burst" and self.tone_hz % WHOLE_CYCLES_HZ:
            text = f"{self.tone_hz:g} Hz does not fit a 20 ms burst in whole cycles; give a multiple of 50 Hz"
            raise PydanticCustomError("burst", "tone_hz: {text}", {"text": text})
        return self

    @property
    def file_name(self) -> str:
        """A name that says what is in the file."""
        what = "10-200Hz" if self.kind == "sweep" else f"{self.tone_hz:g}Hz"
        return f"{self.kind}-{what}{self.level_db:+.0f}dB-{self.sample_rate}-{self.bits}.wav".replace("+0dB", "-0dB")


@dataclass(frozen=True, slots=True)
class Setting:
    """A tone that a job of the trade calls for, in words."""

    name: str
    words: str
    tone: Tone


PRESETS: tuple[Setting, ...] = (
    Setting("bass", "gain of a bass amplifier", Tone(tone_hz=40, level_db=-5)),
    Setting("full", "gain of a full-range amplifier", Tone(tone_hz=1000, level_db=-5)),
    Setting("clean", "where the source itself begins to clip", Tone(tone_hz=1000, level_db=0)),
    Setting("burst", "what an amplifier gives for a moment", Tone(kind="burst", tone_hz=50)),
    Setting("sweep", "impedance and rattles", Tone(kind="sweep", level_db=-10, seconds=60)),
)


def samples(tone: Tone) -> Floats:
    """The tone, shape (seconds · rate,), full scale 1."""
    t = np.arange(round(tone.seconds * tone.sample_rate)) / tone.sample_rate
    level = 10 ** (tone.level_db / 20)
    match tone.kind:
        case "sine":
            return level * np.sin(2 * np.pi * tone.tone_hz * t) * _fades(t, tone.seconds)
        case "sweep":
            low, high = SWEEP_HZ
            swept = scipy.signal.chirp(t, low, tone.seconds, high, method="logarithmic", phi=-90)
            return np.asarray(level * swept * _fades(t, tone.seconds), float)
        case "burst":
            return level * np.sin(2 * np.pi * tone.tone_hz * t) * _burst_levels(len(t), tone.sample_rate)


def _fades(t: Floats, seconds: float) -> Floats:
    inside = np.minimum(np.minimum(t, seconds - t) / FADE_S, 1.0)
    return np.asarray(0.5 - 0.5 * np.cos(np.pi * np.clip(inside, 0.0, 1.0)), float)


def _burst_levels(count: int, rate: int) -> Floats:
    """Level of each sample. The changes fall on zero crossings: both times hold whole cycles."""
    n = np.arange(count)
    within = n % round(BURST_PERIOD_S * rate)
    levels = np.where(within < round(BURST_ON_S * rate), 1.0, 10 ** (BURST_REST_DB / 20))
    whole = count // round(BURST_PERIOD_S * rate) * round(BURST_PERIOD_S * rate)
    return np.where(n < max(whole, round(BURST_ON_S * rate)), levels, 0.0)  # no broken period at the end


def wav(tone: Tone) -> bytes:
    """The tone as a mono WAV file."""
    out = io.BytesIO()
    soundfile.write(out, samples(tone), tone.sample_rate, format="WAV", subtype=f"PCM_{tone.bits}")
    return out.getvalue()


def rms_dbfs(level: float) -> float:
    """An RMS level as dB below a full-scale sine."""
    return 20 * math.log10(level * math.sqrt(2)) if level > 0 else -math.inf
