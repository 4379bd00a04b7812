"""Programmes as envelopes: output volts per step as a share of the commanded full level.

A level of 1 is what the tone asks for that the gain was set with; loud music may ask for more and is then clipped. A
tone is one step; a burst alternates; the built-in music is drawn from a seeded generator in octave bands, so that it
is the same on every machine. It is invented, meant to be typical of loud music in a car [P]; nobody's recording. Left
out: what happens inside a step.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from underhood.arrays import Floats
from underhood.document.job import Basis, Programme
from underhood.number_format import Drawn
from underhood.programme import octaves
from underhood.programme.octaves import OctaveBands

STEP_S = 0.01
"""Step of music envelopes; the averaging window of a user's recording."""
MUSIC_S = 60.0
TICK_S, MOST_BURST_STEPS = 1e-4, 100_000
STRIP_S, STRIP_POINTS = 2.0, 600
"""Least length of a drawn strip, and its points."""


@dataclass(frozen=True, eq=False)
class Envelope:
    """Levels (t,), each the RMS share of the full commanded volts, held for `step_s` seconds; repeated for ever."""

    level: Floats
    step_s: float


TONE = Envelope(np.ones(1), STEP_S)


def common_signal(basis: Basis) -> Envelope | None:
    """What every amplifier plays alike: a tone or bursts; None for music, of which each plays its own band."""
    match basis.programme:
        case "tone":
            return TONE
        case "burst":
            return burst(basis.burst_on_s.value, basis.burst_off_s.value, basis.burst_off_db.value)
        case _:
            return None


def bands_of_basis(basis: Basis) -> OctaveBands:
    """The music of a job's basis, its level knob not yet applied."""
    if basis.programme != "file":
        return music(basis.programme)
    assert basis.programme_file is not None  # the schema asks for it
    return octaves.of_file(basis.programme_file)


@lru_cache(maxsize=64)
def in_band(bands: OctaveBands, shares: tuple[float, ...], overlap_db: float) -> Envelope:
    """What is asked of an amplifier that plays some of each octave's power; see `OctaveBands.level`."""
    return Envelope(bands.level(np.array(shares), overlap_db), bands.step_s)


@lru_cache(maxsize=64)
def burst(on_s: float, off_s: float, off_db: float) -> Envelope:
    """One period of a burst. The pattern of IHF-A-202 (1978, from memory): 20 ms on, 480 ms at -20 dB.

    on_s, off_s   s, kept to a tenth of a millisecond; where that makes too many steps, only the quiet is rounded
    off_db        the quiet against the burst, dB
    """
    ticks = math.gcd(max(round(on_s / TICK_S), 1), max(round(off_s / TICK_S), 1))
    step = ticks * TICK_S
    if (on_s + off_s) / step > MOST_BURST_STEPS:
        step = on_s / max(round(on_s / STEP_S), 1)
    on, off = max(round(on_s / step), 1), max(round(off_s / step), 1)
    return Envelope(np.concatenate([np.ones(on), np.full(off, 10 ** (off_db / 20))]), step)


@dataclass(frozen=True, slots=True)
class _Style:
    """How a built-in programme's bass is made: beats a minute, note length and decay (s), floor and quiet passages."""

    beats_per_minute: float
    hold_s: tuple[float, float]
    decay_s: float
    floor: float
    chance: float


STYLES: dict[str, _Style] = {
    "everyday": _Style(112, (0.05, 0.12), 0.10, 0.05, 0.75),
    "bass_heavy": _Style(96, (0.12, 0.30), 0.14, 0.10, 0.85),
    "held_bass": _Style(70, (0.70, 1.60), 0.25, 0.15, 0.92),
}
LOUDEST_BASS_DB = -5.0
"""The loudest bass note through a usual bass crossover: what the usual overlap makes a full tone of [P]."""
BASS_SHARES = np.array([0.28, 0.62, 0.10, *[0.0] * 7])
"""Of the bass notes' power, by octave [P]."""
USUAL_CROSSOVER_HZ, USUAL_ORDER = 80.0, 4
MID_SHARES = np.array([0.0, 0.0, 0.08, 0.27, 0.24, 0.17, 0.11, 0.07, 0.045, 0.015])
"""Of everything above the bass: some 3 dB an octave less from 250 Hz up [P]."""
LOUDEST_MID_DB = -15.0
"""The loudest moment of all that lies above the bass, dB of full scale [P]."""
MIDS = _Style(0.0, (0.05, 0.25), 0.15, 0.25, 0.85)


@lru_cache(maxsize=8)
def music(kind: Literal["everyday", "bass_heavy", "held_bass"] | Programme) -> OctaveBands:
    """A minute of built-in music: bass notes on the beat, voices and strokes on half-beats above them.

    kind   which style; seeded, so that it is the same every time [P]
    """
    style = STYLES[kind]
    bass = _notes(style, 60.0 / style.beats_per_minute, 20260101)
    above = _notes(MIDS, 30.0 / style.beats_per_minute, 20260102)
    low_pass = 1.0 / (1.0 + (octaves.SAMPLES_HZ / USUAL_CROSSOVER_HZ) ** (2 * USUAL_ORDER))
    heard = float(BASS_SHARES @ low_pass.mean(axis=1))
    bass_power = 10 ** (LOUDEST_BASS_DB / 10) / heard * np.outer(BASS_SHARES, bass**2)
    return OctaveBands(bass_power + 10 ** (LOUDEST_MID_DB / 10) * np.outer(MID_SHARES, above**2), STEP_S)


def _notes(style: _Style, every_s: float, seed: int) -> Floats:
    """Notes at regular times, each held, then dying away, over the loudest of them; (t,)."""
    draw = np.random.default_rng(seed)
    level = np.full(round(MUSIC_S / STEP_S), style.floor)
    t = np.arange(len(level)) * STEP_S
    for beat in np.arange(0.0, MUSIC_S, every_s):
        if draw.random() > style.chance:
            continue
        peak, hold = draw.uniform(0.55, 1.0), draw.uniform(*style.hold_s)
        after = t - beat
        note = np.where(after < hold, peak, peak * np.exp(-(after - hold) / style.decay_s))
        level = np.maximum(level, np.where(after >= 0, note, 0.0))
    return np.asarray(level / level.max(), float)


def moving_mean_peak(values: Floats, step_s: float, window_s: float) -> float:
    """The highest mean over any stretch of `window_s` of a repeating programme.

    values     at each step (n,)
    step_s     s
    window_s   s, rounded to whole steps
    """
    width = max(round(window_s / step_s), 1)
    if len(values) == 1:
        return float(values[0])
    whole, rest = divmod(width, len(values))
    around = np.concatenate([values, values[:rest]]) if rest else values
    total = np.concatenate([[0.0], np.cumsum(around)])
    part = (total[rest:] - total[: len(total) - rest]).max() if rest else 0.0
    return float((whole * values.sum() + part) / width)


@dataclass(frozen=True, slots=True)
class EnvelopeStrip:
    """A programme to be drawn: the loudest level of each stretch as a share of the full commanded volts."""

    seconds: float
    level: Drawn
    mean: float
    rms: float
    crest_db: float


def strip(envelope: Envelope) -> EnvelopeStrip:
    """An envelope as a strip of at least two seconds; crest is the loudest level's peak over the RMS (a sine: 3 dB)."""
    level = np.tile(envelope.level, max(round(STRIP_S / (len(envelope.level) * envelope.step_s)), 1))
    size = max(len(level) // STRIP_POINTS, 1)
    rms = float(np.sqrt(np.mean(envelope.level**2)))
    return EnvelopeStrip(
        seconds=len(level) * envelope.step_s,
        level=[float(part.max()) for part in np.array_split(level, max(len(level) // size, 1))],
        mean=float(envelope.level.mean()),
        rms=rms,
        crest_db=float(20 * np.log10(np.sqrt(2) * envelope.level.max() / rms)) if rms > 0 else 0.0,
    )
