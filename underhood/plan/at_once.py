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
from underhood.circuit import gain
from underhood.circuit import table as t
from underhood.circuit.build import Circuit, build_circuit
from underhood.circuit.engine import solve
from underhood.circuit.rows import Layout, Picks, Rows
from underhood.document.job import Engine, Goal, JobDocument
from underhood.errors import BadInput
from underhood.forecast import goals
from underhood.forecast.simulation import LOW_V
from underhood.plan.evaluate import NOTHING_HOLDS_V, PRICED, Evaluator
from underhood.plan.sets import Digits, Sets
from underhood.plan.steps import applied, second_place

__all__ = ["COLUMNS", "AtOnce", "Key", "SetValues", "answered", "key_of_goal"]

SOUND = ("amplifier:", "driver:", "box:", "wiring:", "gain")
"""Slots that change what an amplifier does at given volts."""
SAME_V = 5e-4
"""Gains that ask for volts within this are one: circuits that differ in nothing else are solved once."""
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
        self.asked = [(goal, key_of_goal(evaluator.job, goal)) for goal in evaluator.goals]
        wanted = dict.fromkeys(key for _, key in self.asked if key is not None)
        alike = (key for key in wanted if key.state == evaluator.stated)
        self.at_start = next(alike, Key(evaluator.stated, 0.0))
        makes = _Makes(sets, evaluator)
        self.gains = _Gains(makes)
        self.states = {key: _State(makes, key) for key in (*wanted, self.at_start)}

    @property
    def wears(self) -> bool:
        """Whether any goal is judged after the load has worn the batteries."""
        return any(key.minutes > 0.0 for key in self.states)

    def bounded(self, digits: Digits) -> NDArray[np.bool_]:
        """Of which sets the car before the load bounds the one after it."""
        most = any(goal.at_most is not None and key and key.minutes > 0.0 for goal, key in self.asked)
        return np.asarray(np.all([state.bounded(digits) & ~most for state in self.states.values()], axis=0))

    def values(self, digits: Digits, cost: Floats, hours: Floats, weight_kg: Floats, *, worn: bool = True) -> SetValues:
        """What some sets come to.

        digits   (n, slots); cost, hours and weight of each
        worn     after the minutes of the load that goals ask for; or before them, which bounds it
        """
        gains = self.gains.of(digits)
        answers = {key: state.solved(digits, gains, worn=worn) for key, state in self.states.items()}
        mean_w = answers[self.at_start][:, t.MEAN_W]
        base_w = self.evaluator.base_w
        with np.errstate(divide="ignore", invalid="ignore"):
            gain_db = 10 * np.log10(mean_w / base_w) if base_w else np.full(len(digits), np.nan)
        priced = {"cost": cost, "hours": hours, "weight_kg": weight_kg, "gain_db": gain_db}
        below_v, meets = np.zeros(len(digits)), np.ones(len(digits), bool)
        first_of: dict[str, Floats] = {}
        for goal, key in self.asked:
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


class _Makes:
    """The jobs that some steps make, each made once for all states and places that it tells something of."""

    def __init__(self, sets: Sets, evaluator: Evaluator) -> None:
        self.sets, self.evaluator, self.job = sets, evaluator, evaluator.job
        self.jobs: dict[tuple[tuple[int, int], ...], JobDocument | None] = {}
        self.parting = [
            i for i, slot in enumerate(sets.slots) if slot.key.startswith("isolator:") or slot.key == "bank:+"
        ]
        self.alike = {column: self._alike(column) for column in self.parting}

    def of(self, steps: Sequence[tuple[int, int]]) -> JobDocument | None:
        """The job with steps, each (slot, which of it, 0 for none); None where it makes none."""
        key = tuple((column, k) for column, k in steps if k)
        if key not in self.jobs:
            try:
                self.jobs[key] = applied(self.job, [self.sets.slots[column].steps[k - 1] for column, k in key])
            except BadInput:
                self.jobs[key] = None
        return self.jobs[key]

    def _alike(self, column: int) -> Ints:
        """For each step of a slot the first that parts batteries in the same way: other places see no more of it."""
        first: dict[object, int] = {}
        out = []
        for k in range(len(self.sets.slots[column].steps) + 1):
            made = self.of([(column, k)])
            parts = k if made is None else tuple((each.at, each.isolator, each.diode_v.value) for each in made.banks)
            out.append(first.setdefault(parts, k))
        return np.array(out, np.int64)


@dataclass(frozen=True)
class _Place:
    """Some place of the circuit, and its row for a circuit.

    columns   of the slots that change it
    parting   of those of which only the way counts in which they part batteries
    """

    columns: tuple[int, ...]
    parting: tuple[int, ...]
    row: Callable[[Circuit], int]
    known: dict[tuple[int, ...], int]


class _Cars:
    """All sets as cars in one state of engine and programme."""

    def __init__(self, makes: _Makes, circuit_of: Callable[[JobDocument], Circuit]) -> None:
        self.makes, self.job, self.circuit_of = makes, makes.job, circuit_of
        circuit = circuit_of(self.job)
        at, second = [slot.key for slot in makes.sets.slots], second_place(self.job)
        job = self.job
        chargers = len(job.chargers) + ("charger:+" in at)
        banks = [bank.at for bank in job.banks] + ([second] if "bank:+" in at else [])
        capacitors = [each.at for each in job.capacitors] + ([second] if "capacitor:+" in at else [])
        self.layout = replace(Layout.of(circuit, banks, capacitors), chargers=chargers)
        self.rows = rows = Rows(self.layout, circuit.job.basis.engine)

        def bank(i: int) -> _Place:
            own = ("bank:+",) if i >= len(job.banks) else (f"bank:{i}", f"isolator:{i}")
            return self.place(partial(_bank, rows, i), *own, parts=True)

        self.elements = [
            *(self.place(partial(_charger, rows, i), f"charger:{i}", "charger:+") for i in range(chargers)),
            *(bank(i) for i in range(len(banks))),
            *(
                self.place(partial(_capacitor, rows, i), f"capacitor:{i}", "capacitor:+")
                for i in range(len(capacitors))
            ),
            self.place(rows.load),
            *(self.sounding(partial(_amplifier, rows, makes.evaluator, i)) for i in range(self.layout.amplifiers)),
            *(self.place(partial(_relay, rows, i), parts=True) for i in range(len(banks))),
        ]
        idle = _idle_links(circuit)
        self.links = []
        for i, edge in enumerate(circuit.edges):
            changing = () if i in idle else (f"cable:{edge.field}", f"return:{edge.field}", f"strap:{edge.field}")
            self.links.append(self.place(partial(_link, rows, i), *changing, parts=True))
        self.sound = self.sounding(lambda made: rows.sounds.add(made.played))

    def place(self, row: Callable[[Circuit], int], *keys: str, parts: bool = False) -> _Place:
        """A place that slots change, by their keys; `parts` where ways to part batteries do as well."""
        columns = tuple(i for i, slot in enumerate(self.makes.sets.slots) if slot.key in keys)
        return _Place(columns, tuple(i for i in self.makes.parting if parts and i not in columns), row, {})

    def sounding(self, row: Callable[[Circuit], int]) -> _Place:
        """A place that changes with what an amplifier does."""
        return self.place(row, *(slot.key for slot in self.makes.sets.slots if slot.key.startswith(SOUND)))

    def numbers(self, place: _Place, digits: Digits) -> Ints:
        """The row of a place in each of some sets, or what stands in place of one."""
        mine = [digits[:, i].astype(np.int64) for i in place.columns]
        mine += [self.makes.alike[i][digits[:, i]] for i in place.parting]
        if not mine:
            return np.full(len(digits), self._row(place, ()))
        which, inverse = _distinct(mine)
        return np.array([self._row(place, each) for each in np.stack(mine, axis=1)[which].tolist()], np.int64)[inverse]

    def _row(self, place: _Place, found: Sequence[int]) -> int:
        key = tuple(found)
        if key not in place.known:
            made = self.makes.of(list(zip((*place.columns, *place.parting), found, strict=True)))
            place.known[key] = NO_JOB if made is None else self._made(place, made)
        return place.known[key]

    def _made(self, place: _Place, job: JobDocument) -> int:
        try:
            return place.row(self.circuit_of(job))
        except BadInput:
            return NO_JOB


class _State(_Cars):
    """All sets in a state that a goal is about.

    key   of it
    """

    def __init__(self, makes: _Makes, key: Key) -> None:
        super().__init__(makes, lambda job: build_circuit(goals.in_state(job, key.state)))
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
            out &= ~switching[np.maximum(self.numbers(place, digits), EMPTY)]
        return out

    def solved(self, digits: Digits, gains: tuple[Ints, Floats], *, worn: bool) -> Floats:
        """What some sets come to in this state, (n, columns); nan where a set makes no job, or nothing holds.

        gains   what `_Gains` says of them
        worn    after the minutes of the load, or before them
        """
        columns = [self.numbers(each, digits) for each in (*self.elements, *self.links, self.sound)]
        which, inverse = _distinct([*columns, gains[0]])
        found, elements = np.stack(columns, axis=1)[which], len(self.elements)
        possible = (found.min(axis=1) >= EMPTY) & ~np.isnan(gains[1][which]).any(axis=1)
        out = np.full((len(which), t.ANSWER_COLUMNS), np.nan)
        if possible.any():
            picks = _picks(found[possible], elements, gains[1][which][possible])
            minutes = max(self.key.minutes, 0.0) if worn else 0.0
            out[possible] = solve(self.rows, picks, minutes=minutes, low_v=self.key.low_v).values
        return np.asarray(out[inverse])


class _SetUp(_Cars):
    """All sets while gains are set in an engine state, see `gain.as_set_up`."""

    def __init__(self, makes: _Makes, engine: Engine) -> None:
        super().__init__(makes, lambda job: gain.as_set_up(build_circuit(job), engine))
        self.silent = [
            self.sounding(partial(_amplifier, self.rows, makes.evaluator, i, plays=False))
            for i in range(self.layout.amplifiers)
        ]

    def full_scale(self, digits: Digits, i: int) -> Floats:
        """What full scale asks of the i-th amplifier, which plays alone, (n,); nan where a set makes no job."""
        first, places = self.layout.first_amplifier, list(self.elements)
        for j, place in enumerate(self.silent):
            if j != i:
                places[first + j] = place
        columns = [self.numbers(each, digits) for each in (*places, *self.links, self.sound)]
        which, inverse = _distinct(columns)
        found = np.stack(columns, axis=1)[which]
        possible, out = found.min(axis=1) >= EMPTY, np.full(len(which), np.nan)
        if possible.any():
            some, amplifiers = found[possible], slice(first, first + self.layout.amplifiers)
            reference_v = self.rows.elements.all()[some[:, amplifiers], t.REFERENCE_V]
            solved = solve(self.rows, _picks(some, len(places), gain.BOUND * reference_v))
            out[possible] = gain.given_v(solved, i, reference_v[:, i])
        return np.asarray(out[inverse])


class _Gains:
    """What full scale asks of each amplifier in each set, see `gain.full_scale`."""

    def __init__(self, makes: _Makes) -> None:
        self.known: list[tuple[float | None, Engine]] = []
        engines = {gain.engine_of(each) for each in makes.job.amplifiers} | {gain.AS_THE_SHEET_SAYS.engine}
        self.set_ups = {engine: _SetUp(makes, engine) for engine in sorted(engines)}
        self.cars = next(iter(self.set_ups.values()))
        self.places = [self.cars.sounding(partial(self._stated, i)) for i in range(self.cars.layout.amplifiers)]

    def _stated(self, i: int, made: Circuit) -> int:
        stated = (gain.measured_v(made.loaded[i]), gain.engine_of(made.loaded[i].amplifier))
        if stated not in self.known:
            self.known.append(stated)
        return self.known.index(stated)

    def of(self, digits: Digits) -> tuple[Ints, Floats]:
        """(which sets have gains alike, volts of one channel of each amplifier (n, amplifiers))."""
        out = np.full((len(digits), len(self.places)), np.nan)
        for i, place in enumerate(self.places):
            number = self.cars.numbers(place, digits)
            for k, (volts, engine) in enumerate(self.known):
                here = np.flatnonzero(number == k)
                if len(here):
                    out[here, i] = self.set_ups[engine].full_scale(digits[here], i) if volts is None else volts
        steps = np.where(np.isnan(out), -1.0, np.rint(out / SAME_V)).astype(np.int64)
        return _distinct([np.zeros(len(digits), np.int64), *steps.T])[1], out


def _picks(found: Ints, elements: int, full_scale_v: Floats) -> Picks:
    """Cars by their rows: elements, cables, and what they play in the last column."""
    return Picks(
        np.ascontiguousarray(found[:, :elements]),
        np.ascontiguousarray(found[:, elements:-1]),
        np.ascontiguousarray(found[:, -1]),
        np.ascontiguousarray(full_scale_v),
    )


def _idle_links(circuit: Circuit) -> frozenset[int]:
    """Cables that carry nothing in a state whatever their size: to where nothing but a standing alternator sits."""
    job, ends = circuit.job, circuit.graph.ends
    busy = {circuit.node_of(at) for at in [each.at for each in job.banks] + [each.at for each in job.capacitors]} | {0}
    busy |= {circuit.node_of(each.node) for each in circuit.loaded}
    for each in job.chargers:
        if each.kind != "alternator" or job.basis.engine != "off":
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


def _amplifier(rows: Rows, evaluator: Evaluator, i: int, made: Circuit, *, plays: bool = True) -> int:
    if made.silent:
        return NO_JOB
    return rows.amplifier(made, i, evaluator.heard(made)[i], plays=plays)
