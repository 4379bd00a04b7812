"""What an amplifier can deliver: three limits fitted to readings, smoothed where these scatter, with a band.

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

from underhood.amplifier.shape_bank import ShapeBank, bank_of
from underhood.arrays import Floats

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
MOST_STEPS, MOST_HALVINGS, LEAST_BEND = 12, 5, 1e-6
CHEAPER = 1e-6
LEAD_POWER = 3.3
"""How fast the answer outside the readings goes over from the limits to the mean of all shapes [P]."""
STEEP, FLAT = 0.75, 0.25
"""Slope of ln volts over ln ohm: above the one the current rules, below the other the voltage, between the power."""


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
    smoothed     whether readings that scatter are smoothed, not chased
    """

    limits: Limits
    load_ohm: tuple[float, ...]
    volts: tuple[float, ...]
    claim_band: tuple[float, float] | None = None
    unsure_ln: float = 0.0
    smoothed: bool = True

    @property
    def claimed(self) -> bool:
        """Whether it rests on claims alone."""
        return self.claim_band is not None

    @property
    def bank(self) -> ShapeBank:
        """Every shape that the readings allow, by how likely it is."""
        return bank_of(self.load_ohm, self.volts, self.claimed)

    @cached_property
    def followed(self) -> float:
        """How far readings are followed rather than smoothed: 1 all the way, as two of them are, and claims."""
        if len(self.load_ohm) < 3 or self.claimed or not self.smoothed:
            return 1.0
        return 1.0 / (1.0 + (self.bank.scatter / READING_SPREAD) ** 2)

    @cached_property
    def _correction(self) -> PchipInterpolator | None:
        """ln(reading/model) over ln(load), monotone between readings; None with a single one."""
        if len(self.load_ohm) < 2:
            return None
        misses = [self.followed * self.log_miss(i) for i in range(len(self.volts))]
        return PchipInterpolator(np.log(self.load_ohm), misses)

    def log_miss(self, i: int) -> float:
        """ln(reading/model) of the i-th load, in volts: what the correction makes up for."""
        return math.log(self.volts[i] / self.limits.least(self.load_ohm[i])[0])

    def output(self, load_ohm: float, power_factor: float = 1.0) -> tuple[float, Rule]:
        """RMS volts at a 14.4 V supply, and the limit that rules."""
        if self.load_ohm[0] <= load_ohm <= self.load_ohm[-1]:
            volts, rule = self.limits.least(load_ohm, power_factor)
            miss = self.log_miss(0) if self._correction is None else float(self._correction(math.log(load_ohm)))
            return volts * math.exp(miss), rule
        volts = float(self.volts_over(np.array([load_ohm]), np.array([power_factor]))[0])
        slope = self.bank.slope(math.log(load_ohm))
        return volts, "current" if slope > STEEP else "power" if slope > FLAT else "voltage"

    def volts_over(self, load_ohm: Floats, power_factor: Floats) -> Floats:
        """`output` for arrays of loads and power factors, (n,).

        Between the readings the limits, corrected; outside them, and around a single one, the mean of all shapes, which
        the limits' own answer at the outermost reading leads over to without a step.
        """
        ends = np.clip(load_ohm, self.load_ohm[0], self.load_ohm[-1])
        miss = self.log_miss(0) if self._correction is None else self._correction(np.log(ends))
        volts = self._least(ends, np.ones_like(ends)) * np.exp(miss)
        outside = load_ohm != ends
        if outside.any():
            ratio = np.minimum(load_ohm / ends, ends / load_ohm)
            lead = np.log(volts) - self.bank.mean(np.log(ends))
            beyond = np.exp(self.bank.mean(np.log(load_ohm)) + lead * ratio**LEAD_POWER)
            volts = np.where(outside, beyond, volts)
        return np.asarray(
            volts * self._least(load_ohm, power_factor) / self._least(load_ohm, np.ones_like(ends)), float
        )

    def _least(self, load_ohm: Floats, power_factor: Floats) -> Floats:
        each = self.limits
        least = np.minimum(each.open_circuit_v * load_ohm / (load_ohm + each.output_ohm), each.current_a * load_ohm)
        return np.asarray(np.minimum(least, np.sqrt(each.power_w * load_ohm / power_factor)), float)

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
        volts, _ = self.output(load_ohm)
        low, high = _band(self, load_ohm, volts)
        if self.unsure_ln:
            low, high = -math.hypot(low, self.unsure_ln), math.hypot(high, self.unsure_ln)
        return volts * math.exp(low), volts * math.exp(high)


@lru_cache(maxsize=4096)
def _band(found: Fit, load_ohm: float, volts: float) -> tuple[float, float]:
    """(lowest, highest) ln volts against the answer: by kind for claims, else what the shapes allow."""
    ln_load = math.log(load_ohm)
    if found.claim_band is not None:  # however many there are: a maker's claims are all of one kind
        low, high = (0.5 * math.log(share) for share in found.claim_band)
        if load_ohm < found.load_ohm[0]:  # nothing says that it gives more amps than claimed
            least = math.log(found.volts[0] / found.load_ohm[0] * load_ohm) + low
            low = min(low, least - math.log(volts))
        return low, high
    bank = found.bank
    low, high = (end - math.log(volts) for end in bank.band(ln_load))
    return min(low, -bank.least_half_width), max(high, bank.least_half_width)


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

    near   limits of almost the same readings: ten times as quick, where many such fits are only compared

    Data residuals Δ(ln V)/0.01 under soft-L1, linear prior residuals on R_o, I_max and P_max; see engineering notes
    in docs/model.md. `load_ohm` rises, shape (n,).
    """
    z, g = load_ohm, volts
    problem = _Problem(np.log(z), z, np.log(g), _prior_centre(z, g))
    if near is not None:
        theta = np.log([near.open_circuit_v, near.output_ohm, near.current_a, near.power_w])
        return _limits(_downhill(problem, theta))
    starts = sorted((problem.start(*split) for split in _splits(len(z))), key=problem.cost)
    best = None
    for start in starts[:BEST_STARTS]:
        loss: Any = problem.loss  # scipy takes any callable; its type stubs want a protocol of theirs
        found = least_squares(problem.residuals, start, jac=problem.jacobian, loss=loss, x_scale="jac")
        if best is None or found.cost < best.cost - CHEAPER:
            best = found
    assert best is not None
    return _limits(best.x)


def _limits(theta: Floats) -> Limits:
    u, r, i, p = np.exp(theta)
    return Limits(float(u), float(r), float(i), float(p))


def _downhill(problem: _Problem, start: Floats) -> Floats:
    """From a good start by Gauss-Newton with the loss as weights, each step halved until it leads downhill."""
    theta, cost = start, problem.cost(start)
    for _ in range(MOST_STEPS):
        misses, slopes = problem.residuals(theta), problem.jacobian(theta)
        weighted = slopes * problem.loss(misses**2)[1][:, None]
        step = np.linalg.solve(weighted.T @ slopes + LEAST_BEND * np.eye(4), -weighted.T @ misses)
        shares = (0.5**k for k in range(MOST_HALVINGS))
        better = next((share for share in shares if problem.cost(theta + share * step) < cost - CHEAPER), None)
        if better is None:
            break
        theta = theta + better * step
        cost = problem.cost(theta)
    return theta


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


def leave_one_out(load_ohm: Floats, volts: Floats, *, near: Limits | None = None) -> list[tuple[float, float, Fit]]:
    """(load, reading, fit without it) for each interior load; none with fewer than four.

    near   limits of almost the same readings, which each fit then starts from instead of from every split of its own

    load_ohm, volts   (n,), RMS at a 14.4 V supply
    """
    z, g = average_repeats(np.asarray(load_ohm, float), np.asarray(volts, float))
    if len(z) < 4:
        return []
    whole = None if near is None else fit_limits(z, g, near)
    left_out = []
    for i in range(1, len(z) - 1):
        rest_z, rest_g = np.delete(z, i), np.delete(g, i)
        if whole is None:
            without = fit(rest_z, rest_g)
        else:
            limits = fit_limits(rest_z, rest_g, whole)
            without = Fit(limits, tuple(rest_z.tolist()), tuple(rest_g.tolist()), smoothed=False)
        left_out.append((float(z[i]), float(g[i]), without))
    return left_out
