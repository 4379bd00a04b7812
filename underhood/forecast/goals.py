"""Whether a car meets the goals of its job: volts and watts at the loudest moment, after the load has run a while.

A full battery hides a shortfall: the mean load runs for the goal's minutes, and the loudest
moment is solved from the charge that is left. Left out: goals that count from another car or need prices (gain, cost,
hours, weight), which a plan answers.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import TypeAlias

from underhood.circuit.operating_point import solve
from underhood.document.job import Basis, Engine, Goal, GoalQuantity, JobDocument, Programme
from underhood.document.quantity import Quantity
from underhood.forecast.forecast import Forecast, make_forecast
from underhood.forecast.results import GoalResult
from underhood.forecast.simulation import minutes_to_low

GOAL_WORDS: dict[GoalQuantity, tuple[str, str]] = {
    "terminal_v": ("volts at the amplifier", "V"),
    "front_v": ("volts at the front posts", "V"),
    "delivered_w": ("watts delivered", "W"),
    "gain_db": ("gain over today", "dB"),
    "engine_off_min": ("minutes with the engine off", "min"),
    "cost": ("cost", ""),
    "hours": ("hours of work", "h"),
    "weight_kg": ("weight added", "kg"),
}
"""What each is called, and its unit."""
StateKey: TypeAlias = tuple[Engine, Programme, float]
"""What tells states apart: engine, programme, tone in Hz."""
OF_A_PLAN: tuple[GoalQuantity, ...] = ("gain_db", "cost", "hours", "weight_kg")


def goals_of(job: JobDocument) -> list[Goal]:
    """The job's goals; what older files state as targets among them."""
    goals = list(job.goals)
    stated = {goal.quantity for goal in goals}
    if job.targets.budget and "cost" not in stated:
        goals.append(Goal(quantity="cost", at_most=job.targets.budget.value))
    if job.targets.delivered_w and "delivered_w" not in stated:
        goals.append(Goal(quantity="delivered_w", at_least=job.targets.delivered_w.value))
    return goals


def answers(job: JobDocument, made: Callable[[JobDocument], Forecast] = make_forecast) -> list[GoalResult]:
    """Each goal of a job, as the car is.

    made   the forecast of the job in another state, which somebody may have at hand
    """
    loudest: dict[tuple[StateKey, float], Forecast] = {}

    def worn_in(state: JobDocument, minutes: float) -> Forecast:
        """Goals of one state share what the load has left of the car."""
        key = (key_of(state), minutes)
        if key not in loudest:
            loudest[key] = worn(made(state), minutes)
        return loudest[key]

    return [_answer(job, goal, worn_in) for goal in goals_of(job)]


def met(goal: Goal, value: float | None) -> bool:
    """Whether a value meets a goal."""
    if value is None:
        return False
    return value >= wanted(goal) if goal.at_least is not None else value <= wanted(goal)


def wanted(goal: Goal) -> float:
    """The number that a goal asks for."""
    return goal.at_least if goal.at_least is not None else goal.at_most or 0.0


def state_of(job: JobDocument, goal: Goal) -> JobDocument:
    """The job in the state that a goal is about."""
    changes: dict[str, object] = {
        name: value for name in ("engine", "programme") if (value := getattr(goal, name)) is not None
    }
    if goal.tone_hz is not None:
        changes["tone_hz"] = Quantity(goal.tone_hz)
    if goal.quantity == "engine_off_min":
        changes["engine"] = "off"
    basis: Basis = job.basis.model_copy(update=changes)
    return job.model_copy(update={"basis": basis})


def key_of(job: JobDocument) -> StateKey:
    """The state that a job is in."""
    return job.basis.engine, job.basis.programme, job.basis.tone_hz.value


def in_state(job: JobDocument, state: StateKey) -> JobDocument:
    """The job in a state."""
    engine, programme, tone_hz = state
    changes = {"engine": engine, "programme": programme, "tone_hz": Quantity(tone_hz)}
    return job.model_copy(update={"basis": job.basis.model_copy(update=changes)})


def worn(forecast: Forecast, minutes: float) -> Forecast:
    """The same car with its batteries as the mean load leaves them after some minutes of what it plays.

    forecast   in the state of its basis
    minutes    of the load, min
    """
    engine = forecast.job.basis.engine
    if minutes <= 0 or not forecast.job.banks:
        return forecast
    return Forecast(forecast.circuit, {engine: solve(forecast.circuit, engine, minutes)})


def _answer(job: JobDocument, goal: Goal, worn_in: Callable[[JobDocument, float], Forecast]) -> GoalResult:
    words, number = sentence(goal, job.basis), wanted(goal)
    if goal.quantity in OF_A_PLAN:
        return GoalResult(goal.quantity, words, number, None, None, None, None)
    state = state_of(job, goal)
    value, low, high = (
        _minutes(state) if goal.quantity == "engine_off_min" else _loudest(worn_in(state, goal.minutes), goal)
    )
    return GoalResult(goal.quantity, words, number, value, low, high, met(goal, value))


def _minutes(state: JobDocument) -> tuple[float | None, float | None, float | None]:
    return minutes_to_low(state), None, None


def _loudest(forecast: Forecast, goal: Goal) -> tuple[float | None, float | None, float | None]:
    """(value, lowest, highest) at the loudest moment of a car whose load has run."""
    if forecast.point is None or not forecast.operating_point:
        return None, None, None
    if goal.quantity == "front_v":
        return float(forecast.point.peak_volts[0]), None, None
    if not forecast.amplifiers:
        return None, None, None
    if goal.quantity == "terminal_v":
        return min(each.terminal_low_v for each in forecast.amplifiers), None, None
    return _sums([(each.delivered_w, each.low_w, each.high_w) for each in forecast.amplifiers])


def _sums(of_each: Sequence[tuple[float, float, float]]) -> tuple[float, float, float]:
    value, low, high = (math.fsum(each) for each in zip(*of_each, strict=True))
    return value, low, high


def sentence(goal: Goal, basis: Basis) -> str:
    """A goal in words: "at least 12.5 V at the amplifier, at idle with held bass, after 30 minutes"."""
    words, unit = GOAL_WORDS[goal.quantity]
    much = f"{'at least' if goal.at_least is not None else 'at most'} {wanted(goal):g}"
    where = {"off": "with the engine off", "idle": "at idle", "cruise": "at cruise"}[goal.engine or basis.engine]
    playing = (goal.programme or basis.programme).replace("_", " ")
    match goal.quantity:
        case "gain_db" | "cost" | "hours" | "weight_kg":
            return f"{much} {unit} {words}".replace("  ", " ")
        case "engine_off_min":
            return f"{much} {words}, playing {playing}, until a battery is at 12 V"
        case _:
            after = f", after {goal.minutes:g} minutes of it" if goal.minutes else ""
            return f"{much} {words.replace('volts', 'V').replace('watts', 'W')}, {where} with {playing}{after}"
