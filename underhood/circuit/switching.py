"""What switches itself, and which way it stands: relays of isolators, converters, managements of banks.

One rule each, for a car that settles (see `states`) and for one over time (see `over_time`), which waits first.
Left out: the order in which positions are tried.

Names as in `kernel`.
"""

from __future__ import annotations

import math

from underhood.arrays import Floats
from underhood.circuit import table as t
from underhood.circuit.kernel import LEAK_S
from underhood.circuit.laws import LEAST_OHM

NO_LIMIT, STEADY, MOMENTARY, CHARGING = 0.0, 1.0, 2.0, 3.0
"""Which of a bank's limits took it off."""


def _is_open(st: Floats, links: Floats, k: int) -> bool:
    """Whether a relay opens the cable in row `k`."""
    one, two = int(links[k, t.SWITCH]), int(links[k, t.SWITCH_2])
    return bool((one >= 0 and st[one, t.CLOSED] == 0.0) or (two >= 0 and st[two, t.CLOSED] == 0.0))


def lay(st: Floats, links: Floats) -> None:
    """Siemens of the cables as warm as what they carry makes them; next to nothing through one that a relay opens."""
    for k in range(len(links)):
        if _is_open(st, links, k):
            links[k, t.SIEMENS] = LEAK_S
        else:
            links[k, t.SIEMENS] = 1.0 / max(
                links[k, t.COLD_OHM] + links[k, t.RISE_OHM] * links[k, t.SQUARE_A], LEAST_OHM
            )


def enliven(el: Floats, st: Floats, links: Floats, nodes: Floats) -> bool:
    """Fills in the highest volts of a source that feeds each node; whether nothing that takes amps sits at a dead one.

    Cables that a relay opens, banks that are out and converters that have stopped or have no input feed nothing.
    """
    for i in range(len(nodes)):
        nodes[i, t.SOURCE_V] = 0.0
    moved = True
    while moved:
        moved = False
        for k in range(len(el)):
            i, volts = int(el[k, t.NODE]), 0.0
            if el[k, t.KIND] == t.BANK and st[k, t.OUT] == NO_LIMIT:
                volts = st[k, t.OCV_V]
            elif el[k, t.KIND] == t.CHARGER and st[k, t.STOPPED] == 0.0 and el[k, t.LIMIT_A] > 0.0:
                f = int(el[k, t.INPUT])
                volts = el[k, t.SET_V] if f < 0 or nodes[f, t.SOURCE_V] > 0.0 else 0.0
            if volts > nodes[i, t.SOURCE_V]:
                nodes[i, t.SOURCE_V], moved = volts, True
        for k in range(len(links)):
            if links[k, t.START] < 0.0 or _is_open(st, links, k):
                continue
            i, j = int(links[k, t.START]), int(links[k, t.END])
            if nodes[i, t.SOURCE_V] > nodes[j, t.SOURCE_V]:
                nodes[j, t.SOURCE_V], moved = nodes[i, t.SOURCE_V], True
            elif nodes[j, t.SOURCE_V] > nodes[i, t.SOURCE_V]:
                nodes[i, t.SOURCE_V], moved = nodes[j, t.SOURCE_V], True
    alive = True
    for k in range(len(el)):
        if nodes[int(el[k, t.NODE]), t.SOURCE_V] == 0.0:
            if el[k, t.KIND] == t.CHARGER and el[k, t.INPUT] >= 0.0:
                continue
            if el[k, t.KIND] == t.AMPLIFIER or (el[k, t.KIND] == t.LOAD and el[k, t.LOAD_A] > 0.0):
                alive = False
        if el[k, t.KIND] == t.CHARGER and el[k, t.INPUT] >= 0.0 and nodes[int(el[k, t.INPUT]), t.SOURCE_V] == 0.0:
            st[k, t.STOPPED] = 1.0
    return alive


def has_contacts(el: Floats) -> bool:
    """Whether a car has a relay or a converter that it feeds itself."""
    count = 0
    for k in range(len(el)):
        if el[k, t.KIND] == t.RELAY or (el[k, t.KIND] == t.CHARGER and el[k, t.INPUT] >= 0.0):
            count += 1
    return count > 0


def has_switches(el: Floats) -> bool:
    """Whether a car has such contacts, or a bank whose management has limits."""
    least = math.inf
    for k in range(len(el)):
        if el[k, t.KIND] == t.BANK:
            least = min(least, el[k, t.CHARGE_LIMIT_A], el[k, t.STEADY_LIMIT_A], el[k, t.PEAK_LIMIT_A])
    return least < math.inf or has_contacts(el)


def limit_passed(el: Floats, k: int, mean_a: float, peak_a: float) -> float:
    """Which limit of the bank in row `k` its amps pass, mean or at the loudest; `NO_LIMIT` for none."""
    if mean_a > el[k, t.STEADY_LIMIT_A]:
        return STEADY
    if peak_a > el[k, t.PEAK_LIMIT_A]:
        return MOMENTARY
    return CHARGING if -mean_a > el[k, t.CHARGE_LIMIT_A] else NO_LIMIT


def wants_to_move(el: Floats, st: Floats, k: int, v: Floats) -> bool:
    """Whether the converter or relay in row `k` would rather stand the other way at these volts."""
    if el[k, t.KIND] == t.CHARGER and el[k, t.INPUT] >= 0.0:
        at_input = v[int(el[k, t.INPUT])]
        return bool(at_input >= el[k, t.RESTART_V] if st[k, t.STOPPED] == 1.0 else at_input < el[k, t.CUTOUT_V])
    if el[k, t.KIND] == t.RELAY:
        at_charger = v[int(el[k, t.SENSE])]
        return bool(at_charger < el[k, t.OPENS_V] if st[k, t.CLOSED] == 1.0 else at_charger >= el[k, t.JOINS_V])
    return False


def trips(el: Floats, st: Floats, mean_a: Floats, peak_a: Floats) -> bool:
    """Takes off the first bank whose management does not let its amps through, mean or at the loudest."""
    for k in range(len(el)):
        if el[k, t.KIND] != t.BANK or st[k, t.OUT] > NO_LIMIT:
            continue
        limit = limit_passed(el, k, mean_a[k], peak_a[k])
        if limit > NO_LIMIT:
            st[k, t.OUT], st[k, t.OUT_A] = limit, peak_a[k] if limit == MOMENTARY else abs(mean_a[k])
            return True
    return False


def moves(el: Floats, st: Floats, v: Floats, bank_a: Floats) -> bool:
    """Moves the first switch that wants to: management, then a converter, then a relay."""
    if trips(el, st, bank_a, bank_a):
        return True
    for kind, column in ((t.CHARGER, t.STOPPED), (t.RELAY, t.CLOSED)):
        for k in range(len(el)):
            if el[k, t.KIND] == kind and wants_to_move(el, st, k, v):
                st[k, column] = 1.0 - st[k, column]
                return True
    return False


def _position(el: Floats, st: Floats, k: int) -> float:
    """How the switch in row `k` stands."""
    if el[k, t.KIND] == t.BANK:
        return 1.0 if st[k, t.OUT] > NO_LIMIT else 0.0
    if el[k, t.KIND] == t.RELAY:
        return st[k, t.CLOSED]  # type: ignore[no-any-return]
    if el[k, t.KIND] == t.CHARGER and el[k, t.INPUT] >= 0.0:
        return st[k, t.STOPPED]  # type: ignore[no-any-return]
    return 0.0


def comes_round(el: Floats, st: Floats, memory: Floats, count: int) -> bool:
    """Notes how all switches stand; where they stood so before, those that moved since find no rest."""
    for k in range(len(el)):
        memory[count, k] = _position(el, st, k)
    for before in range(count):
        same = True
        for k in range(len(el)):
            same = same and memory[before, k] == memory[count, k]
        if same:
            for k in range(len(el)):
                for j in range(before, count):
                    if memory[j, k] != memory[count, k]:
                        st[k, t.RESTLESS] = 1.0
            return True
    return False


def gives_way(el: Floats, st: Floats) -> bool:
    """Opens a relay, else stops a converter, of a car without a state; whether there was one."""
    for k in range(len(el)):
        if el[k, t.KIND] == t.RELAY and st[k, t.CLOSED] == 1.0:
            st[k, t.CLOSED] = 0.0
            return True
    for k in range(len(el)):
        if el[k, t.KIND] == t.CHARGER and el[k, t.INPUT] >= 0.0 and st[k, t.STOPPED] == 0.0:
            st[k, t.STOPPED] = 1.0
            return True
    return False
