"""The operating point of a circuit in one engine state, and what follows from it: amps, watts, reserve.

A view on what the engine answers, by the names of the field. Left out: how it is found (see `states`), and the course
over a whole piece (see `over_time`).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import charger, converter, laws, supply_current, vehicle
from underhood.circuit import table as t
from underhood.circuit.battery import BatteryModel
from underhood.circuit.build import Circuit
from underhood.circuit.car import Car
from underhood.circuit.converter import Fed
from underhood.circuit.isolator import Cut
from underhood.circuit.kernel import LEAK_S
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.circuit.playing import Delivery, PlayingAmplifier, held
from underhood.circuit.reserve import SupplyReserve, reserve
from underhood.circuit.supply_current import SupplyCurrent
from underhood.circuit.switches import LIMITS, Position, Trip, limits_a
from underhood.constants import BOTH_ENDS
from underhood.document.job import Engine

NEARLY_FULL_DB = 1.0
"""Down from the criterion: so near, its losses are those of the sheet's own runs [P]."""


@dataclass(frozen=True)
class Phase:
    """A part of the programme's time: its share, and the state that the circuit is in meanwhile.

    Arrays follow the setup's nodes, tuples its parts. Currents are positive where they are given to the node.
    link_a   through each cable, from its start to its end
    """

    share: float
    volts: Floats
    amplifiers: tuple[PlayingAmplifier, ...]
    charger_a: tuple[float, ...]
    bank_a: tuple[float, ...]
    capacitor_a: tuple[float, ...]
    link_a: Floats


def solve(
    circuit: Circuit, engine: Engine, minutes: float = 0.0, like: OperatingPoint | None = None
) -> OperatingPoint | None:
    """The steady state, cables as warm as they then are; None where not even silence has a source to hold it.

    circuit   with its elements
    engine    off, idle or cruise
    minutes   of the mean load before the loudest moment
    like      of the same circuit in another engine state, where that is known
    """
    return OperatingPoint.of(Car(circuit, engine, minutes, like=like.car if like else None))


@dataclass(frozen=True)
class OperatingPoint:
    """What one engine state comes to. Arrays follow the setup's nodes and edges.

    car        as the engine solved it
    phases     quiet and loud, or one where all is equally loud
    bank_peak_a   amps that each bank gives at the loudest moment
    drive      the share of the programme's power the supply holds at; 1 when it holds all of it
    amplifiers at that share of the programme, so that everything below describes one and the same state
    link_ohm   of each cable, as warm as it is, whether an isolator opens it or not
    """

    car: Car
    phases: tuple[Phase, ...]
    peak_volts: Floats
    bank_peak_a: tuple[float, ...]
    drive: float
    amplifiers: tuple[PlayingAmplifier, ...]
    link_ohm: Floats

    @classmethod
    def of(cls, car: Car) -> OperatingPoint | None:
        """What a car came to; None for nothing."""
        if not car.found:
            return None
        circuit, layout = car.circuit, car.layout
        played, drive = circuit.played, car.drive
        loudest = playing(circuit, car.commanded_v)
        whole = tuple(each.at_drive(drive) for each in loudest)
        if len(played.parts) == 1 or not circuit.loaded:
            states = [(1.0, 0, whole)]
        else:
            quiet, loud = played.parts
            states = []
            for part, row in ((quiet, t.LAST_QUIET), (loud, t.LAST_LOUD)):
                share = float(car.trail[row, t.SHARE_HELD, 0])
                each = tuple(one.at_part(part, i).at_drive(share) for i, one in enumerate(loudest))
                states.append((part.share, row, each))
        n, links = len(circuit.nodes), len(circuit.edges)
        phases = []
        for share, row, amplifiers in states:
            amps = car.trail[row, t.AMPS]
            phases.append(
                Phase(
                    share,
                    car.trail[row, t.VOLTS, :n],
                    amplifiers,
                    tuple(amps[: layout.chargers].tolist()),
                    tuple(amps[layout.first_bank : layout.first_capacitor].tolist()),
                    tuple(amps[layout.first_capacitor : layout.load].tolist()),
                    car.trail[row, t.FLOWS, :links],
                )
            )
        peak = car.trail[t.LAST]
        warm = car.links
        cold = warm[:, t.COLD_OHM] + warm[:, t.RISE_OHM] * warm[:, t.SQUARE_A]  # of one that an isolator opens
        return cls(
            car,
            tuple(phases),
            peak[t.VOLTS, :n],
            tuple(peak[t.AMPS, layout.first_bank : layout.first_capacitor].tolist()),
            drive,
            whole,
            np.where(warm[:, t.SIEMENS] > 2 * LEAK_S, 1 / warm[:, t.SIEMENS], cold),
        )

    @property
    def circuit(self) -> Circuit:
        """The circuit that was solved."""
        return self.car.circuit

    @property
    def engine(self) -> Engine:
        """The state of the engine."""
        return self.car.engine

    @cached_property
    def available_a(self) -> tuple[float, ...]:
        """Amps that each charger can give; none of a converter that has stopped."""
        amps = converter.available_a(self.circuit, self.engine)
        return tuple(0.0 if i in self.position.stopped else each for i, each in enumerate(amps))

    @cached_property
    def banks(self) -> tuple[BatteryModel, ...]:
        """The banks at the charge that they are solved at."""
        found = []
        for i in range(len(self.circuit.job.banks)):
            k, model = self.car.layout.first_bank + i, self.circuit.model(i)
            ohm = float(self.car.states[k, t.CHARGING_OHM])
            fast, slow = laws.branches(model.fast.farad, model.slow.farad, ohm, model.r1_discharge_ohm)
            found.append(replace(model, ocv_v=float(self.car.states[k, t.OCV_V]), fast=fast, slow=slow))
        return tuple(found)

    @cached_property
    def setpoints_v(self) -> tuple[float, ...]:
        """Regulated volts of each charger."""
        ambient = self.circuit.job.vehicle.ambient_c.value
        return tuple(charger.setpoint_v(each, ambient) for each in self.circuit.job.chargers)

    @cached_property
    def vehicle_a(self) -> float:
        """What the vehicle itself takes, A."""
        return vehicle.used_a(self.circuit.job.vehicle, self.engine)

    @cached_property
    def fed(self) -> tuple[Fed, ...]:
        """The converters that the circuit itself feeds."""
        return tuple(converter.fed(self.circuit))

    @property
    def relays(self) -> tuple[Cut, ...]:
        """The isolators that may open."""
        return self.circuit.relays

    @cached_property
    def position(self) -> Position:
        """How relays, converters and banks' management stand."""
        car, layout, banks = self.car, self.car.layout, self.circuit.job.banks
        trips = []
        for i, bank in enumerate(banks):
            k = layout.first_bank + i
            limit = int(car.states[k, t.OUT])
            if limit:
                charge_a, steady_a, peak_a = limits_a(bank)
                of = {"discharge_limit_a": steady_a, "discharge_peak_a": peak_a, "charge_limit_a": charge_a}
                trips.append(Trip(i, LIMITS[limit], float(car.states[k, t.OUT_A]), of[LIMITS[limit]]))
        return Position(
            tuple(bool(car.states[layout.first_relay + each.bank, t.CLOSED]) for each in self.relays),
            frozenset(each.charger for each in self.fed if car.states[each.charger, t.STOPPED]),
            tuple(trips),
        )

    @property
    def chatters(self) -> bool:
        """Whether relays find no rest in any position."""
        first = self.car.layout.first_relay
        return any(bool(self.car.states[first + each.bank, t.RESTLESS]) for each in self.relays)

    @property
    def cycles(self) -> frozenset[int]:
        """The converters that find no rest."""
        return frozenset(each.charger for each in self.fed if self.car.states[each.charger, t.RESTLESS])

    @cached_property
    def stands_otherwise(self) -> tuple[frozenset[int], frozenset[int]]:
        """(banks whose relay, converters that) would stand the other way if they had stood so before."""
        found, first = self.car.stands_otherwise(), self.car.layout.first_relay
        return frozenset(k - first for k in found if k >= first), frozenset(k for k in found if k < first)

    @cached_property
    def open_links(self) -> frozenset[int]:
        """The cables that an isolator has opened."""
        closed = zip(self.relays, self.position.closed, strict=True)
        return frozenset(link for each, on in closed if not on for link in each.links)

    @cached_property
    def edge_rms_a(self) -> Floats:
        """RMS amps of each cable: what its phases carry, and within them its swing with the draw beyond it."""
        return np.sqrt(self.car.links[:, t.SQUARE_A])

    @cached_property
    def volts(self) -> Floats:
        """Mean volts of each node."""
        return np.asarray(np.sum([each.share * each.volts for each in self.phases], axis=0), float)

    @cached_property
    def charger_a(self) -> tuple[float, ...]:
        """Mean amps that each charger gives."""
        return tuple(self.mean(lambda phase: np.array(phase.charger_a, float)).tolist())

    @cached_property
    def bank_a(self) -> tuple[float, ...]:
        """Mean amps that each bank gives; negative while it is charged."""
        return tuple(self.mean(lambda phase: np.array(phase.bank_a, float)).tolist())

    def mean(self, of: Callable[[Phase], Any]) -> Any:
        """The mean over the programme of something that each phase has."""
        return sum(each.share * of(each) for each in self.phases)

    def delivery(self, i: int) -> Delivery:
        """Means over the programme of what the i-th amplifier gives and takes."""
        each = [
            (phase.share, phase.amplifiers[i].delivery(float(phase.volts[phase.amplifiers[i].node])))
            for phase in self.phases
        ]
        return Delivery(sum(w * one.out_w for w, one in each), sum(w * one.in_w for w, one in each))

    @cached_property
    def edge_a(self) -> Floats:
        """Mean amps through each edge, positive from its start to its end."""
        return np.asarray(self.mean(lambda phase: phase.link_a), float)

    @cached_property
    def edge_peak_a(self) -> Floats:
        """Amps through each edge at the loudest moment; through what feeds one amplifier alone at its own loudest."""
        amps = self.car.trail[t.LAST, t.FLOWS, : len(self.circuit.edges)].copy()
        for fed, links in self.circuit.links_feeding.items():
            if len(fed) == 1 and len(self.amplifiers) > 1:
                extra = self._loudest_a(fed[0]) - self._peak_a(fed[0])
                amps[links] += np.sign(amps[links]) * extra
        return amps

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

    @cached_property
    def reserve(self) -> SupplyReserve:
        """What the sources bring, less what the car takes."""
        return reserve(self.circuit, self.engine, stopped=self.position.stopped)

    @property
    def converter_w(self) -> float:
        """Watts that converters take from the circuit, over the programme."""
        chargers = [self.circuit.node_of(each.at) for each in self.circuit.job.chargers]

        def taken_w(phase: Phase) -> float:
            return sum(
                phase.charger_a[each.charger] * float(phase.volts[chargers[each.charger]]) / each.efficiency
                + each.idle_w
                for each in self.fed
                if self.available_a[each.charger] > 0
            )

        return float(self.mean(taken_w))

    @property
    def mean_draw_a(self) -> float:
        """Mean amps of all amplifiers."""
        return sum(self._mean_a(i) for i in range(len(self.amplifiers)))

    def draw(self, which: Sequence[int] | None = None) -> SupplyCurrent:
        """The draw of some amplifiers (all by default) at this point's own volts.

        Within the loud and the quiet part the volts are taken to stand still: an estimate that the simulation over
        time replaces.
        """
        chosen = range(len(self.amplifiers)) if which is None else which
        if not chosen:
            return SupplyCurrent(0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
        limit = self.circuit.job.basis.clamp_range_a
        peak_a = self._loudest_a(chosen[0]) if len(chosen) == 1 else sum(self._peak_a(i) for i in chosen)
        return supply_current.of_programme(
            mean_a=sum(self._mean_a(i) for i in chosen),
            band_a=(sum(self._mean_band_a(i)[0] for i in chosen), sum(self._mean_band_a(i)[1] for i in chosen)),
            peak_a=peak_a,
            level_a=[self._level_a(i) for i in chosen],
            which=chosen,
            played=self.circuit.played,
            clamp_range_a=limit.value if limit else None,
        )

    def _mean_a(self, i: int) -> float:
        return float(self.mean(lambda phase: phase.amplifiers[i].drawn_a(float(phase.volts[phase.amplifiers[i].node]))))

    def _mean_band_a(self, i: int) -> tuple[float, float]:
        """What the mean amps of one amplifier may be: its losses, and with them the watts that it delivers, unsure.

        Those of several add up: where one stands in for readings, so it does for the others.
        """
        loaded, element, mean_a = self.circuit.loaded[i], self.amplifiers[i], self._mean_a(i)
        given = self.delivery(i)
        full = len(self.phases) == 1 and loaded.level_db >= -NEARLY_FULL_DB
        own = loaded.taken.unsure(full_tone=full)
        losses = loaded.amplifier.loss_scale
        if losses.origin == "measured" and losses.spread is not None:
            own = BOTH_ENDS * losses.spread * max(1 - given.out_w / max(given.in_w, 1e-9), 0.0)
        low, high = loaded.band(float(self.volts[element.node]))
        spent = given.out_w / max(given.in_w, 1e-9)
        return (
            mean_a * max(1 - float(np.hypot(own, spent * (1 - low**2))), 0.0),
            mean_a * (1 + float(np.hypot(own, spent * (high**2 - 1)))),
        )

    def _peak_a(self, i: int) -> float:
        element = self.amplifiers[i]
        return element.at_peak().drawn_a(float(self.peak_volts[element.node]))

    def _loudest_a(self, i: int) -> float:
        """Amps of one amplifier at its own loudest, at the volts of the loudest moment of all."""
        element = self.amplifiers[i]
        return element.at_loudest().drawn_a(float(self.peak_volts[element.node]))

    def _level_a(self, i: int) -> list[Floats]:
        """Amps at each level of each part, at the volts of its own phase; no more than at its loudest."""
        loudest = self._loudest_a(i)
        return [np.minimum(each_level_a(phase, i), loudest) for phase in self.phases]


def each_level_a(phase: Phase, i: int) -> Floats:
    """Amps that the i-th amplifier draws at each of the phase's levels, at its volts."""
    element = phase.amplifiers[i]
    volts = float(phase.volts[element.node])
    return np.asarray(element.each_level(volts)[1] / volts, float)


def playing(circuit: Circuit, commanded_v: Floats) -> tuple[PlayingAmplifier, ...]:
    """The amplifiers at work on the whole programme.

    commanded_v   of a channel of each at level 1
    """
    found = []
    for i, loaded in enumerate(circuit.loaded):
        node, full_v, peak = circuit.node_of(loaded.node), float(commanded_v[i]), float(circuit.played.peak[i])
        one = PlayingAmplifier(node, held(full_v), loaded.law, full_v, peak * full_v)
        found.append(one.at_part(circuit.played, i))
    return tuple(found)
