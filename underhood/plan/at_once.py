"""What many sets come to, all at once: each set as rows for the engine, each different circuit solved once.

A step puts its rows where its slot is, each made by the forecast's own building of the job with just those steps. Left
out: flags, which are asked of candidates (see `search`).
"""

from __future__ import annotations

from functools import partial
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats, Ints
from underhood.circuit import gain
from underhood.circuit import table as t
from underhood.circuit.build import Circuit, build_circuit
from underhood.circuit.engine import solve
from underhood.document.job import Engine, Goal, JobDocument
from underhood.forecast import goals
from underhood.forecast.simulation import LOW_V
from underhood.plan.cars import EMPTY, LOADING, NO_JOB, SOUNDING, Cars, Makes, distinct, picks_of
from underhood.plan.evaluate import NOTHING_HOLDS_V, PRICED, Evaluator
from underhood.plan.sets import Digits, Sets

ONE_STATE, EVERY_STATE, AFTER_LOAD = 0, 1, 2
"""How far a set is solved: in the state that watts are compared in; in every state of a goal; after the load that goals
ask for. What is solved less far bounds what it comes to: no more decibels, no fewer volts below a goal."""

SAME_V = 5e-4
"""Gains that ask for volts within this are one: circuits that differ in nothing else are solved once."""
CLOCK = -1.0
"""In place of minutes: until a battery is low."""
COLUMNS = {
    "terminal_v": t.TERMINAL_V,
    "front_v": t.FRONT_V,
    "delivered_w": t.LOUDEST_W,
    "engine_off_min": t.MINUTES,
}
"""Where the engine tells what a goal asks for."""


class Key(NamedTuple):
    """A state, and how long the load runs in it before the loudest moment, minutes."""

    state: goals.StateKey
    minutes: float

    @property
    def low_v(self) -> float:
        """Where above 0, a clock runs instead until a battery is below it."""
        return LOW_V if self.minutes == CLOCK else 0.0


class SetValues(NamedTuple):
    """What sets come to, (sets,) each: see `evaluate.Outcome`; nan where nothing holds."""

    gain_db: Floats
    terminal_v: Floats
    engine_off_min: Floats
    below_v: Floats
    meets: NDArray[np.bool_]


class AtOnce:
    """Answers for sets of steps of one job, each different circuit solved once."""

    def __init__(self, sets: Sets, evaluator: Evaluator) -> None:
        self.sets, self.evaluator = sets, evaluator
        self.asked = [(goal, key_of_goal(evaluator.job, goal)) for goal in evaluator.goals]
        wanted = dict.fromkeys(key for _, key in self.asked if key is not None)
        alike = (key for key in wanted if key.state == evaluator.stated)
        self.at_start = next(alike, Key(evaluator.stated, 0.0))
        makes = Makes(sets, evaluator)
        self.gains = _Gains(makes)
        self.states = {key: _State(makes, key, heard=key == self.at_start) for key in (*wanted, self.at_start)}

    @property
    def farthest(self) -> int:
        """How far sets are to be solved for all that is asked."""
        if any(key.minutes for key in self.states):
            return AFTER_LOAD
        return EVERY_STATE if len(self.states) > 1 else ONE_STATE

    def values(
        self, digits: Digits, cost: Floats, hours: Floats, weight_kg: Floats, far: int = AFTER_LOAD
    ) -> SetValues:
        """What some sets come to, or the bound of it: goals of which no more is known count as met.

        digits   (n, slots); cost, hours and weight of each
        far      how far they are solved
        """
        gains = self.gains.of(digits)
        answers = {
            key: state.solved(digits, gains, worn=far == AFTER_LOAD)
            for key, state in self.states.items()
            if far > ONE_STATE or key == self.at_start
        }
        mean_w = answers[self.at_start][:, t.MEAN_W]
        base_w = self.evaluator.base_w
        with np.errstate(divide="ignore", invalid="ignore"):
            gain_db = 10 * np.log10(mean_w / base_w) if base_w else np.full(len(digits), np.nan)
        priced = {"cost": cost, "hours": hours, "weight_kg": weight_kg, "gain_db": gain_db}
        below_v, meets = np.zeros(len(digits)), np.ones(len(digits), bool)
        first_of: dict[str, Floats] = {}
        for goal, key in self.asked:
            if key is not None and key not in answers:
                continue
            value = priced[goal.quantity] if key is None else answers[key][:, COLUMNS[goal.quantity]]
            first_of.setdefault(goal.quantity, value)
            told = np.ones(len(digits), bool)
            if key is not None and far < AFTER_LOAD and key.minutes:
                told &= goal.at_most is None and key.minutes > 0.0 and self.states[key].bounded(digits)
            meets &= answered(goal, value) | ~told
            if goal.quantity in ("terminal_v", "front_v") and goal.at_least is not None:
                below = np.where(np.isnan(value), NOTHING_HOLDS_V, np.maximum(goal.at_least - value, 0.0))
                below_v += np.where(told, below, 0.0)
        none = np.full(len(digits), np.nan)
        volts, minutes = (first_of.get(quantity, none).copy() for quantity in ("terminal_v", "engine_off_min"))
        return SetValues(gain_db, volts, minutes, below_v, meets)


def key_of_goal(job: JobDocument, goal: Goal) -> Key | None:
    """The state and the minutes that a goal is about; None for one that prices answer."""
    if goal.quantity in PRICED:
        return None
    return Key(goals.key_of(goals.state_of(job, goal)), CLOCK if goal.quantity == "engine_off_min" else goal.minutes)


def answered(goal: Goal, value: Floats) -> NDArray[np.bool_]:
    """Whether values meet a goal, as `goals.met` has it; nan meets none."""
    with np.errstate(invalid="ignore"):
        return value >= goals.wanted(goal) if goal.at_least is not None else value <= goals.wanted(goal)


class _State(Cars):
    """All sets in a state that a goal is about.

    key     of it
    heard   whether watts are compared in it
    """

    def __init__(self, makes: Makes, key: Key, *, heard: bool) -> None:
        def circuit_of(made: Circuit) -> Circuit:
            return build_circuit(goals.in_state(made.job, key.state))

        worth = makes.evaluator.heard if heard else None
        super().__init__(makes, key.state[0], circuit_of, SOUNDING, worth)
        self.key = key

    def bounded(self, digits: Digits) -> NDArray[np.bool_]:
        """Of which sets the car before the load bounds the one after it: without converter, relay or limits of a
        bank."""
        table = self.rows.elements.all()
        switching = np.zeros(len(table) + 1, bool)
        limits = table[:, [t.CHARGE_LIMIT_A, t.STEADY_LIMIT_A, t.PEAK_LIMIT_A]]
        kind = table[:, t.KIND]
        switching[:-1] = kind == t.RELAY
        switching[:-1] |= (kind == t.CHARGER) & (table[:, t.INPUT] >= 0.0)
        switching[:-1] |= (kind == t.BANK) & np.isfinite(limits).any(axis=1)
        out = np.ones(len(digits), bool)
        for place in self.elements:
            out &= ~switching[np.maximum(place.rows(digits), EMPTY)]
        return out

    def solved(self, digits: Digits, gains: tuple[Ints, Floats], *, worn: bool) -> Floats:
        """What some sets come to in this state, (n, columns); nan where a set makes no job, or nothing holds.

        gains   what `_Gains` says of them
        worn    after the minutes of the load, or before them
        """
        columns = [each.rows(digits) for each in (*self.elements, *self.links, self.sound)]
        which, inverse = distinct([*columns, gains[0]])
        found, elements = np.stack(columns, axis=1)[which], len(self.elements)
        possible = (found.min(axis=1) >= EMPTY) & ~np.isnan(gains[1][which]).any(axis=1)
        out = np.full((len(which), t.ANSWER_COLUMNS), np.nan)
        if possible.any():
            picks = picks_of(found[possible], elements, gains[1][which][possible])
            minutes, low_v = (max(self.key.minutes, 0.0), self.key.low_v) if worn else (0.0, 0.0)
            out[possible] = solve(self.rows, picks, minutes=minutes, low_v=low_v).values
        return np.asarray(out[inverse])


class _SetUp(Cars):
    """All sets while gains are set in an engine state, see `gain.as_set_up`."""

    def __init__(self, makes: Makes, engine: Engine) -> None:
        super().__init__(makes, engine, lambda made: gain.as_set_up(made, engine), LOADING)

    def full_scale(self, digits: Digits, i: int) -> Floats:
        """What full scale asks of the i-th amplifier, which plays alone, (n,); nan where a set makes no job."""
        columns = [each.rows(digits) for each in (*self.elements, *self.links, self.sound)]
        which, inverse = distinct(columns)
        found = np.stack(columns, axis=1)[which]
        possible, out = found.min(axis=1) >= EMPTY, np.full(len(which), np.nan)
        if possible.any():
            some, amplifiers = found[possible], slice(self.layout.first_amplifier, self.layout.first_relay)
            reference_v = self.rows.elements.all()[some[:, amplifiers], t.REFERENCE_V]
            solved = solve(self.rows, picks_of(some, len(self.elements), gain.alone_v(reference_v, i)))
            out[possible] = gain.given_v(solved, i, reference_v)
        return np.asarray(out[inverse])


class _Gains:
    """What full scale asks of each amplifier in each set, see `gain.full_scale`."""

    def __init__(self, makes: Makes) -> None:
        self.known: list[tuple[float | None, Engine]] = []
        engines = {gain.engine_of(each) for each in makes.job.amplifiers} | {gain.AS_THE_SHEET_SAYS.engine}
        self.set_ups = {engine: _SetUp(makes, engine) for engine in sorted(engines)}
        sounding = [slot.key for slot in makes.sets.slots if slot.key.startswith(SOUNDING)]
        self.places = [makes.place(partial(self._stated, i), *sounding) for i in range(makes.layout.amplifiers)]

    def _stated(self, i: int, made: Circuit) -> int:
        if made.silent:
            return NO_JOB
        stated = (gain.measured_v(made.loaded[i]), gain.engine_of(made.loaded[i].amplifier))
        if stated not in self.known:
            self.known.append(stated)
        return self.known.index(stated)

    def of(self, digits: Digits) -> tuple[Ints, Floats]:
        """(which sets have gains alike, volts of one channel of each amplifier (n, amplifiers))."""
        out = np.full((len(digits), len(self.places)), np.nan)
        for i, place in enumerate(self.places):
            number = place.rows(digits)
            for k, (volts, engine) in enumerate(self.known):
                here = np.flatnonzero(number == k)
                if len(here):
                    out[here, i] = (
                        self.set_ups[engine].full_scale(digits if len(here) == len(digits) else digits[here], i)
                        if volts is None
                        else volts
                    )
        steps = np.where(np.isnan(out), -1.0, np.rint(out / SAME_V)).astype(np.int64)
        return distinct([np.zeros(len(digits), np.int64), *steps.T])[1], out
