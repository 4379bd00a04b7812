"""The course of a simulation, summed up stretch by stretch, so that an hour takes no more memory than a minute.

Left out: what the sums mean for a person (see `simulation`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import converter
from underhood.circuit.operating_point import OperatingPoint
from underhood.circuit.stretches import Stretch

SHOWN = 900
"""Points of the series that are sent to be drawn; each keeps the lowest and the mean of its stretch."""
LOW_SHARE = 0.01
BIN_V, BINS = 0.001, 65_536
"""The volts below which a share of the time is spent are told to a millivolt."""
ROWS = 20_000
"""Most steps of one stretch."""


@dataclass(frozen=True, slots=True)
class VoltsOverTime:
    """Lowest, mean, and the volts below which one percent of the time is spent."""

    min: float
    mean: float
    low1: float


@dataclass(frozen=True, slots=True)
class SourceResult:
    """Amps of a charger, bank or capacitor: mean, most, and its part of the loudest moments (the top percent)."""

    name: str
    kind: str
    mean_a: float
    peak_a: float
    at_loudest_a: float


@dataclass(frozen=True)
class Series:
    """The course for a chart, (k,) each: lowest and mean volts at front and amplifier, mean amps, charge.

    charge   of the bank that is lowest at the end
    """

    time_s: list[float]
    front_v: list[float]
    front_low_v: list[float]
    terminal_v: list[float]
    terminal_low_v: list[float]
    charger_a: list[float]
    bank_a: list[float]
    charge: list[float]


class Course:
    """The sums of a simulation of known length; `add` takes its stretches in their order.

    terminal   the first amplifier's node; None without one
    """

    def __init__(self, point: OperatingPoint, level: Floats, per: int, steps: int, step_s: float) -> None:
        self.point, self.steps = point, steps
        self.size = max(math.ceil(steps / SHOWN), 1)
        self.rows = max(ROWS // self.size, 1) * self.size
        circuit, job = point.circuit, point.circuit.job
        loaded, nodes = circuit.loaded, len(circuit.nodes)
        self.terminal = circuit.node_of(loaded[0].node) if loaded else None
        places = [each.at for each in job.chargers] + [each.at for each in job.banks] + [c.at for c in job.capacitors]
        self._sources = [circuit.node_of(place) for place in places]
        self._fed = list(converter.fed(circuit))
        self._loud, self._per = self._loudest(level, per), per
        self._seen = 0
        self._bins = np.zeros((nodes, BINS), np.int64)
        self._node_sum, self._node_min = np.zeros(nodes), np.full(nodes, np.inf)
        count = len(self._sources)
        self._amps, self._most = np.zeros(count), np.full(count, -np.inf)
        self._loud_amps, self._loud_steps = np.zeros(count), 0
        self._held, self._out = np.zeros(len(loaded)), np.zeros(len(loaded))
        self._spent = self._missing = 0.0
        self._front: list[Floats] = []
        self._drawn: list[tuple[Floats, ...]] = []
        self.charge_end = np.empty(0)
        self.switched_off = 0

    def _loudest(self, level: Floats, per: int) -> Floats:
        """Which of the programme's steps are the loudest percent of what is played, by the watts asked for."""
        watts = np.array([each.usual_w for each in self.point.circuit.loaded])
        asked = np.minimum(level, 1.0) ** 2 @ watts if len(watts) else np.zeros(len(level))
        played = asked[: max(math.ceil(self.steps / per), 1)]
        return np.asarray(asked >= np.quantile(played, 1 - LOW_SHARE) * (1 - 1e-9))

    def add(self, result: Stretch) -> None:
        """The next stretch."""
        volts, rows = result.volts, len(result.volts)
        for i in range(volts.shape[1]):
            bins = np.clip((volts[:, i] / BIN_V).astype(int), 0, BINS - 1)
            self._bins[i] += np.bincount(bins, minlength=BINS)
        self._node_sum += volts.sum(axis=0)
        self._node_min = np.minimum(self._node_min, volts.min(axis=0))
        amps = np.column_stack([result.charger_a, result.bank_a, result.capacitor_a])
        loud = self._loud[((self._seen + np.arange(rows)) // self._per) % len(self._loud)]
        self._amps += amps.sum(axis=0)
        self._most = np.maximum(self._most, amps.max(axis=0, initial=-np.inf))
        self._loud_amps += amps[loud].sum(axis=0)
        self._loud_steps += int(loud.sum())
        self._held += result.held_w.sum(axis=0)
        self._out += result.out_w.sum(axis=0)
        spent = volts[:, 0] * self.point.vehicle_a + result.in_w.sum(axis=1)
        self._spent += float(spent.sum())
        self._missing += float((self._given(result, amps) - spent - result.cable_w).sum())
        self.charge_end = result.charge[-1] if result.charge.size else np.empty(0)
        self.switched_off += int(result.switched_off.sum())
        self._front.append(volts[:, 0].copy())
        self._draw(result)
        self._seen += rows

    def _given(self, result: Stretch, amps: Floats) -> Floats:
        """Watts that the sources give, less what converters take from the circuit, (t,)."""
        given = (amps * result.volts[:, self._sources]).sum(axis=1)
        for each in self._fed:
            there, gives = result.volts[:, self._sources[each.charger]], result.charger_a[:, each.charger]
            given = given - gives * there / each.efficiency - each.idle_w * (gives > 0)
        return np.asarray(given, float)

    def _draw(self, result: Stretch) -> None:
        """The points of the series that this stretch fills."""
        whole = len(result.volts) // self.size * self.size

        def bucketed(values: Floats) -> Floats:
            return values[:whole].reshape(-1, self.size)

        front, end = bucketed(result.volts[:, 0]), bucketed(result.volts[:, self.terminal or 0])
        charge = result.charge[:whole].reshape(-1, self.size, result.charge.shape[1]).mean(axis=1)
        chargers, banks = bucketed(result.charger_a.sum(axis=1)), bucketed(result.bank_a.sum(axis=1))
        lows = (front.mean(axis=1), front.min(axis=1), end.mean(axis=1), end.min(axis=1))
        self._drawn.append((*lows, chargers.mean(axis=1), banks.mean(axis=1), charge))

    @property
    def front_v(self) -> Floats:
        """Volts at the front posts in every step, (t,)."""
        return np.concatenate(self._front)

    @property
    def lowest_bank(self) -> int | None:
        """The bank that is lowest at the end."""
        return int(self.charge_end.argmin()) if len(self.charge_end) else None

    @property
    def held_w(self) -> Floats:
        """Mean true watts of each amplifier had the supply held, (m,)."""
        return self._held / self.steps

    @property
    def out_w(self) -> Floats:
        """Mean true watts of each amplifier, (m,)."""
        return self._out / self.steps

    @property
    def spent_w(self) -> float:
        """Mean watts that the vehicle and the amplifiers take."""
        return self._spent / self.steps

    @property
    def missing_w(self) -> float:
        """Mean watts that do not balance: sources against loads and cable heat."""
        return self._missing / self.steps

    def node_volts(self) -> list[VoltsOverTime]:
        """Of each node."""
        below = np.cumsum(self._bins, axis=1) >= LOW_SHARE * self.steps
        low = (below.argmax(axis=1) + 0.5) * BIN_V
        return [
            VoltsOverTime(float(least), float(total / self.steps), float(max(one, least)))
            for least, total, one in zip(self._node_min, self._node_sum, low, strict=True)
        ]

    def sources(self) -> list[SourceResult]:
        """Chargers, banks and capacitors."""
        job = self.point.circuit.job
        named = [("charger", each.name) for each in job.chargers] + [("bank", each.name) for each in job.banks]
        named += [("capacitor", each.name) for each in job.capacitors]
        loud = self._loud_amps / max(self._loud_steps, 1)
        return [
            SourceResult(name, kind, float(self._amps[i] / self.steps), float(self._most[i]), float(loud[i]))
            for i, (kind, name) in enumerate(named)
        ]

    def series(self, step_s: float) -> Series:
        """The course to be drawn."""
        *drawn, charge = (np.concatenate(each) for each in zip(*self._drawn, strict=True))
        front, front_low, end, end_low, charger_a, bank_a = drawn
        lowest = self.lowest_bank
        return Series(
            time_s=((np.arange(len(front)) + 0.5) * self.size * step_s).tolist(),
            front_v=front.tolist(),
            front_low_v=front_low.tolist(),
            terminal_v=end.tolist(),
            terminal_low_v=end_low.tolist(),
            charger_a=charger_a.tolist(),
            bank_a=bank_a.tolist(),
            charge=[0.0] * len(front) if lowest is None else charge[:, lowest].tolist(),
        )
