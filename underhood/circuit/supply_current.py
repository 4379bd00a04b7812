"""What amplifiers draw from the supply while a programme plays: mean, RMS, peak, and what a clamp meter shows of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from underhood.arrays import Floats
from underhood.programme import envelopes
from underhood.programme.envelopes import Envelope

__all__ = ["CLAMP_WINDOW_S", "SupplyCurrent", "clamp_reading_a", "of_programme"]

CLAMP_WINDOW_S = 0.4
"""Averaging time of a clamp meter's display [P]."""


@dataclass(frozen=True, slots=True)
class SupplyCurrent:
    """Supply amps of one amplifier, or of all: mean, RMS, peak, and what a clamp meter would show at most."""

    mean: float
    rms: float
    peak: float
    clamp: float


def of_programme(
    *,
    mean_a: float,
    peak_a: float,
    level_a: Floats,
    weight: Floats,
    envelope: Envelope,
    clamp_range_a: float | None,
) -> SupplyCurrent:
    """The draw of a programme.

    mean_a, peak_a   over time and at the loudest moment, A
    level_a          at each level of the programme, (n,), A; `weight` (n,) the share of the time at each
    clamp_range_a    full scale of the meter, A; None where it is not known
    """
    rms = float(np.sqrt(weight @ np.square(level_a)))
    shown = clamp_reading_a(level_a, mean_a, envelope, clamp_range_a)
    return SupplyCurrent(mean_a, max(rms, mean_a), peak_a, shown)


def clamp_reading_a(level_a: Floats, mean_a: float, envelope: Envelope, clamp_range_a: float | None) -> float:
    """The most that a clamp meter shows: the highest mean over its window, no more than its range.

    level_a         at each level of the programme, A (k,)
    mean_a          over all of it, A
    envelope        of the programme; its best 0.4 s are read
    clamp_range_a   the meter's range, A; None for one that is never full
    """
    levels, _ = envelope.histogram  # rising, as the commanded volts are
    if len(levels) == 1 or len(level_a) == 1:  # a steady tone, or silence where not even that is held
        shown = mean_a
    else:
        over_time = np.interp(envelope.level, levels, level_a)
        shown = envelopes.moving_mean_peak(over_time, envelope.step_s, CLAMP_WINDOW_S)
    return shown if clamp_range_a is None else min(shown, clamp_range_a)
