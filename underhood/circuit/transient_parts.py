"""A circuit as the arrays that `transient` takes: its tree from the root, its sources and loads by number."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, NamedTuple, TypeAlias, TypeVar

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import battery, converter, laws, switches
from underhood.circuit.battery import BatteryModel
from underhood.circuit.build import Circuit, build_circuit
from underhood.circuit.circuit_arrays import Amplifiers, Banks, Capacitors, Chargers, CircuitArrays, Network
from underhood.circuit.converter import UNKNOWN_LIMIT_A
from underhood.circuit.operating_point import OperatingPoint
from underhood.circuit.solver import solve
from underhood.circuit.topology import LEAST_OHM
from underhood.document.job import Bank, Engine
from underhood.document.quantity import Quantity

__all__ = ["Row", "TransientParts", "amplifier_row", "bank_row", "padded", "stacked"]

Arrays = TypeVar("Arrays", bound=NamedTuple)
Row: TypeAlias = dict[str, Any]
"""One element by the names of its fields."""
INTEGERS = ("node", "linear", "dropped")
TABLES = {"acceptance": (4,), "ocv": (2, -1), "limits_a": (3,)}
"""Fields that are no single number of an element, with the shape of one."""
TWENTY_HOURS_S = 72000.0


class TransientParts:
    """A circuit as the arrays that `transient` takes, its nodes ordered from the root."""

    def __init__(self, circuit: Circuit, point: OperatingPoint, engine: Engine) -> None:
        self.circuit, self.point, self.job = circuit, point, circuit.job
        self.order = point.tree.order
        self.place = {node: i for i, node in enumerate(self.order)}
        self.silence = self._silence(engine)
        self.network = self.network_drawing(point.vehicle_a)

    def arrays(self) -> CircuitArrays:
        """All of it, at the engine state of its point."""
        return CircuitArrays(
            self.network,
            self.chargers(self.point.engine),
            self.banks(),
            self.capacitors(),
            self.amplifiers(),
            self.silence,
        )

    def at(self, place: str) -> int:
        """Where a place stands in the ordered nodes."""
        return self.place[self.circuit.node_of(place)]

    def _silence(self, engine: Engine) -> Floats:
        """Node volts with nothing playing; the mean state's where silence cannot be solved."""
        quiet = self.circuit.job.basis.model_copy(update={"level_db": Quantity(-60.0), "programme": "tone"})
        point = solve(build_circuit(self.job.model_copy(update={"basis": quiet})), engine)
        self.position = (point or self.point).position
        volts = (point or self.point).volts
        return np.array([volts[node] for node in self.order])

    def network_drawing(self, vehicle_a: float) -> Network:
        """The tree with the vehicle's own loads at its root, A."""
        parent, siemens = np.zeros(len(self.order), np.int64), np.zeros(len(self.order))
        for step in self.point.tree.steps:
            here = self.place[step.node]
            parent[here] = self.place[step.before]
            siemens[here] = 1 / max(self.point.tree.ohm[step.link], LEAST_OHM)
        drawn = np.zeros(len(self.order))
        drawn[0] = vehicle_a
        charging, closed = np.full(len(self.order), -1, np.int64), np.zeros(len(self.order), np.int64)
        beyond = {step.link: self.place[step.node] for step in self.point.tree.steps}
        for relay, on in zip(self.point.relays, self.position.closed, strict=True):
            charging[beyond[relay.link]] = self.place[relay.charging]
            closed[beyond[relay.link]] = on
        diode_v = np.zeros(len(self.order))
        for link, volts in self.point.tree.diodes:
            outward = self.place[self.point.tree.ends[link][1]] == beyond[link]
            diode_v[beyond[link]] = volts if outward else -volts
        return Network(parent, siemens, drawn, charging, closed, diode_v)

    def chargers(self, engine: Engine) -> Chargers:
        """Chargers as they are in an engine state."""
        job = self.job
        fed = {each.charger: each for each in self.point.fed}
        available = converter.available_a(self.circuit, engine)
        return Chargers(
            node=np.array([self.at(each.at) for each in job.chargers], np.int64),
            set_v=np.array(self.point.setpoints_v, float),
            ohm=np.array([each.source_ohm.value for each in job.chargers], float),
            limit_a=np.array([min(amps, UNKNOWN_LIMIT_A) for amps in available], float),
            input_node=np.array(
                [self.place[fed[i].node] if i in fed else -1 for i in range(len(job.chargers))], np.int64
            ),
            efficiency=np.array([fed[i].efficiency if i in fed else 1.0 for i in range(len(job.chargers))], float),
            idle_w=np.array([fed[i].idle_w if i in fed else 0.0 for i in range(len(job.chargers))], float),
            cutout_v=np.array([each.cutout_v.value for each in job.chargers], float),
            restart_v=np.array([each.restart_v.value for each in job.chargers], float),
            stopped=np.array([i in self.position.stopped for i in range(len(job.chargers))], np.int64),
        )

    def banks(self, charge: float | None = None) -> Banks:
        """Banks with their polarisation settled at the start's volts; all at one charge where that is given."""
        tables = [battery.ocv_table(bank) for bank in self.job.banks]
        longest = max((table.shape[1] for table in tables), default=2)
        rows = [
            self._bank(i, bank, bank.charge.value if charge is None else charge, padded(tables[i], longest))
            for i, bank in enumerate(self.job.banks)
        ]
        return stacked(Banks, rows)

    def _bank(self, i: int, bank: Bank, charge: float, ocv: Floats) -> Row:
        model, node = self.point.banks[i], self.at(bank.at)
        rest_v, volts = float(np.interp(charge, ocv[0], ocv[1])), float(self.silence[node])
        settled_a, _ = laws.bank_over_step(rest_v, model.r0_ohm, model.fast, 0.0, model.slow, 0.0, math.inf, volts)
        fast_v, slow_v = model.settled(settled_a)
        at_start = {"node": node, "fast_v": fast_v, "slow_v": slow_v, "dropped": i in self.position.dropped}
        return bank_row(bank, model, charge, ocv) | at_start

    def capacitors(self) -> Capacitors:
        """Capacitors at the start's volts."""
        rows = []
        for each in self.job.capacitors:
            node, count = self.at(each.at), each.count.value
            row: Row = {
                "node": node,
                "farad": each.farad.value * count,
                "esr_ohm": each.esr_ohm.value / count,
                "volts": self.silence[node],
            }
            rows.append(row)
        return stacked(Capacitors, rows)

    def amplifiers(self, flat_w: list[float] | None = None) -> Amplifiers:
        """Amplifiers as commanded, or each drawing a constant power, W."""
        flat_w = flat_w or [0.0] * len(self.circuit.loaded)
        rows = [
            amplifier_row(self.circuit, i, self.place[self.circuit.node_of(loaded.node)]) | {"flat_w": watts}
            for i, (loaded, watts) in enumerate(zip(self.circuit.loaded, flat_w, strict=True))
        ]
        return stacked(Amplifiers, rows)


def amplifier_row(circuit: Circuit, i: int, node: int) -> Row:
    """A circuit's i-th amplifier as it is commanded: the fields of `Amplifiers`.

    node   where it stands in the ordered nodes
    """
    loaded = circuit.loaded[i]
    law = loaded.law
    return {
        "node": node,
        "commanded_v": loaded.full_v,
        "set_at_v": loaded.set_at_v,
        "cutout_v": loaded.amplifier.cutout_v.value,
        "flat_w": 0.0,
        **{name: value for name, value in law._asdict().items() if name != "taken"},
        **law.taken._asdict(),
    }


def bank_row(bank: Bank, model: BatteryModel, charge: float, ocv: Floats) -> Row:
    """A bank at rest, at no node yet: the fields of `Banks`; its table of open-circuit volts as it is given.

    charge   state of charge, 0 to 1
    ocv      (2, k): volts over charge
    """
    count = bank.count.value
    capacity_as = battery.capacity_as(bank) * count
    return {
        "node": -1,
        "r0_ohm": model.r0_ohm,
        "r1_discharge_ohm": model.r1_discharge_ohm,
        "r1_charge_ohm": battery.fixed_r1_charge_ohm(bank) / count,
        "fast_f": model.fast.farad,
        "slow_f": model.slow.farad,
        "capacity_as": capacity_as,
        "twenty_hour_a": capacity_as / TWENTY_HOURS_S,
        "peukert": battery.peukert(bank),
        "absorption_v": battery.absorption_v(bank),
        "acceptance": battery.acceptance_rule(bank),
        "ocv": ocv,
        "charge": charge,
        "fast_v": 0.0,
        "slow_v": 0.0,
        "lately": 0.0,
        "limits_a": switches.limits_a(bank),
        "dropped": False,
    }


def stacked(kind: type[Arrays], rows: Sequence[Row]) -> Arrays:
    """Elements of one kind as arrays of their fields, (m,) each but the tables."""
    columns = {}
    for name in kind._fields:
        shape = (len(rows), *TABLES.get(name, ()))
        if not rows:
            shape = tuple(abs(size) for size in shape)
        values = np.array([row[name] for row in rows], np.int64 if name in INTEGERS else float)
        columns[name] = values.reshape(shape)
    return kind._make(columns.values())


def padded(table: Floats, longest: int) -> Floats:
    """A table of open-circuit volts filled up with its last row."""
    return np.pad(table, ((0, 0), (0, longest - table.shape[1])), mode="edge")
