"""What amplifiers draw from the supply while a programme plays: mean, RMS, peak, and what a clamp meter shows of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from underhood.arrays import Floats
from underhood.programme import envelopes
from underhood.programme.played import Played

CLAMP_WINDOW_S = 0.4
"""Averaging time of a clamp meter's display [P]."""


@dataclass(frozen=True, slots=True)
class SupplyCurrent:
    """Supply amps of one amplifier, or of all: mean, RMS, peak, and what a clamp meter would show at most.

    The peak of one is at its own loudest, that of several at the loudest moment of all. `low` and `high` are what the
    mean may be.
    """

    mean: float
    rms: float
    peak: float
    clamp: float
    low: float
    high: float


def of_programme(
    *,
    mean_a: float,
    band_a: tuple[float, float],
    peak_a: float,
    level_a: Sequence[Sequence[Floats]],
    which: Sequence[int],
    played: Played,
    clamp_range_a: float | None,
) -> SupplyCurrent:
    """The draw of a programme.

    mean_a, peak_a   over time and at the loudest moment, A; `band_a` what the mean may be
    level_a          of each of some amplifiers, in each part of the programme, at each of its levels there: A
    which            which amplifiers these are
    clamp_range_a    full scale of the meter, A; None where it is not known
    """
    square = 0.0
    for part, of_each in zip(played.parts, zip(*level_a, strict=True), strict=True):
        sums, weight = part.together(of_each, which)
        square += part.share * float(weight @ sums**2)
    shown = clamp_reading_a(level_a, which, mean_a, played, clamp_range_a)
    return SupplyCurrent(mean_a, max(float(np.sqrt(square)), mean_a), peak_a, shown, *band_a)


def clamp_reading_a(
    level_a: Sequence[Sequence[Floats]],
    which: Sequence[int],
    mean_a: float,
    played: Played,
    clamp_range_a: float | None,
) -> float:
    """The most that a clamp meter shows: the highest mean over its window, no more than its range.

    level_a         of each of some amplifiers, in each part of the programme, at each of its levels there: A
    which           which amplifiers these are
    mean_a          over all of it, A
    clamp_range_a   the meter's range, A; None for one that is never full
    """
    if len(played.parts) == 1:  # a steady tone
        shown = mean_a
    else:
        over_time = np.sum([played.over_time(of_one, i) for of_one, i in zip(level_a, which, strict=True)], axis=0)
        shown = envelopes.moving_mean_peak(over_time, played.step_s, CLAMP_WINDOW_S)
    return shown if clamp_range_a is None else min(shown, clamp_range_a)
