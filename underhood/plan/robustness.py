"""How sure a plan is: every input varied within its band at once, and what a reading would be worth.

Draws by Latin hypercube; all plans meet the same draws, but for parts that only one of them has. A draw that leaves the
goals unmet costs as much as the budget [P], so that a plan is worth its price and its risk; a reading is worth what
knowing that input would save by choosing better. Left out: the parts' own prices, and what nobody gave a width.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import scipy  # its statistics are read when they are used: most processes never do
from scipy.special import ndtri

from underhood.arrays import Floats
from underhood.circuit.build import build_circuit
from underhood.circuit.engine import Answers
from underhood.circuit.varied import Varied
from underhood.document.job import Goal, JobDocument
from underhood.forecast import goals
from underhood.forecast.inputs import Input, Where, Width, everything
from underhood.plan.at_once import COLUMNS, answered, key_of_goal
from underhood.plan.evaluate import Outcome

DRAWS = 1024
SEED = 20261126
BINS = 8
LEAST_WORTH = 0.02
"""Of the budget, that a reading has to be worth before it is named [P]."""
LIKELY = 0.9
"""A plan that meets its goals this often needs no reading first [P]."""


@dataclass(frozen=True, slots=True)
class PlanOdds:
    """How a plan fares over all draws.

    met         share of draws in which every goal is met, to some 3 points
    low, high   between which the first goal's value lies in 90 % of them; null where it has none
    beaten      share of draws in which another plan would be the better choice
    """

    name: str
    met: float
    low: float | None
    high: float | None
    beaten: float


@dataclass(frozen=True, slots=True)
class ReadingWorth:
    """An input that a reading would settle, and what knowing it is worth, in money."""

    name: str
    part: str
    where: Where
    worth: float


@dataclass(frozen=True)
class Robustness:
    """How sure the named plans are.

    draws      how many were made
    readings   the most valuable first
    first      whether the best of them should come before anything is bought
    """

    draws: int
    plans: list[PlanOdds]
    readings: list[ReadingWorth]
    first: bool


def robustness(job: JobDocument, plans: Sequence[tuple[str, Outcome]], budget: float, draws: int = DRAWS) -> Robustness:
    """How sure some plans are, doing nothing among them.

    job      as found, with its goals
    budget   what missing a goal is taken to cost
    """
    kept = [(name, each) for name, each in plans if each.steps]
    found = [("as found", None), *kept]
    jobs = [job, *(each.job for _, each in kept)]
    inputs_of = [list(everything(each)) for each in jobs]
    keys = list(dict.fromkeys((each.field, each.part) for of in inputs_of for each in of))
    u = drawn(len(keys), draws)
    column = {key: i for i, key in enumerate(keys)}
    met, values = np.zeros((len(jobs), draws), bool), np.full((len(jobs), draws), np.nan)
    costs = np.array([0.0, *(each.cost for _, each in kept)])
    for k, (each, of) in enumerate(zip(jobs, inputs_of, strict=True)):
        mine = {one.field: _shares(one, u[:, column[one.field, one.part]]) for one in of}
        met[k], values[k] = _judged(job, each, mine, kept[k - 1][1] if k else None, draws)
    utility = -costs[:, None] - np.where(met, 0.0, budget)
    best = utility.argmax(axis=0)
    odds = [
        PlanOdds(name, float(met[k].mean()), *_between(values[k]), float((best != k).mean()))
        for k, (name, _) in enumerate(found)
    ]
    readings = _readings(utility, u, keys, {(o.field, o.part): o for of in inputs_of for o in of}, budget)
    surest = max((each.met for each in odds), default=0.0)
    return Robustness(draws, odds, readings, bool(readings) and surest < LIKELY)


def drawn(inputs_: int, draws: int, seed: int = SEED) -> Floats:
    """Standard normal draws (draws, inputs), one in each of as many slices of every input (Latin hypercube)."""
    if not inputs_:
        return np.zeros((draws, 0))
    share = scipy.stats.qmc.LatinHypercube(inputs_, rng=np.random.default_rng(seed)).random(draws)
    return np.asarray(ndtri(share), float)


def _shares(one: Input, u: Floats) -> Floats:
    """What an input comes to in each draw, as shares of what counts now; 1 for what is nothing."""
    return _values(one, u) / one.given.value if one.given.value else np.ones(len(u))


def _values(one: Input, u: Floats) -> Floats:
    """What an input comes to in each draw."""
    if one.width.additive:
        return np.clip(one.given.value + one.sigma * u, 0.05, one.most)
    return np.minimum(one.given.value * np.exp(one.sigma * u), one.most)


def _judged(
    found: JobDocument, job: JobDocument, shares: Mapping[str, Floats], outcome: Outcome | None, draws: int
) -> tuple[Floats, Floats]:
    """(whether all goals are met, the first goal's value) in each draw of one car."""
    wanted = goals.goals_of(found)
    keys = [key_of_goal(job, goal) for goal in wanted]
    answers: dict[object, Answers] = {}
    full_scale_v = Varied(build_circuit(job)).full_scale(shares, draws)
    for key in keys:
        if key is not None and key not in answers:
            car = Varied(build_circuit(goals.in_state(job, key.state)))
            answers[key] = car.answers(shares, draws, max(key.minutes, 0.0), full_scale_v=full_scale_v, low_v=key.low_v)
    met, first = np.ones(draws, bool), np.full(draws, np.nan)
    for goal, key in zip(wanted, keys, strict=True):
        value = np.full(draws, _priced(outcome, goal)) if key is None else answers[key].of(COLUMNS[goal.quantity])
        met &= answered(goal, value)
        if key is not None and np.isnan(first).all():
            first = value
    return np.asarray(met), first


def _priced(outcome: Outcome | None, goal: Goal) -> float:
    """What a plan costs, takes, weighs or gains, which no draw moves; nothing for the car as found."""
    if outcome is None:
        return 0.0
    of = {"cost": outcome.cost, "hours": outcome.hours, "weight_kg": outcome.weight_kg, "gain_db": outcome.gain_db}
    value = of[goal.quantity]
    return np.nan if value is None else value


def _between(values: Floats) -> tuple[float | None, float | None]:
    """Between which 90 % of the values lie; what nothing holds counts as lowest, and is not told."""
    known = values[~np.isnan(values)]
    if len(known) < len(values) / 2:
        return None, None
    low, high = np.quantile(known, [0.05, 0.95])
    return float(low), float(high)


def _readings(
    utility: Floats, u: Floats, keys: Sequence[tuple[str, str]], of: dict[tuple[str, str], Input], budget: float
) -> list[ReadingWorth]:
    """What knowing each input is worth: the best choice in each of its bins against the best choice of all.

    Less the same for the input shuffled, which is what chance alone seems to save.
    """
    shuffle = np.random.default_rng(SEED)
    found = []
    for i, key in enumerate(keys):
        worth = _worth(utility, u[:, i]) - _worth(utility, shuffle.permutation(u[:, i]))
        if worth > LEAST_WORTH * budget:
            width: Width = of[key].width
            found.append(ReadingWorth(width.name, key[1], width.where, worth))
    return sorted(found, key=lambda each: -each.worth)


def _worth(utility: Floats, u: Floats) -> float:
    """Mean of the best plan in each bin of an input less the best plan of all."""
    bins = np.array_split(np.argsort(u), BINS)
    best: float = sum(len(each) * float(utility[:, each].mean(axis=1).max()) for each in bins) / utility.shape[1]
    return best - float(utility.mean(axis=1).max())
