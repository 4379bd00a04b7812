"""Looks at every set of steps that the budget allows, and names the plans that a person wants to see.

Exact: all sets are solved, one by one, those of fewest steps first, and of these the cheapest; a stop says what was
reached. Nothing is pruned but by cost:
a stronger charger may bring new flags, a larger battery may lower the volts at idle. Flags are asked of candidates.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from underhood.document.job import JobDocument
from underhood.document.part import Part
from underhood.errors import BadInput
from underhood.forecast import goals
from underhood.plan.evaluate import Evaluator, Outcome, value_of
from underhood.plan.steps import Entries, Slot, Step, slots

__all__ = [
    "MOST_SETS",
    "SOLVED",
    "Plan",
    "SearchResult",
    "goes_together",
    "names_in",
    "not_dominated",
    "search",
    "sets_within",
]

MOST_SETS = 200_000
"""Sets that are listed at most."""
SOLVED = 4000
"""Of them solved at most, those of fewest steps first."""
KNEE = 2.0
"""The knee lies where a decibel begins to cost more than so many times what it did."""
SAME_COST = 0.005


@dataclass(frozen=True)
class Plan:
    """A set of steps with a name of its own."""

    name: str
    outcome: Outcome


@dataclass(frozen=True)
class SearchResult:
    """What was looked at and found.

    complete    whether every set within the budget was solved; of `every` number of steps and fewer all were
    sets        how many were solved, of `listed`
    unpriced    parts left out because they have no price
    frontier    sets that no other beats in both cost and value, the cheapest first
    plans       those with a name, the cheapest first
    """

    complete: bool
    every: int
    sets: int
    listed: int
    seconds: float
    budget: float
    unpriced: tuple[str, ...]
    as_found: Outcome
    outcomes: tuple[Outcome, ...]
    frontier: tuple[Outcome, ...]
    plans: tuple[Plan, ...]


def search(
    job: JobDocument,
    parts: Sequence[Part],
    entries: Entries | None = None,
    *,
    budget: float | None = None,
    most: int = SOLVED,
    seen: Callable[[int, int], bool] | None = None,
) -> SearchResult:
    """Every set of steps within a budget. Raises BadInput for parts, wishes or goals that make no sense.

    budget   of parts and hours; the job's cost goal where none is given
    most     sets that are solved at most
    seen     told (done, to do) as it goes; a false answer stops it
    """
    began = time.monotonic()
    evaluator = Evaluator(job, parts)
    limit = _budget(job, budget)
    if evaluator.as_found.gain_db is None and evaluator.as_found.below_v == 0 and not evaluator.goals:
        raise BadInput("holds nothing as found; the plan starts from an operating point", "amplifiers")
    usable, unpriced = _priced(slots(job, parts, entries), evaluator)
    listed = sorted(sets_within(usable, evaluator, limit, names_in(job), job.plan.pins), key=_fewest_first)
    outcomes: list[Outcome] = []
    for done, (_, steps) in enumerate(listed[:most]):
        if seen is not None and not seen(done, min(len(listed), most)):
            break
        outcomes.append(evaluator.of(steps))
    complete = len(outcomes) == len(listed)
    frontier = _safe_frontier(outcomes, evaluator)
    return SearchResult(
        complete=complete,
        every=_every(listed, len(outcomes)),
        sets=len(outcomes),
        listed=len(listed),
        seconds=time.monotonic() - began,
        budget=limit,
        unpriced=unpriced,
        as_found=evaluator.as_found,
        outcomes=tuple(outcomes),
        frontier=frontier,
        plans=_named(frontier, outcomes, evaluator, "cheapest" if complete else "cheapest found"),
    )


def _fewest_first(listed: tuple[float, tuple[Step, ...]]) -> tuple[int, float]:
    cost, steps = listed
    return len(steps), cost


def _every(listed: Sequence[tuple[float, tuple[Step, ...]]], solved: int) -> int:
    """The number of steps up to which all sets were solved."""
    most = max((len(steps) for _, steps in listed), default=0)
    return most if solved == len(listed) else max(len(listed[solved][1]) - 1, 0)


def _budget(job: JobDocument, budget: float | None) -> float:
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


def names_in(job: JobDocument) -> frozenset[str]:
    """What is in the car already, by name."""
    lists = (job.chargers, job.banks, job.capacitors, job.amplifiers)
    return frozenset(each.name for parts in lists for each in parts)


def sets_within(
    all_slots: Sequence[Slot],
    evaluator: Evaluator,
    budget: float,
    present: frozenset[str] = frozenset(),
    pins: Sequence[str] = (),
) -> Iterator[tuple[float, tuple[Step, ...]]]:
    """(cost, steps) of every set that the budget allows and whose needs are met, nothing done among them.

    present   names that are in the car already; `pins` must be among the parts of every set
    Raises BadInput for more sets than can be listed, and for a pin that no part is.
    """
    offered = {step.part for slot in all_slots for step in slot.steps}
    for pin in pins:
        if pin not in offered:
            raise BadInput(f"{pin!r} is no part that fits this job and has a price", "plan.pins")
    count = 0

    def onward(k: int, cost: float, steps: tuple[Step, ...]) -> Iterator[tuple[float, tuple[Step, ...]]]:
        nonlocal count
        if k == len(all_slots):
            if goes_together(steps, present, pins):
                count += 1
                if count > MOST_SETS:
                    raise BadInput(f"allows more than {MOST_SETS:,} sets; lower it, or keep some parts", "budget")
                yield cost, steps
            return
        yield from onward(k + 1, cost, steps)
        for step in all_slots[k].steps:
            more = cost + evaluator.cost((step,))
            if more <= budget + SAME_COST:
                yield from onward(k + 1, more, (*steps, step))

    yield from onward(0, 0.0, ())


def goes_together(steps: Sequence[Step], present: frozenset[str], pins: Sequence[str]) -> bool:
    """Whether all pins are among some steps, with everything that these need and nothing that they exclude.

    present   names that are in the car already
    """
    chosen = {step.part for step in steps if step.part}
    if not chosen.issuperset(pins):
        return False
    there = chosen | present
    return all(there.issuperset(step.needs) and chosen.isdisjoint(step.excludes) for step in steps)


def not_dominated(outcomes: Sequence[Outcome]) -> tuple[Outcome, ...]:
    """Those that no other beats in both cost and value, the cheapest first; of equals the one of fewest steps."""
    best: list[Outcome] = []
    for each in sorted(outcomes, key=lambda o: (round(o.cost, 2), -round(value_of(o), 3), len(o.steps))):
        if not best or round(value_of(each), 3) > round(value_of(best[-1]), 3):
            best.append(each)
    return tuple(best)


def _safe_frontier(outcomes: Sequence[Outcome], evaluator: Evaluator) -> tuple[Outcome, ...]:
    """The frontier of what brings no new flag to act on: candidates that do are dropped until none does."""
    left = list(outcomes)
    while True:
        frontier = not_dominated(left)
        unsafe = {id(each) for each in frontier if not evaluator.safe(each)}
        if not unsafe:
            return frontier
        left = [each for each in left if id(each) not in unsafe]


def _cheapest_meeting(outcomes: Sequence[Outcome], evaluator: Evaluator) -> Outcome | None:
    """The cheapest safe set that meets every goal, of several the one of most value: it may lie below the frontier."""
    meeting = sorted((each for each in outcomes if each.meets), key=lambda o: (round(o.cost, 2), -value_of(o)))
    return next((each for each in meeting if evaluator.safe(each)), None)


def _named(
    frontier: Sequence[Outcome], outcomes: Sequence[Outcome], evaluator: Evaluator, cheapest: str
) -> tuple[Plan, ...]:
    """The cheapest that meets every goal, the best for the budget, the best next step, and the knee."""
    found: dict[str, Outcome] = {}
    if meeting := _cheapest_meeting(outcomes, evaluator):
        found[f"{cheapest} that meets every goal"] = meeting
    single = [each for each in frontier if len(each.steps) == 1]
    if single:
        found["best next step"] = max(single, key=lambda o: (value_of(o) - value_of(evaluator.as_found)) / (o.cost + 1))
    if knee := _knee(frontier):
        found["knee: beyond it a decibel costs more than twice as much"] = knee
    if frontier:
        found["best for the budget"] = frontier[-1]
    plans: dict[int, Plan] = {}
    for name, outcome in found.items():
        known = plans.get(id(outcome))
        plans[id(outcome)] = Plan(f"{known.name}; {name}" if known else name, outcome)
    return tuple(sorted(plans.values(), key=lambda plan: plan.outcome.cost))


def _knee(frontier: Sequence[Outcome]) -> Outcome | None:
    """The last set before a decibel costs more than twice what it cost up to there."""
    for before, here, after in zip(frontier, frontier[1:], frontier[2:], strict=False):
        so_far = (here.cost - frontier[0].cost) / max(value_of(here) - value_of(frontier[0]), 1e-6)
        beyond = (after.cost - here.cost) / max(value_of(after) - value_of(here), 1e-6)
        if before.cost < here.cost and beyond > KNEE * so_far:
            return here
    return None
