"""What a set of steps comes to: cost, goals, volts, watts and decibels, by the forecast that is used everywhere.

Left out: which sets are looked at (see `search`), and in which order they are fitted (see `ladder`).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import zip_longest

from underhood.circuit.build import Circuit, build_circuit
from underhood.decibels import decibels
from underhood.document.job import Goal, JobDocument
from underhood.document.part import Part
from underhood.errors import BadInput
from underhood.forecast import findings, goals, load_curves
from underhood.forecast.forecast import Forecast, make_forecast
from underhood.forecast.results import GoalResult
from underhood.harness import results
from underhood.plan.steps import LABOUR, Step, applied

VOLT_DB = 10.0
"""Decibels that a volt below a goal is worth [P]."""
NOTHING_HOLDS_V = 3.0
"""Counts as so far below a goal, where nothing holds at all [P]."""
PRICED = ("cost", "hours", "weight_kg", "gain_db")


@dataclass(frozen=True)
class Outcome:
    """What a set of steps comes to.

    cost         of parts and hours, tax apart
    goals        each goal of the job with its value for the car with these steps
    terminal_v   the first volts goal's value; else the lowest of all amplifiers at the basis
    front_v      volts at the front posts at the loudest moment of the basis
    gain_db      level at the tone over that of the car as found, in the state of the first goal, where driver and box
                 are known; else mean watts over its
    below_v      how far the volts goals are missed, added up
    """

    steps: tuple[Step, ...]
    job: JobDocument
    cost: float
    hours: float
    weight_kg: float
    goals: tuple[GoalResult, ...]
    terminal_v: float | None
    front_v: float | None
    delivered_w: float | None
    gain_db: float | None
    below_v: float

    @property
    def meets(self) -> bool:
        """Whether every goal is met."""
        return all(goal.met for goal in self.goals)

    @property
    def engine_off_min(self) -> float | None:
        """The first value of a goal of minutes with the engine off."""
        return next((goal.value for goal in self.goals if goal.quantity == "engine_off_min"), None)

    @cached_property
    def acts(self) -> frozenset[tuple[str, str]]:
        """Flags that somebody must act on, by code and field."""
        forecast = make_forecast(self.job)
        flags = findings.build(forecast, results.build(forecast))
        return frozenset((flag.code, flag.field) for flag in flags if flag.severity == "act")


def value_of(outcome: Outcome) -> float:
    """What a car is worth along the way: decibels gained, less ten for each volt below a goal [P]."""
    gained = -math.inf if outcome.gain_db is None else outcome.gain_db
    return gained - VOLT_DB * outcome.below_v


class _Made:
    """The forecasts of one car, one for each state that is asked for."""

    def __init__(self) -> None:
        self.known: dict[goals.StateKey, Forecast] = {}

    def __call__(self, job: JobDocument) -> Forecast:
        state = goals.key_of(job)
        if state not in self.known:
            self.known[state] = make_forecast(job)
        return self.known[state]


class Evaluator:
    """Answers for sets of steps of one job; each set once.

    stated   the state that watts are compared in, as `goals.key_of` has it
    base_w   mean watts of the car as found there, by which decibels gained are counted
    """

    def __init__(self, job: JobDocument, parts: Sequence[Part]) -> None:
        self.job = job
        self.goals: list[Goal] = goals.goals_of(job)
        self.rate = hourly(parts)
        self._known: dict[tuple[str, ...], Outcome] = {}
        self.stated = goals.key_of(self._heard_in(job))
        self._watt_db = [
            load_curves.watt_db(each, self.stated[2]) for each in build_circuit(self._heard_in(job)).loaded
        ]
        self.base_w = self._heard_w(job, _Made())

    @cached_property
    def as_found(self) -> Outcome:
        """The car with nothing done."""
        return self.of(())

    def cost(self, steps: Sequence[Step]) -> float:
        """Parts and hours. Raises BadInput naming what has no price."""
        missing = [name for step in steps for name in step.unpriced]
        hours = sum(step.hours for step in steps)
        if missing:
            raise BadInput(f"{missing[0]!r} has no price; enter one, nothing is taken for free", "price")
        if hours and self.rate is None:
            raise BadInput("an hour of labour has no price; add a part of the kind labour", "price")
        return sum(step.parts_cost for step in steps) + hours * (self.rate or 0.0)

    def of(self, steps: Sequence[Step]) -> Outcome:
        """The outcome of some steps, one a slot."""
        key = tuple(sorted(step.slot + step.title for step in steps))
        if key not in self._known:
            self._known[key] = self._outcome(tuple(steps))
        return self._known[key]

    def safe(self, outcome: Outcome) -> bool:
        """Whether nothing has to be acted on that was not there before."""
        return outcome.acts <= self.as_found.acts

    def _outcome(self, steps: tuple[Step, ...]) -> Outcome:
        job, made = applied(self.job, steps), _Made()
        cost, hours = self.cost(steps), sum(step.hours for step in steps)
        weight_kg = sum(step.weight_kg for step in steps)
        watts = self._heard_w(job, made)
        gain_db = decibels(watts / self.base_w) if watts and self.base_w else None
        priced = {"cost": cost, "hours": hours, "weight_kg": weight_kg, "gain_db": gain_db}
        found = [
            self._priced(goal, result, priced[goal.quantity]) if goal.quantity in PRICED else result
            for goal, result in zip(self.goals, goals.answers(job, made), strict=True)
        ]
        forecast = made(job)
        at_basis = min((each.terminal_low_v for each in forecast.amplifiers), default=None)
        volts = [result.value for result in found if result.quantity == "terminal_v"]
        return Outcome(
            steps=steps,
            job=job,
            cost=cost,
            hours=hours,
            weight_kg=weight_kg,
            goals=tuple(found),
            terminal_v=volts[0] if volts else at_basis,
            front_v=float(forecast.point.peak_volts[0]) if forecast.point else None,
            delivered_w=sum(each.delivered_w for each in forecast.amplifiers) if forecast.amplifiers else None,
            gain_db=gain_db,
            below_v=sum(self._below_v(goal, result) for goal, result in zip(self.goals, found, strict=True)),
        )

    @staticmethod
    def _priced(goal: Goal, result: GoalResult, value: float | None) -> GoalResult:
        return replace(result, value=value, met=goals.met(goal, value))

    @staticmethod
    def _below_v(goal: Goal, result: GoalResult) -> float:
        if goal.quantity not in ("terminal_v", "front_v") or goal.at_least is None:
            return 0.0
        return NOTHING_HOLDS_V if result.value is None else max(goal.at_least - result.value, 0.0)

    def _heard_in(self, job: JobDocument) -> JobDocument:
        """A job in the state that the first goal with one names, which watts are compared in."""
        stated = [goal for goal in self.goals if goal.quantity not in PRICED and goal.quantity != "engine_off_min"]
        return goals.state_of(job, stated[0]) if stated else job

    def heard(self, circuit: Circuit) -> list[float]:
        """What a watt of each amplifier is worth against one of the car as found, by the level that each makes.

        circuit   the car with some steps, in the state that watts are compared in
        1 where driver or box are not known. Several amplifiers count by their watts as found [P].
        """
        now = [load_curves.watt_db(each, self.stated[2]) for each in circuit.loaded]
        return [
            1.0 if after is None or before is None else float(10 ** ((after - before) / 10))
            for after, before in zip_longest(now, self._watt_db[: len(now)])
        ]

    def _heard_w(self, job: JobDocument, made: _Made) -> float | None:
        """Mean watts of all amplifiers, each worth what it makes heard; None where the car does not hold them."""
        forecast = made(self._heard_in(job))
        if not forecast.operating_point:
            return None
        worth = self.heard(forecast.circuit)
        return sum(each.delivered_mean_w * of for each, of in zip(forecast.amplifiers, worth, strict=True))


def hourly(parts: Sequence[Part]) -> float | None:
    """What an hour costs: that of the first part of the kind labour that has a price."""
    return next((part.price for part in parts if part.kind == LABOUR and part.price is not None), None)
