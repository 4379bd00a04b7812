"""One state of a circuit: the node volts at which what every element gives and what every cable carries balance.

Plain functions over the arrays of `table`, which Python runs as they are and `compiled` compiles. The network is any
graph: the whole node matrix is eliminated, with a converter's two slopes in it. Followed from silence to the full
programme, so that the answer is the one the car would come to. Left out: which states a car has (see `states`), and
time, but for the length of one step (see `over_time`).

Names throughout: `el`, `st` rows of elements and of their state; `links`, `nodes` rows of cables and nodes; `levels`
what is played (a part, an amplifier, a kind, a level), `held` levels held (what, an amplifier); `play` which of them;
`share` of the commanded volts; `dt` the step in seconds, infinite for what settles; `v` node volts; `work` rows to
work in.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TypeAlias

from underhood.amplifier.input_power import InputLaw
from underhood.arrays import Floats
from underhood.circuit import laws
from underhood.circuit import table as t
from underhood.circuit.laws import AmplifierLaw

NEARLY_A = 1e-6
"""What is left of Kirchhoff's current law, relative to the largest current plus 1 A, from which one more step is not
weighed: it leaves the square of it."""
FLOOR_V = 0.05
MOST_STEPS, MOST_SHORTENINGS = 60, 12
FLAT_ENOUGH = 0.05
"""Share of the first slope at which a shortened step counts as having reached the hollow."""
LONGEST_STEP_V = 0.5
"""Short enough not to step over a hollow of the potential."""
LEAST_STEP_V = 1e-12
"""Nearer than this nothing can be told apart: stiff sources balance no better."""
LEAST_PIVOT_S = 1e-10
SWAP_SHARE = 1e-3
"""A pivot this much smaller than what stands below it changes places with it."""
SMALLEST_RISE = 1 / 512
NEAR_V = 1.5
"""How far a small change of the circuit may move a solution before it is followed from silence again."""
JUST_BELOW_V = 0.001
"""Silence is looked for from just inside a regulator's range, where it has a slope."""
LEAK_S = 1e-9
"""What leaks from every node to its ground: a node that nothing feeds is at nothing."""

MISSED, FOUND, STABLE = 0, 1, 2
"""How Newton's method ended: nowhere, where the currents balance, and where they do so for good."""
MISS, STEP, TRIAL, TRIED, BEFORE, GIVEN, CARRIED, MATRIX = 0, 1, 2, 3, 4, 5, 6, 7
"""Rows of what is worked in: amps that do not balance, the step, volts that are tried or were; amps that each element
gives and each cable carries where the currents were last summed up; then the matrix."""


Newton: TypeAlias = Callable[..., int]
"""`newton`, handed on by everything that solves a state: so it is compiled by itself, not anew into each that calls
it."""


def law_of(el: Floats, k: int) -> AmplifierLaw:
    """The law of the amplifier in row `k`, at its own system volts."""
    taken = InputLaw(el[k, t.LINEAR] == 1.0, el[k, t.IDLE_A], el[k, t.LINEAR_V], el[k, t.QUADRATIC_OHM])
    return AmplifierLaw(
        el[k, t.REFERENCE_V],
        el[k, t.LOAD_OHM],
        el[k, t.POWER_FACTOR],
        el[k, t.CHANNELS],
        el[k, t.EXPONENT],
        el[k, t.DROPOUT_V],
        el[k, t.SUPPLY_SCALE],
        taken,
    )


def clipped_means(levels: Floats, part: int, j: int, full_v: float, ceiling_v: float) -> tuple[float, float, float]:
    """Means of the volts of a part of a programme and of their squares where none passes the ceiling, V and V², and
    for what part of the time one would.

    part, j     which part, and whose
    full_v      volts at level 1
    """
    low, high = 0, levels.shape[3] - 1
    last = high
    while low < high:
        middle = (low + high) // 2
        if ceiling_v < levels[part, j, t.LEVEL, middle] * full_v:
            high = middle
        else:
            low = middle + 1
    above = levels[part, j, t.BELOW, last] - levels[part, j, t.BELOW, low]
    mean = full_v * levels[part, j, t.BELOW + 1, low] + ceiling_v * above
    return mean, full_v * full_v * levels[part, j, t.BELOW + 2, low] + ceiling_v * ceiling_v * above, above


def output_limit_v(el: Floats, k: int, volts: float) -> float:
    """Most RMS output volts of one channel of the amplifier in row `k`, V."""
    return laws.output_limit_v(law_of(el, k), volts)


def put_out(
    levels: Floats, held: Floats, j: int, play: int, full_v: float, ceiling_v: float
) -> tuple[float, float, float]:
    """(mean of the output volts of an amplifier, of their squares, for what part of the time they are at the ceiling).

    j        whose
    full_v   volts at level 1
    """
    if play < t.HELD and full_v > 0.0:
        return clipped_means(levels, play, j, full_v, ceiling_v)
    output_v, clips = held[max(play - t.HELD, 0), j] * full_v, 0.0
    if output_v > ceiling_v:
        output_v, clips = ceiling_v, 1.0
    return output_v, output_v * output_v, clips


def _amplifier(
    el: Floats, st: Floats, levels: Floats, held: Floats, k: int, play: int, share: float, volts: float
) -> tuple[float, float, float]:
    """(watts in, true watts out, slope of the watts in over the volts) of the amplifier in row `k`, all channels."""
    if st[k, t.FLAT_W] > 0.0:
        return st[k, t.FLAT_W], 0.0, 0.0
    law, j = law_of(el, k), int(el[k, t.ORDINAL])
    of_supply = laws.supply_share(law, volts)
    mean, square, clips = put_out(levels, held, j, play, st[k, t.COMMANDED_V] * share, law.reference_v * of_supply)
    in_w, out_w = laws.watts_at_share(law, mean, square, volts, of_supply)
    return in_w, out_w, laws.input_slope(law, mean, clips, volts, of_supply)


def amplifier_watts(
    el: Floats, st: Floats, levels: Floats, held: Floats, k: int, play: int, share: float, volts: float
) -> tuple[float, float]:
    """(watts in, true watts out) of the amplifier in row `k`, all channels."""
    in_w, out_w, _ = _amplifier(el, st, levels, held, k, play, share, volts)
    return in_w, out_w


def held_watts(el: Floats, st: Floats, k: int, level: float, volts: float) -> tuple[float, float]:
    """(watts in, true watts out) of the amplifier in row `k` at one level held."""
    law = law_of(el, k)
    of_supply = laws.supply_share(law, volts)
    output_v = min(st[k, t.COMMANDED_V] * level, law.reference_v * of_supply)
    return laws.watts_at_share(law, output_v, output_v * output_v, volts, of_supply)


def given_a(
    el: Floats,
    st: Floats,
    levels: Floats,
    held: Floats,
    k: int,
    play: int,
    share: float,
    dt: float,
    volts: float,
    input_v: float,
) -> tuple[float, float, float]:
    """(amps that the element in row `k` gives to its node, their slopes over its volts and over its input's)."""
    kind = int(el[k, t.KIND])
    if kind == t.CHARGER:
        if st[k, t.STOPPED] == 1.0:
            return 0.0, 0.0, 0.0
        if el[k, t.INPUT] < 0.0:
            amps, slope = laws.charger_current(el[k, t.SET_V], el[k, t.SOURCE_OHM], el[k, t.LIMIT_A], volts)
            return amps, slope, 0.0
        return laws.converter_current(
            el[k, t.SET_V],
            el[k, t.SOURCE_OHM],
            el[k, t.LIMIT_A],
            el[k, t.EFFICIENCY],
            el[k, t.IDLE_W],
            el[k, t.INPUT_LIMIT_A],
            volts,
            input_v,
        )
    if kind == t.BANK:
        if st[k, t.OUT] > 0.0:
            return LEAK_S * (st[k, t.OCV_V] - volts), -LEAK_S, 0.0
        fast, slow = laws.branches(el[k, t.FAST_F], el[k, t.SLOW_F], st[k, t.CHARGING_OHM], el[k, t.R1_DISCHARGE_OHM])
        amps, slope = laws.bank_over_step(
            st[k, t.OCV_V], el[k, t.R0_OHM], fast, st[k, t.FAST_V], slow, st[k, t.SLOW_V], dt, volts
        )
        return amps, slope, 0.0
    if kind == t.AMPLIFIER:
        if st[k, t.OFF] == 1.0:
            return 0.0, 0.0, 0.0
        in_w, _, slope = _amplifier(el, st, levels, held, k, play, share, volts)
        return -in_w / volts, (in_w / volts - slope) / volts, 0.0
    if kind == t.LOAD:
        return -el[k, t.LOAD_A], 0.0, 0.0
    if kind == t.CAPACITOR and dt < math.inf:
        ohm = el[k, t.ESR_OHM] + dt / el[k, t.FARAD]
        return (st[k, t.HELD_V] - volts) / ohm, -1.0 / ohm, 0.0
    return 0.0, 0.0, 0.0


def balance(
    el: Floats,
    st: Floats,
    links: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    share: float,
    dt: float,
    v: Floats,
    work: Floats,
) -> float:
    """Fills in the amps that do not balance and the matrix of minus their slopes; the largest current plus 1 A."""
    n, largest = len(work) - MATRIX, 0.0
    for i in range(n):
        for j in range(n):
            work[MATRIX + i, j] = 0.0
        work[MISS, i] = -LEAK_S * v[i]
        work[MATRIX + i, i] = LEAK_S
    for k in range(len(el)):
        work[GIVEN, k] = 0.0
        if el[k, t.KIND] < 0.0:
            continue
        i = int(el[k, t.NODE])
        f = int(el[k, t.INPUT]) if el[k, t.KIND] == t.CHARGER else -1
        input_v = v[f] if f >= 0 else 0.0
        amps, slope, over_input = given_a(el, st, levels, held, k, play, share, dt, v[i], input_v)
        work[GIVEN, k] = amps
        work[MISS, i] += amps
        work[MATRIX + i, i] -= slope
        largest = max(largest, abs(amps))
        if f >= 0 and st[k, t.STOPPED] == 0.0:
            taken = laws.converter_taken(el[k, t.EFFICIENCY], el[k, t.IDLE_W], amps, v[i], input_v)
            per = v[i] / (el[k, t.EFFICIENCY] * input_v)
            work[MISS, f] -= taken
            work[MATRIX + f, f] += per * over_input - taken / input_v
            work[MATRIX + f, i] += amps / (el[k, t.EFFICIENCY] * input_v) + per * slope
            work[MATRIX + i, f] -= over_input
            largest = max(largest, taken)
    for k in range(len(links)):
        work[CARRIED, k] = 0.0
        if links[k, t.START] < 0.0:
            continue
        i, j = int(links[k, t.START]), int(links[k, t.END])
        amps, slope = laws.link_amps(v[i] - v[j], links[k, t.DIODE_V], links[k, t.SIEMENS])
        work[CARRIED, k] = amps
        work[MISS, i] -= amps
        work[MISS, j] += amps
        work[MATRIX + i, i] += slope
        work[MATRIX + j, j] += slope
        work[MATRIX + i, j] -= slope
        work[MATRIX + j, i] -= slope
    return largest + 1.0


def eliminate(work: Floats, n: int) -> bool:
    """Solves the matrix for the step, from the last node to the first; whether the state is stable.

    Stable is where a small disturbance dies away with any capacitance at the nodes: every pivot is above nothing (of
    a matrix whose rows changed places: its determinant). Where one is below, a load's falling current outweighs the
    sources: the step along it is turned round, so that it leads out of there (the unbalanced currents are the slope
    of a potential whose hollows are the stable states).
    """
    stable, swapped, sign = True, False, True
    for i in range(n):
        work[STEP, i] = work[MISS, i]
    for k in range(n - 1, -1, -1):
        best, row = abs(work[MATRIX + k, k]), k
        for i in range(k):
            if SWAP_SHARE * abs(work[MATRIX + i, k]) > best and abs(work[MATRIX + i, k]) > abs(work[MATRIX + row, k]):
                row = i
        if row != k:
            swapped, sign = True, not sign
            for j in range(k + 1):
                work[MATRIX + k, j], work[MATRIX + row, j] = work[MATRIX + row, j], work[MATRIX + k, j]
            work[STEP, k], work[STEP, row] = work[STEP, row], work[STEP, k]
        pivot = work[MATRIX + k, k]
        if abs(pivot) < LEAST_PIVOT_S:
            pivot = LEAST_PIVOT_S
            work[MATRIX + k, k] = pivot
        if pivot < 0.0:
            stable, sign = False, not sign
        for i in range(k):
            below = work[MATRIX + i, k]
            if below != 0.0:
                factor = below / pivot
                for j in range(k):
                    if work[MATRIX + k, j] != 0.0:
                        work[MATRIX + i, j] -= factor * work[MATRIX + k, j]
                work[STEP, i] -= factor * work[STEP, k]
    for k in range(n):
        pivot = work[MATRIX + k, k]
        out = work[STEP, k] / (pivot if swapped else abs(pivot))
        for j in range(k):
            if work[MATRIX + k, j] != 0.0:
                out -= work[MATRIX + k, j] / pivot * work[STEP, j]
        work[STEP, k] = out
    return sign if swapped else stable


def put(v: Floats, out: Floats) -> None:
    """Copies values, number by number."""
    for i in range(len(v)):
        out[i] = v[i]


def _along(work: Floats, n: int) -> float:
    """How far the step leads downhill."""
    out = 0.0
    for i in range(n):
        out += work[MISS, i] * work[STEP, i]
    return out


def _worst(work: Floats, n: int) -> float:
    out = 0.0
    for i in range(n):
        out = max(out, abs(work[MISS, i]))
    return out


def _try(work: Floats, n: int, v: Floats, part: float) -> None:
    for i in range(n):
        work[TRIAL, i] = max(v[i] + part * work[STEP, i], 0.5 * FLOOR_V)


def newton(
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    share: float,
    dt: float,
    v: Floats,
    work: Floats,
    steps: int,
) -> int:
    """Moves `v` to where the currents balance, downhill from where it stands; how that ended (see `STABLE`).

    A step along which the way stops leading downhill is shortened to where it does (false position, Illinois), so
    that kinks (a charger reaching its limit, a battery turning from charge to discharge) cannot make it zigzag. Where
    it does not lead downhill at all, as converters can have it, it is halved until less is left unbalanced.

    steps   at most; without any, what elements give and cables carry at `v` is filled in, and no more
    """
    n = len(nodes)
    scale = balance(el, st, links, levels, held, play, share, dt, v, work)
    for _ in range(steps):
        worst, longest = _worst(work, n), 0.0
        stable = eliminate(work, n)
        for i in range(n):
            longest = max(longest, abs(work[STEP, i]))
        if worst <= NEARLY_A * scale or longest <= LEAST_STEP_V:
            if longest <= LONGEST_STEP_V:
                for i in range(n):
                    v[i] += work[STEP, i]
            return STABLE if stable else FOUND
        for i in range(n):
            work[STEP, i] *= min(1.0, LONGEST_STEP_V / longest)
        downhill = _along(work, n)
        low, high, at_low, part = 0.0, 1.0, downhill, 1.0
        _try(work, n, v, part)
        scale = balance(el, st, links, levels, held, play, share, dt, work[TRIAL], work)
        here = _along(work, n)
        at_high = here
        for _ in range(MOST_SHORTENINGS):
            if downhill > 0.0:
                if here >= -FLAT_ENOUGH * downhill and (part == 1.0 or here <= FLAT_ENOUGH * downhill):
                    break
                part = low + (high - low) * at_low / (at_low - at_high)
            elif _worst(work, n) < worst:
                break
            else:
                part /= 2.0
            _try(work, n, v, part)
            scale = balance(el, st, links, levels, held, play, share, dt, work[TRIAL], work)
            here = _along(work, n)
            if here > 0.0:
                low, at_low, at_high = part, here, at_high / 2.0
            else:
                high, at_high, at_low = part, here, at_low / 2.0
        lowest = math.inf
        for i in range(n):
            v[i] = work[TRIAL, i]
            if nodes[i, t.SOURCE_V] > 0.0:
                lowest = min(lowest, v[i])
        if lowest < FLOOR_V:
            return MISSED
    return MISSED


def _holds(nodes: Floats, v: Floats) -> bool:
    """Whether no amplifier has switched off."""
    held = True
    for i in range(len(nodes)):
        held = held and v[i] >= nodes[i, t.LOWEST_V]
    return held


def silent(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    dt: float,
    v: Floats,
    work: Floats,
) -> bool:
    """Moves `v` to the state with the programme at nothing; whether there is one."""
    for i in range(len(nodes)):
        v[i] = max(nodes[i, t.SOURCE_V] - JUST_BELOW_V, 0.0)
    return newton(el, st, links, nodes, levels, held, play, 0.0, dt, v, work, MOST_STEPS) != MISSED


def solved(
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
    v: Floats,
    work: Floats,
) -> float:
    """Moves `v` to the state of the full programme, or of the most that holds; its share of the power, -1 for none.

    Silence lies above every louder state, so going downhill from it stops at the first hollow: the state that the car
    comes to when the programme is turned up. A state in which an amplifier has switched off does not count.

    near   whether `v` holds volts close to it; else, or where it is not there, it is followed from silence
    """
    tried, before = work[TRIED], work[BEFORE]
    if near:
        put(v, before)
        ended, moved = newton(el, st, links, nodes, levels, held, play, 1.0, dt, v, work, MOST_STEPS), 0.0
        for i in range(len(nodes)):
            moved = max(moved, abs(v[i] - before[i]))
        if ended == STABLE and _holds(nodes, v) and moved <= NEAR_V:
            return 1.0
    if not silent(newton, el, st, links, nodes, levels, held, play, dt, v, work):
        return -1.0
    drive, rise = 0.0, 1.0
    while drive < 1.0:
        more = min(1.0, drive + rise)
        put(v, tried)
        ended = newton(el, st, links, nodes, levels, held, play, math.sqrt(more), dt, tried, work, MOST_STEPS)
        if ended == STABLE and _holds(nodes, tried):
            drive = more
            put(tried, v)
        elif rise <= SMALLEST_RISE:
            newton(el, st, links, nodes, levels, held, play, math.sqrt(drive), dt, v, work, 0)
            return drive
        else:
            rise /= 2.0
    return drive
