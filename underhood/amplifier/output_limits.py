"""What an amplifier can deliver: three limits fitted to readings, exact at every measured load, with a band.

The model, at a 14.4 V supply: the output is the least of a voltage U behind an output resistance, a current limit and
the power of the supply stage. All three scale with the supply (`supply_scaling`). Left out: tone (readings of one tone
are fitted at a time), heat and time.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any, Literal

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.optimize import least_squares

from underhood.arrays import Floats

__all__ = [
    "REPEAT_SHARE",
    "Beyond",
    "Fit",
    "Limits",
    "Rule",
    "average_repeats",
    "fit",
    "fit_limits",
    "kept_limits",
    "leave_one_out",
]

Rule = Literal["voltage", "current", "power"]
Beyond = Literal["below", "above", ""]
RULES: tuple[Rule, Rule, Rule] = ("voltage", "current", "power")

READING_SPREAD = 0.01
"""Relative spread of one reading of volts, the scale of the data residuals [P]."""
PRIOR_WEIGHT = 0.5
"""Weight of the prior on ln R_o, ln I_max, ln P_max [P]; looser ones let a sharp knee run away."""
OUTPUT_OHM_PRIOR = 0.15
"""Centre of R_o as a share of the middle load [P]."""
REPEAT_SHARE = 0.005
"""Loads closer than this are one load, read again."""
BEST_STARTS = 3
CHEAPER = 1e-6
BAND_SHARE = 0.03
"""Widening of the band, as a share of the volts, for the readings' own error [P]."""
ONE_RUN_BAND = 0.20
"""Half-width, as a share of the watts, with one run [P]."""


@dataclass(frozen=True, slots=True)
class Limits:
    """U behind R_o (V, ohm), I_max (A), P_max (W); sinusoidal RMS at a 14.4 V supply."""

    open_circuit_v: float
    output_ohm: float
    current_a: float
    power_w: float

    def each_v(self, load_ohm: float, power_factor: float = 1.0) -> tuple[float, float, float]:
        """Volts that the voltage, current and power limits allow; the power limit counts true watts."""
        return (
            self.open_circuit_v * load_ohm / (load_ohm + self.output_ohm),
            self.current_a * load_ohm,
            math.sqrt(self.power_w * load_ohm / power_factor),
        )

    def least(self, load_ohm: float, power_factor: float = 1.0) -> tuple[float, Rule]:
        """The lowest of the three and which it is."""
        volts = self.each_v(load_ohm, power_factor)
        ruling = min(range(3), key=volts.__getitem__)
        return volts[ruling], RULES[ruling]


@dataclass(frozen=True)
class Fit:
    """Limits with the readings they were fitted to, one per load, rising in load.

    unsure_ln    of the volts, besides what the readings say: as between two tones
    claim_band   ends of the band as multiples of the watts where claims stand in for readings; None for readings
    """

    limits: Limits
    load_ohm: tuple[float, ...]
    volts: tuple[float, ...]
    claim_band: tuple[float, float] | None = None
    unsure_ln: float = 0.0

    @property
    def claimed(self) -> bool:
        """Whether it rests on claims alone."""
        return self.claim_band is not None

    @cached_property
    def _correction(self) -> PchipInterpolator | None:
        """ln(reading/model) over ln(load), monotone between readings; None with a single one."""
        if len(self.load_ohm) < 2:
            return None
        return PchipInterpolator(np.log(self.load_ohm), [self.log_miss(i) for i in range(len(self.volts))])

    def log_miss(self, i: int) -> float:
        """ln(reading/model) of the i-th load, in volts: what the correction makes up for."""
        return math.log(self.volts[i] / self.limits.least(self.load_ohm[i])[0])

    def _corrected(self, load_ohm: float) -> float:
        """The factor that makes the model exact at measured loads, held constant outside them."""
        if self._correction is None:
            return math.exp(self.log_miss(0))
        inside = min(max(load_ohm, self.load_ohm[0]), self.load_ohm[-1])
        return math.exp(float(self._correction(math.log(inside))))

    def output(self, load_ohm: float, power_factor: float = 1.0) -> tuple[float, Rule]:
        """RMS volts at a 14.4 V supply, and the limit that rules.

        Below the lowest measured load the largest measured current is the limit, since nothing shows that the
        amplifier gives more; `extrapolated` says when that was done.
        """
        lowest = self.load_ohm[0]
        volts, rule = self.limits.least(load_ohm, power_factor)
        volts *= self._corrected(load_ohm)
        if load_ohm < lowest * (1 - REPEAT_SHARE):
            return min(volts, self.volts[0] / lowest * load_ohm), "current"
        return volts, rule

    def volts_over(self, load_ohm: Floats, power_factor: Floats) -> Floats:
        """`output` for arrays of loads and power factors, (n,)."""
        each = self.limits
        least = np.minimum(each.open_circuit_v * load_ohm / (load_ohm + each.output_ohm), each.current_a * load_ohm)
        least = np.minimum(least, np.sqrt(each.power_w * load_ohm / power_factor))
        inside = np.log(np.clip(load_ohm, self.load_ohm[0], self.load_ohm[-1]))
        miss = self.log_miss(0) if self._correction is None else self._correction(inside)
        volts = least * np.exp(miss)
        below = load_ohm < self.load_ohm[0] * (1 - REPEAT_SHARE)
        return np.where(below, np.minimum(volts, self.volts[0] / self.load_ohm[0] * load_ohm), volts)

    def extrapolated(self, load_ohm: float) -> bool:
        """Whether the load is below the lowest measured one."""
        return load_ohm < self.load_ohm[0] * (1 - REPEAT_SHARE)

    def beyond(self, load_ohm: float) -> Beyond:
        """On which side of the measured loads it lies; empty within them."""
        if self.extrapolated(load_ohm):
            return "below"
        return "above" if load_ohm > self.load_ohm[-1] * (1 + REPEAT_SHARE) else ""

    def band(self, load_ohm: float) -> tuple[float, float]:
        """Lowest and highest volts at a 14.4 V supply, what is unsure besides the readings added in squares."""
        low, high = self._band(load_ohm)
        if not self.unsure_ln:
            return low, high
        volts, _ = self.output(load_ohm)
        return (
            volts * math.exp(-math.hypot(math.log(volts / low), self.unsure_ln)),
            volts * math.exp(math.hypot(math.log(high / volts), self.unsure_ln)),
        )

    def _band(self, load_ohm: float) -> tuple[float, float]:
        """Lowest and highest volts that the readings allow at a 14.4 V supply.

        ln V is concave in ln Z with a slope from 0 (voltage limit) to 1 (current limit): the chord between the
        neighbouring readings bounds it from below, their outward extensions from above.
        """
        volts, _ = self.output(load_ohm)
        if self.claim_band is not None:  # however many there are: a maker's claims are all of one kind
            return volts * math.sqrt(self.claim_band[0]), volts * math.sqrt(self.claim_band[1])
        if len(self.load_ohm) == 1:
            return volts * math.sqrt(1 - ONE_RUN_BAND), volts * math.sqrt(1 + ONE_RUN_BAND)
        low, high = _concave_bounds(np.log(self.load_ohm), np.log(self.volts), math.log(load_ohm))
        low, high = min(math.exp(low), volts), max(math.exp(high), volts)
        return low * (1 - BAND_SHARE), high * (1 + BAND_SHARE)


def _concave_bounds(x: Floats, y: Floats, at: float) -> tuple[float, float]:
    """Bounds at `at` of a concave curve through (x, y) with slopes between 0 and 1; x rising."""
    slope = np.clip(np.diff(y) / np.diff(x), 0.0, 1.0)
    i = int(np.searchsorted(x, at, side="right")) - 1
    if i < 0:  # below the lowest load
        return float(y[0] - (x[0] - at)), float(y[0] - slope[0] * (x[0] - at))
    if i >= len(x) - 1:  # at or above the highest
        return float(y[-1]), float(y[-1] + slope[-1] * (at - x[-1]))
    chord = y[i] + (y[i + 1] - y[i]) * (at - x[i]) / (x[i + 1] - x[i])
    from_left = y[i] + (slope[i - 1] if i > 0 else 1.0) * (at - x[i])
    from_right = y[i + 1] - (slope[i + 1] if i + 1 < len(slope) else 0.0) * (x[i + 1] - at)
    return float(chord), float(min(from_left, from_right))


def fit(load_ohm: Floats, volts: Floats, *, claim_band: tuple[float, float] | None = None) -> Fit:
    """Fit the three limits to volts over load at a 14.4 V supply; any number of readings from one up.

    load_ohm   (n,), any order; those within 0.5 % of each other are one
    volts      RMS at a 14.4 V supply, (n,)
    claim_band   of claims, the multiples of the watts that the truth lies between; None for readings
    """
    averaged = average_repeats(np.asarray(load_ohm, float), np.asarray(volts, float))
    loads, outputs = (tuple(each.tolist()) for each in averaged)
    return Fit(kept_limits(loads, outputs), loads, outputs, claim_band)


@lru_cache(maxsize=2048)
def kept_limits(load_ohm: tuple[float, ...], volts: tuple[float, ...]) -> Limits:
    """Limits once worked out: the audit and the supply exponent leave out the same readings one after another.

    load_ohm, volts   as `fit_limits` takes them
    """
    return fit_limits(np.array(load_ohm), np.array(volts))


def average_repeats(load_ohm: Floats, volts: Floats) -> tuple[Floats, Floats]:
    """Readings rising in load, those of one load averaged (geometrically, as the fit works in logarithms).

    load_ohm, volts   (n,), any order; both come back shorter
    """
    order = np.argsort(load_ohm, kind="stable")
    z, v = np.log(load_ohm[order]), np.log(volts[order])
    group = np.concatenate(([0], np.cumsum(np.diff(z) > REPEAT_SHARE)))
    count = np.bincount(group)
    return np.exp(np.bincount(group, z) / count), np.exp(np.bincount(group, v) / count)


def fit_limits(load_ohm: Floats, volts: Floats, near: Limits | None = None) -> Limits:
    """The limits that fit best, from the three cheapest of all ordered splits of the loads, or from known ones nearby.

    near   limits of almost the same readings: five times as quick, where many such fits are only compared

    Data residuals Δ(ln V)/0.01 under soft-L1, linear prior residuals on R_o, I_max and P_max; see engineering notes
    in docs/model.md. `load_ohm` rises, shape (n,).
    """
    z, g = load_ohm, volts
    problem = _Problem(np.log(z), z, np.log(g), _prior_centre(z, g))
    if near is None:
        starts = sorted((problem.start(*split) for split in _splits(len(z))), key=problem.cost)
    else:
        starts = [np.log([near.open_circuit_v, near.output_ohm, near.current_a, near.power_w])]
    best = None
    for start in starts[:BEST_STARTS]:
        loss: Any = problem.loss  # scipy takes any callable; its type stubs want a protocol of theirs
        found = least_squares(problem.residuals, start, jac=problem.jacobian, loss=loss, x_scale="jac")
        if best is None or found.cost < best.cost - CHEAPER:
            best = found
    assert best is not None
    u, r, i, p = np.exp(best.x)
    return Limits(float(u), float(r), float(i), float(p))


def _prior_centre(z: Floats, g: Floats) -> Floats:
    """ln of R_o, I_max and P_max that the priors pull to: a share of the middle load, and the largest measured."""
    return np.log([OUTPUT_OHM_PRIOR * math.sqrt(z[0] * z[-1]), (g / z).max(), (g**2 / z).max()])


def _splits(count: int) -> list[tuple[int, int]]:
    """How many of the loads, from the highest down, are in the voltage and in the power group."""
    return [(v, p) for v in range(1, count + 1) for p in range(count - v + 1)]


@dataclass(frozen=True)
class _Problem:
    """The least-squares problem in θ = ln(U, R_o, I_max, P_max); loads rising."""

    ln_z: Floats
    z: Floats
    ln_g: Floats
    centre: Floats

    def start(self, voltage: int, power: int) -> Floats:
        """θ for one split: least squares of 1 = g/U + (g/Z)·R_o/U, and log means of the other groups."""
        n = len(self.z)
        z, g = self.z[n - voltage :], np.exp(self.ln_g[n - voltage :])
        inverse_u, ratio = -1.0, -1.0
        if voltage > 1:
            inverse_u, ratio = np.linalg.lstsq(np.column_stack([g, g / z]), np.ones(voltage), rcond=None)[0]
        if inverse_u <= 0 or ratio <= 0:  # one point, or readings that fall with the load: the prior's R_o
            ln_r = self.centre[0]
            ln_u = float(np.mean(np.log(g) + np.log1p(math.exp(ln_r) / z)))
        else:
            ln_u, ln_r = -math.log(inverse_u), math.log(ratio / inverse_u)
        in_current = slice(0, n - voltage - power)
        in_power = slice(n - voltage - power, n - voltage)
        ln_i = float(np.mean((self.ln_g - self.ln_z)[in_current])) if in_current.stop else self.centre[1]
        ln_p = float(np.mean((2 * self.ln_g - self.ln_z)[in_power])) if power else self.centre[2]
        return np.array([ln_u, ln_r, ln_i, ln_p])

    def _branches(self, theta: Floats) -> Floats:
        return np.stack(
            [
                theta[0] - np.log1p(math.exp(theta[1]) / self.z),
                theta[2] + self.ln_z,
                0.5 * (theta[3] + self.ln_z),
            ]
        )

    def residuals(self, theta: Floats) -> Floats:
        data = (self._branches(theta).min(axis=0) - self.ln_g) / READING_SPREAD
        return np.concatenate([data, PRIOR_WEIGHT * (theta[1:] - self.centre)])

    def jacobian(self, theta: Floats) -> Floats:
        n = len(self.z)
        ruling = self._branches(theta).argmin(axis=0)
        output_ohm = math.exp(theta[1])
        out = np.zeros((n + 3, 4))
        out[:n, 0] = ruling == 0
        out[:n, 1] = np.where(ruling == 0, -output_ohm / (self.z + output_ohm), 0.0)
        out[:n, 2] = ruling == 1
        out[:n, 3] = np.where(ruling == 2, 0.5, 0.0)
        out[:n] /= READING_SPREAD
        out[n:, 1:] = PRIOR_WEIGHT * np.eye(3)
        return out

    def loss(self, squared: Floats) -> Floats:
        """Soft-L1 on the data, linear on the priors: rows ρ, ρ', ρ'' as scipy asks."""
        n = len(self.z)
        root = np.sqrt(1 + squared)
        rho = np.stack([2 * (root - 1), 1 / root, -0.5 / root**3])
        rho[0, n:], rho[1, n:], rho[2, n:] = squared[n:], 1.0, 0.0
        return rho

    def cost(self, theta: Floats) -> float:
        return float(0.5 * self.loss(self.residuals(theta) ** 2)[0].sum())


def leave_one_out(load_ohm: Floats, volts: Floats, *, quick: bool = False) -> list[tuple[float, float, Fit]]:
    """(load, reading, fit without it) for each interior load; none with fewer than four.

    quick   each fit starts from the whole sheet's limits instead of from every split of its own

    load_ohm, volts   (n,), RMS at a 14.4 V supply
    """
    z, g = average_repeats(np.asarray(load_ohm, float), np.asarray(volts, float))
    if len(z) < 4:
        return []
    whole = fit(z, g).limits if quick else None
    left_out = []
    for i in range(1, len(z) - 1):
        rest_z, rest_g = np.delete(z, i), np.delete(g, i)
        if whole is None:
            without = fit(rest_z, rest_g)
        else:
            without = Fit(fit_limits(rest_z, rest_g, whole), tuple(rest_z.tolist()), tuple(rest_g.tolist()))
        left_out.append((float(z[i]), float(g[i]), without))
    return left_out
