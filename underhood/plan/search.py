"""Looks at every set of steps that the budget allows, and names the plans that a person wants to see.

Exact: all sets are solved, those of fewest steps first, and of these the cheapest; a stop says what was reached.
Nothing is pruned but by cost: a stronger charger may bring new flags, a larger battery may lower the volts at idle.
Flags are asked of candidates alone: those that bring one to act on drop out, until none does.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats, Ints
from underhood.circuit import compiled
from underhood.document.job import JobDocument
from underhood.document.part import Part
from underhood.errors import BadInput
from underhood.forecast import goals
from underhood.plan.at_once import AFTER_LOAD, EVERY_STATE, ONE_STATE, AtOnce, SetValues
from underhood.plan.cars import distinct
from underhood.plan.cures import Alone
from underhood.plan.evaluate import VOLT_DB, Evaluator, Outcome
from underhood.plan.sets import Sets, names_in, sets_within
from underhood.plan.steps import Entries, Slot, slots

FIRST, AT_ONCE = 128, 20_000
"""Sets that are solved at first, each time as many again, then in one go at most."""
FIRST_GROUP, LAST_GROUP = 64, 2048
"""Sets that are solved after the load before the next are held against them."""
KNEE = 2.0
"""The knee lies where a decibel begins to cost more than so many times what it did."""
MARKS = 3000
"""Sets that are told as marks of a picture, at most."""
BINS = 160


@dataclass(frozen=True)
class Plan:
    """A set of steps with a name of its own."""

    name: str
    outcome: Outcome


@dataclass(frozen=True)
class Marks:
    """Sets as marks of a picture, column by column: cost, what it buys, whether it meets every goal.

    frontier         whether no other beats it in both cost and value
    engine_off_min   nothing where no goal asks for them, as in what was stored before they were told
    """

    cost: list[float]
    gain_db: list[float | None]
    terminal_v: list[float | None]
    meets: list[bool]
    frontier: list[bool]
    engine_off_min: list[float | None] = field(default_factory=list)


class Progress(NamedTuple):
    """How far a search is: sets solved, of how many; the marks so far."""

    done: int
    of: int
    points: Callable[[], Marks]


@dataclass(frozen=True)
class SearchResult:
    """What was looked at and found.

    complete    whether every set within the budget was solved; of `every` number of steps and fewer all were
    sets        how many were solved, of `listed`
    unpriced    parts left out because they have no price
    frontier    sets that no other beats in both cost and value, the cheapest first
    plans       those with a name, the cheapest first
    alone       every single step that was solved, with what it buys
    least       where the budget allows nothing that helps: the cheapest step that any part offers, and its price
    evaluator   with every forecast that was made on the way
    """

    complete: bool
    every: int
    sets: int
    listed: int
    seconds: float
    budget: float
    unpriced: tuple[str, ...]
    as_found: Outcome
    points: Marks
    frontier: tuple[Outcome, ...]
    plans: tuple[Plan, ...]
    alone: tuple[Alone, ...]
    least: tuple[str, float] | None
    evaluator: Evaluator


def search(
    job: JobDocument,
    parts: Sequence[Part],
    entries: Entries | None = None,
    *,
    budget: float | None = None,
    most: int | None = None,
    seen: Callable[[Progress], bool] | None = None,
) -> SearchResult:
    """Every set of steps within a budget. Raises BadInput for parts, wishes or goals that make no sense.

    budget   of parts and hours; the job's cost goal where none is given
    most     sets that are solved at most
    seen     told as it goes; a false answer stops it
    """
    began = time.monotonic()
    compiled.prepare()
    evaluator = Evaluator(job, parts)
    limit = budget_of(job, budget)
    if evaluator.as_found.gain_db is None and evaluator.as_found.below_v == 0 and not evaluator.goals:
        raise BadInput("holds nothing as found; the plan starts from an operating point", "amplifiers")
    usable, unpriced = _priced(slots(job, parts, entries), evaluator)
    sets = sets_within(usable, evaluator, limit, names_in(job), job.plan.pins)
    run = _Run(sets, evaluator, most)
    while run.done < run.most:
        if seen is not None and not seen(Progress(run.done, run.most, run.preliminary)):
            break
        run.on()
    complete = run.done == len(sets)
    frontier = run.safe_frontier()
    return SearchResult(
        complete=complete,
        every=run.every(),
        sets=run.done,
        listed=len(sets),
        seconds=time.monotonic() - began,
        budget=limit,
        unpriced=unpriced,
        as_found=evaluator.as_found,
        points=run.points(frontier),
        frontier=tuple(run.outcome(i) for i in frontier),
        plans=_named(run, frontier, "cheapest" if complete else "cheapest found"),
        alone=tuple(run.alone()),
        least=_least(usable, evaluator, limit),
        evaluator=evaluator,
    )


class _Run:
    """The sets of a search and what they came to, as far as it is.

    *Screened*: in the state that watts are compared in every set is solved, which bounds it from above: another state
    may only take value away; so may the load, where no converter, relay or limit of a bank's management is in the car.
    A set whose bound a solved and safe one reaches for no more money is on no frontier; where its bound meets no more
    goals than one that costs no more, it is not the cheapest that meets them either. Such a set is solved farther only
    if the picture shows it.
    """

    def __init__(self, sets: Sets, evaluator: Evaluator, most: int | None) -> None:
        self.sets, self.evaluator, self.done = sets, evaluator, 0
        self.at_once = AtOnce(sets, evaluator)
        self.most = min(len(sets), most or len(sets))
        self.gain_db, self.terminal_v, self.engine_off_min, self.below_v = (
            np.full(self.most, np.nan) for _ in range(4)
        )
        self.meets, self.solved, self.unsafe = (np.zeros(self.most, bool) for _ in range(3))

    def on(self) -> None:
        """Solves the next sets in the state that watts are compared in."""
        step = min(max(FIRST, self.done), AT_ONCE)
        part = np.arange(self.done, min(self.done + step, self.most))
        self._solve(part, ONE_STATE)
        self.done += len(part)

    def _solve(self, some: Ints, far: int) -> None:
        if len(some):
            sets, farthest = self.sets, self.at_once.farthest
            given = (sets.digits[some], sets.cost[some], sets.hours[some], sets.weight_kg[some])
            self._put(some, self.at_once.values(*given, min(far, farthest)))
            self.solved[some] = far >= farthest

    def _put(self, some: Ints, found: SetValues) -> None:
        columns = (self.gain_db, self.terminal_v, self.engine_off_min, self.below_v, self.meets)
        for whole, values in zip(columns, found, strict=True):
            whole[some] = values

    def settle(self) -> None:
        """Solves as far as is asked whatever could be on the frontier or the cheapest that meets the goals."""
        waiting = np.flatnonzero(~self.solved[: self.done])
        if not len(waiting):
            return
        single = np.count_nonzero(self.sets.digits[waiting], axis=1) <= 1
        self._solve(waiting[single], AFTER_LOAD)  # told by themselves as well
        waiting = waiting[~single]
        waiting = waiting[np.lexsort((-self.value(waiting), self.cost[waiting]))]
        first, group = 0, FIRST_GROUP
        while first < len(waiting):
            some = waiting[first : first + group]
            first, group = first + group, min(2 * group, LAST_GROUP)
            for far in range(EVERY_STATE, self.at_once.farthest + 1):
                some = some[~self._beaten(some)]
                self._solve(some, far)

    def _beaten(self, some: Ints) -> NDArray[np.bool_]:
        """Which of some sets, by their bounds, cannot be better than what is solved and safe."""
        cost, left = self.cost, self._left
        left = left[np.argsort(cost[left], kind="stable")]
        best = np.concatenate([[-np.inf], np.maximum.accumulate(self.value(left))])
        lost = best[np.searchsorted(cost[left], cost[some], side="right")] >= self.value(some)
        meeting = left[self.meets[left]]
        if not len(meeting):
            return np.asarray(lost & ~self.meets[some])
        least = np.round(cost[meeting], 2).min()
        return np.asarray(lost & (~self.meets[some] | (np.round(cost[some], 2) > least)))

    def value(self, some: Ints) -> Floats:
        """As `evaluate.value_of` has it."""
        gain_db = self.gain_db[some]
        return np.where(np.isnan(gain_db), -np.inf, gain_db - VOLT_DB * self.below_v[some])

    @property
    def _left(self) -> Ints:
        """Sets that are solved, and bring no flag to act on as far as they were asked."""
        return np.flatnonzero((self.solved & ~self.unsafe)[: self.done])

    @property
    def cost(self) -> Floats:
        return self.sets.cost[: self.done]

    def outcome(self, i: int) -> Outcome:
        """The forecast's own answer for a set."""
        return self.evaluator.of(self.sets.steps(i))

    def alone(self) -> list[Alone]:
        """Every single step that was solved, with what it buys."""
        found = []
        for i in range(self.done):
            if not self.solved[i]:
                continue
            if self.sets.count(i) > 1:
                break
            for step in self.sets.steps(i):
                found.append(Alone(step.slot, step.title, float(self.cost[i]), _known(self.gain_db[i])))
        return found

    def every(self) -> int:
        """The number of steps up to which all sets were solved."""
        if self.done == len(self.sets):
            return self.sets.count(len(self.sets) - 1) if len(self.sets) else 0
        return max(self.sets.count(self.done) - 1, 0)

    def safe_frontier(self) -> list[int]:
        """The frontier of what brings no new flag to act on: candidates that do are dropped until none does."""
        while True:
            self.settle()
            frontier = self._frontier()
            unsafe = [i for i in frontier if not self._is_safe(int(i))]
            if not unsafe:
                return [int(i) for i in frontier]

    def _frontier(self) -> Ints:
        """Of what is solved and not known to be unsafe."""
        left = self._left
        return left[not_dominated(self.cost[left], self.value(left))]

    def _is_safe(self, i: int) -> bool:
        """Whether a set brings no new flag to act on; one that does is not held against others any more."""
        self.unsafe[i] = not self.evaluator.safe(self.outcome(i))
        return not self.unsafe[i]

    def cheapest_meeting(self) -> int | None:
        """The cheapest safe set that meets every goal, of several the one of most value; maybe below the frontier."""
        while True:
            self.settle()
            left = self._left
            meeting = left[self.meets[left]]
            if not len(meeting):
                return None
            best = int(meeting[np.lexsort((-self.value(meeting), np.round(self.cost[meeting], 2)))[0]])
            if not self.outcome(best).meets:
                self.meets[best] = False
            elif self._is_safe(best):
                return best

    def points(self, frontier: Sequence[int] = ()) -> Marks:
        """Marks of the picture: all on the frontier, of the others one of those that would fall together."""
        chosen = list(dict.fromkeys([*([0] if self.done else []), *frontier, *self._marks()]))
        self._solve(np.array([i for i in chosen if not self.solved[i]], np.int64), AFTER_LOAD)
        on = set(frontier)
        return Marks(
            cost=[float(self.cost[i]) for i in chosen],
            gain_db=[_known(self.gain_db[i]) for i in chosen],
            terminal_v=[_known(self.terminal_v[i]) for i in chosen],
            meets=[bool(self.meets[i]) for i in chosen],
            frontier=[i in on for i in chosen],
            engine_off_min=[_known(self.engine_off_min[i]) for i in chosen],
        )

    def preliminary(self) -> Marks:
        """Marks of what is solved so far, with a frontier that no flag was asked of yet."""
        return self.points(self._frontier().tolist())

    def _marks(self) -> list[int]:
        gain_db, volts = self.gain_db[: self.done], self.terminal_v[: self.done]
        shown = np.flatnonzero(~np.isnan(gain_db))
        if not len(shown):
            return []
        first = distinct([_binned(each[shown]) for each in (self.cost, gain_db, np.nan_to_num(volts))])[0]
        few = shown[np.sort(first)]
        return [int(i) for i in few[:: max(-(-len(few) // MARKS), 1)]]


def _known(value: float) -> float | None:
    return None if np.isnan(value) else float(value)


def _binned(values: Floats) -> Ints:
    low, high = float(values.min()), float(values.max())
    return ((values - low) / max(high - low, 1e-9) * BINS).astype(np.int64)


def not_dominated(cost: Floats, value: Floats) -> Ints:
    """Which of some sets no other beats in both cost and value, the cheapest first; of equals the first.

    cost    (n,), compared to a hundredth; value (n,), to a thousandth
    """
    cost, value = np.round(cost, 2), np.round(value, 3)
    order = np.lexsort((-value, cost))
    best = np.maximum.accumulate(np.concatenate([[-np.inf], value[order][:-1]]))
    return order[value[order] > best]


def budget_of(job: JobDocument, budget: float | None) -> float:
    """What may be spent. Raises BadInput where nobody says.

    budget   the job's cost goal where none is given
    """
    if budget is not None:
        return budget
    stated = [goal.at_most for goal in goals.goals_of(job) if goal.quantity == "cost" and goal.at_most is not None]
    if not stated:
        raise BadInput("is missing; say how much may be spent", "budget")
    return stated[0]


def _priced(all_slots: Sequence[Slot], evaluator: Evaluator) -> tuple[list[Slot], tuple[str, ...]]:
    """Slots with the steps whose prices are known, and the names of what has none."""
    missing: dict[str, None] = {}
    usable = []
    for slot in all_slots:
        steps = []
        for step in slot.steps:
            missing |= dict.fromkeys(step.unpriced)
            if step.hours and evaluator.rate is None:
                missing |= {"an hour of labour": None}
            elif not step.unpriced:
                steps.append(step)
        if steps:
            usable.append(Slot(slot.key, slot.words, tuple(steps)))
    return usable, tuple(missing)


def _least(usable: Sequence[Slot], evaluator: Evaluator, budget: float) -> tuple[str, float] | None:
    """The cheapest step that is bought and its price, where the budget allows none of them."""
    bought = [(evaluator.cost((step,)), step.title) for slot in usable for step in slot.steps if step.part]
    cheapest = min(bought, default=None)
    return None if cheapest is None or cheapest[0] <= budget else (cheapest[1], cheapest[0])


def _named(run: _Run, frontier: Sequence[int], cheapest: str) -> tuple[Plan, ...]:
    """The cheapest that meets every goal, the best for the budget, the best next step, and the knee."""
    found: dict[str, int] = {}
    if (meeting := run.cheapest_meeting()) is not None:
        found[f"{cheapest} that meets every goal"] = meeting
    value, cost = run.value(np.arange(run.done)), run.cost
    single = [i for i in frontier if run.sets.count(i) == 1]
    if single:
        found["best next step"] = max(single, key=lambda i: (value[i] - value[0]) / (cost[i] + 1))
    if (knee := _knee(cost[frontier], value[frontier])) is not None:
        found["knee: beyond it a decibel costs more than twice as much"] = frontier[knee]
    if frontier:
        found["best for the budget"] = frontier[-1]
    names: dict[int, list[str]] = {}
    for name, i in found.items():
        names.setdefault(i, []).append(name)
    plans = [Plan("; ".join(each), run.outcome(i)) for i, each in names.items()]
    return tuple(sorted(plans, key=lambda plan: plan.outcome.cost))


def _knee(cost: Floats, value: Floats) -> int | None:
    """The last set before a decibel costs more than twice what it cost up to there."""
    for k in range(1, len(cost) - 1):
        so_far = (cost[k] - cost[0]) / max(value[k] - value[0], 1e-6)
        beyond = (cost[k + 1] - cost[k]) / max(value[k + 1] - value[k], 1e-6)
        if cost[k - 1] < cost[k] and beyond > KNEE * so_far:
            return k
    return None
