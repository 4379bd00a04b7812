"""A circuit as rows of numbers (see `table`): the only way from a job into the engine.

Rows are kept once by value, so that thousands of cars which differ in parts share them. Left out: what is solved on
them (see `states`, `over_time`, `batch`).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from underhood.arrays import Floats, Ints
from underhood.circuit import battery, charger, converter, switches, vehicle
from underhood.circuit import table as t
from underhood.circuit.build import Circuit
from underhood.circuit.converter import UNKNOWN_LIMIT_A
from underhood.circuit.laws import JOINS_V, OPEN_OHM, OPENS_V
from underhood.document.job import Engine
from underhood.programme.played import Part, Played

TWENTY_HOURS_S = 72000.0
WARM_A = 100.0


class Picks(NamedTuple):
    """Which rows each of some cars is made of: (cars, elements), (cars, cables), and what it plays (cars,).

    full_scale_v   (cars, amplifiers) what full scale asks of a channel, V RMS (see `gain`)
    """

    elements: Ints
    links: Ints
    sound: Ints
    full_scale_v: Floats


@dataclass(frozen=True)
class Layout:
    """What all cars of a batch have alike: nodes, and places for elements and cables, which may stand empty.

    banks, capacitors   the places that may hold one, by name of the node
    groups              which amplifiers lie beyond the cables of each group, (groups, amplifiers)
    """

    nodes: Floats
    chargers: int
    banks: tuple[str, ...]
    capacitors: tuple[str, ...]
    amplifiers: int
    links: int
    groups: Floats

    @classmethod
    def of(
        cls, circuit: Circuit, banks: Sequence[str] | None = None, capacitors: Sequence[str] | None = None
    ) -> Layout:
        """The layout of a circuit, with its own banks and capacitors unless others are given."""
        job = circuit.job
        nodes = np.zeros((len(circuit.nodes), t.NODE_COLUMNS))
        nodes[:, t.PER_12] = circuit.per_12
        groups = np.zeros((max(len(circuit.links_feeding), 1), len(circuit.loaded)))
        for g, fed in enumerate(circuit.links_feeding):
            groups[g, list(fed)] = 1.0
        return cls(
            nodes,
            len(job.chargers),
            tuple(bank.at for bank in job.banks) if banks is None else tuple(banks),
            tuple(each.at for each in job.capacitors) if capacitors is None else tuple(capacitors),
            len(circuit.loaded),
            len(circuit.edges),
            groups,
        )

    @property
    def first_bank(self) -> int:
        """The element that the first place of a bank is; chargers come before."""
        return self.chargers

    @property
    def first_capacitor(self) -> int:
        """That of the first place of a capacitor."""
        return self.chargers + len(self.banks)

    @property
    def load(self) -> int:
        """That of what the vehicle takes."""
        return self.first_capacitor + len(self.capacitors)

    @property
    def first_amplifier(self) -> int:
        """That of the first amplifier."""
        return self.load + 1

    @property
    def first_relay(self) -> int:
        """That of the relay of the first place of a bank."""
        return self.first_amplifier + self.amplifiers

    @property
    def elements(self) -> int:
        """How many places for elements there are."""
        return self.first_relay + len(self.banks)


class Kept:
    """Rows of one width, each kept once."""

    def __init__(self, columns: int) -> None:
        self.columns = columns
        self._known: dict[bytes, int] = {}
        self._rows: list[Floats] = []
        self._all: Floats | None = None

    def given(self, rows: Floats) -> None:
        """All of them at once, some perhaps alike."""
        self._all = np.ascontiguousarray(rows)

    def add(self, values: dict[int, float]) -> int:
        """The number of a row, by its columns."""
        row = np.zeros(self.columns)
        row[list(values)] = list(values.values())
        key = row.tobytes()
        if key not in self._known:
            self._known[key] = len(self._rows)
            self._rows.append(row)
            self._all = None
        return self._known[key]

    def all(self) -> Floats:
        """All rows."""
        if self._all is None:
            self._all = np.array(self._rows, float).reshape(-1, self.columns)
        return self._all


class Sounds:
    """What amplifiers play together, a row each, as the arrays that the engine takes."""

    def __init__(self, amplifiers: int) -> None:
        self.amplifiers = amplifiers
        self._played: list[Played] = []
        self._made: tuple[Floats, Floats, Floats] | None = None

    def add(self, played: Played) -> int:
        """The row of what is played."""
        for i, each in enumerate(self._played):
            if each is played:
                return i
        self._played.append(played)
        self._made = None
        return len(self._played) - 1

    def all(self) -> tuple[Floats, Floats, Floats]:
        """(levels, timing, what falls inside each cell) of all that is played, of one size each."""
        if self._made is None:
            each = [_sound(played, self.amplifiers) for played in self._played]
            self._made = (_stacked([one[0] for one in each]), np.array([one[1] for one in each]),
                          _stacked([one[2] for one in each]))  # fmt: skip
        return self._made


@lru_cache(maxsize=64)
def _sound(played: Played, m: int) -> tuple[Floats, list[float], Floats]:
    parts = played.parts
    quiet, loud = parts[0], parts[-1]
    quiet_s = played.quiet_s if len(parts) == 2 else 0.0
    timing = [float(len(parts)), quiet.share, loud.share, quiet_s, played.stretch_s, played.peak_s]
    each = [[_rising(*of) for of in levels[:m]] for levels in (played.whole, quiet.levels, loud.levels)]
    k = max((len(levels) for of in each for levels, _ in of), default=1)
    out = np.zeros((3, m, t.BELOW + 3, k + 1))
    for i, of in enumerate(each):
        for j, (levels, shares) in enumerate(of):
            n = len(levels)
            out[i, j, t.LEVEL, :n], out[i, j, t.LEVEL, n:] = levels, levels[-1]
            out[i, j, t.SHARE, :n] = shares
            sums = np.cumsum([shares, shares * levels, shares * levels**2], axis=1)
            out[i, j, t.BELOW :, 1 : n + 1], out[i, j, t.BELOW :, n + 1 :] = sums, sums[:, -1:]
    return out, timing, _cells((quiet, loud), m, k)


def _rising(levels: Floats, weight: Floats) -> tuple[Floats, Floats]:
    order = np.argsort(levels)
    return levels[order], weight[order]


def _cells(parts: tuple[Part, Part], m: int, k: int) -> Floats:
    """(2, m + 1, c, k): how the time of each cell falls on each amplifier's levels; its share of the time comes
    last."""
    most = max(len(part.cells) for part in parts)
    out = np.zeros((2, m + 1, most, k))
    for i, part in enumerate(parts):
        out[i, m, : len(part.cells), 0] = part.cells
        for j, inside in enumerate(part.in_cells[:m]):
            order = np.argsort(part.levels[j][0])
            out[i, j, : inside.shape[0], : inside.shape[1]] = inside[:, order]
    return out


def _stacked(arrays: Sequence[Floats]) -> Floats:
    """Arrays stacked, each filled up to the size of the largest: levels with their last one, all else with nothing."""
    shape = tuple(max(sizes) for sizes in zip(*(each.shape for each in arrays), strict=True))
    levels = shape[2] == t.BELOW + 3
    return np.stack([
        np.pad(each, [(0, want - have) for want, have in zip(shape, each.shape, strict=True)],
               mode="edge" if levels else "constant") if each.shape != shape else each
        for each in arrays
    ])  # fmt: skip


class Rows:
    """The rows of cars of one layout in one engine state; `kept` together with those of another."""

    def __init__(
        self, layout: Layout, engine: Engine, sounds: Sounds | None = None, *, kept: Rows | None = None
    ) -> None:
        self.layout, self.engine = layout, engine
        self.elements: Kept = kept.elements if kept else Kept(t.ELEMENT_COLUMNS)
        self.links: Kept = kept.links if kept else Kept(t.LINK_COLUMNS)
        self.sounds = sounds or Sounds(layout.amplifiers)

    def charger(self, circuit: Circuit, i: int) -> int:
        """The row of a circuit's i-th charger; -1 for one that gives nothing in this state."""
        amps = converter.available_a(circuit, self.engine)[i]
        if amps <= 0.0:
            return -1
        each, job = circuit.job.chargers[i], circuit.job
        fed = {one.charger: one for one in converter.fed(circuit)}
        taken = fed.get(i)
        limit = each.input_limit_a.value if each.input_limit_a else math.inf
        return self.elements.add({
            t.KIND: t.CHARGER,
            t.NODE: circuit.node_of(each.at),
            t.SET_V: charger.setpoint_v(each, job.vehicle.ambient_c.value),
            t.SOURCE_OHM: each.source_ohm.value,
            t.LIMIT_A: min(amps, UNKNOWN_LIMIT_A),
            t.INPUT: taken.node if taken else -1,
            t.EFFICIENCY: taken.efficiency if taken else 1.0,
            t.IDLE_W: taken.idle_w if taken else 0.0,
            t.INPUT_LIMIT_A: limit,
            t.CUTOUT_V: each.cutout_v.value,
            t.RESTART_V: each.restart_v.value,
        })  # fmt: skip

    def bank(self, circuit: Circuit, i: int) -> int:
        """The row of a circuit's i-th bank."""
        bank, series = circuit.job.banks[i], circuit.series(i)
        count = bank.count.value
        model, points = battery.model(bank, series), battery.ocv_table(bank, series)
        full, rise, most, memory = battery.acceptance_rule(bank)
        charge_a, steady_a, peak_a = switches.limits_a(bank)
        capacity_as = battery.capacity_as(bank) * count
        row: dict[int, float] = {
            t.KIND: t.BANK,
            t.NODE: circuit.node_of(bank.at),
            t.R0_OHM: model.r0_ohm,
            t.R1_DISCHARGE_OHM: model.r1_discharge_ohm,
            t.R1_CHARGE_OHM: battery.fixed_r1_charge_ohm(bank) * series / count,
            t.FAST_F: model.fast.farad,
            t.SLOW_F: model.slow.farad,
            t.CAPACITY_AS: capacity_as,
            t.TWENTY_HOUR_A: capacity_as / TWENTY_HOURS_S,
            t.PEUKERT: battery.peukert(bank),
            t.ABSORPTION_V: battery.absorption_v(bank) * series,
            t.FULL: full,
            t.RISE: rise,
            t.MOST: most,
            t.MEMORY: memory,
            t.CHARGE_LIMIT_A: charge_a,
            t.STEADY_LIMIT_A: steady_a,
            t.PEAK_LIMIT_A: peak_a,
            t.START_CHARGE: bank.charge.value,
            t.APART: float(bank.isolator != "none"),
        }
        for k in range(t.OCV_POINTS):
            at = min(k, points.shape[1] - 1)
            row[t.OCV_CHARGE + k], row[t.OCV_VOLTS + k] = points[0, at], points[1, at]
        return self.elements.add(row)

    def capacitor(self, circuit: Circuit, i: int) -> int:
        """The row of a circuit's i-th capacitor bank."""
        each = circuit.job.capacitors[i]
        count = each.count.value
        return self.elements.add({
            t.KIND: t.CAPACITOR,
            t.NODE: circuit.node_of(each.at),
            t.FARAD: each.farad.value * count,
            t.ESR_OHM: each.esr_ohm.value / count,
        })  # fmt: skip

    def load(self, circuit: Circuit) -> int:
        """The row of what the vehicle itself takes, at its front battery."""
        amps = vehicle.used_a(circuit.job.vehicle, self.engine)
        return self.elements.add({t.KIND: t.LOAD, t.NODE: 0, t.LOAD_A: amps})

    def amplifier(self, circuit: Circuit, i: int, heard: float = 1.0) -> int:
        """The row of a circuit's i-th loaded amplifier.

        heard   what a watt of it is worth where watts are compared
        """
        loaded = circuit.loaded[i]
        law = loaded.law
        return self.elements.add({
            t.KIND: t.AMPLIFIER,
            t.NODE: circuit.node_of(loaded.node),
            t.ORDINAL: i,
            t.REFERENCE_V: law.reference_v,
            t.LOAD_OHM: law.ohm,
            t.POWER_FACTOR: law.power_factor,
            t.CHANNELS: law.channels,
            t.EXPONENT: law.exponent,
            t.DROPOUT_V: law.dropout_v,
            t.OFF_BELOW_V: loaded.amplifier.cutout_v.value,
            t.IDLE_A: law.taken.idle_a,
            t.LINEAR_V: law.taken.linear_v,
            t.QUADRATIC_OHM: law.taken.quadratic_ohm,
            t.LINEAR: float(law.taken.linear),
            t.PEAK_LEVEL: float(circuit.played.peak[i]),
            t.LOAD_SHARE: 1 - loaded.lead_share,
            t.HEARD: heard,
            t.FULL_SHARE: loaded.full_share,
            t.SUPPLY_SCALE: law.supply_scale,
        })  # fmt: skip

    def relay(self, circuit: Circuit, i: int) -> int:
        """The row of the relay before a circuit's i-th bank; -1 where there is none, or one beside it has it."""
        for cut in circuit.relays:
            if cut.bank == i:
                per_12 = circuit.per_12[cut.node]
                return self.elements.add({
                    t.KIND: t.RELAY,
                    t.NODE: cut.node,
                    t.SENSE: cut.charging,
                    t.JOINS_V: JOINS_V * per_12,
                    t.OPENS_V: OPENS_V * per_12,
                })  # fmt: skip
        return -1

    def link(self, circuit: Circuit, i: int) -> int:
        """The row of a circuit's i-th cable."""
        return self.links.add(link_row(circuit, i, self.layout.first_relay))

    def picks(self, circuit: Circuit, full_scale_v: Floats, like: Picks | None = None) -> Picks:
        """A circuit of this layout as it is: one car, full scale asking so many volts of each amplifier.

        like   those of the same car in another engine state or with other amplifiers, of rows kept together with
               these: its batteries, capacitors, relays and cables are the same
        """
        job, layout = circuit.job, self.layout
        if like is None:
            stores = [
                *(self.bank(circuit, i) for i in range(len(job.banks))),
                *(self.capacitor(circuit, i) for i in range(len(job.capacitors))),
            ]
            relays = [self.relay(circuit, i) for i in range(len(job.banks))]
            links = [self.link(circuit, i) for i in range(len(circuit.edges))]
        else:
            stores = like.elements[0, layout.first_bank : layout.load].tolist()
            relays = like.elements[0, layout.first_relay :].tolist()
            links = like.links[0].tolist()
        elements = [
            *(self.charger(circuit, i) for i in range(len(job.chargers))),
            *stores,
            self.load(circuit),
            *(self.amplifier(circuit, i) for i in range(len(circuit.loaded))),
            *relays,
        ]
        sound = self.sounds.add(circuit.played)
        return Picks(
            np.array([elements], np.int64),
            np.array([links], np.int64).reshape(1, -1),
            np.array([sound], np.int64),
            full_scale_v[np.newaxis],
        )


def picks_of(each: Sequence[Picks]) -> Picks:
    """Several cars together."""
    return Picks(*(np.concatenate(column) for column in zip(*each, strict=True)))


def link_row(circuit: Circuit, i: int, first_relay: int) -> dict[int, float]:
    """A circuit's i-th cable by its columns: what is in it, and which way a diode lets current.

    first_relay   the element that the relay of the first bank is
    """
    edge, (start, end) = circuit.edges[i], circuit.graph.ends[i]
    cold, rise = cold_and_rise(edge.ohm)
    opened = [first_relay + cut.bank for cut in circuit.relays if i in cut.links]
    diode_v = [
        circuit.job.banks[cut.bank].diode_v.value * (1 if cut.node == end else -1)
        for cut in circuit.diodes
        if i in cut.links
    ]
    group = next(g for g, links in enumerate(circuit.links_feeding.values()) if i in links)
    if len({volts > 0 for volts in diode_v}) == 2:  # one against the other: nothing passes
        cold, rise, diode_v = OPEN_OHM, 0.0, []
    return {
        t.START: start,
        t.END: end,
        t.COLD_OHM: cold,
        t.RISE_OHM: rise,
        t.DIODE_V: diode_v[0] if diode_v else 0.0,
        t.SWITCH: opened[0] if opened else -1,
        t.SWITCH_2: opened[1] if len(opened) > 1 else -1,
        t.GROUP: group,
    }


def cold_and_rise(ohm: Callable[[float], float]) -> tuple[float, float]:
    """Ohms cold, and their rise per ampere squared, of something that warms with the square of its amps."""
    cold = ohm(0.0)
    return cold, (ohm(WARM_A) - cold) / WARM_A**2
