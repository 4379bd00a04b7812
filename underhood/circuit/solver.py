"""Finds the operating point of a circuit in one engine state: its mean, and its loudest moment.

A tone settles: batteries at rest in their current, capacitors open. A programme is a cycle of loud and quiet, split at
its mean power, each a step of time as long as it lasts on average (a charger lends nothing back in the gaps, so that
one solve at the mean power would be off by half a volt at idle); the mean is that of both. The loudest moment begins
there and takes two steps of the longest stretch that is nearly as loud. Polarisation and capacitors are states in
every step: a capacitor helps as long as its charge lasts. Cables are as warm as their RMS current makes them. Left
out: the course over a whole piece (see `transient`).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import battery, charger, converter, newton, switches, vehicle
from underhood.circuit.battery import BatteryModel
from underhood.circuit.build import Circuit
from underhood.circuit.converter import UNKNOWN_LIMIT_A, Fed
from underhood.circuit.elements import (
    AmplifierElement,
    BankOverStep,
    BatteryElement,
    CapacitorOverStep,
    ChargerElement,
    Commanded,
    ConstantCurrent,
    ConstantPower,
    Element,
)
from underhood.circuit.isolator import diodes, opened, relays
from underhood.circuit.laws import OPEN_OHM
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.circuit.newton import Solution
from underhood.circuit.operating_point import OperatingPoint, Phase, each_level_a
from underhood.circuit.switches import Position
from underhood.circuit.topology import Tree
from underhood.document.job import Engine
from underhood.programme.played import Part

__all__ = [
    "AHEAD",
    "CYCLES",
    "MOST_WARMINGS",
    "PEAK_STEPS",
    "PEAK_STEP_SHARE",
    "WARM_ENOUGH_OHM",
    "elements",
    "second_operating_point",
    "solve",
]

CYCLES, AHEAD = 2, 4
"""Cycles of loud and quiet that are solved, and how many more a slow branch is taken ahead after each."""
PEAK_STEPS, PEAK_STEP_SHARE = 2, 0.625
"""The loudest moment is reached in two steps of this share of its stretch [P]."""
MOST_ROUNDS, SAME_W = 40, 0.01
"""What converters take is found by repetition, until it moves by less than that."""
MOST_WARMINGS, WARM_ENOUGH_OHM = 8, 1e-8
"""Cables are warmed by the current, which their warmth lowers: repeated until no resistance moves by 10 nΩ."""


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
        self.fed, self.relays = tuple(converter.fed(circuit)), tuple(relays(circuit))
        self.diodes = diodes(circuit)
        self.position = Position((False,) * len(self.relays))
        self.could_give = converter.available_a(circuit, engine)
        self.setpoints = tuple(charger.setpoint_v(each, ambient) for each in job.chargers)
        self.all_models = tuple(battery.model(bank) for bank in job.banks)
        self.vehicle_a = vehicle.used_a(job.vehicle, engine)
        self.amplifiers = elements(circuit)

    @property
    def models(self) -> tuple[BatteryModel, ...]:
        """The banks; one that dropped out is behind an open switch."""
        out = self.position.dropped
        if not out:
            return self.all_models
        return tuple(replace(model, r0_ohm=OPEN_OHM) if i in out else model for i, model in enumerate(self.all_models))

    @property
    def available(self) -> tuple[float, ...]:
        """Amps that each charger can give; none of a converter that has stopped."""
        return tuple(0.0 if i in self.position.stopped else amps for i, amps in enumerate(self.could_give))

    def point(self) -> OperatingPoint | None:
        """The operating point, found anew without any bank whose management lets its peak or its mean not through."""
        cold = self._tree(np.zeros(len(self.circuit.edges)))
        if not self.all_models and not any(self.could_give):
            return None
        self._settle_switches(cold, silent=True)
        before: OperatingPoint | None = None
        for _ in range(len(self.all_models) + 1):
            restless, settled = self._settle_switches(cold, silent=False)
            found = self._warmed(cold, restless, settled)
            if found is None:
                return self._none_left(cold, before)
            if not self._trips(found):
                return found
            before = found
        return before

    def _none_left(self, cold: Tree, before: OperatingPoint | None) -> OperatingPoint | None:
        """Where what dropped out was all there was: the state before it did, which holds nothing; its amps say why."""
        position = self.position
        if before is None and position.trips:
            self.position = replace(position, trips=())
            before = self._warmed(cold, (False, frozenset()), None)
        return None if before is None else replace(before, drive=0.0, position=position)

    def _trips(self, found: OperatingPoint) -> bool:
        """Whether a bank drops out of what was found; it is then out."""
        banks = self.circuit.job.banks
        trip = switches.tripped(banks, self.position, found.bank_a, found.bank_peak_a)
        if trip is not None:
            self.position = replace(self.position, trips=(*self.position.trips, trip))
        return trip is not None

    def _warmed(
        self, cold: Tree, restless: tuple[bool, frozenset[int]], settled: Solution | None
    ) -> OperatingPoint | None:
        """The operating point with cables as warm as they then are; `settled` on the cold tree, where it is known."""
        tree = cold
        solved = self._states(self._opened(tree), None, settled)
        for _ in range(MOST_WARMINGS):
            if solved is None:
                return None
            warm = self._tree(self._edge_rms(self._opened(tree), solved))
            change = np.abs(np.subtract(warm.ohm, tree.ohm)).max(initial=0.0)
            if change <= WARM_ENOUGH_OHM:
                break
            tree, solved = warm, self._states(self._opened(warm), solved)
        if solved is None:
            return None
        return OperatingPoint(
            circuit=self.circuit,
            engine=self.engine,
            tree=tree,
            phases=solved.phases,
            peak_volts=solved.peak.volts,
            bank_peak_a=solved.bank_peak_a,
            drive=solved.drive,
            amplifiers=tuple(each.at_drive(solved.drive) for each in self.amplifiers),
            edge_rms_a=self._edge_rms(self._opened(tree), solved),
            available_a=self.available,
            banks=self.models,
            setpoints_v=self.setpoints,
            vehicle_a=self.vehicle_a,
            fed=self.fed,
            relays=self.relays,
            position=self.position,
            chatters=restless[0],
            cycles=restless[1],
        )

    def _settle_switches(self, tree: Tree, *, silent: bool) -> tuple[tuple[bool, frozenset[int]], Solution | None]:
        """Put each switch where it wants to be, one after the other; whether relays, and which converters find no rest.

        Begun with relays open and nothing playing, as a car begins; then with the programme. Where all rest, the state
        that they rest in comes with it.
        """
        job, seen = self.circuit.job, [self.position]
        rest: tuple[bool, frozenset[int]] = (False, frozenset())
        amplifiers = [each.at_drive(0.0) for each in self.amplifiers] if silent else self.amplifiers
        loads = [ConstantCurrent(0, self.vehicle_a)]
        while self._switches:
            banks = self._banks()
            elements: list[Element] = [*self._chargers(), *loads, *banks, *amplifiers]
            found = self._one(self._opened(tree), elements, None)
            if found is None:
                return rest, None
            bank_a = [self._current(each, found.volts) for each in banks]
            position = switches.moved(
                self.position, found.volts, bank_a, job.banks, job.chargers, self.fed, self.relays
            )
            if position is None:
                return rest, found
            self.position = position
            if position in seen:
                round_ = seen[seen.index(position) :]
                moving = frozenset().union(*(each.stopped ^ position.stopped for each in round_))
                return (len({each.closed for each in round_}) > 1, moving), None
            seen.append(position)
        return rest, None

    @property
    def _switches(self) -> bool:
        limited = any(math.isfinite(min(switches.limits_a(bank))) for bank in self.circuit.job.banks)
        return bool(self.relays or self.fed or limited)

    def _opened(self, tree: Tree) -> Tree:
        links = {each.link for each, on in zip(self.relays, self.position.closed, strict=True) if not on}
        return opened(tree, links)

    def _tree(self, rms_a: Floats) -> Tree:
        """The tree with each cable's resistance at the temperature its RMS current brings."""
        ohms = [edge.ohm(float(amps)) for edge, amps in zip(self.circuit.edges, rms_a, strict=True)]
        return replace(self.circuit.tree.with_ohm(ohms), diodes=self.diodes)

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

    def _states(self, tree: Tree, near: _States | None, settled: Solution | None = None) -> _States | None:
        """What the circuit comes to on a tree of known resistances.

        near      its states on almost the same one; `settled` its own settled state, where it is known
        """
        banks = self._banks()
        loads = [ConstantCurrent(0, self.vehicle_a)]
        elements: list[Element] = [*self._chargers(), *loads, *banks, *self.amplifiers]
        settled = settled or self._one(tree, elements, near.settled if near else None)
        if settled is None:
            return None
        played = self.circuit.played
        if len(played.parts) == 1 or not self.amplifiers:
            still = [0.0] * len(self.circuit.job.capacitors)
            phase = self._phase(1.0, settled, self.amplifiers, banks, still)
            return _States(settled, (phase,), settled, phase.bank_a, settled.drive, ())
        held = self._at_rest(settled)
        quiet, loud = played.parts
        parts = (
            (loud.share, played.stretch_s, self._playing(loud)),
            (quiet.share, played.quiet_s, self._playing(quiet)),
        )
        phases: list[Phase] = []
        trail: list[Solution] = []
        drive, last = settled.drive, settled
        for _ in range(CYCLES):
            before, phases = held, []
            for share, seconds, amplifiers in parts:
                stepped = self._step(tree, held, seconds, amplifiers, near.trail[len(trail)] if near else last)
                if stepped is None:
                    return None
                last, held, given = stepped
                trail.append(last)
                drive = min(drive, last.drive)
                phases.append(self._phase(share, last, amplifiers, *given))
            held = held.ahead_of(before)
        peak = last
        for _ in range(PEAK_STEPS):
            at_peak = tuple(each.at_peak() for each in self.amplifiers)
            stepped = self._step(
                tree, held, PEAK_STEP_SHARE * played.peak_s, at_peak, near.trail[len(trail)] if near else peak
            )
            if stepped is None:
                return None
            peak, held, (at_banks, _) = stepped
            trail.append(peak)
        bank_peak_a = tuple(self._current(each, peak.volts) for each in at_banks)
        return _States(settled, tuple(reversed(phases)), peak, bank_peak_a, min(drive, peak.drive), tuple(trail))

    def _playing(self, part: Part) -> tuple[AmplifierElement, ...]:
        """The amplifiers at what they play in a part of the programme."""
        return tuple(each.at_levels(*levels) for each, levels in zip(self.amplifiers, part.levels, strict=True))

    def _step(
        self, tree: Tree, held: _Held, seconds: float, amplifiers: Sequence[AmplifierElement], near: Solution
    ) -> tuple[Solution, _Held, tuple[list[BankOverStep], list[float]]] | None:
        """The circuit over one step of time: its volts, what banks and capacitors then hold, and what they gave."""
        circuit = self.circuit
        banks = [
            BankOverStep(
                circuit.node_of(bank.at), model.ocv_v, model.r0_ohm, model.fast, fast_v, model.slow, slow_v, seconds
            )
            for bank, model, (fast_v, slow_v) in zip(circuit.job.banks, self.models, held.bank_v, strict=True)
        ]
        capacitors = [
            CapacitorOverStep(
                circuit.node_of(each.at),
                each.farad.value * each.count.value,
                each.esr_ohm.value / each.count.value,
                volts,
                seconds,
            )
            for each, volts in zip(circuit.job.capacitors, held.capacitor_v, strict=True)
        ]
        loads = [ConstantCurrent(0, self.vehicle_a)]
        elements: list[Element] = [*self._chargers(), *loads, *banks, *capacitors, *amplifiers]
        found = self._one(tree, elements, near)
        if found is None:
            return None
        after = _Held(
            tuple(each.after(float(found.volts[each.node])) for each in banks),
            tuple(each.after(float(found.volts[each.node])) for each in capacitors),
        )
        return found, after, (banks, [self._current(each, found.volts) for each in capacitors])

    def _at_rest(self, settled: Solution) -> _Held:
        """Banks with their polarisation settled, capacitors at their nodes' volts."""
        banks = zip(self._banks(), self.models, strict=True)
        return _Held(
            tuple(model.settled(self._current(each, settled.volts)) for each, model in banks),
            tuple(float(settled.volts[self.circuit.node_of(each.at)]) for each in self.circuit.job.capacitors),
        )

    def _phase(
        self,
        share: float,
        found: Solution,
        amplifiers: Sequence[AmplifierElement],
        banks: Sequence[Element],
        capacitor_a: Sequence[float],
    ) -> Phase:
        volts = found.volts
        return Phase(
            share=share,
            volts=volts,
            amplifiers=tuple(each.at_drive(found.drive) for each in amplifiers),
            charger_a=tuple(self._current(each, volts) for each in self._chargers()),
            bank_a=tuple(self._current(each, volts) for each in banks),
            capacitor_a=tuple(capacitor_a),
        )

    def _one(self, tree: Tree, elements: Sequence[Element], near: Solution | None) -> Solution | None:
        """One state; what converters take follows from what they give, until it no longer changes."""
        found = self._solved(tree, elements, near)
        chargers, watts = self._chargers(), [0.0] * len(self.fed)
        for _ in range(MOST_ROUNDS if self.fed else 0):
            if found is None:
                return None
            before = watts
            watts = [self._taken_w(each, chargers[each.charger], found.volts) for each in self.fed]
            if max(abs(now - was) for now, was in zip(watts, before, strict=True)) < SAME_W:
                return found
            inputs = [ConstantPower(each.node, w) for each, w in zip(self.fed, watts, strict=True)]
            found = self._solved(tree, [*elements, *inputs], found)
        return found

    def _taken_w(self, fed: Fed, element: ChargerElement, volts: Floats) -> float:
        if fed.charger in self.position.stopped:
            return 0.0
        given_v = float(volts[element.node])
        return max(given_v * element.inject(given_v)[0], 0.0) / fed.efficiency + fed.idle_w

    def _solved(self, tree: Tree, elements: Sequence[Element], near: Solution | None) -> Solution | None:
        lowest_v = np.zeros(len(tree.nodes))
        for loaded, element in zip(self.circuit.loaded, self.amplifiers, strict=True):
            lowest_v[element.node] = max(lowest_v[element.node], loaded.amplifier.cutout_v.value)
        if near is not None and near.holds and (found := newton.settle(tree, elements, near.volts, lowest_v)):
            return found
        return newton.follow(tree, elements, self._open_circuit_v(), lowest_v)

    def _open_circuit_v(self) -> float:
        known = [*(model.ocv_v for model in self.all_models), *self.setpoints]
        return max(known, default=0.0) - 0.001  # just inside the regulator's range, where it has a slope

    @staticmethod
    def _current(element: Element, volts: Floats) -> float:
        return element.inject(float(volts[element.node]))[0]

    def _edge_rms(self, tree: Tree, states: _States) -> Floats:
        """RMS amps of each cable: what its phases carry, and within them its swing with the amplifiers' draw."""
        phases = states.phases
        if len(phases) == 1 or not self.amplifiers:
            return np.abs(tree.link_amps(phases[0].volts))
        at_peak = tree.link_amps(states.peak.volts)
        peak_a = [each.at_peak().drawn_a(float(states.peak.volts[each.node])) for each in self.amplifiers]
        carried = [tree.link_amps(phase.volts) for phase in phases]
        drawn = [[each_level_a(phase, i) for i in range(len(self.amplifiers))] for phase in phases]
        square = np.zeros(len(at_peak))
        for phase, amps in zip(phases, carried, strict=True):
            square += phase.share * amps**2
        for fed, links in self.circuit.links_feeding.items():
            means, spread = [], 0.0
            for part, levels in zip(self.circuit.played.parts, drawn, strict=True):
                sums, weight = part.together([levels[i] for i in fed], fed)
                means.append(float(weight @ sums))
                spread += part.share * float(weight @ (sums - means[-1]) ** 2)
            # Amps of each cable for each amp that the amplifiers beyond it draw.
            swing = (at_peak - carried[0])[links] / max(sum(peak_a[i] for i in fed) - means[0], 1e-9)
            square[links] += swing**2 * spread
        return np.sqrt(square)


@dataclass(frozen=True)
class _States:
    """Solutions of one engine state: settled at the mean power, the phases of the programme, its loudest moment.

    trail   every step on the way, to begin near when only the cables have warmed
    """

    settled: Solution
    phases: tuple[Phase, ...]
    peak: Solution
    bank_peak_a: tuple[float, ...]
    drive: float
    trail: tuple[Solution, ...]


@dataclass(frozen=True)
class _Held:
    """What banks and capacitors hold between two steps: volts of (fast, slow) branches, and of capacitors."""

    bank_v: tuple[tuple[float, float], ...]
    capacitor_v: tuple[float, ...]

    def ahead_of(self, before: _Held) -> _Held:
        """The state some cycles later: a slow branch that stays charged goes on as it went, never below nothing."""
        banks = []
        for (fast_v, slow_v), (_, was_v) in zip(self.bank_v, before.bank_v, strict=True):
            on = was_v > 0 and slow_v > 0
            banks.append((fast_v, max(slow_v + AHEAD * (slow_v - was_v), 0.0) if on else slow_v))
        return _Held(tuple(banks), self.capacitor_v)


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
    volts = newton.downhill(point.solved_tree, elements, np.full(len(point.volts), cutout))
    node = point.amplifiers[0].node
    if volts is None or np.abs(volts - point.volts).max() < newton.SAME_V or volts.min() < cutout:
        return None
    return float(volts[node])


def elements(circuit: Circuit) -> tuple[AmplifierElement, ...]:
    """The amplifiers at work on the whole programme."""
    return tuple(_element(circuit, i, loaded) for i, loaded in enumerate(circuit.loaded))


def _element(circuit: Circuit, i: int, loaded: LoadedAmplifier) -> AmplifierElement:
    """The amplifier's element: commanded volts at the charger's set-point, by programme level."""
    levels, weight = circuit.played.whole[i]
    return AmplifierElement(
        node=circuit.node_of(loaded.node),
        commanded=Commanded.of(levels * loaded.full_v, weight),
        law=loaded.law,
        full_v=loaded.full_v,
        peak_v=float(circuit.played.peak[i]) * loaded.full_v,
    )
