"""A plan's answer as the command line and the API give it: named plans with their stages, and the reasons."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from underhood.document.job import JobDocument
from underhood.document.part import Part
from underhood.forecast import goals
from underhood.forecast.results import GoalResult
from underhood.plan import reasons as why
from underhood.plan import search as searching
from underhood.plan.cures import LossOnTheWay, losses
from underhood.plan.evaluate import Evaluator, Outcome
from underhood.plan.ladder import MOST_STEPS, Stage, ladder, without_the_idle
from underhood.plan.reasons import Reason
from underhood.plan.robustness import Robustness, robustness
from underhood.plan.search import Marks, Progress
from underhood.plan.steps import Entries, slots


@dataclass(frozen=True)
class StageResult:
    """One stage: what it costs by itself, and the car after it; `job` is its own job document.

    steps   by their titles, as `arrange` takes them; `parts` are those that they put in, by name
    """

    title: str
    steps: list[str]
    parts: list[str]
    cost: float
    hours: float
    terminal_v: float | None
    delivered_w: float | None
    gain_db: float | None
    volts_gained: float | None
    db_gained: float | None
    flags_gained: list[str]
    flags_lost: list[str]
    buys: list[str]
    removes: list[str]
    job: JobDocument


@dataclass(frozen=True)
class PlanResult:
    """A named plan. `stages` are in the order to fit them; none where its steps are too many to be put in order."""

    name: str
    cost: float
    hours: float
    weight_kg: float
    goals: list[GoalResult]
    terminal_v: float | None
    front_v: float | None
    delivered_w: float | None
    gain_db: float | None
    engine_off_min: float | None
    meets_goals: bool
    steps: list[str]
    stages: list[StageResult]


@dataclass(frozen=True, slots=True)
class Least:
    """The cheapest step that is bought, and what it costs."""

    title: str
    cost: float


@dataclass(frozen=True)
class PlanAnswer:
    """What a search found (see `search.SearchResult`).

    losses    where the decibels go as found, with the cheapest cure of each
    sure      how the named plans fare when every input varies; null where that is not worked out
    reasons   of the plan that meets every goal for least, else of the best one
    points    sets that were solved, as marks of a picture
    least     the cheapest step and its price, where the budget allows none
    """

    complete: bool
    every: int
    sets: int
    listed: int
    seconds: float
    budget: float
    unpriced: list[str]
    as_found: PlanResult
    plans: list[PlanResult]
    reasons: list[Reason]
    points: Marks
    least: Least | None
    losses: list[LossOnTheWay]
    sure: Robustness | None


def plan(
    job: JobDocument,
    parts: Sequence[Part],
    entries: Entries | None = None,
    *,
    budget: float | None = None,
    most: int | None = None,
    seen: Callable[[Progress], bool] | None = None,
) -> PlanAnswer:
    """Search, order and reasons; the parameters are those of `search`."""
    found = searching.search(job, parts, entries, budget=budget, most=most, seen=seen)
    evaluator = found.evaluator
    named = [(each.name, without_the_idle(each.outcome, evaluator)) for each in found.plans]
    told = next((outcome for _, outcome in named if outcome.meets), named[-1][1] if named else None)
    return PlanAnswer(
        complete=found.complete,
        every=found.every,
        sets=found.sets,
        listed=found.listed,
        seconds=found.seconds,
        budget=found.budget,
        unpriced=list(found.unpriced),
        as_found=plan_result("as found", evaluator.as_found, ()),
        plans=[plan_result(name, outcome, _stages(outcome, evaluator)) for name, outcome in named],
        points=found.points,
        losses=losses(goals.in_state(job, evaluator.stated), found.alone),
        sure=robustness(job, named, found.budget),
        least=None if found.least is None else Least(*found.least),
        reasons=[] if told is None else list(why.reasons(told, evaluator, slots(job, parts, entries))),
    )


def _stages(outcome: Outcome, evaluator: Evaluator) -> tuple[Stage, ...]:
    return ladder(outcome, evaluator) if 0 < len(outcome.steps) <= MOST_STEPS else ()


def plan_result(name: str, outcome: Outcome, stages: Sequence[Stage]) -> PlanResult:
    """A plan as it is told: its outcome, and its stages in their order."""
    return PlanResult(
        name=name,
        cost=outcome.cost,
        hours=outcome.hours,
        weight_kg=outcome.weight_kg,
        goals=list(outcome.goals),
        terminal_v=outcome.terminal_v,
        front_v=outcome.front_v,
        delivered_w=outcome.delivered_w,
        gain_db=outcome.gain_db,
        engine_off_min=outcome.engine_off_min,
        meets_goals=outcome.meets,
        steps=[step.title for step in outcome.steps],
        stages=[_stage(each) for each in stages],
    )


def _stage(stage: Stage) -> StageResult:
    lines = [line for step in stage.steps for line in step.buys]
    return StageResult(
        title=stage.title,
        steps=[step.title for step in stage.steps],
        parts=[step.part for step in stage.steps if step.part],
        cost=stage.cost,
        hours=sum(step.hours for step in stage.steps),
        terminal_v=stage.outcome.terminal_v,
        delivered_w=stage.outcome.delivered_w,
        gain_db=stage.outcome.gain_db,
        volts_gained=stage.volts,
        db_gained=stage.gain_db,
        flags_gained=list(stage.gained),
        flags_lost=list(stage.lost),
        buys=[f"{line.amount:g} {line.unit}".strip() + f" {line.name}" for line in lines],
        removes=[name for step in stage.steps for name in step.removes],
        job=stage.outcome.job,
    )
