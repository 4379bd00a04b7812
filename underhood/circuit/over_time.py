"""A car over time, step by step: node volts, battery polarisation and charge, capacitor volts, what switches itself.

Backward Euler on both branches of the polarisation and on capacitor volts, input power held over each step. An
amplifier below its cut-out switches off and comes back after a second at volts above it. Left out: ripple at twice
the tone, the regulator's own dynamics, and cables that warm while it plays.

Names as in `kernel` and `states`.
"""

from __future__ import annotations

import math

from underhood.arrays import Floats
from underhood.circuit import laws
from underhood.circuit import table as t
from underhood.circuit.kernel import CARRIED, GIVEN, MISSED, MOST_STEPS, Newton, amplifier_watts, put
from underhood.circuit.states import after, rest
from underhood.circuit.switching import NO_LIMIT, enliven, has_contacts, lay, limit_passed, wants_to_move

BACK_ON_S = 1.0
RELAY_S = 5.0
"""How long an isolator's charging side has to want it before its relay moves [P]."""
TRIP_S = 5.0
"""Over which a bank's management holds the amps against what it allows for good [P]."""
MEAN_A_S = 60.0
"""Peukert's law is applied to the mean current over this."""
CLOCK_STEP_S, CLOCK_END_S = 10.0, 72 * 3600.0
"""A clock runs at a constant load: its step, and how long it runs at most."""
CLOCK_MOVE_V, MOST_CLOCK_STEPS = 0.002, 64
"""Its steps are joined while the volts of each 12 V move by less over one, up to so many."""
LAG = 2.0
"""What a long step draws shows at the end of the next: so many times the last move is kept from what is low."""
FIRST_S, THEN_S, LATE_S = 60.0, 180.0, 480.0
"""A load begins with the clock's steps and goes on with steps 3, 6 and 30 times as long: polarisation moves in minutes
and charge in hours, so that half an hour takes 20, within 4 mV of steps of 2 s. With a relay or a converter all are
those of the clock."""
LEAST_STEP_S = 1e-3
REVIVED_V = 0.05


def step(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    now: float,
    dt: float,
    v: Floats,
    amps: Floats,
    work: Floats,
) -> None:
    """One step: the volts at its end, what each element gives over it, and how all then stands."""
    lay(st, links)
    rest(el, st)
    for k in range(len(el)):
        if el[k, t.KIND] == t.AMPLIFIER:
            st[k, t.OFF] = 1.0 if now < st[k, t.OFF_UNTIL_S] else 0.0
    if newton(el, st, links, nodes, levels, held, t.HELD, 1.0, dt, v, work, MOST_STEPS) == MISSED:
        for i in range(len(nodes)):
            v[i] = max(v[i], REVIVED_V)
    put(work[GIVEN], amps)
    after(el, st, dt, v, amps)
    _move_charge(el, st, dt, amps)
    _move_switches(el, st, now, dt, v)


def _move_charge(el: Floats, st: Floats, dt: float, amps: Floats) -> None:
    """Charge and what was drawn lately at the end of a step; whether a bank's management takes it off."""
    fade, trip_fade = min(dt / MEAN_A_S, 1.0), min(dt / TRIP_S, 1.0)
    for k in range(len(el)):
        if el[k, t.KIND] != t.BANK:
            continue
        a = amps[k]
        st[k, t.LATELY] = laws.drawn_lately(st[k, t.LATELY], a, el[k, t.CAPACITY_AS], dt)
        st[k, t.MINUTE_A] += (a - st[k, t.MINUTE_A]) * fade
        faster = laws.peukert_factor(a, st[k, t.MINUTE_A], el[k, t.TWENTY_HOUR_A], el[k, t.PEUKERT])
        st[k, t.CHARGE] = min(max(st[k, t.CHARGE] - a * faster * dt / el[k, t.CAPACITY_AS], 0.0), 1.0)
        st[k, t.RECENT_A] += (a - st[k, t.RECENT_A]) * trip_fade
        limit = limit_passed(el, k, st[k, t.RECENT_A], a)
        if limit > NO_LIMIT:
            st[k, t.OUT], st[k, t.OUT_A] = limit, abs(a)


def _move_switches(el: Floats, st: Floats, now: float, dt: float, v: Floats) -> None:
    """Amplifiers below their cut-out, converters below theirs, relays whose charging side has wanted it for long."""
    for k in range(len(el)):
        if el[k, t.KIND] == t.AMPLIFIER:
            if v[int(el[k, t.NODE])] < el[k, t.OFF_BELOW_V]:
                st[k, t.TIMES_OFF] += 1.0 - st[k, t.OFF]
                st[k, t.OFF_UNTIL_S] = now + BACK_ON_S
        elif el[k, t.KIND] == t.CHARGER and wants_to_move(el, st, k, v):
            st[k, t.STOPPED] = 1.0 - st[k, t.STOPPED]
        elif el[k, t.KIND] == t.RELAY:
            st[k, t.WANTING_S] = st[k, t.WANTING_S] + dt if wants_to_move(el, st, k, v) else 0.0
            if st[k, t.WANTING_S] >= RELAY_S:
                st[k, t.CLOSED], st[k, t.WANTING_S] = 1.0 - st[k, t.CLOSED], 0.0


def run(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    programme: Floats,
    per: int,
    first: int,
    dt: float,
    set_at_v: Floats,
    v: Floats,
    volts: Floats,
    amps: Floats,
    charge: Floats,
    watts: Floats,
    cable_w: Floats,
    work: Floats,
) -> None:
    """Every step in turn, a row each of what is filled in; `st` and `v` go along with time.

    programme   (t, amplifiers) levels, each row held for `per` steps; `first` is the number of the first step
    set_at_v    of each amplifier: watts that it would have given at these volts are told beside those it gave
    volts, amps, charge   (rows, …) of nodes, elements, elements; `watts` (rows, amplifiers, 3) in, out, and out at
                `set_at_v`; `cable_w` heat of all cables
    """
    for n in range(len(volts)):
        row = ((first + n) // per) % len(programme)
        for j in range(programme.shape[1]):
            held[0, j] = programme[row, j]
        step(newton, el, st, links, nodes, levels, held, (first + n) * dt, dt, v, amps[n], work)
        for i in range(len(nodes)):
            volts[n, i] = v[i]
        for k in range(len(el)):
            if el[k, t.KIND] == t.BANK:
                charge[n, k] = st[k, t.CHARGE]
            elif el[k, t.KIND] == t.AMPLIFIER:
                j, at = int(el[k, t.ORDINAL]), v[int(el[k, t.NODE])]
                _, watts[n, j, 2] = amplifier_watts(el, st, levels, held, k, t.HELD, 1.0, set_at_v[j])
                watts[n, j, 0], watts[n, j, 1] = 0.0, 0.0
                if st[k, t.OFF] == 0.0:
                    watts[n, j, 0], watts[n, j, 1] = amplifier_watts(el, st, levels, held, k, t.HELD, 1.0, at)
        cable_w[n] = 0.0
        for k in range(len(links)):
            if links[k, t.START] >= 0.0:
                cable_w[n] += work[CARRIED, k] * (v[int(links[k, t.START])] - v[int(links[k, t.END])])


def begin(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    v: Floats,
    work: Floats,
) -> None:
    """Time begins: nothing drawn lately, nothing off, polarisation and capacitors settled at silent volts."""
    for k in range(len(el)):
        if el[k, t.KIND] == t.BANK:
            st[k, t.LATELY], st[k, t.MINUTE_A], st[k, t.RECENT_A] = 0.0, 0.0, 0.0
            st[k, t.FAST_V], st[k, t.SLOW_V] = 0.0, 0.0
        elif el[k, t.KIND] == t.RELAY:
            st[k, t.WANTING_S] = 0.0
        elif el[k, t.KIND] == t.AMPLIFIER:
            st[k, t.OFF], st[k, t.OFF_UNTIL_S], st[k, t.TIMES_OFF] = 0.0, 0.0, 0.0
    lay(st, links)
    rest(el, st)
    enliven(el, st, links, nodes)
    newton(el, st, links, nodes, levels, held, t.STILL, 1.0, math.inf, v, work, 0)
    after(el, st, math.inf, v, work[GIVEN])


def run_down(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    seconds: float,
    v: Floats,
    amps: Floats,
    work: Floats,
) -> None:
    """Some time of a constant load, in steps that grow."""
    switches, done = has_contacts(el), 0.0
    while seconds - done > LEAST_STEP_S:
        dt = CLOCK_STEP_S
        if not switches:
            dt *= 1.0 if done < FIRST_S else 3.0 if done < THEN_S else 6.0 if done < LATE_S else 30.0
        dt = min(dt, seconds - done)
        step(newton, el, st, links, nodes, levels, held, done, dt, v, amps, work)
        done += dt


def minutes_to_low(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    low_v: float,
    v: Floats,
    amps: Floats,
    memory: Floats,
    work: Floats,
) -> float:
    """Minutes of a constant load until the front posts, or those of a bank set apart, are low; the longest tried else.

    Volts sink by millivolts for hours: steps grow while they do. One at whose end they are low is taken again in the
    clock's own. Where switches move all are those of the clock.

    low_v   for each 12 V of a part
    """
    n, steps, careful, switches = 0, 1, 0, has_contacts(el)
    while n * CLOCK_STEP_S < CLOCK_END_S:
        _remember(st, v, memory)
        step(newton, el, st, links, nodes, levels, held, n * CLOCK_STEP_S, steps * CLOCK_STEP_S, v, amps, work)
        moved = 0.0
        for i in range(len(nodes)):
            moved = max(moved, abs(v[i] - memory[0, i]) / nodes[i, t.PER_12])
        if _is_low(el, nodes, low_v + (0.0 if steps == 1 else LAG * moved), v):
            if steps == 1:
                return n * CLOCK_STEP_S / 60.0
            _put_back(st, v, memory)
            careful, steps = steps, 1
            continue
        n, careful = n + steps, careful - 1
        if switches or careful > 0 or moved > 2.0 * CLOCK_MOVE_V:
            steps = 1
        elif moved < CLOCK_MOVE_V:
            steps = min(2 * steps, MOST_CLOCK_STEPS)
    return CLOCK_END_S / 60.0


def _is_low(el: Floats, nodes: Floats, low_v: float, v: Floats) -> bool:
    """Whether the front posts, or those of a bank set apart, are below so many volts for each 12 V of their part."""
    if v[0] < low_v * nodes[0, t.PER_12]:
        return True
    for k in range(len(el)):
        if el[k, t.KIND] == t.BANK and el[k, t.APART] == 1.0:
            i = int(el[k, t.NODE])
            if v[i] < low_v * nodes[i, t.PER_12]:
                return True
    return False


def _remember(st: Floats, v: Floats, memory: Floats) -> None:
    """Notes how all stands: volts of nodes in the first row, then a row a column of `st`."""
    put(v, memory[0])
    for c in range(st.shape[1]):
        for k in range(len(st)):
            memory[1 + c, k] = st[k, c]


def _put_back(st: Floats, v: Floats, memory: Floats) -> None:
    put(memory[0], v)
    for c in range(st.shape[1]):
        for k in range(len(st)):
            st[k, c] = memory[1 + c, k]
