"""The operating point of a circuit in one engine state, and what follows from it: amps, watts, reserve.

Left out: how it is found (see `solver`), and the course over a whole piece (see `transient`).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import supply_current
from underhood.circuit.battery import BatteryModel
from underhood.circuit.build import Circuit
from underhood.circuit.converter import Fed
from underhood.circuit.elements import AmplifierElement, Delivery
from underhood.circuit.isolator import Relay, opened
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.circuit.supply_current import SupplyCurrent
from underhood.circuit.switches import Position
from underhood.circuit.topology import Tree
from underhood.constants import BOTH_ENDS
from underhood.document.job import Engine

__all__ = ["OperatingPoint", "Phase", "each_level_a"]

NEARLY_FULL_DB = 1.0
"""Down from the criterion: so near, its losses are those of the sheet's own runs [P]."""


@dataclass(frozen=True)
class Phase:
    """A part of the programme's time: its share, and the state that the circuit is in meanwhile.

    Arrays follow the setup's nodes, tuples its parts. Currents are positive where they are given to the node.
    """

    share: float
    volts: Floats
    amplifiers: tuple[AmplifierElement, ...]
    charger_a: tuple[float, ...]
    bank_a: tuple[float, ...]
    capacitor_a: tuple[float, ...]


@dataclass(frozen=True)
class OperatingPoint:
    """What one engine state comes to. Arrays follow the setup's nodes and edges.

    tree       of the cables' own resistances, whether an isolator opens them or not
    phases     quiet and loud, or one where all is equally loud
    position   of relays, converters and banks' management; `chatters` where relays find no rest in any, `cycles` which
               converters do not
    bank_peak_a   amps that each bank gives at the loudest moment
    volts      their mean; `charger_a` and `bank_a` likewise
    drive      the share of the programme's power the supply holds at; 1 when it holds all of it
    amplifiers at that share of the programme, so that everything below describes one and the same state
    """

    circuit: Circuit
    engine: Engine
    tree: Tree
    phases: tuple[Phase, ...]
    peak_volts: Floats
    bank_peak_a: tuple[float, ...]
    drive: float
    amplifiers: tuple[AmplifierElement, ...]
    edge_rms_a: Floats
    available_a: tuple[float, ...]
    banks: tuple[BatteryModel, ...]
    setpoints_v: tuple[float, ...]
    vehicle_a: float
    fed: tuple[Fed, ...]
    relays: tuple[Relay, ...]
    position: Position
    chatters: bool
    cycles: frozenset[int]

    @cached_property
    def open_links(self) -> frozenset[int]:
        """The cables that an isolator has opened."""
        return frozenset(each.link for each, on in zip(self.relays, self.position.closed, strict=True) if not on)

    @cached_property
    def solved_tree(self) -> Tree:
        """The tree as it was solved: next to nothing flows through an open cable."""
        return opened(self.tree, self.open_links)

    def link_amps(self, volts: Floats) -> Floats:
        """Amps through each cable at some volts of the nodes, positive from its start to its end."""
        return self.solved_tree.link_amps(volts)

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
        return self.link_amps(self.volts)

    @cached_property
    def edge_peak_a(self) -> Floats:
        """Amps through each edge at the loudest moment; through what feeds one amplifier alone at its own loudest."""
        amps = self.link_amps(self.peak_volts)
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

    @property
    def reserve_a(self) -> float:
        """Amps available from the chargers less what the vehicle uses; infinite where a limit is unknown.

        A converter that the circuit feeds brings nothing that was not there.
        """
        inside = {each.charger for each in self.fed}
        return sum(amps for i, amps in enumerate(self.available_a) if i not in inside) - self.vehicle_a

    @property
    def converter_w(self) -> float:
        """Watts that converters take from the circuit, over the programme."""
        chargers = [self.circuit.node_of(each.at) for each in self.circuit.job.chargers]

        def taken_w(phase: Phase) -> float:
            return sum(
                phase.charger_a[each.charger] * float(phase.volts[chargers[each.charger]]) / each.efficiency
                + each.idle_w
                for each in self.fed
                if each.charger not in self.position.stopped
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
