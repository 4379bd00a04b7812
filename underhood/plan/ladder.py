"""The order in which a plan is fitted: stages that each leave a safe car, and give most along the way.

Saving the same each month, the best order has the least of cost times what is still missing, summed over the stages.
All subsets of the plan are solved once; a dynamic programme over them finds it, equal to trying every order. Left out:
what a step buys for its money (see `reasons`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from underhood.errors import BadInput
from underhood.plan.evaluate import Evaluator, Outcome, value_of
from underhood.plan.sets import goes_together, names_in
from underhood.plan.steps import Step

MOST_STEPS = 9
WORTH = 0.01
"""Decibels (or tenths of a volt) below which a step does nothing that can be told."""


@dataclass(frozen=True)
class Stage:
    """One visit to the workshop: what is done, and the car after it.

    cost      of this stage alone; the outcome's is that of all so far
    gained, lost   flags to act on that it brings or takes away, by code
    volts     gained at the amplifier, `gain_db` of the whole car by it
    """

    title: str
    steps: tuple[Step, ...]
    outcome: Outcome
    cost: float
    volts: float | None
    gain_db: float | None
    gained: tuple[str, ...]
    lost: tuple[str, ...]


def without_the_idle(outcome: Outcome, evaluator: Evaluator) -> Outcome:
    """The plan without steps that buy nothing which can be told, the dearest first."""
    steps = list(outcome.steps)
    for step in sorted(outcome.steps, key=lambda each: -evaluator.cost((each,))):
        rest = tuple(each for each in steps if each is not step)
        if not step.part or step.part in evaluator.job.plan.pins or not _complete(rest, evaluator):
            continue
        thinner = evaluator.of(rest)
        worse = value_of(evaluator.of(tuple(steps))) - value_of(thinner)
        if worse < WORTH and (thinner.meets or not outcome.meets) and evaluator.safe(thinner):
            steps.remove(step)
    return evaluator.of(tuple(steps))


def ladder(outcome: Outcome, evaluator: Evaluator) -> tuple[Stage, ...]:
    """The best order of a plan's steps. Raises BadInput for more steps than orders can be tried of."""
    return fitted_in(order_of(outcome, evaluator), evaluator)


def order_of(outcome: Outcome, evaluator: Evaluator) -> tuple[tuple[Step, ...], ...]:
    """The plan's steps as stages, each of one step where the car is safe after it."""
    steps = outcome.steps
    if len(steps) > MOST_STEPS:
        raise BadInput(f"of {len(steps)} steps is too long; at most {MOST_STEPS} can be put in order", "plan")
    full = (1 << len(steps)) - 1
    cost = [sum(evaluator.cost((step,)) for k, step in enumerate(steps) if mask >> k & 1) for mask in range(full + 1)]
    end = value_of(outcome)
    # Of each set that is done: the least sum, and the stage that came last; a plan unsafe at its end is one stage.
    best: dict[int, tuple[float, int, int]] = {0: (0.0, 0, 0)}
    for mask in sorted(range(1, full + 1), key=lambda each: each.bit_count()):
        chosen = tuple(step for k, step in enumerate(steps) if mask >> k & 1)
        if mask != full and not (_complete(chosen, evaluator) and evaluator.safe(evaluator.of(chosen))):
            continue
        for before, (so_far, stages, _) in list(best.items()):
            if before & mask == before and before != mask:
                done = evaluator.of(tuple(step for k, step in enumerate(steps) if before >> k & 1))
                missing = end - value_of(done)
                sum_ = so_far + (cost[mask] - cost[before]) * missing
                known = best.get(mask)
                # Of equal sums the one of more stages: each is a smaller outlay.
                if known is None or (round(sum_, 6), -stages - 1) < (round(known[0], 6), -known[1]):
                    best[mask] = (sum_, stages + 1, before)
    stages_back, mask = [], full
    while mask:
        before = best[mask][2]
        stages_back.append(tuple(step for k, step in enumerate(steps) if (mask ^ before) >> k & 1))
        mask = before
    return tuple(reversed(stages_back))


def fitted_in(order: Sequence[Sequence[Step]], evaluator: Evaluator) -> tuple[Stage, ...]:
    """The stages of an order. Raises BadInput where one leaves a car that somebody must act on, saying why."""
    stages: list[Stage] = []
    done: tuple[Step, ...] = ()
    before = evaluator.as_found
    for number, steps in enumerate(order, start=1):
        done = (*done, *steps)
        after = evaluator.of(done)
        if not _complete(done, evaluator):
            needs = next(name for step in done for name in step.needs if name not in {each.part for each in done})
            raise BadInput(f"comes before {needs!r}, which it needs", f"stages.{number}")
        new = sorted({code for code, _ in after.acts - evaluator.as_found.acts})
        if new and number < len(order):
            raise BadInput(
                f"would leave {', '.join(new).replace('_', ' ')} to act on; fit it later", f"stages.{number}"
            )
        stages.append(
            Stage(
                title="; ".join(step.title for step in steps),
                steps=tuple(steps),
                outcome=after,
                cost=after.cost - before.cost,
                volts=_difference(after.terminal_v, before.terminal_v),
                gain_db=_difference(after.gain_db, before.gain_db),
                gained=tuple(sorted({code for code, _ in after.acts - before.acts})),
                lost=tuple(sorted({code for code, _ in before.acts - after.acts})),
            )
        )
        before = after
    return tuple(stages)


def _complete(steps: Sequence[Step], evaluator: Evaluator) -> bool:
    return goes_together(steps, names_in(evaluator.job), ())


def _difference(after: float | None, before: float | None) -> float | None:
    return None if after is None or before is None else after - before
