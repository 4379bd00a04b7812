"""Programmes as envelopes: output volts per step as a share of the commanded full level.

0 dB is a sine at the full commanded volts. A tone is one step; a burst alternates; the built-in music envelopes are
drawn from a seeded generator, so that they are the same on every machine. They are invented, meant to be typical
of loud bass in a car [P]; nobody's recording. Left out: what happens inside a step.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats
from underhood.document.job import Basis, Programme

__all__ = [
    "STEP_S",
    "STYLES",
    "TONE",
    "Envelope",
    "EnvelopeStrip",
    "Loud",
    "burst",
    "moving_mean_peak",
    "music",
    "of_basis",
    "strip",
]

STEP_S = 0.01
"""Step of music envelopes; the averaging window of a user's recording."""
MUSIC_S = 60.0
TICK_S, MOST_BURST_STEPS = 1e-4, 100_000
STRIP_S, STRIP_POINTS = 2.0, 600
"""Least length of a drawn strip, and its points."""
GROUPS = 15
LEVELS = 2 * GROUPS + 1
"""Groups of equal level that a music envelope is reduced to for steady answers: quiet, loud, and the loudest."""
SAME_LEVEL = 1e-6
PEAK_SHARE = 0.9
"""Of the loudest level: what counts as its stretch."""


@dataclass(frozen=True)
class Loud:
    """The loud part of a programme, of more than its mean power.

    first        index of its first group in the histogram
    share        of the time
    stretch_s    how long it lasts on average before the quiet comes back, s
    peak_s       the longest stretch at nine tenths of the loudest level or more, s
    """

    first: int
    share: float
    stretch_s: float
    peak_s: float

    @property
    def quiet_s(self) -> float:
        """How long the quiet lasts on average, s."""
        return self.stretch_s * (1 - self.share) / self.share


@dataclass(frozen=True)
class Envelope:
    """Levels (n,), each the RMS share of the full commanded volts, held for `step_s` seconds; repeated for ever."""

    level: Floats
    step_s: float

    @cached_property
    def histogram(self) -> tuple[Floats, Floats]:
        """(levels, weights), rising: at most LEVELS groups of like level, keeping the mean square of each group.

        Watts on a load are kept exactly; amps, which are not quite a function of watts, very nearly. The loudest level
        is a group of its own, and none holds both loud and quiet.
        """
        levels, counts = np.unique(self.level, return_counts=True)
        if len(levels) <= LEVELS:
            return levels, counts / counts.sum()
        at_peak = self.level >= (1 - SAME_LEVEL) * levels[-1]
        parts = (self.level[~self._loud], self.level[self._loud & ~at_peak])
        split = [np.array_split(np.sort(part), min(GROUPS, len(part))) for part in parts if len(part)]
        groups = [*(group for part in split for group in part), self.level[at_peak]]
        weights = np.array([len(group) for group in groups], float)
        return np.array([np.sqrt(np.mean(group**2)) for group in groups]), weights / weights.sum()

    @cached_property
    def loud(self) -> Loud | None:
        """The loud part; None where all of it is equally loud."""
        if not self._loud.any():
            return None
        levels, weights = self.histogram
        first = int(np.searchsorted(levels, self.level[self._loud].min() * (1 - SAME_LEVEL)))
        stretches = _stretches(self._loud)
        at_peak = _stretches(self.level >= PEAK_SHARE * self.level.max())
        return Loud(
            first,
            float(weights[first:].sum()),
            float(np.mean(stretches)) * self.step_s,
            max(at_peak) * self.step_s,
        )

    @cached_property
    def _loud(self) -> NDArray[np.bool_]:
        power = self.level**2
        return np.asarray(power > power.mean() * (1 + SAME_LEVEL))


def _stretches(mask: NDArray[np.bool_]) -> list[int]:
    """Lengths of the runs of True in a mask that repeats for ever."""
    if mask.all():
        return [len(mask)]
    turned = np.roll(mask, -int(np.argmin(mask)))  # begins with a False: no run reaches over the end
    edges = np.flatnonzero(np.diff(np.concatenate(([0], turned.astype(int), [0]))))
    return [int(each) for each in edges[1::2] - edges[::2]]


TONE = Envelope(np.ones(1), STEP_S)


def of_basis(basis: Basis) -> Envelope:
    """The envelope of a job's basis, its level knob not yet applied."""
    match basis.programme:
        case "tone":
            return TONE
        case "burst":
            return burst(basis.burst_on_s.value, basis.burst_off_s.value, basis.burst_off_db.value)
        case "file":
            assert basis.programme_file is not None  # the schema asks for it
            return Envelope(np.array(basis.programme_file.envelope), STEP_S)
        case _:
            return music(basis.programme)


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
    """How a built-in envelope is made: beats a minute, note length and decay (s), floor and quiet passages."""

    beats_per_minute: float
    hold_s: tuple[float, float]
    decay_s: float
    floor: float
    chance: float


STYLES: dict[str, _Style] = {
    "everyday": _Style(112, (0.04, 0.10), 0.09, 0.05, 0.75),
    "bass_heavy": _Style(96, (0.12, 0.30), 0.14, 0.10, 0.85),
    "held_bass": _Style(70, (0.70, 1.60), 0.25, 0.15, 0.92),
}


@lru_cache(maxsize=8)
def music(kind: Literal["everyday", "bass_heavy", "held_bass"] | Programme) -> Envelope:
    """A minute of a built-in music envelope: bass notes on the beat, each held, then dying away.

    kind   which style; seeded, so that it is the same every time [P]
    """
    style = STYLES[kind]
    draw = np.random.default_rng(20260101)
    level = np.full(round(MUSIC_S / STEP_S), style.floor)
    t = np.arange(len(level)) * STEP_S
    for beat in np.arange(0.0, MUSIC_S, 60.0 / style.beats_per_minute):
        if draw.random() > style.chance:
            continue
        peak, hold = draw.uniform(0.55, 1.0), draw.uniform(*style.hold_s)
        after = t - beat
        note = np.where(after < hold, peak, peak * np.exp(-(after - hold) / style.decay_s))
        level = np.maximum(level, np.where(after >= 0, note, 0.0))
    return Envelope(level / level.max(), STEP_S)


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
    level: list[float]
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
