"""What switches itself while a car plays, as it ended: relays, converters at their cut-out, banks' own management.

Left out: how it comes to stand so (see `states`), and the seconds that this takes (see `over_time`).
"""

from __future__ import annotations

from dataclasses import dataclass

from underhood.document.job import Bank

PEAK_SHARE = 2.0
"""What a bank's management lets through for moments, over what it does for good, where only that is stated [P]."""
LIMITS = ("", "discharge_limit_a", "discharge_peak_a", "charge_limit_a")
"""Fields of the job file, by the number of a limit in `table.OUT`."""


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


def limits_a(bank: Bank) -> tuple[float, float, float]:
    """(most charging amps, most discharging amps for good, and for moments) of a whole bank; infinite where unknown."""
    count = bank.count.value
    charge = bank.charge_limit_a.value * count if bank.charge_limit_a else float("inf")
    steady = bank.discharge_limit_a.value * count if bank.discharge_limit_a else float("inf")
    peak = bank.discharge_peak_a.value * count if bank.discharge_peak_a else PEAK_SHARE * steady
    return charge, min(steady, peak), peak
