"""Cone travel and sound level of a driver in its box, from its small-signal parameters (Small, JAES 1972-73).

The coil's inductance is left out (its part below 200 Hz is small), and so are limits of suspension and motor: past its
stated travel the model only says that it is passed. Level is at 1 m in half space: an estimate, always ± 5 dB.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from underhood.arrays import Complexes, Floats
from underhood.constants import COPPER_PER_K
from underhood.loudspeaker.impedance import BoxKind, Motor

__all__ = [
    "LEVEL_BAND_DB",
    "USUAL_CABIN_M",
    "Box",
    "cabin_db",
    "exposure_hours",
    "level_db",
    "mechanics",
    "reference_efficiency",
    "travel_per_volt",
]

AIR_DENSITY = 1.204
SOUND_M_S = 343.2
"""Air at 20 °C and 101.325 kPa: kg/m³ and m/s (ISO 9613-1's reference atmosphere, from memory)."""
REFERENCE_PA = 20e-6
LEVEL_BAND_DB = 5.0
CABIN_DB_PER_OCTAVE = 12.0
"""Rise of a closed cabin below its first length resonance (common practice: from 6 to 12 dB an octave)."""
USUAL_CABIN_M = 2.5
"""Longest inner dimension of a car where none was given [P]."""


@dataclass(frozen=True, slots=True)
class Box:
    """The box as one driver has it: kind, V_as over its share of the volume, tuning (Hz) and leakage losses."""

    kind: BoxKind
    alpha: float = 0.0
    tuning_hz: float = 0.0
    ql: float = 7.0


@dataclass(frozen=True, slots=True)
class Mechanics:
    """What moves: compliance (m/N), mass with air (kg), force factor (T·m), area (m²)."""

    cms: float
    mms: float
    bl: float
    sd: float


def mechanics(motor: Motor, vas_m3: float, sd_m2: float) -> Mechanics:
    """C_ms = V_as/(ρ·c²·S_d²), M_ms = 1/((2πf_s)²·C_ms), Bl = sqrt(2πf_s·M_ms·R_e/Q_es) (Small 1972)."""
    cms = vas_m3 / (AIR_DENSITY * SOUND_M_S**2 * sd_m2**2)
    w = 2 * math.pi * motor.fs_hz
    mms = 1 / (w**2 * cms)
    return Mechanics(cms, mms, math.sqrt(w * mms * motor.re_ohm / motor.qes), sd_m2)


def travel_per_volt(
    motor: Motor, moving: Mechanics, box: Box, frequency_hz: Floats, coil_rise_k: float = 0.0
) -> tuple[Complexes, Complexes]:
    """(cone travel, travel as heard with the port's air counted against it) in m per volt at the driver, RMS both.

    A hot coil lowers the current and the electrical damping. In a vented box the port moves against the cone below
    tuning and with it above: the second of the two is x·s²T_b²/B(s).
    """
    re = motor.re_ohm * (1 + COPPER_PER_K * coil_rise_k)
    qes = motor.qes * re / motor.re_ohm
    qts = qes * motor.qms / (qes + motor.qms)
    s = 2j * np.pi * np.asarray(frequency_hz, float)
    static = moving.bl * moving.cms / re
    if box.kind == "vented":
        ts, tb = 1 / (2 * np.pi * motor.fs_hz), 1 / (2 * np.pi * box.tuning_hz)
        port = s**2 * tb**2 + s * tb / box.ql + 1
        x = static * port / ((s**2 * ts**2 + s * ts / qts + 1) * port + box.alpha * s**2 * tb**2)
        return np.asarray(x), np.asarray(x * s**2 * tb**2 / port)
    stiffer = 1.0 if box.kind == "infinite_baffle" else 1 + box.alpha
    w, q = 2 * np.pi * motor.fs_hz * math.sqrt(stiffer), qts * math.sqrt(stiffer)
    x = np.asarray(static / stiffer / (s**2 / w**2 + s / (w * q) + 1))
    return x, x


def level_db(drivers: int, sd_m2: float, heard_rms_m: Floats, frequency_hz: Floats) -> Floats:
    """dB re 20 µPa at 1 m in half space: p = ρ·n·S_d·(2πf)²·x/(2π·1 m), a small source far below its own size."""
    pressure = AIR_DENSITY * drivers * sd_m2 * (2 * np.pi * frequency_hz) ** 2 * heard_rms_m / (2 * np.pi)
    return np.asarray(20 * np.log10(np.maximum(pressure, 1e-12) / REFERENCE_PA), float)


def cabin_db(frequency_hz: Floats, longest_m: float, per_octave_db: float = CABIN_DB_PER_OCTAVE) -> Floats:
    """What a closed cabin adds below c/(2·longest)."""
    first_hz = SOUND_M_S / (2 * longest_m)
    return np.asarray(per_octave_db * np.maximum(np.log2(first_hz / frequency_hz), 0.0), float)


def exposure_hours(level: float) -> float:
    """How long a level may be heard in a day: T = 8 h / 2^((L − 85)/3) (NIOSH 98-126)."""
    return float(8.0 / 2.0 ** ((level - 85.0) / 3.0))


def reference_efficiency(fs_hz: float, vas_m3: float, qes: float) -> float:
    """η0 = (4π²/c³)·f_s³·V_as/Q_es (Small 1972)."""
    return 4 * math.pi**2 / SOUND_M_S**3 * fs_hz**3 * vas_m3 / qes
