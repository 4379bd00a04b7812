"""A plan as a person puts it together: their stages in their order, and what could take the place of a step.

Left out: which steps and which order are best (see `search` and `ladder`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from underhood.document.job import JobDocument
from underhood.document.part import Part
from underhood.errors import BadInput
from underhood.plan.answer import PlanResult, plan_result
from underhood.plan.evaluate import Evaluator, hourly, value_of
from underhood.plan.ladder import fitted_in
from underhood.plan.steps import Entries, Slot, Step, slots

MOST_SWAPS = 12
"""Steps of a slot that are looked at, those of like price [P]."""


@dataclass(frozen=True, slots=True)
class Swap:
    """A step in place of another, and the plan's car with it."""

    title: str
    cost: float
    terminal_v: float | None
    gain_db: float | None
    meets_goals: bool
    safe: bool


def arranged(
    job: JobDocument, parts: Sequence[Part], entries: Entries | None, stages: Sequence[Sequence[str]]
) -> PlanResult:
    """The plan of some stages, each of steps by their titles.

    Raises BadInput for a step that the parts do not offer or that stands twice, and for an order that leaves a car to
    act on, saying why.
    """
    evaluator, offered = Evaluator(job, parts), slots(job, parts, entries)
    order, taken = [], set()
    for number, titles in enumerate(stages, start=1):
        steps = [_step(offered, title, f"stages.{number}") for title in titles]
        for step in steps:
            if step.slot in taken:
                raise BadInput(f"{step.title!r} takes the place of what an earlier step changed", f"stages.{number}")
            taken.add(step.slot)
        if steps:
            order.append(tuple(steps))
    fitted = fitted_in(order, evaluator)
    return plan_result("yours", evaluator.of([step for steps in order for step in steps]), fitted)


def swaps(
    job: JobDocument, parts: Sequence[Part], entries: Entries | None, steps: Sequence[str], title: str
) -> list[Swap]:
    """What could be put in place of a step of a plan, the most valuable first.

    steps   of the plan, by their titles; `title` is the one to replace
    """
    evaluator, offered = Evaluator(job, parts), slots(job, parts, entries)
    old = _step(offered, title, "title")
    rest = [_step(offered, each, "steps") for each in steps if each != title]
    slot = next(each for each in offered if each.key == old.slot)
    priced = [step for step in slot.steps if step.title != title and not step.unpriced]
    near = sorted(priced, key=lambda step: abs(evaluator.cost((step,)) - evaluator.cost((old,))))[:MOST_SWAPS]
    outcomes = [(step, evaluator.of((*rest, step))) for step in near]
    outcomes.sort(key=lambda pair: -value_of(pair[1]))
    return [
        Swap(step.title, evaluator.cost((step,)), made.terminal_v, made.gain_db, made.meets, evaluator.safe(made))
        for step, made in outcomes
    ]


def chosen(
    job: JobDocument, parts: Sequence[Part], entries: Entries | None, titles: Sequence[str]
) -> tuple[list[Step], float | None]:
    """(the steps of some titles, what an hour costs). Raises BadInput for a step that the parts do not offer."""
    offered = slots(job, parts, entries)
    return [_step(offered, each, "steps") for each in titles], hourly(parts)


def _step(offered: Sequence[Slot], title: str, field: str) -> Step:
    for slot in offered:
        for step in slot.steps:
            if step.title == title:
                return step
    raise BadInput(f"{title!r} is no step that the price list offers for this job", field)
