"""What many sets come to, all at once: each set as rows for the engine, each different circuit solved once.

A step puts its rows where its slot is, each made by the forecast's own building of the job with just those steps. Left
out: flags, which are asked of candidates (see `search`).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats, Ints
from underhood.circuit import table as t
from underhood.circuit.build import Circuit, build_circuit
from underhood.circuit.engine import solve
from underhood.circuit.rows import Layout, Picks, Rows
from underhood.document.job import Goal, JobDocument
from underhood.errors import BadInput
from underhood.forecast import goals
from underhood.forecast.simulation import LOW_V
from underhood.plan.evaluate import NOTHING_HOLDS_V, PRICED, Evaluator
from underhood.plan.sets import Digits, Sets
from underhood.plan.steps import applied, second_place

__all__ = ["COLUMNS", "AtOnce", "Key", "SetValues", "answered", "key_of_goal"]

SOUND = ("amplifier:", "driver:", "box:", "wiring:", "gain", "charger:0")
"""Slots that change what an amplifier does at given volts; the first charger's because gains are set at its volts."""
CLOCK = -1.0
"""In place of minutes: until a battery is low."""
EMPTY, NO_JOB = -1, -2
"""In place of a row: nothing is there, the job makes no sense (coils wired in a way that its drivers do not have)."""
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
        self.of_goal = [key_of_goal(evaluator.job, goal) for goal in evaluator.goals]
        wanted = dict.fromkeys(key for key in self.of_goal if key is not None)
        alike = (key for key in wanted if key.state == evaluator.stated)
        self.at_start = next(alike, Key(evaluator.stated, 0.0))
        self.states = {key: _State(sets, evaluator, key) for key in (*wanted, self.at_start)}

    def values(self, digits: Digits, cost: Floats, hours: Floats, weight_kg: Floats) -> SetValues:
        """What some sets come to.

        digits   (n, slots); cost, hours and weight of each
        """
        answers = {key: state.solved(digits) for key, state in self.states.items()}
        mean_w = answers[self.at_start][:, t.MEAN_W]
        base_w = self.evaluator.base_w
        with np.errstate(divide="ignore", invalid="ignore"):
            gain_db = 10 * np.log10(mean_w / base_w) if base_w else np.full(len(digits), np.nan)
        priced = {"cost": cost, "hours": hours, "weight_kg": weight_kg, "gain_db": gain_db}
        below_v, meets = np.zeros(len(digits)), np.ones(len(digits), bool)
        first_of: dict[str, Floats] = {}
        for goal, key in zip(self.evaluator.goals, self.of_goal, strict=True):
            value = priced[goal.quantity] if key is None else answers[key][:, COLUMNS[goal.quantity]]
            meets &= answered(goal, value)
            first_of.setdefault(goal.quantity, value)
            if goal.quantity in ("terminal_v", "front_v") and goal.at_least is not None:
                below_v += np.where(np.isnan(value), NOTHING_HOLDS_V, np.maximum(goal.at_least - value, 0.0))
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


def _distinct(columns: Sequence[Ints]) -> tuple[Ints, Ints]:
    """(where each distinct row of some columns of integers first stands, which of them each row is).

    Column by column: `np.unique` of whole rows compares them byte by byte, and takes as long as the solve.
    """
    number = np.zeros(len(columns[0]), np.int64)
    for column in columns:
        low = column.min()
        key = number * (column.max() - low + 1) + (column - low)
        _, which, number = np.unique(key, return_index=True, return_inverse=True)
    return which, number


@dataclass(frozen=True)
class _Place:
    """Some place of the circuit: the columns of the slots that change it, and its row for a circuit with them."""

    columns: tuple[int, ...]
    row: Callable[[Circuit], int]
    known: dict[bytes, int]


class _State:
    """All sets in one state of engine and programme."""

    def __init__(self, sets: Sets, evaluator: Evaluator, key: Key) -> None:
        self.sets, self.job, self.key = sets, evaluator.job, key
        circuit = build_circuit(goals.in_state(self.job, key.state))
        at, second = [slot.key for slot in sets.slots], second_place(self.job)
        job = self.job
        chargers = len(job.chargers) + ("charger:+" in at)
        banks = [bank.at for bank in job.banks] + ([second] if "bank:+" in at else [])
        capacitors = [each.at for each in job.capacitors] + ([second] if "capacitor:+" in at else [])
        layout = replace(Layout.of(circuit, banks, capacitors), chargers=chargers)
        self.rows = rows = Rows(layout, circuit.job.basis.engine)

        def place(row: Callable[[Circuit], int], *keys: str) -> _Place:
            return _Place(tuple(i for i, slot in enumerate(at) if slot in keys), row, {})

        isolators = [each for each in at if each.startswith("isolator:") or each == "bank:+"]
        sounding = [each for each in at if each.startswith(SOUND)]
        amplifiers = range(len(circuit.loaded))
        self.elements = [
            *(place(partial(_charger, rows, i), f"charger:{i}", "charger:+") for i in range(chargers)),
            *(place(partial(_bank, rows, i), f"bank:{i}", f"isolator:{i}", "bank:+") for i in range(len(banks))),
            *(place(partial(_capacitor, rows, i), f"capacitor:{i}", "capacitor:+") for i in range(len(capacitors))),
            place(rows.load),
            *(place(partial(_amplifier, rows, evaluator, i), *sounding) for i in amplifiers),
            *(place(partial(_relay, rows, i), *isolators) for i in range(len(banks))),
        ]
        idle = _idle_links(circuit, key)
        self.links = []
        for i, edge in enumerate(circuit.edges):
            changing = () if i in idle else (f"cable:{edge.field}", f"return:{edge.field}", f"strap:{edge.field}")
            self.links.append(place(partial(_link, rows, i), *changing, *isolators))
        self.sound = place(lambda made: rows.sounds.add(made.played), *sounding)

    def solved(self, digits: Digits) -> Floats:
        """What some sets come to in this state, (n, columns); nan where a set makes no job, or nothing holds."""
        columns = [self._rows(each, digits) for each in (*self.elements, *self.links, self.sound)]
        which, inverse = _distinct(columns)
        found = np.stack(columns, axis=1)[which]
        elements = len(self.elements)
        possible = found.min(axis=1) >= EMPTY
        out = np.full((len(which), t.ANSWER_COLUMNS), np.nan)
        some = found[possible]
        picks = Picks(
            np.ascontiguousarray(some[:, :elements]),
            np.ascontiguousarray(some[:, elements:-1]),
            np.ascontiguousarray(some[:, -1]),
        )
        if len(some):
            key = self.key
            out[possible] = solve(self.rows, picks, minutes=max(key.minutes, 0.0), low_v=key.low_v).values
        return np.asarray(out[inverse])

    def _rows(self, place: _Place, digits: Digits) -> Ints:
        """The row of a place in each of some sets, or what stands in place of one."""
        mine = np.ascontiguousarray(digits[:, place.columns])
        which, inverse = _distinct(
            [mine[:, i].astype(np.int64) for i in range(mine.shape[1])] or [np.zeros(len(mine), np.int64)]
        )
        return np.array([self._row(place, mine[i]) for i in which], np.int64)[inverse]

    def _row(self, place: _Place, digits: Digits) -> int:
        key = digits.tobytes()
        if key not in place.known:
            steps = [
                self.sets.slots[column].steps[int(k) - 1] for column, k in zip(place.columns, digits, strict=False) if k
            ]
            try:
                place.known[key] = place.row(build_circuit(goals.in_state(applied(self.job, steps), self.key.state)))
            except BadInput:
                place.known[key] = NO_JOB
        return place.known[key]


def _idle_links(circuit: Circuit, key: Key) -> frozenset[int]:
    """Cables that carry nothing in a state whatever their size: to where nothing but a standing alternator sits."""
    job, ends = circuit.job, circuit.graph.ends
    busy = {circuit.node_of(at) for at in [each.at for each in job.banks] + [each.at for each in job.capacitors]} | {0}
    busy |= {circuit.node_of(each.node) for each in circuit.loaded}
    for each in job.chargers:
        if each.kind != "alternator" or key.state[0] != "off":
            busy |= {circuit.node_of(each.at), *([circuit.node_of(each.from_)] if each.from_ else [])}
    degree = np.bincount(np.array(ends, int).reshape(-1), minlength=len(circuit.nodes))
    return frozenset(i for i, pair in enumerate(ends) if any(node not in busy and degree[node] == 1 for node in pair))


def _charger(rows: Rows, i: int, made: Circuit) -> int:
    return rows.charger(made, i) if i < len(made.job.chargers) else EMPTY


def _bank(rows: Rows, i: int, made: Circuit) -> int:
    return rows.bank(made, i) if i < len(made.job.banks) else EMPTY


def _capacitor(rows: Rows, i: int, made: Circuit) -> int:
    return rows.capacitor(made, i) if i < len(made.job.capacitors) else EMPTY


def _relay(rows: Rows, i: int, made: Circuit) -> int:
    return rows.relay(made, i) if i < len(made.job.banks) else EMPTY


def _link(rows: Rows, i: int, made: Circuit) -> int:
    return rows.link(made, i)


def _amplifier(rows: Rows, evaluator: Evaluator, i: int, made: Circuit) -> int:
    if made.silent:
        return NO_JOB
    return rows.amplifier(made, i, evaluator.heard(made)[i])
