"""Cone travel of a driver in its box, from its small-signal parameters (Small, JAES 1972-73).

The coil's inductance is left out (its part below 200 Hz is small), and so are limits of suspension and motor: past its
stated travel the model only says that it is passed.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from underhood.arrays import Complexes, Floats
from underhood.constants import AIR_DENSITY, COPPER_PER_K, SOUND_M_S
from underhood.loudspeaker.impedance import BoxKind, Motor, with_losses


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
    """C_ms = V_as/(ρ·c²·S_d²), M_ms = 1/((2πf_s)²·C_ms), Bl = sqrt(2πf_s·M_ms·R_e/Q_es) (Small 1972).

    motor    of one driver, its coils as wired
    vas_m3   V_as, m³
    sd_m2    S_d, m²
    """
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

    motor          of one driver, its coils as wired
    moving         its `mechanics`
    box            its share of the box
    frequency_hz   (n,)
    coil_rise_k    how much warmer than 20 °C the coil is, K

    Small 1972, 1973; below the frequency where its size counts, and in small signal.
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
    if box.kind == "sealed":
        q = with_losses(q, box.ql)
    x = np.asarray(static / stiffer / (s**2 / w**2 + s / (w * q) + 1))
    return x, x
