"""A fixed bank of curve shapes, weighted by the readings: how sure an output is, and what lies outside the readings.

Volts over load, both as logarithms: a voltage behind a resistance at high loads, a current limit at low ones, with a
power plateau between them or without, and knees from sharp to soft. No shape is chosen; each counts by how well it goes
through the readings and how plausible its knee is. Constants are from trials on made-up amplifiers of other
equations than these shapes and than the three limits of `output_limits` [P]. Between the readings the bank gives the
band, not the answer: sharp plateaus need the three limits.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

from underhood.arrays import Floats

PLATEAUS = (0.0, 0.35, 0.8, 1.4)
PLATEAU_PRIOR = (0.55, 0.15, 0.15, 0.15)
"""Lengths of the power plateau, in ln ohm, and how often amplifiers have one of them."""
KNEES = (0.02, 0.15, 0.35, 0.8)
RESISTANCES = (0.03, 0.15, 0.4)
"""Softness of the knee; output ohms over those of the knee."""
SECOND_KNEES = (0.02, 0.15)
TABLE_FROM, TABLE_TO, TABLE_STEP = -6.5, 7.5, 0.02
KNEE_BELOW, KNEE_ABOVE, KNEE_STEP = 2.4, 1.0, 0.1
KNEE_FALL, KNEE_RISE = 0.35, 0.6
"""Scales of the knee's prior, in ln ohm, above and below the lowest load."""
ALONE_SHIFT, ALONE_RISE = 0.2, 2.0
"""The same for one reading: its place and its lower scale."""
PRIOR_COUNT, PRIOR_SCATTER, ALONE_SCATTER = 2.0, 0.016, 0.02
CLAIM_COUNT, CLAIM_SCATTER = 8.0, 0.10
"""Readings' scatter of volts before any was seen, and how many readings that is worth; of claims."""
PEAK_SCALE = 0.1
"""A shape whose watts rise above all readings between two of them counts less."""
LEAST_WEIGHT = 1e-3
CURVE_SPREAD, DISTANCE_SPREAD = 0.005, 0.02
"""Besides the scatter: of any curve, and for each ln ohm outside the readings."""
QUANTILES = 41
TAIL, LOW_TAIL, ALONE_TAIL = 0.02, 0.01, 0.015
CENTRE_SHARE = 0.5
"""The band reaches at least so many standard errors to each side of the answer."""


@dataclass(frozen=True)
class _Shapes:
    """Every shape over ln(load/knee), (84, m), and the logarithm of what each counts before any reading, (84,)."""

    table: Floats
    log_prior: Floats

    def at(self, t: Floats) -> Floats:
        """All shapes at some ln(load/knee), (84, *shape of t): linear between the table's points, drawn on below it."""
        place = np.clip((t - TABLE_FROM) / TABLE_STEP, 0, self.table.shape[1] - 1.001)
        index = place.astype(int)
        part = place - index
        inside = self.table[:, index] * (1 - part) + self.table[:, index + 1] * part
        return np.asarray(inside + np.minimum(t - TABLE_FROM, 0.0), float)

    def of(self, which: NDArray[np.intp], t: Floats) -> Floats:
        """Some shapes, each at its own values: (k, m) for `which` (k,) and `t` (k, m)."""
        place = np.clip((t - TABLE_FROM) / TABLE_STEP, 0, self.table.shape[1] - 1.001)
        index = place.astype(int)
        part, row = place - index, which[:, None]
        inside = self.table[row, index] * (1 - part) + self.table[row, index + 1] * part
        return np.asarray(inside + np.minimum(t - TABLE_FROM, 0.0), float)


def _soft(one: Floats, other: Floats, width: float) -> Floats:
    """The lesser of two, rounded over a width where they meet."""
    return one - width * np.logaddexp(0.0, (one - other) / width)


@lru_cache(maxsize=1)
def _shapes() -> _Shapes:
    t = np.arange(TABLE_FROM, TABLE_TO + TABLE_STEP / 2, TABLE_STEP)
    rows, prior = [], []
    for length, share in zip(PLATEAUS, PLATEAU_PRIOR, strict=True):
        made = []
        for knee in KNEES:
            for resistance in RESISTANCES:
                voltage = -np.log1p(resistance * np.exp(-t))
                if length == 0.0:
                    made.append(_soft(voltage, t, knee))
                    continue
                power = _soft(voltage, t / 2, knee)
                made += [_soft(power, t + length / 2, second) for second in SECOND_KNEES]
        rows += made
        prior += [math.log(share / len(made))] * len(made)
    return _Shapes(np.array(rows), np.array(prior))


@dataclass(frozen=True, eq=False)
class ShapeBank:
    """The shapes that the readings leave, each with its knee.

    ln_load    of the readings, rising, (n,)
    shape      which of the bank, (k,); `knee` its ln ohm, `level` its height in ln volts, `weight` what it counts
    spread     of the readings' ln volts about each, (k,); `count` the degrees of freedom
    """

    ln_load: Floats
    shape: NDArray[np.intp]
    knee: Floats
    level: Floats
    weight: Floats
    spread: Floats
    count: float

    @cached_property
    def scatter(self) -> float:
        """How the readings scatter in volts, as a share."""
        return float(np.sqrt(self.weight @ self.spread**2))

    def _each(self, ln_load: Floats) -> Floats:
        """ln volts of each shape at some loads, (k, m)."""
        return self.level[:, None] + _shapes().of(self.shape, ln_load[None, :] - self.knee[:, None])

    @cached_property
    def _mean(self) -> tuple[Floats, Floats]:
        """The mean over a wide range of loads, so that a curve costs an interpolation."""
        ln_load = np.arange(self.ln_load[0] - 4.0, self.ln_load[-1] + 4.0, TABLE_STEP)
        return ln_load, self.weight @ self._each(ln_load)

    def mean(self, ln_load: Floats) -> Floats:
        """Mean ln volts of the shapes, any shape of loads."""
        at, values = self._mean
        return np.asarray(np.interp(ln_load, at, values), float)

    def slope(self, ln_load: float) -> float:
        """Of the mean's ln volts over ln ohm: 0 a voltage limit, 1 a current limit."""
        low, high = self.mean(np.array([ln_load - 0.05, ln_load + 0.05]))
        return float((high - low) / 0.1)

    def band(self, ln_load: float) -> tuple[float, float]:
        """Lowest and highest ln volts that the shapes allow at a load."""
        n = len(self.ln_load)
        outside = max(self.ln_load[0] - ln_load, ln_load - self.ln_load[-1], 0.0)
        spread = np.sqrt(self.spread**2 / n + CURVE_SPREAD**2 + (DISTANCE_SPREAD * outside) ** 2)
        middle = self._each(np.array([ln_load]))[:, 0]
        values = (middle[:, None] + spread[:, None] * _quantiles(self.count)).ravel()
        weight = np.repeat(self.weight, QUANTILES) / QUANTILES
        order = np.argsort(values)
        share = np.cumsum(weight[order]) - weight[order] / 2
        tail = ALONE_TAIL if n == 1 else TAIL
        low_tail = LOW_TAIL if ln_load < self.ln_load[0] else tail
        low, high = np.interp([low_tail, 1 - tail], share, values[order])
        return float(low), float(high)

    @property
    def least_half_width(self) -> float:
        """How far a band reaches at least to each side of the answer, in ln volts."""
        return CENTRE_SHARE * self.scatter / math.sqrt(len(self.ln_load))


@lru_cache(maxsize=32)
def _quantiles(count: float) -> Floats:
    """Mid-quantiles of Student's t, (41,)."""
    return np.asarray(stdtrit(count, (np.arange(QUANTILES) + 0.5) / QUANTILES), float)


@lru_cache(maxsize=2048)
def bank_of(load_ohm: tuple[float, ...], volts: tuple[float, ...], claimed: bool = False) -> ShapeBank:
    """The bank as some readings leave it.

    load_ohm   of each reading, rising
    volts      RMS of each at a 14.4 V supply
    claimed    whether they are claims
    """
    x, y, n = np.log(load_ohm), np.log(volts), len(load_ohm)
    knees = np.arange(x[0] - KNEE_BELOW, x[-1] + KNEE_ABOVE + KNEE_STEP / 2, KNEE_STEP)
    shapes = _shapes()
    at_readings = shapes.at(x[None, :] - knees[:, None])  # (84, knees, n)
    level = (y - at_readings).mean(axis=2)
    squares = ((y - at_readings - level[:, :, None]) ** 2).sum(axis=2)
    prior_count = CLAIM_COUNT if claimed else PRIOR_COUNT
    scatter = CLAIM_SCATTER if claimed else ALONE_SCATTER if n == 1 else PRIOR_SCATTER
    count = prior_count + n - 1
    about = prior_count * scatter**2 + squares
    e = knees - x[0] + (ALONE_SHIFT if n == 1 else 0.0)
    knee_prior = np.where(e > 0, -e / KNEE_FALL, e / (ALONE_RISE if n == 1 else KNEE_RISE))
    log_weight = shapes.log_prior[:, None] + knee_prior - count / 2 * np.log(about)
    if n > 1:
        log_weight -= np.maximum(_bump(shapes, x, knees, at_readings), 0.0) / PEAK_SCALE
    weight = np.exp(log_weight - log_weight.max())
    shape, knee = np.nonzero(weight >= LEAST_WEIGHT)
    kept = weight[shape, knee]
    return ShapeBank(
        ln_load=x,
        shape=shape,
        knee=knees[knee],
        level=level[shape, knee],
        weight=kept / kept.sum(),
        spread=np.sqrt(about[shape, knee] / count),
        count=count,
    )


def _bump(shapes: _Shapes, x: Floats, knees: Floats, at_readings: Floats) -> Floats:
    """How far each shape's ln watts rise between the readings above the most at any of them, (84, knees)."""
    between = np.concatenate([x[:-1] + share * np.diff(x) for share in (0.25, 0.5, 0.75)])
    inside = 2 * shapes.at(between[None, :] - knees[:, None]) - between
    return np.asarray(inside.max(axis=2) - (2 * at_readings - x).max(axis=2), float)
