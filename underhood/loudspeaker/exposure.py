"""How long a sound level may be heard in a day before it harms hearing (NIOSH 98-126, 1998)."""

from __future__ import annotations

CRITERION_DB, CRITERION_H, EXCHANGE_DB = 85.0, 8.0, 3.0
"""NIOSH 98-126, 1.1.1: 85 dBA for 8 h; every 3 dB more halve the time."""


def exposure_hours(level: float) -> float:
    """Hours in a day at `level` (dBA): T = 8 h / 2^((L − 85)/3).

    level   as heard, dBA; its 24 hours are not counted up
    """
    return float(CRITERION_H / 2.0 ** ((level - CRITERION_DB) / EXCHANGE_DB))
