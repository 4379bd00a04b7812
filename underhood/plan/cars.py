"""Sets as cars for the engine: which row stands at each place of the circuit, by the steps that change it.

Left out: what the cars come to (see `at_once`).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from typing import TypeAlias

import numpy as np

from underhood.arrays import Floats, Ints
from underhood.circuit.build import Circuit, build_circuit
from underhood.circuit.rows import Layout, Picks, Rows
from underhood.document.job import Engine
from underhood.errors import BadInput
from underhood.plan.evaluate import Evaluator
from underhood.plan.sets import Digits, Sets
from underhood.plan.steps import applied, second_place

LOADING = ("amplifier:", "driver:", "box:", "wiring:")
"""Slots that change what an amplifier does while its gain is set."""
SOUNDING = (*LOADING, "gain")
"""Slots that change what it does at given volts."""
Steps: TypeAlias = tuple[tuple[int, int], ...]
"""Steps of a set, each (slot, which of it from 1)."""
MOST_NUMBERS, FEW = 2**31, 4
"""Numbers that are told apart at once; of up to so many for each of the rows by a look into a table."""
EMPTY, NO_JOB = -1, -2
"""In place of a row: nothing is there, the job makes no sense (coils wired in a way that its drivers do not have)."""


def distinct(columns: Sequence[Ints]) -> tuple[Ints, Ints]:
    """(where each distinct row of some columns of integers first stands, which of them each row is).

    Columns as digits of one number, which is looked up where it is small: `np.unique` of whole rows compares them byte
    by byte, and takes as long as the solve.
    """
    number, count = np.zeros(len(columns[0]), np.int64), 1
    for column in columns:
        low = int(column.min())
        width = int(column.max()) - low + 1
        if count * width > MOST_NUMBERS:
            number = _told_apart(number, count)[1]
            count = int(number.max()) + 1
        number, count = number * width + (column - low), count * width
    return _told_apart(number, count)


def _told_apart(number: Ints, count: int) -> tuple[Ints, Ints]:
    """The same of numbers below some count."""
    if count > FEW * len(number):
        _, which, inverse = np.unique(number, return_index=True, return_inverse=True)
        return which, inverse
    first = np.full(count, -1)
    first[number[::-1]] = np.arange(len(number))[::-1]  # of several the last that is put there stays
    there = first >= 0
    return first[there], (np.cumsum(there) - 1)[number]


@dataclass
class Place:
    """Some place of the circuit, and its row for a car with some steps.

    columns   of the slots that change it
    alike     by column of those of which only the way counts in which they part batteries, the steps that are alike
    latest    the sets that were asked for last, and their rows
    """

    columns: tuple[int, ...]
    alike: dict[int, Ints]
    row: Callable[[Steps], int]
    known: dict[Steps, int] = field(default_factory=dict)
    latest: tuple[Digits, Ints] | None = None

    def rows(self, digits: Digits) -> Ints:
        """The row of this place in each of some sets (n, slots), or what stands in place of one."""
        if self.latest is None or self.latest[0] is not digits:
            mine = [digits[:, i].astype(np.int64) for i in self.columns]
            mine += [of[digits[:, i]] for i, of in self.alike.items()]
            if mine:
                which, inverse = distinct(mine)
                found = np.array([self._row(each) for each in np.stack(mine, axis=1)[which].tolist()], np.int64)[
                    inverse
                ]
            else:
                found = np.full(len(digits), self._row(()))
            self.latest = digits, found
        return self.latest[1]

    def _row(self, which: Sequence[int]) -> int:
        steps = tuple((i, k) for i, k in zip((*self.columns, *self.alike), which, strict=True) if k)
        if steps not in self.known:
            try:
                self.known[steps] = self.row(steps)
            except BadInput:
                self.known[steps] = NO_JOB
        return self.known[steps]


class Makes:
    """The cars that some steps make, each made once for all states and places that it tells something of.

    A row of a battery, a capacitor, a cable or a relay is the same in every state.
    """

    def __init__(self, sets: Sets, evaluator: Evaluator) -> None:
        self.sets, self.evaluator, self.job = sets, evaluator, evaluator.job
        self._circuits: dict[Steps, Circuit] = {}
        at, second, job = [slot.key for slot in sets.slots], second_place(self.job), self.job
        self.parting = [i for i, key in enumerate(at) if key.startswith("isolator:") or key == "bank:+"]
        self.alike = {column: self._alike(column) for column in self.parting}
        self.found = self.circuit(())
        banks = [bank.at for bank in job.banks] + ([second] if "bank:+" in at else [])
        capacitors = [each.at for each in job.capacitors] + ([second] if "capacitor:+" in at else [])
        chargers = len(job.chargers) + ("charger:+" in at)
        self.layout = replace(Layout.of(self.found, banks, capacitors), chargers=chargers)
        self.rows = rows = Rows(self.layout, "off")

        def bank(i: int) -> Place:
            own = ("bank:+",) if i >= len(job.banks) else (f"bank:{i}", f"isolator:{i}")
            return self.place(partial(_bank, rows, i), *own, parts=True)

        self.banks = [bank(i) for i in range(len(banks))]
        self.capacitors = [
            self.place(partial(_capacitor, rows, i), f"capacitor:{i}", "capacitor:+") for i in range(len(capacitors))
        ]
        self.relays = [self.place(partial(_relay, rows, i), parts=True) for i in range(len(banks))]
        self.links = [
            self.place(partial(rows.link, i=i), f"cable:{field}", f"return:{field}", f"strap:{field}", parts=True)
            for i, field in enumerate(edge.field for edge in self.found.edges)
        ]

    def circuit(self, steps: Steps) -> Circuit:
        """The car with some steps. Raises BadInput where they make no job."""
        if steps not in self._circuits:
            taken = [self.sets.slots[column].steps[k - 1] for column, k in steps]
            self._circuits[steps] = build_circuit(applied(self.job, taken))
        return self._circuits[steps]

    def place(self, row: Callable[[Circuit], int], *keys: str, parts: bool = False) -> Place:
        """A place that slots change, by their keys; `parts` where ways to part batteries do as well."""
        columns = tuple(i for i, slot in enumerate(self.sets.slots) if slot.key in keys)
        alike = {i: self.alike[i] for i in self.parting if parts and i not in columns}
        return Place(columns, alike, lambda steps: row(self.circuit(steps)))

    def _alike(self, column: int) -> Ints:
        """For each step of a slot the first that parts batteries in the same way: other places see no more of it."""
        first: dict[object, int] = {}
        out = []
        for k in range(len(self.sets.slots[column].steps) + 1):
            try:
                banks = self.circuit(((column, k),) if k else ()).job.banks
                parts: object = tuple((each.at, each.isolator, each.diode_v.value) for each in banks)
            except BadInput:
                parts = k
            out.append(first.setdefault(parts, k))
        return np.array(out, np.int64)


class Cars:
    """All sets as cars in one state.

    circuit_of   a car in that state
    sounding     beginnings of the keys of the slots that change what an amplifier does in it
    heard        what a watt of each amplifier is worth, where watts are compared in this state
    """

    def __init__(
        self,
        makes: Makes,
        engine: Engine,
        circuit_of: Callable[[Circuit], Circuit],
        sounding: Sequence[str],
        heard: Callable[[Circuit], Sequence[float]] | None = None,
    ) -> None:
        self.makes, self.circuit_of, self.layout = makes, circuit_of, makes.layout
        self.rows = rows = Rows(self.layout, engine, kept=makes.rows)
        self._columns = tuple(i for i, slot in enumerate(makes.sets.slots) if slot.key.startswith(tuple(sounding)))
        self._circuits: dict[Steps, Circuit] = {}
        self._heard, self._heard_of = heard, dict[Steps, Sequence[float]]()
        self.amplifiers = [Place(self._columns, {}, partial(self._amplifier, i)) for i in range(self.layout.amplifiers)]
        self.elements = [
            *(
                makes.place(partial(_charger, rows, i), f"charger:{i}", "charger:+")
                for i in range(self.layout.chargers)
            ),
            *makes.banks,
            *makes.capacitors,
            makes.place(rows.load),
            *self.amplifiers,
            *makes.relays,
        ]
        idle = _idle_links(makes.found, engine)
        self.links = [
            makes.place(partial(rows.link, i=i), parts=True) if i in idle else each
            for i, each in enumerate(makes.links)
        ]
        self.sound = self.sounding(lambda made: rows.sounds.add(made.played))

    def sounding(self, row: Callable[[Circuit], int]) -> Place:
        """A place that changes with what an amplifier does."""
        return Place(self._columns, {}, lambda steps: row(self._circuit(steps)))

    def _circuit(self, steps: Steps) -> Circuit:
        if steps not in self._circuits:
            self._circuits[steps] = self.circuit_of(self.makes.circuit(steps))
        return self._circuits[steps]

    def _amplifier(self, i: int, steps: Steps) -> int:
        made = self._circuit(steps)
        if made.silent:
            return NO_JOB
        if self._heard and steps not in self._heard_of:
            self._heard_of[steps] = self._heard(made)
        return self.rows.amplifier(made, i, self._heard_of[steps][i] if self._heard else 1.0)


def picks_of(found: Ints, elements: int, full_scale_v: Floats) -> Picks:
    """Cars by their rows: elements, cables, and what they play in the last column."""
    return Picks(
        np.ascontiguousarray(found[:, :elements]),
        np.ascontiguousarray(found[:, elements:-1]),
        np.ascontiguousarray(found[:, -1]),
        np.ascontiguousarray(full_scale_v),
    )


def _idle_links(circuit: Circuit, engine: Engine) -> frozenset[int]:
    """Cables that carry nothing in a state whatever their size: to where nothing but a standing alternator sits."""
    job, ends = circuit.job, circuit.graph.ends
    busy = {circuit.node_of(at) for at in [each.at for each in job.banks] + [each.at for each in job.capacitors]} | {0}
    busy |= {circuit.node_of(each.node) for each in circuit.loaded}
    for each in job.chargers:
        if each.kind != "alternator" or engine != "off":
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
