"""What many sets come to, all at once: each set as rows of the compiled solve, each different circuit solved once.

A step puts its rows where its slot is; what amplifiers do together is one row, made by the forecast's own building of
the job with just those steps. Sets that the compiled solve does not answer go through `evaluate`. Left out: flags,
which are asked of candidates (see `search`).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats, Ints
from underhood.circuit.batch_arrays import Answers, Cars
from underhood.circuit.batch_rows import WORTH_A_TABLE, RowBook, UnsuitedError
from underhood.circuit.batch_states import ASK
from underhood.circuit.build import Circuit, build_circuit
from underhood.circuit.solver import solve
from underhood.document.job import Goal, JobDocument
from underhood.errors import BadInput
from underhood.forecast import goals
from underhood.forecast.simulation import LOW_V, charge_after, simulate
from underhood.plan.evaluate import NOTHING_HOLDS_V, PRICED, Evaluator
from underhood.plan.sets import Digits, Sets
from underhood.plan.steps import applied, second_place

__all__ = ["AtOnce", "Key", "SetValues", "answer_of", "answered", "key_of_goal", "prepare"]

SOUND = ("amplifier:", "driver:", "box:", "wiring:", "gain", "charger:0")
"""Slots that change what an amplifier does at given volts; the first charger's because gains are set at its volts."""
CLOCK = -1.0
"""In place of minutes: until a battery is low."""
IMPOSSIBLE = 3
"""How a set comes out that makes no job at all, such as coils wired in a way that its drivers do not have."""
EMPTY, NO_JOB, NOT_FOR_IT = -1, -2, -3
"""In place of a row: nothing is there, the job makes no sense, only the forecast answers."""


def prepare() -> None:
    """Compiles what is compiled, a minute or two after an installation, so that nobody waits for it later."""
    amplifier = {
        "id": "a",
        "name": "Any",
        "at": "rear",
        "load": {"coil_ohm": 4},
        "claims": [{"load_ohm": 4, "power_w": 100, "kind": "standard"}],
    }
    cable = {"name": "Run", "from": "front", "to": "rear", "size": "4 AWG", "length_m": 5}
    raw = {"banks": [{"name": "Front", "capacity_ah": 60}], "cables": [cable], "amplifiers": [amplifier]}
    job = JobDocument.model_validate(raw)
    simulate(job, 1.0)
    circuit = build_circuit(job)
    point = solve(circuit, "idle")
    assert point is not None
    charge_after(point, 60.0)
    book = RowBook(circuit, "idle", ["front"], [])
    cars = book.cars([circuit] * WORTH_A_TABLE)
    book.solved(cars._replace(sound=np.zeros(WORTH_A_TABLE, np.int64)), 1.0)


class Key(NamedTuple):
    """A state, and how long the load runs in it before the loudest moment, minutes."""

    state: goals.StateKey
    minutes: float


class SetValues(NamedTuple):
    """What sets come to, (sets,) each: see `evaluate.Outcome`; nan where nothing holds."""

    gain_db: Floats
    terminal_v: Floats
    engine_off_min: Floats
    below_v: Floats
    meets: NDArray[np.bool_]


class AtOnce:
    """Answers for sets of steps of one job by the compiled solve. Raises UnsuitedError where the job is not for it."""

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
        mean_w = answers[self.at_start].mean_w
        base_w = self.evaluator.base_w
        with np.errstate(divide="ignore", invalid="ignore"):
            gain_db = 10 * np.log10(mean_w / base_w) if base_w else np.full(len(digits), np.nan)
        priced = {"cost": cost, "hours": hours, "weight_kg": weight_kg, "gain_db": gain_db}
        below_v, meets = np.zeros(len(digits)), np.ones(len(digits), bool)
        first_of: dict[str, Floats] = {}
        for goal, key in zip(self.evaluator.goals, self.of_goal, strict=True):
            value = priced[goal.quantity] if key is None else answer_of(answers[key], goal)
            meets &= answered(goal, value)
            first_of.setdefault(goal.quantity, value)
            if goal.quantity in ("terminal_v", "front_v") and goal.at_least is not None:
                below_v += np.where(np.isnan(value), NOTHING_HOLDS_V, np.maximum(goal.at_least - value, 0.0))
        none = np.full(len(digits), np.nan)
        volts, minutes = (first_of.get(quantity, none).copy() for quantity in ("terminal_v", "engine_off_min"))
        found = SetValues(gain_db, volts, minutes, below_v, meets)
        self._ask(digits, answers, found)
        return found

    def _ask(self, digits: Digits, answers: dict[Key, Answers], found: SetValues) -> None:
        """Fills in what only the forecast answers."""
        status = np.max([each.status for each in answers.values()], axis=0)
        for i in np.flatnonzero(status == ASK):
            outcome = self.evaluator.of(self.sets.steps_of(digits[i]))
            found.gain_db[i] = math.nan if outcome.gain_db is None else outcome.gain_db
            found.terminal_v[i] = math.nan if outcome.terminal_v is None else outcome.terminal_v
            found.engine_off_min[i] = math.nan if outcome.engine_off_min is None else outcome.engine_off_min
            found.below_v[i], found.meets[i] = outcome.below_v, outcome.meets
        impossible = status == IMPOSSIBLE
        found.gain_db[impossible], found.meets[impossible] = math.nan, False


def key_of_goal(job: JobDocument, goal: Goal) -> Key | None:
    """The state and the minutes that a goal is about; None for one that prices answer."""
    if goal.quantity in PRICED:
        return None
    return Key(goals.key_of(goals.state_of(job, goal)), CLOCK if goal.quantity == "engine_off_min" else goal.minutes)


def answer_of(answers: Answers, goal: Goal) -> Floats:
    """What each car has to say to a goal, in its unit."""
    match goal.quantity:
        case "terminal_v":
            return answers.terminal_v
        case "front_v":
            return answers.front_v
        case "delivered_w":
            return answers.loudest_w
        case _:
            return answers.minutes


def answered(goal: Goal, value: Floats) -> NDArray[np.bool_]:
    """Whether values meet a goal, as `goals.met` has it; nan meets none."""
    with np.errstate(invalid="ignore"):
        return value >= goals.wanted(goal) if goal.at_least is not None else value <= goals.wanted(goal)


def _each(answers: Answers, change: Callable[[Any], Any]) -> Answers:
    return Answers(*map(change, answers))


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
class _Element:
    """Some place of the circuit: the columns of the slots that change it, and its row for a circuit with them."""

    columns: tuple[int, ...]
    row: Callable[[Circuit], int]
    known: dict[bytes, int]


class _State:
    """All sets in one state of engine and programme."""

    def __init__(self, sets: Sets, evaluator: Evaluator, key: Key) -> None:
        self.sets, self.job = sets, evaluator.job
        self.state, self.minutes = key
        circuit = build_circuit(goals.in_state(self.job, key.state))
        at, second = [slot.key for slot in sets.slots], second_place(self.job)
        banks = [bank.at for bank in self.job.banks] + ([second] if "bank:+" in at else [])
        capacitors = [each.at for each in self.job.capacitors] + ([second] if "capacitor:+" in at else [])
        book = RowBook(circuit, circuit.job.basis.engine, banks, capacitors)
        self.book = book

        def element(keys: Sequence[str], row: Callable[[Circuit], int]) -> _Element:
            return _Element(tuple(i for i, slot in enumerate(at) if slot in keys), row, {})

        self.wires = [element(_of_edge(circuit, link), partial(_wire, book, link)) for link in book.links]
        self.chargers = [element((f"charger:{i}",), partial(_charger, book, i)) for i in range(len(self.job.chargers))]
        self.banks = [element(_of_place("bank", i, self.job.banks), partial(_bank, book, i)) for i in range(len(banks))]
        self.capacitors = [
            element(_of_place("capacitor", i, self.job.capacitors)[:1], partial(_capacitor, book, i))
            for i in range(len(capacitors))
        ]
        self.sound = element([each for each in at if each.startswith(SOUND)], partial(_sound, book, evaluator))

    def solved(self, digits: Digits) -> Answers:
        """What some sets come to in this state: each different circuit is solved once."""
        groups = [self.wires, self.chargers, self.banks, self.capacitors, [self.sound]]
        columns = [self._rows(each, digits) for group in groups for each in group]
        which, inverse = _distinct(columns)
        rows = np.stack(columns, axis=1)[which]
        cuts = np.cumsum([len(group) for group in groups])[:-1]
        wire, charger, bank, capacitor, sound = (np.ascontiguousarray(each) for each in np.split(rows, cuts, axis=1))
        cars = Cars(wire, charger, bank, capacitor, sound[:, 0].copy(), np.ones(len(rows)))
        found = self._answers(cars, rows.min(axis=1))
        return _each(found, lambda values: values[inverse])

    def _answers(self, cars: Cars, least: Ints) -> Answers:
        """`least` (n,) is the least row of each car, which tells what is none."""
        status = np.where((least == NOT_FOR_IT), ASK, IMPOSSIBLE)
        out = Answers(status, *(np.full(len(status), np.nan) for _ in range(5)))
        possible = least >= EMPTY
        if not possible.any():
            return out
        mine = self.book.solved(
            Cars(
                wire=cars.wire[possible],
                charger=cars.charger[possible],
                bank=cars.bank[possible],
                capacitor=cars.capacitor[possible],
                sound=cars.sound[possible],
                vehicle=cars.vehicle[possible],
            ),
            max(self.minutes, 0.0),
            LOW_V if self.minutes == CLOCK else 0.0,
        )
        for whole, part in zip(out, mine, strict=True):
            whole[possible] = part
        return out

    def _rows(self, element: _Element, digits: Digits) -> Ints:
        """The row of an element in each of some sets, or what stands in place of one."""
        mine = np.ascontiguousarray(digits[:, element.columns])
        which, inverse = _distinct(
            [mine[:, i].astype(np.int64) for i in range(mine.shape[1])] or [np.zeros(len(mine), np.int64)]
        )
        return np.array([self._row(element, mine[i]) for i in which], np.int64)[inverse]

    def _row(self, element: _Element, digits: Digits) -> int:
        key = digits.tobytes()
        if key not in element.known:
            steps = [
                self.sets.slots[column].steps[int(k) - 1]
                for column, k in zip(element.columns, digits, strict=False)
                if k
            ]
            try:
                made = build_circuit(goals.in_state(applied(self.job, steps), self.state))
                element.known[key] = element.row(made)
            except BadInput:
                element.known[key] = NO_JOB
            except UnsuitedError:
                element.known[key] = NOT_FOR_IT
        return element.known[key]


def _of_edge(circuit: Circuit, link: int | None) -> tuple[str, ...]:
    """The slots that change a cable; none of the root, to which none leads."""
    field = "" if link is None else circuit.edges[link].field
    return (f"cable:{field}", f"return:{field}", f"strap:{field}")


def _of_place(kind: str, i: int, there: Sequence[object]) -> tuple[str, ...]:
    """The slots of a bank or a capacitor that is there, or of the one to add."""
    return (f"{kind}:{i}", f"isolator:{i}") if i < len(there) else (f"{kind}:+",)


def _wire(book: RowBook, link: int | None, made: Circuit) -> int:
    return 0 if link is None else book.wire(made.edges[link])


def _charger(book: RowBook, i: int, made: Circuit) -> int:
    return book.charger(made, i)


def _sound(book: RowBook, evaluator: Evaluator, made: Circuit) -> int:
    return book.sound(made, evaluator.heard(made))


def _bank(book: RowBook, i: int, made: Circuit) -> int:
    return book.bank(made.job.banks[i]) if i < len(made.job.banks) else EMPTY


def _capacitor(book: RowBook, i: int, made: Circuit) -> int:
    return book.capacitor(made.job.capacitors[i]) if i < len(made.job.capacitors) else EMPTY
