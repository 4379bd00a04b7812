"""How sure a prediction is: the spread of what is unsure in the car, and with it that of a meter.

Along each direction of the spread the car is solved a little less than two standard deviations away, both ways; the
larger of the two counts. Slopes at the middle fail where a charger is at its limit: there they hold 63 % of what they
say. Left out: where the spread comes from (see `fit`).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from underhood.arrays import Floats
from underhood.constants import BOTH_ENDS
from underhood.proof.car import Car
from underhood.proof.fit import WIDENED
from underhood.proof.noise import noise
from underhood.proof.reading import Asked

REACH = 1.7
"""Standard deviations at which the car is solved."""
TRIED = (1.0, 0.75, 0.5, 0.3, 0.15, 0.05)
MOST_COST = 1.3 * (REACH * WIDENED) ** 2 / 2
"""What a move of that many standard deviations costs on a parabola, and a little [P]."""


class Band(NamedTuple):
    """A value and the ends of its 95 % band; `sigma` one standard deviation of what the car may do, meters apart."""

    value: float
    low: float
    high: float
    sigma: float


class Spread(NamedTuple):
    """Values (k,) and one standard deviation of each: downwards, upwards, and the larger side of every direction."""

    value: Floats
    down: Floats
    up: Floats
    sigma: Floats


def spread_of(
    predict: Callable[[Floats], Floats],
    u: Floats,
    covariance: Floats,
    cost: Callable[[Floats], Floats] | None = None,
) -> Spread:
    """How far some values may be off.

    predict      values (n, k) of parameters (n, p)
    u            (p,), `covariance` (p, p)
    cost         (n,) of parameters, above that of u: where a charger comes to its limit, the readings forbid more than
                 their slopes say, and the car is moved no farther than they allow
    """
    size, along = np.linalg.eigh(covariance)
    reach = REACH * np.sqrt(np.maximum(size, 0.0))[:, None] * along.T
    moves = np.concatenate([reach, -reach])
    if cost is not None:
        moves = _allowed(cost, u, moves)
    values = predict(np.concatenate([u[None], u + moves]))
    moved = values[1:] - values[0]
    moved = np.where(np.isfinite(moved), moved, 0.0).reshape(2, len(u), -1)
    down, up = np.maximum(-moved.min(axis=0), 0.0), np.maximum(moved.max(axis=0), 0.0)
    sides = (np.sqrt((each**2).sum(axis=0)) / REACH for each in (down, up, np.maximum(down, up)))
    return Spread(values[0], *sides)


def _allowed(cost: Callable[[Floats], Floats], u: Floats, moves: Floats) -> Floats:
    """The largest share of each move (n, p) that the cost allows."""
    shares = np.array(TRIED)
    tried = (u + shares[:, None, None] * moves).reshape(-1, len(u))
    fine = cost(tried).reshape(len(shares), -1) <= MOST_COST
    best = np.where(fine.any(axis=0), shares[fine.argmax(axis=0)], shares[-1])
    return np.asarray(moves * best[:, None], float)


def prior_bands(car: Car, readings: Sequence[Asked]) -> list[Band]:
    """What some readings should show in a car as the job has it, with the meter's part in the band."""
    p = len(car.parameters)
    return bands_of(readings, spread_of(lambda u: car.predict(u, readings), np.zeros(p), np.eye(p)))


def bands_of(readings: Sequence[Asked], spread: Spread) -> list[Band]:
    """Predictions with the bands that readings of them should lie in: the car's spread, noise, the meters' gains."""
    return [_band(each, *map(float, of)) for each, of in zip(readings, zip(*spread, strict=True), strict=True)]


def _band(reading: Asked, value: float, down: float, up: float, sigma: float) -> Band:
    of_meter = np.hypot(noise(reading, value), reading.accuracy_share / 2 * abs(value))
    low, high = (BOTH_ENDS * float(np.hypot(side, of_meter)) for side in (down, up))
    return Band(value, value - low, value + high, sigma)
