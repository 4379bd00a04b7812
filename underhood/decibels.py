"""Levels: decibels between two powers."""

from __future__ import annotations

import math


def decibels(power_ratio: float) -> float:
    """Decibels between two powers, 10·log10 of their ratio (IEC 60027-3).

    power_ratio   one power over the other, 0 or more
    Returns dB; minus infinity for nothing.
    """
    return 10 * math.log10(power_ratio) if power_ratio > 0 else -math.inf
