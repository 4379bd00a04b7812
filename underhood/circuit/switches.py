"""What switches itself while a car plays: relays of isolators, converters at their cut-out, banks' own management.

A position is tried, the circuit solved, the first switch that wants to move is moved, and so on until all rest. Left
out: the seconds that this takes (see `transient`), and positions that would hold too had they been so before.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from underhood.arrays import Floats
from underhood.circuit.converter import Fed
from underhood.circuit.isolator import Relay
from underhood.circuit.laws import JOINS_V, OPENS_V
from underhood.document.job import Bank, Charger

__all__ = ["Position", "Trip", "limits_a", "moved", "tripped"]

PEAK_SHARE = 2.0
"""What a bank's management lets through for moments, over what it does for good, where only that is stated [P]."""


@dataclass(frozen=True)
class Trip:
    """A bank that its management has taken off: which, the amps that did it, and the limit that they passed.

    limit   its field of the job file
    """

    bank: int
    limit: str
    amps: float
    limit_a: float


@dataclass(frozen=True)
class Position:
    """How all switches stand.

    closed    of each relay
    stopped   chargers that are converters below their cut-out
    trips     banks that dropped out, and stay out
    """

    closed: tuple[bool, ...]
    stopped: frozenset[int] = frozenset()
    trips: tuple[Trip, ...] = ()

    @property
    def dropped(self) -> frozenset[int]:
        """The banks that are out."""
        return frozenset(trip.bank for trip in self.trips)


def limits_a(bank: Bank) -> tuple[float, float, float]:
    """(most charging amps, most discharging amps for good, and for moments) of a whole bank; infinite where unknown."""
    count = bank.count.value
    charge = bank.charge_limit_a.value * count if bank.charge_limit_a else float("inf")
    steady = bank.discharge_limit_a.value * count if bank.discharge_limit_a else float("inf")
    peak = bank.discharge_peak_a.value * count if bank.discharge_peak_a else PEAK_SHARE * steady
    return charge, min(steady, peak), peak


def tripped(banks: Sequence[Bank], position: Position, mean_a: Sequence[float], peak_a: Sequence[float]) -> Trip | None:
    """The first bank whose management does not let its amps through, mean or at the loudest; discharge is positive."""
    for i, bank in enumerate(banks):
        if i in position.dropped:
            continue
        charge, steady, peak = limits_a(bank)
        for field, amps, limit in (
            ("discharge_limit_a", mean_a[i], steady),
            ("discharge_peak_a", peak_a[i], peak),
            ("charge_limit_a", -mean_a[i], charge),
        ):
            if amps > limit:
                return Trip(i, field, amps, limit)
    return None


def moved(
    position: Position,
    volts: Floats,
    bank_a: Sequence[float],
    banks: Sequence[Bank],
    chargers: Sequence[Charger],
    fed: Sequence[Fed],
    relays: Sequence[Relay],
) -> Position | None:
    """The position with the first switch moved that wants to; None where all rest.

    volts    of the nodes with the switches as they stand, V; `bank_a` of the banks, A
    """
    if trip := tripped(banks, position, bank_a, bank_a):
        return replace(position, trips=(*position.trips, trip))
    for each in fed:
        charger, at_input = chargers[each.charger], float(volts[each.node])
        off = each.charger in position.stopped
        if not off and at_input < charger.cutout_v.value:
            return replace(position, stopped=position.stopped | {each.charger})
        if off and at_input >= charger.restart_v.value:
            return replace(position, stopped=position.stopped - {each.charger})
    for i, relay in enumerate(relays):
        at_charging, closed = float(volts[relay.charging]), position.closed[i]
        if closed != (at_charging >= (OPENS_V if closed else JOINS_V)):
            turned = (*position.closed[:i], not closed, *position.closed[i + 1 :])
            return replace(position, closed=turned)
    return None
