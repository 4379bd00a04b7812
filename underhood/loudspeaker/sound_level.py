"""Sound level of moving cones, at 1 m in half space and in a closed cabin: an estimate, always ± 5 dB.

Left out: the cabin's own resonances and losses above its first, the distance to the listener, several boxes apart.
"""

from __future__ import annotations

import math

import numpy as np

from underhood.arrays import Floats
from underhood.constants import AIR_DENSITY, SOUND_M_S

REFERENCE_PA = 20e-6
LEVEL_BAND_DB = 5.0
CABIN_DB_PER_OCTAVE = 12.0
"""Rise of a closed cabin below its first length resonance (common practice: from 6 to 12 dB an octave)."""
USUAL_CABIN_M = 2.5
"""Longest inner dimension of a car where none was given [P]."""


def level_db(drivers: int, sd_m2: float, heard_rms_m: Floats, frequency_hz: Floats) -> Floats:
    """dB re 20 µPa at 1 m in half space: p = ρ·n·S_d·(2πf)²·x/(2π·1 m), a small source far below its own size.

    drivers        how many move alike
    sd_m2          of one, m²
    heard_rms_m    `travel_per_volt`'s second result times volts, m RMS (n,)
    frequency_hz   (n,)
    """
    pressure = AIR_DENSITY * drivers * sd_m2 * (2 * np.pi * frequency_hz) ** 2 * heard_rms_m / (2 * np.pi)
    return np.asarray(20 * np.log10(np.maximum(pressure, 1e-12) / REFERENCE_PA), float)


def cabin_db(frequency_hz: Floats, longest_m: float, per_octave_db: float = CABIN_DB_PER_OCTAVE) -> Floats:
    """What a closed cabin adds below c/(2·longest).

    frequency_hz    (n,)
    longest_m       inner length of the cabin, m
    per_octave_db   6 to 12 (common practice)
    """
    first_hz = SOUND_M_S / (2 * longest_m)
    return np.asarray(per_octave_db * np.maximum(np.log2(first_hz / frequency_hz), 0.0), float)


def reference_efficiency(fs_hz: float, vas_m3: float, qes: float) -> float:
    """η0 = (4π²/c³)·f_s³·V_as/Q_es (Small 1972).

    fs_hz    free-air resonance, Hz
    vas_m3   V_as, m³
    qes      Q_es
    """
    return 4 * math.pi**2 / SOUND_M_S**3 * fs_hz**3 * vas_m3 / qes
