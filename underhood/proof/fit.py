"""The most likely car behind some readings: maximum a posteriori, with slips of the hand and loose joints allowed for.

Readings may be wrong altogether (ε of them, spread evenly), parts may be at fault (see `parameters`). Gauss-Newton on
reweighted squares from many starts side by side: first with Student's t, which is never sure of a slip, then with the
mixture; the cheapest end wins. The spread is the curvature there, the meters' gains in it, widened a little. Left out:
what a parameter is called, and what becomes of the job (see `correction`).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats, Ints
from underhood.proof.parameters import FAULT_SHARE, SOUND

BAD_SHARE, BAD_DENSITY = 0.03, 1 / 200
"""ε, the share of readings that are wrong altogether, and how densely they lie, per standard deviation."""
STUDENT = 4.0
DIFFERENCE = 0.05
LONGEST_STEP = 2.5
STEEPEST = 300.0
"""Standard deviations of a reading for one of a parameter: beyond it the circuit is at a fold, and no slope tells."""
TRIED_STEPS = (1.0, 0.5, 0.2, 0.05)
BLUNTED, MIXTURE_ROUNDS = (8.0, 8.0, 3.0, 3.0, 1.5, 1.0, 1.0), 10
"""How much wider the readings are taken to lie in each of the first rounds: a car far off is first brought near."""
SETTLED = 1e-3
WIDENED = 1.1
ODD = 1.0
"""Residual, in standard deviations, from which on a start without that reading is tried."""
MOST_WITHOUT = 8
ALIKE, MOST_KEPT = 0.3, 8
"""Ends within this of each other, in standard deviations, are one; so many are followed to the end."""
FAR = 60.0
Predict = Callable[[Floats], Floats]


@dataclass(frozen=True)
class Problem:
    """Readings and what they may say.

    predict   readings (n, r) of parameters (n, p)
    measured, sigma   (r,); `group` of each the meter's gain or -1, `gain` (g,) one standard deviation of each
    tails     (p,) of a fault, in standard deviations of a sound part, 1 for none
    worse     (p,) to which side a fault goes, 1 or -1; 0 for either
    inward    (p,) 1, or -1 for what can only become less than it is, such as the charge of a full battery
    starts    (s, p) besides the centre
    never     (r,) readings that are no reading: a clamp at the end of its range
    """

    predict: Predict
    measured: Floats
    sigma: Floats
    group: Ints
    gain: Floats
    tails: Floats
    worse: Floats
    inward: Floats
    starts: Floats
    never: NDArray[np.bool_]

    @property
    def parameters(self) -> int:
        """How many numbers of the car are unsure."""
        return len(self.tails)


@dataclass(frozen=True)
class Fit:
    """The most likely car.

    u            (p,) its parameters; `gains` (g,) of the meters, in their standard deviations
    covariance   (p, p) of u
    residual     (r,) in standard deviations; `bad` (r,) how probably the reading is wrong altogether
    slope        (r, p) of the readings, in standard deviations
    cost         lower is likelier, by natural logarithms
    """

    u: Floats
    gains: Floats
    covariance: Floats
    residual: Floats
    bad: Floats
    slope: Floats
    cost: float

    @cached_property
    def told(self) -> Floats:
        """(p,) how much the readings told: 1 less what is left of the variance."""
        return np.clip(1 - np.diag(self.covariance) / WIDENED**2, 0.0, 1.0)


def bad(residual: Floats) -> Floats:
    """How probably a reading of a residual is wrong altogether, its parameters known."""
    good = (1 - BAD_SHARE) * np.exp(-np.minimum(residual**2, 1400.0) / 2) / math.sqrt(2 * math.pi)
    return np.asarray(BAD_SHARE * BAD_DENSITY / (good + BAD_SHARE * BAD_DENSITY), float)


def best_fit(problem: Problem) -> tuple[Fit, list[Fit]]:
    """The cheapest fit, and the others that were found, the next cheapest first."""
    p = problem.parameters
    centre = np.zeros((1, p + len(problem.gain)))
    starts = np.zeros((1 + len(problem.starts), centre.shape[1]))
    starts[1:, :p] = problem.starts
    weight = np.ones((len(starts), len(problem.measured)))
    weight[:, problem.never] = 0.0
    ends = _descend(problem, starts, weight, BLUNTED, student=True)
    without = _without(problem, ends[:1], weight[:1])
    if len(without):
        u = np.repeat(centre, len(without), axis=0)
        ends = np.concatenate([ends, _descend(problem, u, without, BLUNTED, student=True)])
    ends = _distinct(problem, ends, weight[0])
    everything = np.repeat(weight[:1], len(ends), axis=0)
    ends = _distinct(problem, _descend(problem, ends, everything, (1.0,) * MIXTURE_ROUNDS, student=False), weight[0])
    fits = _fits(problem, ends)
    return fits[0], fits[1:]


def _without(problem: Problem, u: Floats, weight: Floats) -> Floats:
    """Weights that leave out one of the oddest readings each, (k, r)."""
    residual = np.abs(_residual(problem, u, problem.predict(u[:, : problem.parameters]))[0]) * weight[0]
    odd = [i for i in np.argsort(-residual)[:MOST_WITHOUT] if residual[i] > ODD]
    out = np.repeat(weight, len(odd), axis=0)
    out[np.arange(len(odd)), odd] = 0.0
    return out


def _distinct(problem: Problem, u: Floats, weight: Floats) -> Floats:
    """The cheapest first, those that say the same left out, no more than a few."""
    residual = _residual(problem, u, problem.predict(u[:, : problem.parameters]))
    cost = _cost(problem, u, residual, np.repeat(weight[None], len(u), axis=0), student=False)
    kept: list[int] = []
    for i in np.argsort(cost).tolist():
        if all(np.abs(u[i] - u[k]).max(initial=0.0) > ALIKE for k in kept):
            kept.append(i)
    return u[kept[:MOST_KEPT]]


def _factor(problem: Problem, u: Floats) -> Floats:
    """(n, r) what the meters' gains multiply by."""
    out = np.ones((len(u), len(problem.measured)))
    has = problem.group >= 0
    out[:, has] += u[:, problem.parameters :][:, problem.group[has]] * problem.gain[problem.group[has]]
    return out


def _residual(problem: Problem, u: Floats, predicted: Floats) -> Floats:
    """(n, r) in standard deviations; what no state holds is far off."""
    found = (predicted * _factor(problem, u) - problem.measured) / problem.sigma
    return np.where(np.isfinite(found), found, FAR)


def _cost(problem: Problem, u: Floats, residual: Floats, weight: Floats, student: bool) -> Floats:
    """(n,) minus the logarithm of the likelihood, but for a constant."""
    if student:
        loss = (STUDENT + 1) / 2 * np.log1p(residual**2 / STUDENT)
    else:
        good = (1 - BAD_SHARE) * np.exp(-np.minimum(residual**2, 1400.0) / 2) / math.sqrt(2 * math.pi)
        loss = -np.log(good + BAD_SHARE * BAD_DENSITY)
    return np.asarray((weight * loss).sum(axis=1) + _prior(problem, u), float)


def _prior(problem: Problem, u: Floats) -> Floats:
    p = problem.parameters
    sound, fault = _densities(problem, u[:, :p])
    return np.asarray((u[:, p:] ** 2).sum(axis=1) / 2 - np.log(sound + fault).sum(axis=1), float)


def _densities(problem: Problem, u: Floats) -> tuple[Floats, Floats]:
    """(n, p) how densely sound parts lie at u, and parts at fault."""
    share = np.where(problem.tails > SOUND, FAULT_SHARE, 0.0)
    tail = problem.tails
    sound = (1 - share) * np.exp(-(u**2) / 2)
    side = np.where(problem.worse == 0, 1.0, np.where(u * problem.worse > 0, 2.0, 0.0))
    fault = side * share / tail * np.exp(-(u**2) / 2 / tail**2)
    return sound + 1e-300, fault


def _precision(problem: Problem, u: Floats) -> Floats:
    """(n, p + g) how tightly each parameter is held to 0: a part that is at fault less."""
    p = problem.parameters
    sound, fault = _densities(problem, u[:, :p])
    held = (sound + fault / problem.tails**2) / (sound + fault)
    return np.concatenate([held, np.ones((len(u), len(problem.gain)))], axis=1)


def _slopes(problem: Problem, u: Floats) -> tuple[Floats, Floats]:
    """(residual (n, r), its slopes over all parameters (n, r, p + g))."""
    n, p, r = len(u), problem.parameters, len(problem.measured)
    moved = np.repeat(u[:, None, :p], p + 1, axis=1)
    nudge = DIFFERENCE * problem.inward
    moved[:, np.arange(1, p + 1), np.arange(p)] += nudge
    predicted = problem.predict(moved.reshape(-1, p)).reshape(n, p + 1, r)
    factor = _factor(problem, u)
    slope = (predicted[:, 1:] - predicted[:, :1]) / nudge[:, None] * (factor / problem.sigma)[:, None]
    of_gain = np.zeros((n, len(problem.gain), r))
    for k, sigma in enumerate(problem.gain):
        mine = problem.group == k
        of_gain[:, k, mine] = predicted[:, 0, mine] * sigma / problem.sigma[mine]
    every = np.concatenate([slope, of_gain], axis=1).transpose(0, 2, 1)
    every = np.clip(np.where(np.isfinite(every), every, 0.0), -STEEPEST, STEEPEST)
    return _residual(problem, u, predicted[:, 0]), every


def _weights(residual: Floats, weight: Floats, student: bool) -> Floats:
    if student:
        return weight * (STUDENT + 1) / (STUDENT + residual**2)
    return weight * (1 - bad(residual))


def _descend(problem: Problem, u: Floats, weight: Floats, rounds: Sequence[float], *, student: bool) -> Floats:
    """The starts (n, p + g) some rounds further down, each on its own way.

    rounds   by how much the readings are blunted in each
    """
    u = u.copy()
    going = np.arange(len(u))
    for k, blunt in enumerate(rounds):
        if blunt != rounds[k - 1]:
            going = np.arange(len(u))
        if not len(going):
            continue
        here = u[going]
        residual, slope = (each / blunt for each in _slopes(problem, here))
        w = _weights(residual, weight[going], student)
        held = _precision(problem, here)
        normal = np.einsum("nri,nr,nrj->nij", slope, w, slope)
        normal[:, np.arange(here.shape[1]), np.arange(here.shape[1])] += held
        pull = held * here + np.einsum("nri,nr,nr->ni", slope, w, residual)
        step = -np.linalg.solve(normal, pull[..., None])[..., 0]
        step *= np.minimum(1.0, LONGEST_STEP / np.maximum(np.abs(step).max(axis=1, keepdims=True), 1e-12))
        cost = _cost(problem, here, residual, weight[going], student)
        u[going], gained = _stepped(problem, here, step, cost, weight[going], blunt, student)
        going = going[gained > SETTLED]
    return u


def _stepped(
    problem: Problem, u: Floats, step: Floats, cost: Floats, weight: Floats, blunt: float, student: bool
) -> tuple[Floats, Floats]:
    """(each start after the best of some shares of its step, by how much its cost fell)."""
    shares, p = np.array(TRIED_STEPS), problem.parameters
    tried = u[:, None] + shares[None, :, None] * step[:, None]
    flat = tried.reshape(-1, u.shape[1])
    residual = _residual(problem, flat, problem.predict(flat[:, :p])) / blunt
    costs = _cost(problem, flat, residual, np.repeat(weight, len(shares), axis=0), student).reshape(len(u), -1)
    best = costs.argmin(axis=1)
    gained = cost - costs[np.arange(len(u)), best]
    taken = np.where((gained > 0)[:, None], tried[np.arange(len(u)), best], u)
    return taken, gained


def _fits(problem: Problem, ends: Floats) -> list[Fit]:
    p = problem.parameters
    residual, slope = _slopes(problem, ends)
    weight = np.repeat(np.where(problem.never, 0.0, 1.0)[None], len(ends), axis=0)
    w = _weights(residual, weight, student=False)
    held = _precision(problem, ends)
    cost = _cost(problem, ends, residual, weight, student=False)
    found = []
    for i, u in enumerate(ends):
        normal = np.einsum("ri,r,rj->ij", slope[i], w[i], slope[i]) + np.diag(held[i])
        covariance = np.linalg.inv(normal)[:p, :p] * WIDENED**2
        wrong = np.where(problem.never, 1.0, bad(residual[i]))
        found.append(Fit(u[:p], u[p:], covariance, residual[i], wrong, slope[i][:, :p], float(cost[i])))
    return sorted(found, key=lambda fit: fit.cost)


def profile_cost(problem: Problem, fit: Fit, u: Floats) -> Floats:
    """(n,) the cost of parameters (n, p) with the meters' gains as they then fit best, less that of the fit.

    What was found to be wrong counts no more.
    """
    predicted = problem.predict(u)
    right = (1 - fit.bad) / problem.sigma**2
    gains = np.zeros((len(u), len(problem.gain)))
    for k, sigma in enumerate(problem.gain):
        mine = problem.group == k
        slope = predicted[:, mine] * sigma
        short = problem.measured[mine] - predicted[:, mine]
        gains[:, k] = (slope * short * right[mine]).sum(axis=1) / (1 + (slope**2 * right[mine]).sum(axis=1))
    whole = np.concatenate([u, gains], axis=1)
    residual = _residual(problem, whole, predicted)
    weight = np.where(problem.never, 0.0, 1.0)[None]
    return _cost(problem, whole, residual, weight, student=False) - fit.cost
