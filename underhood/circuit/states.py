"""The states of one car: its switches, what it settles to, loud and quiet, its loudest moment, cables as warm as they
are.

A tone settles: batteries at rest in their current, capacitors open. A programme is a cycle of loud and quiet, split at
its mean power, each a step of time as long as it lasts on average (a charger lends nothing back in the gaps, so that
one solve at the mean power would be off by half a volt at idle). The loudest moment begins there and takes two steps of
the longest stretch that is nearly as loud. Polarisation and capacitors are states in every step. Cables are as warm as
their RMS current makes them. Switches begin at silence, relays open; the first that wants to move is moved, and so on
until all rest. Left out: the single state (see `kernel`), the course over a whole piece (see `over_time`).

Names as in `kernel`; besides: `groups` which amplifiers are beyond the cables of each group, `timing` and `inside` of
the programme (see `rows`); `trail` a row a state (see `table.LAST`): volts of the nodes, amps given by each element,
amps through each cable, the share of the power that it holds; `drawn` and `memory` room to work in.
"""

from __future__ import annotations

import math

from underhood.arrays import Floats
from underhood.circuit import laws
from underhood.circuit.kernel import (
    CARRIED,
    GIVEN,
    LEAK_S,
    Newton,
    amplifier_watts,
    held_watts,
    put,
    solved,
)
from underhood.circuit.laws import LEAST_OHM
from underhood.circuit.table import (
    ABSORPTION_V,
    AMPLIFIER,
    AMPS,
    BANK,
    CAPACITOR,
    CAPACITY_AS,
    CHARGE,
    CHARGE_LIMIT_A,
    CHARGER,
    CHARGING_OHM,
    CLOSED,
    COLD_OHM,
    CUTOUT_V,
    CYCLES,
    END,
    FARAD,
    FAST_F,
    FAST_V,
    FLOWS,
    FULL,
    GROUP,
    HELD_V,
    INPUT,
    JOINS_V,
    KIND,
    LAST,
    LAST_LOUD,
    LAST_QUIET,
    LATELY,
    LEVEL,
    LIMIT_A,
    LOAD,
    LOAD_A,
    LOUD,
    LOUD_S,
    LOUD_SHARE,
    MEMORY,
    MOST,
    NODE,
    NOTHING,
    OCV_CHARGE,
    OCV_POINTS,
    OCV_V,
    OCV_VOLTS,
    OPENS_V,
    ORDINAL,
    OUT,
    OUT_A,
    PARTS,
    PEAK,
    PEAK_LIMIT_A,
    PEAK_S,
    QUIET,
    QUIET_S,
    QUIET_SHARE,
    R0_OHM,
    R1_CHARGE_OHM,
    R1_DISCHARGE_OHM,
    RELAY,
    RESTART_V,
    RESTLESS,
    RISE,
    RISE_OHM,
    SENSE,
    SET_V,
    SHARE,
    SHARE_HELD,
    SIEMENS,
    SLOW_F,
    SLOW_V,
    SOLVED,
    SOURCE_V,
    SQUARE_A,
    START,
    STEADY_LIMIT_A,
    STILL,
    STOPPED,
    SWITCH,
    SWITCH_2,
    VOLTS,
    WHOLE,
)

__all__ = [
    "MOST_POSITIONS",
    "after",
    "begin_settled",
    "enliven",
    "has_switches",
    "lay",
    "mean_amps",
    "open_circuit_v",
    "point",
    "rest",
    "trips",
]

AHEAD = 4.0
"""How many more cycles a slow branch is taken ahead after each that is solved."""
PEAK_STEP_SHARE = 0.625
"""The loudest moment is reached in steps of this share of its stretch [P]."""
MOST_WARMINGS, WARM_ENOUGH_OHM = 8, 1e-8
"""Cables are warmed by the current, which their warmth lowers: repeated until no resistance moves by 10 nΩ."""
MOST_POSITIONS = 64
"""Of the switches that are tried before they are taken to find no rest."""
LEAST_SWING_A = 1e-9
NO_LIMIT, STEADY, MOMENTARY, CHARGING = 0.0, 1.0, 2.0, 3.0
"""Which of a bank's limits took it off."""


def open_circuit_v(el: Floats, k: int, charge: float) -> float:
    """Open-circuit volts of the bank in row `k`, linear between the points of its table, the ends held.

    charge   state of charge, 0 to 1
    """
    i = 1
    while i < OCV_POINTS - 1 and el[k, OCV_CHARGE + i] < charge:
        i += 1
    low, high = el[k, OCV_CHARGE + i - 1], el[k, OCV_CHARGE + i]
    part = min(max((charge - low) / (high - low), 0.0), 1.0) if high > low else 1.0
    at_low = el[k, OCV_VOLTS + i - 1]
    volts: float = at_low + part * (el[k, OCV_VOLTS + i] - at_low)
    return volts


def rest(el: Floats, st: Floats) -> None:
    """Open-circuit volts and charging ohms of every bank at its charge; see `battery.model`."""
    for k in range(len(el)):
        if el[k, KIND] != BANK:
            continue
        st[k, OCV_V] = open_circuit_v(el, k, st[k, CHARGE])
        ohm = el[k, R1_CHARGE_OHM]
        if ohm <= 0.0:
            accepted = laws.accepted_a(
                el[k, CAPACITY_AS] / 3600.0,
                el[k, FULL],
                el[k, RISE],
                el[k, MOST],
                el[k, MEMORY],
                st[k, CHARGE],
                st[k, LATELY],
            )
            ohm = laws.charging_ohm(el[k, R0_OHM], el[k, ABSORPTION_V], st[k, OCV_V], accepted)
        st[k, CHARGING_OHM] = ohm


def _is_open(st: Floats, links: Floats, k: int) -> bool:
    """Whether a relay opens the cable in row `k`."""
    one, two = int(links[k, SWITCH]), int(links[k, SWITCH_2])
    return bool((one >= 0 and st[one, CLOSED] == 0.0) or (two >= 0 and st[two, CLOSED] == 0.0))


def lay(st: Floats, links: Floats) -> None:
    """Siemens of the cables as warm as what they carry makes them; next to nothing through one that a relay opens."""
    for k in range(len(links)):
        if _is_open(st, links, k):
            links[k, SIEMENS] = LEAK_S
        else:
            links[k, SIEMENS] = 1.0 / max(links[k, COLD_OHM] + links[k, RISE_OHM] * links[k, SQUARE_A], LEAST_OHM)


def enliven(el: Floats, st: Floats, links: Floats, nodes: Floats) -> bool:
    """Fills in the highest volts of a source that feeds each node; whether nothing that takes amps sits at a dead one.

    Cables that a relay opens, banks that are out and converters that have stopped or have no input feed nothing.
    """
    for i in range(len(nodes)):
        nodes[i, SOURCE_V] = 0.0
    moved = True
    while moved:
        moved = False
        for k in range(len(el)):
            i, volts = int(el[k, NODE]), 0.0
            if el[k, KIND] == BANK and st[k, OUT] == NO_LIMIT:
                volts = st[k, OCV_V]
            elif el[k, KIND] == CHARGER and st[k, STOPPED] == 0.0 and el[k, LIMIT_A] > 0.0:
                f = int(el[k, INPUT])
                volts = el[k, SET_V] if f < 0 or nodes[f, SOURCE_V] > 0.0 else 0.0
            if volts > nodes[i, SOURCE_V]:
                nodes[i, SOURCE_V], moved = volts, True
        for k in range(len(links)):
            if links[k, START] < 0.0 or _is_open(st, links, k):
                continue
            i, j = int(links[k, START]), int(links[k, END])
            if nodes[i, SOURCE_V] > nodes[j, SOURCE_V]:
                nodes[j, SOURCE_V], moved = nodes[i, SOURCE_V], True
            elif nodes[j, SOURCE_V] > nodes[i, SOURCE_V]:
                nodes[i, SOURCE_V], moved = nodes[j, SOURCE_V], True
    alive = True
    for k in range(len(el)):
        if nodes[int(el[k, NODE]), SOURCE_V] == 0.0:
            if el[k, KIND] == CHARGER and el[k, INPUT] >= 0.0:
                continue
            if el[k, KIND] == AMPLIFIER or (el[k, KIND] == LOAD and el[k, LOAD_A] > 0.0):
                alive = False
        if el[k, KIND] == CHARGER and el[k, INPUT] >= 0.0 and nodes[int(el[k, INPUT]), SOURCE_V] == 0.0:
            st[k, STOPPED] = 1.0
    return alive


def has_switches(el: Floats) -> bool:
    """Whether a car has a relay, a converter that it feeds itself, or a bank whose management has limits."""
    for k in range(len(el)):
        if el[k, KIND] == RELAY or (el[k, KIND] == CHARGER and el[k, INPUT] >= 0.0):
            return True
        if el[k, KIND] == BANK:
            least = min(el[k, CHARGE_LIMIT_A], el[k, STEADY_LIMIT_A], el[k, PEAK_LIMIT_A])
            if least < math.inf:
                return True
    return False


def trips(el: Floats, st: Floats, mean_a: Floats, peak_a: Floats) -> bool:
    """Takes off the first bank whose management does not let its amps through, mean or at the loudest."""
    for k in range(len(el)):
        if el[k, KIND] != BANK or st[k, OUT] > NO_LIMIT:
            continue
        limit, amps = NO_LIMIT, 0.0
        if mean_a[k] > el[k, STEADY_LIMIT_A]:
            limit, amps = STEADY, mean_a[k]
        elif peak_a[k] > el[k, PEAK_LIMIT_A]:
            limit, amps = MOMENTARY, peak_a[k]
        elif -mean_a[k] > el[k, CHARGE_LIMIT_A]:
            limit, amps = CHARGING, -mean_a[k]
        if limit > NO_LIMIT:
            st[k, OUT], st[k, OUT_A] = limit, amps
            return True
    return False


def _moves(el: Floats, st: Floats, v: Floats, bank_a: Floats) -> bool:
    """Moves the first switch that wants to: management, then a converter, then a relay."""
    if trips(el, st, bank_a, bank_a):
        return True
    for k in range(len(el)):
        if el[k, KIND] == CHARGER and el[k, INPUT] >= 0.0:
            at_input = v[int(el[k, INPUT])]
            if st[k, STOPPED] == 0.0 and at_input < el[k, CUTOUT_V]:
                st[k, STOPPED] = 1.0
                return True
            if st[k, STOPPED] == 1.0 and at_input >= el[k, RESTART_V]:
                st[k, STOPPED] = 0.0
                return True
    for k in range(len(el)):
        if el[k, KIND] == RELAY:
            closed = st[k, CLOSED] == 1.0
            if closed != (v[int(el[k, SENSE])] >= (el[k, OPENS_V] if closed else el[k, JOINS_V])):
                st[k, CLOSED] = 0.0 if closed else 1.0
                return True
    return False


def _position(el: Floats, st: Floats, k: int) -> float:
    """How the switch in row `k` stands."""
    if el[k, KIND] == BANK:
        return 1.0 if st[k, OUT] > NO_LIMIT else 0.0
    if el[k, KIND] == RELAY:
        return st[k, CLOSED]  # type: ignore[no-any-return]
    if el[k, KIND] == CHARGER and el[k, INPUT] >= 0.0:
        return st[k, STOPPED]  # type: ignore[no-any-return]
    return 0.0


def _comes_round(el: Floats, st: Floats, memory: Floats, count: int) -> bool:
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
                        st[k, RESTLESS] = 1.0
            return True
    return False


def _settle_switches(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    trail: Floats,
    memory: Floats,
    work: Floats,
) -> bool:
    """Puts each switch where it wants to be, one after the other, until all rest or come round; whether one stays dead.

    play   silence, as a car begins, or all of what is played
    """
    v, known = trail[0, VOLTS], False
    for k in range(len(el)):
        st[k, RESTLESS] = 0.0
    for count in range(MOST_POSITIONS):
        if _comes_round(el, st, memory, count):
            return True
        lay(st, links)
        begin_settled(el, st)
        drive = -1.0
        if enliven(el, st, links, nodes):
            drive = solved(newton, el, st, links, nodes, levels, held, play, math.inf, known, v, work)
        known = drive == 1.0
        if drive < 0.0:
            if not _gives_way(el, st):
                return False
            continue
        if not _moves(el, st, v, work[GIVEN]):
            return True
    return True


def _gives_way(el: Floats, st: Floats) -> bool:
    """Opens a relay, else stops a converter, of a car without a state; whether there was one."""
    for k in range(len(el)):
        if el[k, KIND] == RELAY and st[k, CLOSED] == 1.0:
            st[k, CLOSED] = 0.0
            return True
    for k in range(len(el)):
        if el[k, KIND] == CHARGER and el[k, INPUT] >= 0.0 and st[k, STOPPED] == 0.0:
            st[k, STOPPED] = 1.0
            return True
    return False


def begin_settled(el: Floats, st: Floats) -> None:
    """Polarisation at nothing: where what settles begins."""
    for k in range(len(el)):
        if el[k, KIND] == BANK:
            st[k, FAST_V], st[k, SLOW_V] = 0.0, 0.0


def after(el: Floats, st: Floats, dt: float, v: Floats, amps: Floats) -> None:
    """Polarisation and capacitor volts at the end of a step; infinite for what they settle to.

    amps   that each element gives over it
    """
    for k in range(len(el)):
        if el[k, KIND] == BANK and st[k, OUT] == NO_LIMIT:
            fast, slow = laws.branches(el[k, FAST_F], el[k, SLOW_F], st[k, CHARGING_OHM], el[k, R1_DISCHARGE_OHM])
            st[k, FAST_V] = laws.branch_after(fast, st[k, FAST_V], dt, amps[k])
            st[k, SLOW_V] = laws.branch_after(slow, st[k, SLOW_V], dt, amps[k])
        elif el[k, KIND] == CAPACITOR:
            if dt < math.inf:
                st[k, HELD_V] -= amps[k] * dt / el[k, FARAD]
            else:
                st[k, HELD_V] = v[int(el[k, NODE])]


def _state(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    dt: float,
    near: bool,
    row: int,
    trail: Floats,
    work: Floats,
) -> float:
    """One state into a row of the trail, begun near what stands there or in the row before; its drive.

    near   whether the trail holds states close to its own
    """
    v, known = trail[row, VOLTS], near and trail[row, SHARE_HELD, 0] == 1.0
    if not near and row > 0:
        put(trail[row - 1, VOLTS], v)
        known = trail[row - 1, SHARE_HELD, 0] == 1.0
    drive = solved(newton, el, st, links, nodes, levels, held, play, dt, known, v, work)
    trail[row, SHARE_HELD, 0] = drive
    if drive >= 0.0:
        put(work[GIVEN], trail[row, AMPS])
        put(work[CARRIED], trail[row, FLOWS])
        after(el, st, dt, v, trail[row, AMPS])
    return drive


def _states(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    timing: Floats,
    near: bool,
    trail: Floats,
    memory: Floats,
    work: Floats,
) -> float:
    """Every state of a circuit whose cables are laid; the least drive of them, below 0 where there is none."""
    begin_settled(el, st)
    drive, was_v = 1.0, memory[0]
    for row in range(LAST + 1):
        part, seconds = play, math.inf
        if row > 2 * CYCLES:
            part, seconds = PEAK, PEAK_STEP_SHARE * timing[PEAK_S]
        elif row > 0:
            part, seconds = (LOUD, timing[LOUD_S]) if row % 2 == 1 else (QUIET, timing[QUIET_S])
        if part == LOUD:
            for k in range(len(el)):
                was_v[k] = st[k, SLOW_V] if el[k, KIND] == BANK else 0.0
        given = _state(newton, el, st, links, nodes, levels, held, part, seconds, near, row, trail, work)
        if given < 0.0:
            return given
        if part != PEAK or row == LAST:
            drive = min(drive, given)
        if part == QUIET:
            _go_ahead(el, st, was_v)
        if row == 0 and (timing[PARTS] == 1.0 or play != WHOLE):
            for kind in range(SHARE_HELD + 1):
                put(trail[0, kind], trail[LAST, kind])
            return drive
    return drive


def _go_ahead(el: Floats, st: Floats, was_v: Floats) -> None:
    """Some cycles later: a slow branch that stays charged goes on as it went, never below nothing."""
    for k in range(len(el)):
        if el[k, KIND] == BANK and was_v[k] > 0.0 and st[k, SLOW_V] > 0.0:
            st[k, SLOW_V] = max(st[k, SLOW_V] + AHEAD * (st[k, SLOW_V] - was_v[k]), 0.0)


def _square_a(
    el: Floats,
    st: Floats,
    links: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    timing: Floats,
    inside: Floats,
    groups: Floats,
    trail: Floats,
    drawn: Floats,
    out: Floats,
) -> None:
    """Mean of the squared amps of each cable: what its phases carry, and within them its swing with the draw beyond it.

    out   (cables,)
    """
    if timing[PARTS] == 1.0 or play != WHOLE:
        for k in range(len(links)):
            out[k] = trail[0, FLOWS, k] ** 2
        return
    for k in range(len(el)):
        if el[k, KIND] != AMPLIFIER:
            continue
        j, node = int(el[k, ORDINAL]), int(el[k, NODE])
        volts = trail[LAST, VOLTS, node]
        drawn[0, j, 0] = amplifier_watts(el, st, levels, held, k, PEAK, 1.0, volts)[0] / volts
        for part, row in ((QUIET, LAST_QUIET), (LOUD, LAST_LOUD)):
            volts, share = trail[row, VOLTS, node], math.sqrt(trail[row, SHARE_HELD, 0])
            for i in range(levels.shape[3] - 1):
                drawn[part, j, i] = held_watts(el, st, k, levels[part, j, LEVEL, i] * share, volts)[0] / volts
    for g in range(len(groups)):
        peak, mean, spread = _spread(levels, timing, inside, groups, g, drawn)
        for k in range(len(links)):
            if links[k, START] >= 0.0 and int(links[k, GROUP]) == g:
                quiet_a, loud_a = trail[LAST_QUIET, FLOWS, k], trail[LAST_LOUD, FLOWS, k]
                swing = (trail[LAST, FLOWS, k] - quiet_a) / max(peak - mean, LEAST_SWING_A)
                carried = timing[QUIET_SHARE] * quiet_a * quiet_a + timing[LOUD_SHARE] * loud_a * loud_a
                out[k] = carried + swing * swing * spread


def _spread(
    levels: Floats, timing: Floats, inside: Floats, groups: Floats, g: int, drawn: Floats
) -> tuple[float, float, float]:
    """(amps at the loudest moment, mean while it is quiet, mean of the squared swing) of a group of amplifiers."""
    fed, only, at_peak = 0, 0, 0.0
    for j in range(groups.shape[1]):
        if groups[g, j] == 1.0:
            fed, only, at_peak = fed + 1, j, at_peak + drawn[0, j, 0]
    quiet_mean, spread = 0.0, 0.0
    for part in (QUIET, LOUD):
        count = levels.shape[3] - 1 if fed == 1 else inside.shape[2]
        mean, square = 0.0, 0.0
        for i in range(count):
            sum_, weight = 0.0, 0.0
            if fed == 1:
                sum_, weight = drawn[part, only, i], levels[part, only, SHARE, i]
            else:
                weight = inside[part - 1, len(groups[g]), i, 0]
                for j in range(groups.shape[1] if weight > 0.0 else 0):
                    if groups[g, j] == 1.0:
                        for level in range(levels.shape[3] - 1):
                            sum_ += inside[part - 1, j, i, level] * drawn[part, j, level]
            mean += weight * sum_
            square += weight * sum_ * sum_
        spread += (timing[QUIET_SHARE] if part == QUIET else timing[LOUD_SHARE]) * max(square - mean * mean, 0.0)
        if part == QUIET:
            quiet_mean = mean
    return at_peak, quiet_mean, spread


def _warmed(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    timing: Floats,
    inside: Floats,
    groups: Floats,
    near: bool,
    trail: Floats,
    drawn: Floats,
    memory: Floats,
    work: Floats,
) -> float:
    """The states with cables as warm as they then are; the drive.

    near   whether the trail holds states close to them, and the cables are as warm as there
    """
    warm, drive = memory[1], -1.0
    for k in range(0 if near else len(links)):
        links[k, SQUARE_A] = 0.0
    for warmings in range(MOST_WARMINGS + 1):
        lay(st, links)
        known = near or warmings > 0
        drive = _states(newton, el, st, links, nodes, levels, held, play, timing, known, trail, memory, work)
        if drive < 0.0:
            return drive
        _square_a(el, st, links, levels, held, play, timing, inside, groups, trail, drawn, warm)
        change = 0.0
        for k in range(len(links)):
            change = max(change, abs(links[k, RISE_OHM] * (warm[k] - links[k, SQUARE_A])))
        for k in range(len(links)):
            links[k, SQUARE_A] = warm[k]
        if change <= WARM_ENOUGH_OHM:
            return drive
    return drive


def mean_amps(timing: Floats, play: int, trail: Floats, out: Floats) -> None:
    """Fills in the mean amps of every element over a programme."""
    for k in range(trail.shape[2]):
        out[k] = trail[0, AMPS, k]
        if timing[PARTS] == 2.0 and play == WHOLE:
            out[k] = timing[QUIET_SHARE] * trail[LAST_QUIET, AMPS, k] + timing[LOUD_SHARE] * trail[LAST_LOUD, AMPS, k]


def point(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    timing: Floats,
    inside: Floats,
    groups: Floats,
    near: bool,
    trail: Floats,
    drawn: Floats,
    memory: Floats,
    work: Floats,
) -> tuple[int, float]:
    """(how it came out, drive) of a car; its states are in the trail.

    A bank whose management lets its mean or its peak not through is taken off, and the car found anew without it. Where
    what dropped out was all there was, the state before it did is told, which holds nothing; its amps say why.

    near   whether the trail holds states close to its own; only for a car without switches
    """
    rest(el, st)
    switches, gone = has_switches(el), False
    for attempt in range(len(el) + 2):
        if switches and not gone:
            playing = STILL if attempt == 0 else play
            gone = not _settle_switches(newton, el, st, links, nodes, levels, held, playing, trail, memory, work)
            if attempt == 0 and not gone:
                continue
        gone = gone or not enliven(el, st, links, nodes)
        if gone and not _put_back(el, st, links, nodes, memory[2]):
            return NOTHING, 0.0
        drive = _warmed(
            newton, el, st, links, nodes, levels, held, play, timing, inside, groups, near, trail, drawn, memory, work
        )
        if gone:
            for k in range(len(el)):
                if el[k, KIND] == BANK:
                    st[k, OUT] = memory[2, k]
            return (SOLVED if drive >= 0.0 else NOTHING), 0.0
        if drive < 0.0:
            gone = True
            continue
        mean_amps(timing, play, trail, memory[0])
        if not trips(el, st, memory[0], trail[LAST, AMPS]):
            return SOLVED, drive
    return SOLVED, 0.0


def _put_back(el: Floats, st: Floats, links: Floats, nodes: Floats, out: Floats) -> bool:
    """Puts back what dropped out, which is noted; whether anything did, and that is enough to feed all."""
    any_out = False
    for k in range(len(el)):
        out[k] = st[k, OUT] if el[k, KIND] == BANK else NO_LIMIT
        if out[k] > NO_LIMIT:
            any_out, st[k, OUT] = True, NO_LIMIT
    lay(st, links)
    return any_out and enliven(el, st, links, nodes)
