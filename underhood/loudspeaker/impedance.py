"""The impedance of drivers in a box: closed-form small-signal circuits (Thiele; Small, JAES 1971-73).

Valid where the driver moves as a piston in small signal, 10 to 200 Hz. Left out: band-pass, transmission line and horn
boxes (use a measured sweep), and suspension or motor non-linearity.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from underhood.arrays import Complexes, Floats
from underhood.constants import COPPER_PER_K

BoxKind = Literal["infinite_baffle", "sealed", "vented"]


@dataclass(frozen=True, slots=True)
class Motor:
    """A driver as its amplifier sees it, all coils driven: ohm, Hz, henry; `alpha` = V_as/V_b of the box."""

    re_ohm: float
    fs_hz: float
    qms: float
    qes: float
    le_h: float = 0.0
    semi_inductance: tuple[float, ...] | None = None

    @property
    def res_ohm(self) -> float:
        """Resistance of the motional peak, R_e·Q_ms/Q_es."""
        return self.re_ohm * self.qms / self.qes


def impedance(
    motor: Motor,
    frequency_hz: Floats,
    *,
    box: BoxKind,
    alpha: float = 0.0,
    tuning_hz: float = 0.0,
    ql: float = 7.0,
    coil_rise_k: float = 0.0,
) -> Complexes:
    """Complex impedance of one driver in its share of the box, ohm, shape of `frequency_hz`.

    motor          one driver, its coils as wired
    frequency_hz   any shape, above 0
    alpha          V_as over the box volume per driver
    tuning_hz      of a vented box
    ql             losses of a sealed or vented box, leak and absorption together; infinite for none
    coil_rise_k    how much warmer than 20 °C the coil is, K

    Small's formulas (JAES 1972, 1973); the hot coil raises R_e only, so the motional peak, which the cold values
    describe, stays. A sealed box's losses lie beside the driver's own: 1/Q_mc' = 1/Q_mc + 1/Q_L.
    """
    s = 2j * np.pi * np.asarray(frequency_hz, float)
    series = motor.re_ohm * (1 + COPPER_PER_K * coil_rise_k) + _inductance(motor, s)
    if box == "vented":
        ts, tb = 1 / (2 * np.pi * motor.fs_hz), 1 / (2 * np.pi * tuning_hz)
        port = s**2 * tb**2 + s * tb / ql + 1
        motion = (s * ts / motor.qms) * port
        return series + motor.res_ohm * motion / ((s**2 * ts**2 + s * ts / motor.qms + 1) * port + alpha * s**2 * tb**2)
    stiffer = np.sqrt(1 + (0.0 if box == "infinite_baffle" else alpha))
    w, lossless = 2 * np.pi * motor.fs_hz * stiffer, motor.qms * stiffer
    q = with_losses(lossless, ql) if box == "sealed" else lossless
    resonance = s / (w * q)
    return np.asarray(series + motor.res_ohm * q / lossless * resonance / (s**2 / w**2 + resonance + 1))


def with_losses(q: float, ql: float) -> float:
    """The Q of a resonance with a box's losses beside its own: 1/Q' = 1/Q + 1/Q_L.

    q, ql   above 0; an infinite `ql` is a box without losses
    """
    return 1 / (1 / q + 1 / ql)


def _inductance(motor: Motor, s: Complexes) -> Complexes:
    if motor.semi_inductance is not None:
        k, n = motor.semi_inductance
        return np.asarray(k * s**n)
    return np.asarray(s * motor.le_h)


def from_sweep(
    frequency_hz: Floats, impedance_ohm: Floats, phase_deg: Floats | None, at_hz: Floats, smoothing_octaves: float = 0.0
) -> Complexes:
    """Complex impedance of a measured sweep, interpolated over ln f; real where the sweep has no phase.

    The end readings hold outside the sweep. Smoothing, if any, is a mean of ln |Z| and phase over a stretch of octaves.
    """
    ohm, phase = impedance_ohm, np.zeros_like(frequency_hz) if phase_deg is None else np.asarray(phase_deg, float)
    if smoothing_octaves > 0:
        ohm = np.exp(_smoothed(frequency_hz, np.log(ohm), smoothing_octaves))
        phase = _smoothed(frequency_hz, phase, smoothing_octaves)
    x, at = np.log(frequency_hz), np.log(at_hz)
    size = np.exp(np.interp(at, x, np.log(ohm)))
    return np.asarray(size * np.exp(1j * np.radians(np.interp(at, x, phase))))


def _smoothed(frequency_hz: Floats, values: Floats, octaves: float) -> Floats:
    """Mean over ± half a width around each point, by running sums; rising frequencies."""
    x = np.log2(frequency_hz)
    sums = np.concatenate([[0.0], np.cumsum(values)])
    first, last = np.searchsorted(x, x - octaves / 2), np.searchsorted(x, x + octaves / 2, side="right")
    return np.asarray((sums[last] - sums[first]) / (last - first), float)
