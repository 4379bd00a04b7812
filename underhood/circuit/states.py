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
from collections.abc import Callable
from typing import TypeAlias

from underhood.arrays import Floats
from underhood.circuit import laws
from underhood.circuit import table as t
from underhood.circuit.kernel import (
    CARRIED,
    GIVEN,
    Newton,
    amplifier_watts,
    held_watts,
    put,
    solved,
)
from underhood.circuit.switching import (
    NO_LIMIT,
    comes_round,
    enliven,
    gives_way,
    has_switches,
    lay,
    moves,
    trips,
)

Point: TypeAlias = Callable[..., float]
"""`point`, handed on likewise."""
AHEAD = 4.0
"""How many more cycles a slow branch is taken ahead after each that is solved."""
PEAK_STEP_SHARE = 0.625
"""The loudest moment is reached in steps of this share of its stretch [P]."""
MOST_WARMINGS, WARM_ENOUGH_OHM = 8, 1e-8
"""Cables are warmed by the current, which their warmth lowers: repeated until no resistance moves by 10 nΩ."""
MOST_POSITIONS = 64
"""Of the switches that are tried before they are taken to find no rest."""
LEAST_SWING_A = 1e-9


def open_circuit_v(el: Floats, k: int, charge: float) -> float:
    """Open-circuit volts of the bank in row `k`, linear between the points of its table, the ends held.

    charge   state of charge, 0 to 1
    """
    i = 1
    while i < t.OCV_POINTS - 1 and el[k, t.OCV_CHARGE + i] < charge:
        i += 1
    low, high = el[k, t.OCV_CHARGE + i - 1], el[k, t.OCV_CHARGE + i]
    part = min(max((charge - low) / (high - low), 0.0), 1.0) if high > low else 1.0
    at_low = el[k, t.OCV_VOLTS + i - 1]
    volts: float = at_low + part * (el[k, t.OCV_VOLTS + i] - at_low)
    return volts


def rest(el: Floats, st: Floats) -> None:
    """Open-circuit volts and charging ohms of every bank at its charge; see `battery.model`."""
    for k in range(len(el)):
        if el[k, t.KIND] != t.BANK:
            continue
        st[k, t.OCV_V] = open_circuit_v(el, k, st[k, t.CHARGE])
        ohm = el[k, t.R1_CHARGE_OHM]
        if ohm <= 0.0:
            accepted = laws.accepted_a(
                el[k, t.CAPACITY_AS] / 3600.0,
                el[k, t.FULL],
                el[k, t.RISE],
                el[k, t.MOST],
                el[k, t.MEMORY],
                st[k, t.CHARGE],
                st[k, t.LATELY],
            )
            ohm = laws.charging_ohm(el[k, t.R0_OHM], el[k, t.ABSORPTION_V], st[k, t.OCV_V], accepted)
        st[k, t.CHARGING_OHM] = ohm


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
    v, known = trail[0, t.VOLTS], False
    for k in range(len(el)):
        st[k, t.RESTLESS] = 0.0
    for count in range(MOST_POSITIONS):
        if comes_round(el, st, memory, count):
            return True
        lay(st, links)
        begin_settled(el, st)
        drive = -1.0
        if enliven(el, st, links, nodes):
            drive = solved(newton, el, st, links, nodes, levels, held, play, math.inf, known, v, work)
        known = drive == 1.0
        if drive < 0.0:
            if not gives_way(el, st):
                return False
            continue
        if not moves(el, st, v, work[GIVEN]):
            return True
    return True


def begin_settled(el: Floats, st: Floats) -> None:
    """Polarisation at nothing: where what settles begins."""
    for k in range(len(el)):
        if el[k, t.KIND] == t.BANK:
            st[k, t.FAST_V], st[k, t.SLOW_V] = 0.0, 0.0


def after(el: Floats, st: Floats, dt: float, v: Floats, amps: Floats) -> None:
    """Polarisation and capacitor volts at the end of a step; infinite for what they settle to.

    amps   that each element gives over it
    """
    for k in range(len(el)):
        if el[k, t.KIND] == t.BANK and st[k, t.OUT] == NO_LIMIT:
            fast, slow = laws.branches(
                el[k, t.FAST_F], el[k, t.SLOW_F], st[k, t.CHARGING_OHM], el[k, t.R1_DISCHARGE_OHM]
            )
            st[k, t.FAST_V] = laws.branch_after(fast, st[k, t.FAST_V], dt, amps[k])
            st[k, t.SLOW_V] = laws.branch_after(slow, st[k, t.SLOW_V], dt, amps[k])
        elif el[k, t.KIND] == t.CAPACITOR:
            if dt < math.inf:
                st[k, t.HELD_V] -= amps[k] * dt / el[k, t.FARAD]
            else:
                st[k, t.HELD_V] = v[int(el[k, t.NODE])]


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
    v, known = trail[row, t.VOLTS], near and trail[row, t.SHARE_HELD, 0] == 1.0
    if not near and row > 0:
        put(trail[row - 1, t.VOLTS], v)
        known = trail[row - 1, t.SHARE_HELD, 0] == 1.0
    drive = solved(newton, el, st, links, nodes, levels, held, play, dt, known, v, work)
    trail[row, t.SHARE_HELD, 0] = drive
    if drive >= 0.0:
        put(work[GIVEN], trail[row, t.AMPS])
        put(work[CARRIED], trail[row, t.FLOWS])
        after(el, st, dt, v, trail[row, t.AMPS])
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
    for row in range(t.LAST + 1):
        part, seconds = play, math.inf
        if row > 2 * t.CYCLES:
            part, seconds = t.PEAK, PEAK_STEP_SHARE * timing[t.PEAK_S]
        elif row > 0:
            part, seconds = (t.LOUD, timing[t.LOUD_S]) if row % 2 == 1 else (t.QUIET, timing[t.QUIET_S])
        if part == t.LOUD:
            for k in range(len(el)):
                was_v[k] = st[k, t.SLOW_V] if el[k, t.KIND] == t.BANK else 0.0
        given = _state(newton, el, st, links, nodes, levels, held, part, seconds, near, row, trail, work)
        if given < 0.0:
            return given
        if part != t.PEAK or row == t.LAST:
            drive = min(drive, given)
        if part == t.QUIET:
            _go_ahead(el, st, was_v)
        if row == 0 and (timing[t.PARTS] == 1.0 or play != t.WHOLE):
            for kind in range(t.SHARE_HELD + 1):
                put(trail[0, kind], trail[t.LAST, kind])
            return drive
    return drive


def _go_ahead(el: Floats, st: Floats, was_v: Floats) -> None:
    """Some cycles later: a slow branch that stays charged goes on as it went, never below nothing."""
    for k in range(len(el)):
        if el[k, t.KIND] == t.BANK and was_v[k] > 0.0 and st[k, t.SLOW_V] > 0.0:
            st[k, t.SLOW_V] = max(st[k, t.SLOW_V] + AHEAD * (st[k, t.SLOW_V] - was_v[k]), 0.0)


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
    if timing[t.PARTS] == 1.0 or play != t.WHOLE:
        for k in range(len(links)):
            out[k] = trail[0, t.FLOWS, k] ** 2
        return
    for k in range(len(el)):
        if el[k, t.KIND] != t.AMPLIFIER:
            continue
        j, node = int(el[k, t.ORDINAL]), int(el[k, t.NODE])
        volts = trail[t.LAST, t.VOLTS, node]
        drawn[0, j, 0] = amplifier_watts(el, st, levels, held, k, t.PEAK, 1.0, volts)[0] / volts
        for part, row in ((t.QUIET, t.LAST_QUIET), (t.LOUD, t.LAST_LOUD)):
            volts, share = trail[row, t.VOLTS, node], math.sqrt(trail[row, t.SHARE_HELD, 0])
            for i in range(levels.shape[3] - 1):
                drawn[part, j, i] = held_watts(el, st, k, levels[part, j, t.LEVEL, i] * share, volts)[0] / volts
    for g in range(len(groups)):
        peak, mean, spread = _spread(levels, timing, inside, groups, g, drawn)
        for k in range(len(links)):
            if links[k, t.START] >= 0.0 and int(links[k, t.GROUP]) == g:
                quiet_a, loud_a = trail[t.LAST_QUIET, t.FLOWS, k], trail[t.LAST_LOUD, t.FLOWS, k]
                swing = (trail[t.LAST, t.FLOWS, k] - quiet_a) / max(peak - mean, LEAST_SWING_A)
                carried = timing[t.QUIET_SHARE] * quiet_a * quiet_a + timing[t.LOUD_SHARE] * loud_a * loud_a
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
    for part in (t.QUIET, t.LOUD):
        count = levels.shape[3] - 1 if fed == 1 else inside.shape[2]
        mean, square = 0.0, 0.0
        for i in range(count):
            sum_, weight = 0.0, 0.0
            if fed == 1:
                sum_, weight = drawn[part, only, i], levels[part, only, t.SHARE, i]
            else:
                weight = inside[part - 1, len(groups[g]), i, 0]
                for j in range(groups.shape[1] if weight > 0.0 else 0):
                    if groups[g, j] == 1.0:
                        for level in range(levels.shape[3] - 1):
                            sum_ += inside[part - 1, j, i, level] * drawn[part, j, level]
            mean += weight * sum_
            square += weight * sum_ * sum_
        spread += (timing[t.QUIET_SHARE] if part == t.QUIET else timing[t.LOUD_SHARE]) * max(square - mean * mean, 0.0)
        if part == t.QUIET:
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
        links[k, t.SQUARE_A] = 0.0
    for warmings in range(MOST_WARMINGS + 1):
        lay(st, links)
        known = near or warmings > 0
        drive = _states(newton, el, st, links, nodes, levels, held, play, timing, known, trail, memory, work)
        if drive < 0.0:
            return drive
        _square_a(el, st, links, levels, held, play, timing, inside, groups, trail, drawn, warm)
        change = 0.0
        for k in range(len(links)):
            change = max(change, abs(links[k, t.RISE_OHM] * (warm[k] - links[k, t.SQUARE_A])))
        for k in range(len(links)):
            links[k, t.SQUARE_A] = warm[k]
        if change <= WARM_ENOUGH_OHM:
            return drive
    return drive


def mean_amps(timing: Floats, play: int, trail: Floats, out: Floats) -> None:
    """Fills in the mean amps of every element over a programme."""
    for k in range(trail.shape[2]):
        out[k] = trail[0, t.AMPS, k]
        if timing[t.PARTS] == 2.0 and play == t.WHOLE:
            out[k] = (
                timing[t.QUIET_SHARE] * trail[t.LAST_QUIET, t.AMPS, k]
                + timing[t.LOUD_SHARE] * trail[t.LAST_LOUD, t.AMPS, k]
            )


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
) -> float:
    """The drive of a car, -1 where it has no state; its states are in the trail.

    A bank whose management lets its mean or its peak not through is taken off, and the car found anew without it. Where
    what dropped out was all there was, the state before it did is told, which holds nothing; its amps say why.

    near   whether the trail holds states close to its own; only for a car without switches
    """
    rest(el, st)
    switches, gone = has_switches(el), False
    for attempt in range(len(el) + 2):
        if switches and not gone:
            playing = t.STILL if attempt == 0 else play
            gone = not _settle_switches(newton, el, st, links, nodes, levels, held, playing, trail, memory, work)
            if attempt == 0 and not gone:
                continue
        gone = gone or not enliven(el, st, links, nodes)
        if gone and not _put_back(el, st, links, nodes, memory[2]):
            return -1.0
        drive = _warmed(
            newton, el, st, links, nodes, levels, held, play, timing, inside, groups, near, trail, drawn, memory, work
        )
        if gone:
            for k in range(len(el)):
                if el[k, t.KIND] == t.BANK:
                    st[k, t.OUT] = memory[2, k]
            return 0.0 if drive >= 0.0 else -1.0
        if drive < 0.0:
            gone = True
            continue
        mean_amps(timing, play, trail, memory[0])
        if not trips(el, st, memory[0], trail[t.LAST, t.AMPS]):
            return drive
    return 0.0


def _put_back(el: Floats, st: Floats, links: Floats, nodes: Floats, out: Floats) -> bool:
    """Puts back what dropped out, which is noted; whether anything did, and that is enough to feed all."""
    any_out = False
    for k in range(len(el)):
        out[k] = st[k, t.OUT] if el[k, t.KIND] == t.BANK else NO_LIMIT
        if out[k] > NO_LIMIT:
            any_out, st[k, t.OUT] = True, NO_LIMIT
    lay(st, links)
    return any_out and enliven(el, st, links, nodes)
