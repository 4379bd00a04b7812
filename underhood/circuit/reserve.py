"""The reserve of a supply: what its sources bring into the car, less what the car itself takes.

Alternators, mains chargers, bench supplies and converters on a traction battery bring power; a converter that the
circuit itself feeds brings nothing that was not there, and what it takes while it idles is taken. Left out: what such
a converter loses of what it passes on, which depends on what is played (it is in the balance of watts).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from underhood.circuit import converter, vehicle
from underhood.circuit.build import Circuit
from underhood.circuit.vehicle import LoadState
from underhood.document.job import Engine

NOMINAL_V = 12.0


@dataclass(frozen=True)
class SupplyReserve:
    """Amps that each source brings, those the vehicle takes, and those that converters within the circuit idle at.

    brings   by the number of the charger; infinite where its limit is unknown
    """

    brings: dict[int, float]
    vehicle_a: float
    idle_a: dict[int, float]

    @property
    def available_a(self) -> float:
        """All that is brought, A; infinite where a limit is unknown."""
        return sum(self.brings.values())

    @property
    def taken_a(self) -> float:
        """All that is taken before anything plays, A."""
        return self.vehicle_a + sum(self.idle_a.values())

    @property
    def left_a(self) -> float:
        """The reserve, A; infinite where a limit is unknown."""
        return self.available_a - self.taken_a

    @property
    def known(self) -> bool:
        """Whether the limit of every source is known."""
        return math.isfinite(self.available_a)


def reserve(
    circuit: Circuit, engine: Engine, used: LoadState | None = None, stopped: frozenset[int] = frozenset()
) -> SupplyReserve:
    """The reserve in an engine state.

    used      what of the vehicle is on; that state's own loads where nothing is said
    stopped   converters that have stopped, by their number
    """
    amps = converter.available_a(circuit, engine)
    fed = {each.charger: each for each in converter.fed(circuit)}
    idle = {
        i: each.idle_w / (NOMINAL_V * circuit.per_12[each.node])
        for i, each in fed.items()
        if each.idle_w and amps[i] > 0 and i not in stopped
    }
    brings = {i: 0.0 if i in stopped else each for i, each in enumerate(amps) if i not in fed}
    return SupplyReserve(brings, vehicle.used_a(circuit.job.vehicle, used or engine), idle)
