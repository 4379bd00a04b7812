"""How far a reading may be off: noise of its own, and the gain of its meter, shared by all that was read with it.

A clamp that is 2 % off is so all day: as independent noise, coverage falls to 79 %. All figures [P]. Left out: slips of
the hand, which the fit allows for (see `correction`).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from underhood.arrays import Floats, Ints
from underhood.proof.reading import Asked, Reading

SILENT_V, TONE_V, TONE_OFF_V, MUSIC_V = 0.010, 0.030, 0.050, 0.100
"""Volts of the supply: with nothing playing, with a tone, the same on the batteries alone, with music."""
RESTING_V = 0.010
DROP_V, DROP_SHARE = 0.001, 0.03
CLAMP_A, CLAMP_SHARE = 0.7, 0.015
MUSIC_SHARE = 0.10
"""Of amps and drops while music plays: no two minutes of it are alike."""
OUTPUT_V_SHARE, OUTPUT_A_SHARE, WATTS_SHARE, PHASE_DEG = 0.007, 0.015, 0.02, 2.0
COIL_OHM, COIL_SHARE = 0.05, 0.02
SINK_K = 4.0
"""The heat and the air are no surer than that [P]."""


def noise(reading: Asked, value: float) -> float:
    """One standard deviation of a reading of some value, its meter's gain apart, in its unit."""
    size, music = abs(value), reading.programme not in ("silent", "tone")
    played = MUSIC_SHARE if music else 0.0
    match reading.what:
        case "volts":
            return _volts(reading, music)
        case "resting_v":
            return RESTING_V
        case "drop":
            return math.hypot(DROP_V, max(DROP_SHARE, played) * size)
        case "amps":
            return math.hypot(CLAMP_A, max(CLAMP_SHARE, played) * size)
        case "output_v":
            return math.hypot(0.001, max(OUTPUT_V_SHARE, played) * size)
        case "output_a":
            return math.hypot(0.01, max(OUTPUT_A_SHARE, played) * size)
        case "true_power":
            return math.hypot(0.1, max(WATTS_SHARE, played) * size)
        case "phase":
            return PHASE_DEG
        case "coil_ohm":
            return math.hypot(COIL_OHM, COIL_SHARE * size)
        case "sink_temperature":
            return SINK_K


def _volts(reading: Asked, music: bool) -> float:
    if music:
        return MUSIC_V
    if reading.programme == "silent":
        return SILENT_V
    return TONE_OFF_V if reading.engine == "off" else TONE_V


def gain_groups(readings: Sequence[Reading]) -> tuple[Ints, Floats]:
    """(group of each reading, -1 for none; one standard deviation of each group's gain).

    Readings of one meter on one range share a gain; half of its accuracy is a standard deviation. Readings of a unit
    whose meter has no name share one too, as a workshop has one clamp and one multimeter.
    """
    keys: dict[tuple[str, object, bool], int] = {}
    group, sigma = np.full(len(readings), -1, np.int64), list[float]()
    for i, each in enumerate(readings):
        share = each.accuracy_share
        if share <= 0 or each.what in ("phase", "sink_temperature", "coil_ohm"):
            continue
        key = (each.meter or each.unit, each.meter_range, each.what in ("output_v", "output_a", "true_power"))
        if key not in keys:
            keys[key] = len(sigma)
            sigma.append(share / 2)
        group[i] = keys[key]
    return group, np.array(sigma, float)
