"""The operating point of a circuit in one engine state: solved twice, for the mean and for the loudest moment.

In the mean solve batteries have settled and capacitors are open; in the peak solve battery polarisation and capacitor
volts stay as the mean left them. Cables are as warm as their RMS current makes them. Left out: the course over time.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import battery, charger, newton, supply_current, vehicle
from underhood.circuit.battery import BatteryModel
from underhood.circuit.build import Circuit
from underhood.circuit.elements import (
    AmplifierElement,
    BatteryElement,
    ChargerElement,
    Commanded,
    ConstantCurrent,
    Element,
)
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.circuit.newton import Solution
from underhood.circuit.supply_current import SupplyCurrent
from underhood.circuit.topology import Tree
from underhood.document.job import Engine

__all__ = ["UNKNOWN_LIMIT_A", "OperatingPoint", "elements", "second_operating_point", "solve"]

UNKNOWN_LIMIT_A = 1e6
"""Stands for an unknown charger limit: more than any vehicle takes, so that the answer is what is needed."""
MOST_WARMINGS, WARM_ENOUGH_OHM = 8, 1e-8
"""Cables are warmed by the current, which their warmth lowers: repeated until no resistance moves by 10 nΩ."""


@dataclass(frozen=True)
class OperatingPoint:
    """What one engine state comes to. Arrays follow the setup's nodes and edges.

    drive      the share of the programme's power the supply holds at; 1 when it holds all of it
    amplifiers at that share of the programme, so that everything below describes one and the same state
    """

    circuit: Circuit
    engine: Engine
    tree: Tree
    volts: Floats
    peak_volts: Floats
    drive: float
    amplifiers: tuple[AmplifierElement, ...]
    edge_rms_a: Floats
    charger_a: tuple[float, ...]
    bank_a: tuple[float, ...]
    available_a: tuple[float, ...]
    banks: tuple[BatteryModel, ...]
    setpoints_v: tuple[float, ...]
    vehicle_a: float

    @cached_property
    def edge_a(self) -> Floats:
        """Mean amps through each edge, positive from its start to its end."""
        return self.tree.link_amps(self.volts)

    @cached_property
    def edge_peak_a(self) -> Floats:
        """Amps through each edge at the loudest moment."""
        return self.tree.link_amps(self.peak_volts)

    @property
    def below_cutout(self) -> list[LoadedAmplifier]:
        """Amplifiers that would have switched off."""
        return [
            loaded
            for loaded, element in zip(self.circuit.loaded, self.amplifiers, strict=True)
            if min(self.volts[element.node], self.peak_volts[element.node]) < loaded.amplifier.cutout_v.value
        ]

    @property
    def operating(self) -> bool:
        """Whether there is an operating point at all."""
        return self.drive == 1.0 and not self.below_cutout

    @property
    def reserve_a(self) -> float:
        """Amps available from the chargers less what the vehicle uses; infinite where a limit is unknown."""
        return sum(self.available_a) - self.vehicle_a

    @property
    def mean_draw_a(self) -> float:
        """Mean amps of all amplifiers."""
        return sum(self._mean_a(i) for i in range(len(self.amplifiers)))

    def draw(self, which: Sequence[int] | None = None) -> SupplyCurrent:
        """The draw of some amplifiers (all by default) at this point's own volts.

        Between mean and peak the volts are taken to follow the current on a straight line: an estimate that the
        simulation over time replaces.
        """
        chosen = range(len(self.amplifiers)) if which is None else which
        if not chosen:
            return SupplyCurrent(0.0, 0.0, 0.0, 0.0)
        limit = self.circuit.job.basis.clamp_range_a
        return supply_current.of_programme(
            mean_a=sum(self._mean_a(i) for i in chosen),
            peak_a=sum(self._peak_a(i) for i in chosen),
            level_a=np.sum([self._level_a(i) for i in chosen], axis=0),
            weight=self.amplifiers[0].commanded.weight,
            envelope=self.circuit.envelope,
            clamp_range_a=limit.value if limit else None,
        )

    def _mean_a(self, i: int) -> float:
        element = self.amplifiers[i]
        return element.drawn_a(float(self.volts[element.node]))

    def _peak_a(self, i: int) -> float:
        element = self.amplifiers[i]
        return element.at_peak().drawn_a(float(self.peak_volts[element.node]))

    def _level_a(self, i: int) -> Floats:
        """Amps at each programme level."""
        element = self.amplifiers[i]
        volts, low = float(self.volts[element.node]), float(self.peak_volts[element.node])
        mean, peak = self._mean_a(i), self._peak_a(i)
        amps = element.each_level(volts)[1] / volts
        if peak - mean < 1e-9:
            return amps
        along = volts + (low - volts) * np.clip((amps - mean) / (peak - mean), -1.0, 1.0)
        return np.minimum(amps * volts / along, peak)


def solve(circuit: Circuit, engine: Engine) -> OperatingPoint | None:
    """The steady state, cables as warm as they then are; None where not even silence has a source to hold it.

    circuit   with its elements
    engine    off, idle or cruise
    """
    return _Solver(circuit, engine).point()


class _Solver:
    """Builds the network of one engine state and solves it."""

    def __init__(self, circuit: Circuit, engine: Engine) -> None:
        self.circuit, self.engine = circuit, engine
        job = circuit.job
        ambient = job.vehicle.ambient_c.value
        self.available = tuple(charger.available_a(each, engine) for each in job.chargers)
        self.setpoints = tuple(charger.setpoint_v(each, ambient) for each in job.chargers)
        self.models = tuple(battery.model(bank) for bank in job.banks)
        self.vehicle_a = vehicle.used_a(job.vehicle, engine)
        self.amplifiers = elements(circuit)

    def point(self) -> OperatingPoint | None:
        if not self.models and not any(self.available):
            return None
        tree = self._tree(np.zeros(len(self.circuit.edges)))
        solved = self._both(tree, None)
        for _ in range(MOST_WARMINGS):
            if solved is None:
                return None
            warm = self._tree(self._edge_rms(tree, *solved))
            change = np.abs(np.subtract(warm.ohm, tree.ohm)).max(initial=0.0)
            if change <= WARM_ENOUGH_OHM:
                break
            tree, solved = warm, self._both(warm, solved)
        if solved is None:
            return None
        mean, peak = solved
        rms = self._edge_rms(tree, mean, peak)
        volts, drive = mean.volts, min(mean.drive, peak.drive)
        return OperatingPoint(
            circuit=self.circuit,
            engine=self.engine,
            tree=tree,
            volts=volts,
            peak_volts=peak.volts,
            drive=drive,
            amplifiers=tuple(each.at_drive(drive) for each in self.amplifiers),
            edge_rms_a=rms,
            charger_a=tuple(self._current(each, volts) for each in self._chargers()),
            bank_a=tuple(self._current(each, volts) for each in self._banks()),
            available_a=self.available,
            banks=self.models,
            setpoints_v=self.setpoints,
            vehicle_a=self.vehicle_a,
        )

    def _tree(self, rms_a: Floats) -> Tree:
        """The tree with each cable's resistance at the temperature its RMS current brings."""
        ohms = [edge.ohm(float(amps)) for edge, amps in zip(self.circuit.edges, rms_a, strict=True)]
        return self.circuit.tree.with_ohm(ohms)

    def _chargers(self) -> list[ChargerElement]:
        return [
            ChargerElement(self.circuit.node_of(each.at), volts, each.source_ohm.value, min(limit, UNKNOWN_LIMIT_A))
            for each, volts, limit in zip(self.circuit.job.chargers, self.setpoints, self.available, strict=True)
        ]

    def _banks(self) -> list[BatteryElement]:
        return [
            BatteryElement(
                self.circuit.node_of(bank.at),
                model.ocv_v,
                model.r0_ohm + model.r1_discharge_ohm,
                model.r0_ohm + model.r1_charge_ohm,
            )
            for bank, model in zip(self.circuit.job.banks, self.models, strict=True)
        ]

    def _both(self, tree: Tree, near: tuple[Solution, Solution] | None) -> tuple[Solution, Solution] | None:
        """The mean and the peak state; one and the same for a steady tone."""
        loads = [ConstantCurrent(0, self.vehicle_a)]
        settled: list[Element] = [*self._chargers(), *self._banks(), *loads, *self.amplifiers]
        mean = self._one(tree, settled, near[0].volts if near and near[0].holds else None)
        if mean is None:
            return None
        if all(len(each.commanded.weight) == 1 for each in self.amplifiers):
            return mean, mean
        frozen: list[Element] = [
            *self._chargers(),
            *self._frozen(mean),
            *loads,
            *(each.at_peak() for each in self.amplifiers),
        ]
        # The loudest moment begins at the mean state's volts, which lie above its own.
        peak = self._one(tree, frozen, mean.volts)
        return None if peak is None else (mean, peak)

    def _frozen(self, mean: Solution) -> list[BatteryElement]:
        """Banks with their polarisation, and capacitors with their charge, as the mean state left them."""
        banks = []
        for bank, settled, model in zip(self.circuit.job.banks, self._banks(), self.models, strict=True):
            volts = model.ocv_v + sum(model.settled(self._current(settled, mean.volts)))
            banks.append(BatteryElement(self.circuit.node_of(bank.at), volts, model.r0_ohm, model.r0_ohm))
        for each in self.circuit.job.capacitors:
            node, ohm = self.circuit.node_of(each.at), each.esr_ohm.value / each.count.value
            banks.append(BatteryElement(node, float(mean.volts[node]), ohm, ohm))
        return banks

    def _one(self, tree: Tree, elements: Sequence[Element], near: Floats | None) -> Solution | None:
        lowest_v = np.zeros(len(tree.nodes))
        for loaded, element in zip(self.circuit.loaded, self.amplifiers, strict=True):
            lowest_v[element.node] = max(lowest_v[element.node], loaded.amplifier.cutout_v.value)
        if near is not None and (found := newton.settle(tree, elements, near, lowest_v)):
            return found
        return newton.follow(tree, elements, self._open_circuit_v(), lowest_v)

    def _open_circuit_v(self) -> float:
        known = [*(model.ocv_v for model in self.models), *self.setpoints]
        return max(known, default=0.0) - 0.001  # just inside the regulator's range, where it has a slope

    @staticmethod
    def _current(element: Element, volts: Floats) -> float:
        return element.inject(float(volts[element.node]))[0]

    def _edge_rms(self, tree: Tree, mean: Solution, peak: Solution) -> Floats:
        """RMS amps of each cable: its swing from mean to peak, shaped as the amplifiers' draw is over time."""
        at_mean, at_peak = tree.link_amps(mean.volts), tree.link_amps(peak.volts)
        if mean is peak or not self.amplifiers:
            return np.abs(at_mean)
        in_w = sum(each.each_level(float(mean.volts[each.node]))[1] for each in self.amplifiers)
        weight = self.amplifiers[0].commanded.weight
        centred = in_w - weight @ in_w
        variance = float(weight @ centred**2) / max(float(centred.max()) ** 2, 1e-12)
        return np.sqrt(at_mean**2 + (at_peak - at_mean) ** 2 * variance)


def second_operating_point(point: OperatingPoint) -> float | None:
    """Volts at the first amplifier in another stable state of the same setup, or None.

    Looked for from just above the highest cut-out voltage upwards.
    """
    cutout = max((loaded.amplifier.cutout_v.value for loaded in point.circuit.loaded), default=0.0)
    highest = float(point.volts.max())
    if highest <= cutout or all(each.grows_with_supply(cutout, highest) for each in point.amplifiers):
        return None
    solver = _Solver(point.circuit, point.engine)
    elements: list[Element] = [
        *solver._chargers(),
        *solver._banks(),
        ConstantCurrent(0, solver.vehicle_a),
        *solver.amplifiers,
    ]
    volts = newton.downhill(point.tree, elements, np.full(len(point.volts), cutout))
    node = point.amplifiers[0].node
    if volts is None or np.abs(volts - point.volts).max() < newton.SAME_V or volts.min() < cutout:
        return None
    return float(volts[node])


def elements(circuit: Circuit) -> tuple[AmplifierElement, ...]:
    """The amplifiers at work on the whole programme."""
    return tuple(_element(circuit, loaded) for loaded in circuit.loaded)


def _element(circuit: Circuit, loaded: LoadedAmplifier) -> AmplifierElement:
    """The amplifier's element: commanded volts at the charger's set-point, by programme level."""
    basis = circuit.job.basis
    levels, weight = circuit.envelope.histogram
    tone = np.array([basis.tone_hz.value]) if basis.programme in ("tone", "burst") else None
    full_v = float(loaded.commanded_v(np.array([loaded.reference_v]), tone)[0])
    return AmplifierElement(
        node=circuit.node_of(loaded.node),
        commanded=Commanded.of(levels * full_v, weight),
        law=loaded.law,
    )
