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
from underhood.circuit.table import (
    ABSORPTION_V,
    AMPLIFIER,
    AMPS,
    BANK,
    CAPACITOR,
    CAPACITY_AS,
    CHARGE,
    CHARGING_OHM,
    CYCLES,
    FARAD,
    FAST_F,
    FAST_V,
    FLOWS,
    FULL,
    GROUP,
    HELD_V,
    KIND,
    LAST,
    LAST_LOUD,
    LAST_QUIET,
    LATELY,
    LEVEL,
    LOUD,
    LOUD_S,
    LOUD_SHARE,
    MEMORY,
    MOST,
    NODE,
    OCV_CHARGE,
    OCV_POINTS,
    OCV_V,
    OCV_VOLTS,
    ORDINAL,
    OUT,
    PARTS,
    PEAK,
    PEAK_S,
    QUIET,
    QUIET_S,
    QUIET_SHARE,
    R0_OHM,
    R1_CHARGE_OHM,
    R1_DISCHARGE_OHM,
    RESTLESS,
    RISE,
    RISE_OHM,
    SHARE,
    SHARE_HELD,
    SLOW_F,
    SLOW_V,
    SQUARE_A,
    START,
    STILL,
    VOLTS,
    WHOLE,
)

__all__ = [
    "MOST_POSITIONS",
    "Point",
    "after",
    "begin_settled",
    "mean_amps",
    "open_circuit_v",
    "point",
    "rest",
]

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
            playing = STILL if attempt == 0 else play
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
                if el[k, KIND] == BANK:
                    st[k, OUT] = memory[2, k]
            return 0.0 if drive >= 0.0 else -1.0
        if drive < 0.0:
            gone = True
            continue
        mean_amps(timing, play, trail, memory[0])
        if not trips(el, st, memory[0], trail[LAST, AMPS]):
            return drive
    return 0.0


def _put_back(el: Floats, st: Floats, links: Floats, nodes: Floats, out: Floats) -> bool:
    """Puts back what dropped out, which is noted; whether anything did, and that is enough to feed all."""
    any_out = False
    for k in range(len(el)):
        out[k] = st[k, OUT] if el[k, KIND] == BANK else NO_LIMIT
        if out[k] > NO_LIMIT:
            any_out, st[k, OUT] = True, NO_LIMIT
    lay(st, links)
    return any_out and enliven(el, st, links, nodes)
