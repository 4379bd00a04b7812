"""Circuits of one layout as the rows that `batch` solves: what differs from car to car is a row, kept once by value.

Left out: which rows a car is made of, where that follows from a plan's steps (see `underhood.plan.compiled`).
"""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np

from underhood.arrays import Floats, Ints
from underhood.circuit import battery, charger, converter, isolator, vehicle
from underhood.circuit.batch import solve_all, tabulated
from underhood.circuit.batch_arrays import (
    AMPLIFIER,
    BANK,
    CAPACITOR,
    CHARGER,
    LINK,
    TABLE_STEPS,
    TIMING,
    Answers,
    Cars,
    Programmes,
    Records,
    Rows,
    Seen,
)
from underhood.circuit.batch_newton import SILENCE
from underhood.circuit.build import Circuit, Edge
from underhood.circuit.converter import UNKNOWN_LIMIT_A
from underhood.circuit.transient_parts import Row, amplifier_row, bank_row, padded
from underhood.document.job import Bank, Capacitor, Engine
from underhood.programme.played import Part, Played

__all__ = ["WORTH_A_TABLE", "RowBook", "UnsuitedError", "suited"]

CORES = 2
"""Cars are solved on as many at once."""
WORTH_A_TABLE, MOST_TABLES = 30, 1000
"""Cars that play a sound before its amps are tabulated, and how many sounds are."""
WORTH_A_THREAD = 200
"""Cars from which on both cores are quicker than one."""
SILENCE_DB = -60.0
SAME_OHM = 1e-12


class UnsuitedError(Exception):
    """A circuit that only `solver` answers; the text says why."""


def suited(circuit: Circuit) -> None:
    """Raises UnsuitedError for a circuit with what `batch` leaves out.

    circuit   of any layout
    """
    if any(converter.fed(circuit)):
        raise UnsuitedError("a converter that the circuit feeds")
    if isolator.diodes(circuit):
        raise UnsuitedError("a diode isolator")
    if circuit.silent or not circuit.loaded:
        raise UnsuitedError("an amplifier that cannot be answered for")


class RowBook:
    """The rows of cars of one layout in one engine state.

    circuit      gives the layout: nodes, cables' ends, amplifiers' places
    banks, capacitors   the places that may hold one, by name of the node
    """

    def __init__(self, circuit: Circuit, engine: Engine, banks: Sequence[str], capacitors: Sequence[str]) -> None:
        suited(circuit)
        self.circuit, self.engine = circuit, engine
        self.order = circuit.tree.order
        self.place = {node: i for i, node in enumerate(self.order)}
        self.bank_places, self.capacitor_places = list(banks), list(capacitors)
        self._wires: dict[tuple[float, float], int] = {(0.0, 0.0): 0}
        self._chargers: dict[tuple[float, float, float], int] = {}
        self._capacitors: dict[tuple[float, float], int] = {}
        self._banks: dict[bytes, int] = {}
        self._bank_rows: list[tuple[Bank, Row]] = []
        self._sounds: list[tuple[Records, int]] = []
        self._played: list[Played] = []
        self._programmes: tuple[int, Programmes] | None = None
        self._tables: dict[int, int] = {}
        self._amps = np.empty((0, len(circuit.loaded), SILENCE, TABLE_STEPS + 1))

    def wire(self, edge: Edge) -> int:
        """The row of a cable: ohms cold, and their rise per ampere squared, which its heat goes with."""
        cold, warm, hot = (edge.ohm(amps) for amps in (0.0, 100.0, 200.0))
        rise = (warm - cold) / 1e4
        assert abs(cold + rise * 4e4 - hot) < SAME_OHM * max(hot, 1.0) + 1e-9 * hot, edge.name
        return self._wires.setdefault((cold, rise), len(self._wires))

    def charger(self, circuit: Circuit, i: int) -> int:
        """The row of a circuit's i-th charger; of one that gives nothing only that is told."""
        each = circuit.job.chargers[i]
        amps = min(converter.available_a(circuit, self.engine)[i], UNKNOWN_LIMIT_A)
        volts = charger.setpoint_v(each, circuit.job.vehicle.ambient_c.value)
        row = (volts, each.source_ohm.value, amps) if amps > 0.0 else (0.0, 1.0, 0.0)
        return self._chargers.setdefault(row, len(self._chargers))

    def bank(self, bank: Bank) -> int:
        """The row of a bank, wherever it is. Raises UnsuitedError for one behind a diode."""
        if bank.isolator == "diode":
            raise UnsuitedError("a diode isolator")
        model = battery.model(bank)
        row = bank_row(bank, model, bank.charge.value, battery.ocv_table(bank))
        key = b"".join(np.asarray(value, float).tobytes() for value in row.values()) + bank.isolator.encode()
        if key not in self._banks:
            self._banks[key] = len(self._bank_rows)
            self._bank_rows.append((bank, row))
        return self._banks[key]

    def capacitor(self, each: Capacitor) -> int:
        """The row of a capacitor bank."""
        count = each.count.value
        row = (each.farad.value * count, each.esr_ohm.value / count)
        return self._capacitors.setdefault(row, len(self._capacitors))

    def sound(self, circuit: Circuit, heard: Sequence[float] | None = None) -> int:
        """The row of what all amplifiers do in a circuit: their laws, and what they play together.

        heard   what a watt of each is worth in `mean_w`; 1 where nothing is said
        """
        suited(circuit)
        played = circuit.played
        known = next((i for i, each in enumerate(self._played) if each is played), None)
        if known is None:
            known = len(self._played)
            self._played.append(played)
        records = np.zeros(len(circuit.loaded), AMPLIFIER)
        for i, loaded in enumerate(circuit.loaded):
            row = amplifier_row(circuit, i, self.place[circuit.node_of(loaded.node)])
            _copy(records[i : i + 1], row)
            records["peak"][i], records["load_share"][i] = played.peak[i], 1 - loaded.lead_share
            records["heard"][i] = heard[i] if heard else 1.0
        self._sounds.append((records, known))
        return len(self._sounds) - 1

    def wires(self, edges: Sequence[Edge]) -> list[int]:
        """The rows of all cables of a circuit of this layout, by the node beyond each."""
        found = [0] * len(self.order)
        for node, link in self._beyond.items():
            found[node] = self.wire(edges[link])
        return found

    @property
    def links(self) -> list[int | None]:
        """Of each ordered node the cable that leads to it; none to the root."""
        beyond = self._beyond
        return [beyond.get(node) for node in range(len(self.order))]

    @property
    def _beyond(self) -> dict[int, int]:
        """Links by the ordered node beyond them."""
        return {self.place[step.node]: step.link for step in self.circuit.tree.steps}

    def cars(self, circuits: Sequence[Circuit]) -> Cars:
        """Circuits of this layout as they are, a car each; banks and capacitors in their order at the places."""
        return Cars(
            np.array([self.wires(each.edges) for each in circuits], np.int64),
            np.array([[self.charger(each, i) for i in range(len(each.job.chargers))] for each in circuits], np.int64),
            np.array([[self.bank(bank) for bank in each.job.banks] for each in circuits], np.int64),
            np.array([[self.capacitor(c) for c in each.job.capacitors] for each in circuits], np.int64),
            np.array([self.sound(each) for each in circuits], np.int64),
            np.ones(len(circuits)),
        )

    def room_to_see(self, count: int) -> Seen:
        """Room for what a meter finds in so many cars."""
        n, m = len(self.order), len(self.circuit.loaded)
        job = self.circuit.job
        widths = (n, n, len(job.chargers), len(self.bank_places), m)
        volts, link_a, charger_a, bank_a, drawn_a = (np.zeros((count, 2, width)) for width in widths)
        return Seen(volts, link_a, np.zeros((count, n)), charger_a, bank_a, drawn_a, np.zeros((count, m)))

    def solved(
        self, cars: Cars, minutes: float, low_v: float = 0.0, rows: Rows | None = None, seen: Seen | None = None
    ) -> Answers:
        """What cars come to; see `batch.solve_all`.

        rows   in place of those collected
        seen   room for what a meter finds in them, where somebody looks
        """
        looked = seen or self.room_to_see(0)
        count = len(cars.sound)
        out = Answers(np.zeros(count, np.int64), *(np.full(count, np.nan) for _ in range(5)))
        programmes = self.programmes()
        table = rows or self._with_tables(self.rows(), programmes, np.bincount(cars.sound))

        def some(first: int, last: int) -> None:
            solve_all(table, programmes, cars, minutes, low_v, out, looked, first, last)

        if count < WORTH_A_THREAD:
            some(0, count)
            return out
        cuts = np.linspace(0, count, CORES + 1).astype(int).tolist()
        with ThreadPoolExecutor(CORES) as pool:
            list(pool.map(some, cuts[:-1], cuts[1:]))
        return out

    def _with_tables(self, rows: Rows, programmes: Programmes, played_by: Ints) -> Rows:
        """Rows with the amps of those sounds tabulated that many cars play.

        played_by   how many cars play each
        """
        worth_it = [s for s in np.flatnonzero(played_by >= WORTH_A_TABLE).tolist() if s not in self._tables]
        new = np.array(worth_it[: MOST_TABLES - len(self._tables)], np.int64)
        if len(new):
            self._amps = np.concatenate([self._amps, tabulated(rows, programmes, new)])
            self._tables |= {int(s): len(self._tables) + i for i, s in enumerate(new)}
        if not self._tables:
            return rows
        table = np.array([self._tables.get(s, -1) for s in range(len(self._sounds))], np.int64)
        return rows._replace(amps=self._amps, table=table)

    def rows(self) -> Rows:
        """All rows collected so far."""
        circuit = self.circuit
        link, charging = self._isolators()
        chargers = np.zeros(len(self._chargers), CHARGER)
        chargers["set_v"], chargers["ohm"], chargers["limit_a"] = np.array(list(self._chargers), float).reshape(-1, 3).T
        capacitors = np.zeros(len(self._capacitors), CAPACITOR)
        capacitors["farad"], capacitors["esr_ohm"] = np.array(list(self._capacitors), float).reshape(-1, 2).T
        longest = max((row["ocv"].shape[1] for _, row in self._bank_rows), default=2)
        ocv = [padded(row["ocv"], longest) for _, row in self._bank_rows]
        return Rows(
            links=self._links(),
            bank_node=np.array([self._node(place) for place in self.bank_places], np.int64),
            capacitor_node=np.array([self._node(place) for place in self.capacitor_places], np.int64),
            charger_node=np.array([self._node(each.at) for each in circuit.job.chargers], np.int64),
            relay_link=link,
            relay_charging=charging,
            wires=np.array(list(self._wires), float),
            chargers=chargers,
            banks=self._banks_as_records(),
            ocv=np.array(ocv, float).reshape(-1, 2, longest),
            capacitors=capacitors,
            sounds=np.stack([records for records, _ in self._sounds]),
            played=np.array([played for _, played in self._sounds], np.int64),
            amps=self._amps,
            table=np.full(len(self._sounds), -1, np.int64),
            feeds=self._feeds(),
            vehicle_a=vehicle.used_a(circuit.job.vehicle, self.engine),
            silence=10 ** ((SILENCE_DB - circuit.job.basis.level_db.value) / 20),
        )

    def _banks_as_records(self) -> Records:
        records = np.zeros(len(self._bank_rows), BANK)
        for i, (bank, row) in enumerate(self._bank_rows):
            of = row | {"relay": bank.isolator == "relay"}
            of |= zip(("full", "rise", "most", "memory"), row["acceptance"], strict=True)
            of |= zip(("charge_limit_a", "steady_limit_a", "peak_limit_a"), row["limits_a"], strict=True)
            _copy(records[i : i + 1], of)
        return records

    def _feeds(self) -> Ints:
        """Which links lead to which amplifiers, by the node beyond each."""
        feeds = np.zeros((len(self.order), len(self.circuit.loaded)), np.int64)
        beyond = {link: node for node, link in self._beyond.items()}
        for fed, links in self.circuit.links_feeding.items():
            for each in links:
                feeds[beyond[each], list(fed)] = 1
        return feeds

    def _node(self, place: str) -> int:
        return self.place[self.circuit.node_of(place)]

    def _links(self) -> Records:
        links = np.zeros(len(self.order), LINK)
        links["charging"] = -1
        for step in self.circuit.tree.steps:
            links["parent"][self.place[step.node]] = self.place[step.before]
        return links

    def _isolators(self) -> tuple[Ints, Ints]:
        """Of each place of a bank the node beyond the cable that an isolator there would open, and its other side."""
        link = np.full(len(self.bank_places), -1, np.int64)
        charging = link.copy()
        beyond = {link_: node for node, link_ in self._beyond.items()}
        for i, place in enumerate(self.bank_places):
            last = isolator.last_cable(self.circuit, self.circuit.node_of(place))
            if last is not None:
                link[i], charging[i] = beyond[last.link], self.place[last.before]
        return link, charging

    def programmes(self) -> Programmes:
        """What is played, a row each."""
        if self._programmes is None or self._programmes[0] != len(self._played):
            self._programmes = len(self._played), self._as_programmes()
        return self._programmes[1]

    def _as_programmes(self) -> Programmes:
        rows = [_programme(each) for each in self._played]
        shapes = [[max(sizes) for sizes in zip(*(row[name].shape for row in rows), strict=True)] for name in rows[0]]
        columns = {
            name: np.stack([_filled(row[name], tuple(shape)) for row in rows])
            for name, shape in zip(rows[0], shapes, strict=True)
        }
        return Programmes(**columns)


def _programme(played: Played) -> dict[str, Any]:
    m, parts = len(played.envelopes), played.parts
    quiet, loud = parts[0], parts[-1]
    quiet_s = played.quiet_s if len(parts) == 2 else 0.0
    timing = (len(parts), quiet.share, loud.share, quiet_s, played.stretch_s, played.peak_s)
    each = [[_rising(*of) for of in levels] for levels in (played.whole, quiet.levels, loud.levels)]
    groups = np.array([[len(levels) for levels, _ in of] for of in each], np.int64)
    k = int(groups.max())
    levels = np.zeros((3, m, 5, k + 1))
    for i, of in enumerate(each):
        for j, (rising, shares) in enumerate(of):
            n = len(rising)
            levels[i, j, 0, :n], levels[i, j, 1, :n] = rising, shares
            levels[i, j, 2:, 1 : n + 1] = np.cumsum([shares, shares * rising, shares * rising**2], axis=1)
    return {
        "timing": np.array(timing, TIMING),
        "levels": levels,
        "groups": groups,
        **_cells((quiet, loud), m, k),
    }


def _rising(levels: Floats, weight: Floats) -> tuple[Floats, Floats]:
    order = np.argsort(levels)
    return levels[order], weight[order]


def _cells(parts: tuple[Part, Part], m: int, k: int) -> dict[str, Any]:
    most = max(len(part.cells) for part in parts)
    cells, inside = np.zeros((2, most)), np.zeros((2, m, most, k))
    for i, part in enumerate(parts):
        cells[i, : len(part.cells)] = part.cells
        for j, of in enumerate(part.in_cells):
            order = np.argsort(part.levels[j][0])
            inside[i, j, : of.shape[0], : of.shape[1]] = of[:, order]
    return {
        "cells": cells,
        "in_cells": inside,
        "cell_count": np.array([len(part.cells) for part in parts], np.int64),
    }


def _filled(array: Any, shape: tuple[int, ...]) -> Any:
    """An array filled up with zeros to a shape."""
    return np.pad(array, [(0, want - have) for want, have in zip(shape, array.shape, strict=True)]) if shape else array


def _copy(record: Records, row: Row) -> None:
    """Fills a record in with what it and a row have in common."""
    for name in record.dtype.names or ():
        if name in row:
            record[name] = row[name]
