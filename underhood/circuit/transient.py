"""The supply over time: node volts of a tree, battery polarisation and charge, capacitor volts, step by step.

Backward Euler on both branches of the polarisation and on capacitor volts, input power held over each step; the nodes
of a step are solved by Newton's method, its equations eliminated from the leaves to the root. An amplifier below its
cut-out switches off and comes back after a second at volts above it. Left out: ripple at twice the tone, and the
regulator's own dynamics.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache
from typing import NamedTuple

import numba
import numpy as np

from underhood.arrays import Floats, Ints
from underhood.circuit import laws
from underhood.circuit.circuit_arrays import Amplifiers, Banks, Capacitors, Chargers, CircuitArrays, Network
from underhood.circuit.compiled import LAWS_DIGEST, jitable, lean
from underhood.circuit.laws import JOINS_V, OPEN_OHM, OPENS_V, AmplifierLaw, InputLaw

__all__ = [
    "CLOCK_END_S",
    "CLOCK_STEP_S",
    "Moving",
    "TransientResult",
    "empty_result",
    "open_circuit_v",
    "own",
    "run_steps",
    "simulate",
    "stretches",
]

MOST_ROUNDS = 40
AMPS_ERROR = 1e-6
BACK_ON_S = 1.0
FLOOR_V = 1.0
LONGEST_STEP_V = 0.5
NUDGE_V = 1e-5
LEAST_PIVOT_S, LEAST_ROOT_PIVOT_S = 1e-6, 1e-3
RELAY_S = 5.0
"""How long an isolator's charging side has to want it before its relay moves [P]."""
TRIP_S = 5.0
"""Over which a bank's management holds the amps against what it allows for good [P]."""
CLOCK_STEP_S, CLOCK_END_S = 10.0, 72 * 3600.0
"""A clock runs at a constant load: its step, and how long it runs at most."""
MEAN_A_S = 60.0
"""Peukert's law is applied to the mean current over this."""


class TransientResult(NamedTuple):
    """What came of it, a row a step: (t, n) node volts, (t, m) the rest; discharge is positive.

    held_w         true watts out had the supply held what its gain was set at
    cable_w        heat of all links, (t,)
    switched_off   how often each amplifier fell below its cut-out, (m,)
    """

    volts: Floats
    charger_a: Floats
    bank_a: Floats
    capacitor_a: Floats
    in_w: Floats
    out_w: Floats
    held_w: Floats
    charge: Floats
    cable_w: Floats
    switched_off: Ints


class _Held(NamedTuple):
    """What holds during one step: banks' open-circuit volts and charging ohms, ohms of the capacitors, (m,) each."""

    ocv_v: Floats
    charging_ohm: Floats
    capacitor_ohm: Floats


class _Equations(NamedTuple):
    """Newton's equations of one step, (n,) each: amps that do not balance, their slopes, pivots, the step.

    link   siemens of the link to the parent at its volts
    """

    miss: Floats
    slope: Floats
    pivot: Floats
    step: Floats
    link: Floats


class Moving(NamedTuple):
    """What goes along with time, changed in place, (m,) each of its kind."""

    volts: Floats
    bank_mean_a: Floats
    bank_lately_a: Floats
    off_until: Floats
    wanting: Floats


def simulate(level: Floats, dt_s: float, circuit: CircuitArrays) -> TransientResult:
    """What becomes of a circuit while a programme plays, all of it at once.

    level   (t,) or (t, m): each step's share of the volts commanded of all amplifiers, or of each
    dt_s    length of a step, s
    """
    (whole,) = stretches(level, 1, len(level), len(level), dt_s, circuit)
    return whole


def stretches(
    level: Floats, per: int, steps: int, rows: int, dt_s: float, circuit: CircuitArrays
) -> Iterator[TransientResult]:
    """The same in stretches, one after the other, so that an hour needs no more memory than a minute.

    level   of a programme that repeats, each of its rows held for `per` steps
    steps   how many there are in all; at most `rows` of them in one stretch
    """
    circuit = own(circuit)
    of_each = np.asarray(level, float)
    m = len(circuit.amplifiers.node)
    if of_each.ndim == 1:
        of_each = np.repeat(of_each[:, None], m, axis=1)
    of_each = np.ascontiguousarray(of_each)
    still = np.zeros(len(circuit.banks.node))
    moving = Moving(circuit.start_v, still, still.copy(), np.zeros(m), np.zeros(len(circuit.network.parent)))
    run = _compiled()
    for first in range(0, steps, rows):
        result = empty_result(min(rows, steps - first), circuit)
        run(of_each, per, first, dt_s, circuit, moving, result)
        yield result


def own(circuit: CircuitArrays) -> CircuitArrays:
    """With copies of what the steps change; what was given stays as it was."""
    theirs = ("charge", "fast_v", "slow_v", "lately", "dropped")
    banks = circuit.banks
    return CircuitArrays(
        network=circuit.network._replace(closed=circuit.network.closed.copy()),
        chargers=circuit.chargers._replace(stopped=circuit.chargers.stopped.copy()),
        banks=banks._replace(**{name: getattr(banks, name).copy() for name in theirs}),
        capacitors=circuit.capacitors._replace(volts=circuit.capacitors.volts.copy()),
        amplifiers=circuit.amplifiers,
        start_v=np.array(circuit.start_v, float),
    )


@jitable
def empty_result(rows: int, circuit: CircuitArrays) -> TransientResult:
    """A result with room for some steps.

    rows   how many
    """
    nodes, amplifiers = len(circuit.network.parent), len(circuit.amplifiers.node)
    chargers, banks, capacitors = len(circuit.chargers.node), len(circuit.banks.node), len(circuit.capacitors.node)
    return TransientResult(
        volts=np.empty((rows, nodes)),
        charger_a=np.empty((rows, chargers)),
        bank_a=np.empty((rows, banks)),
        capacitor_a=np.empty((rows, capacitors)),
        in_w=np.empty((rows, amplifiers)),
        out_w=np.empty((rows, amplifiers)),
        held_w=np.empty((rows, amplifiers)),
        charge=np.empty((rows, banks)),
        cable_w=np.empty(rows),
        switched_off=np.zeros(amplifiers, np.int64),
    )


@cache
def _compiled() -> Callable[..., str]:
    """The loop, compiled; kept on disk until this file or a law changes (see `LAWS_DIGEST`)."""
    digest = LAWS_DIGEST

    def steps(  # type: ignore[no-untyped-def]
        level, per, first, dt, circuit, moving, result
    ):
        run_steps(level, per, first, dt, circuit, moving, result)
        return digest

    compiled: Callable[..., str] = numba.njit(cache=True, error_model="numpy")(steps)
    return compiled


@jitable
def run_steps(
    levels: Floats, per: int, first: int, dt: float, circuit: CircuitArrays, moving: Moving, result: TransientResult
) -> None:
    """Every step in turn; volts, charge, polarisation and capacitor volts of what is given go along with time.

    levels   (t, m), each row held for `per` steps; `first` is the number of the first step
    dt       length of a step, s
    """
    network, chargers, banks, capacitors, amplifiers, _ = circuit
    n, nb, nc = len(network.parent), len(banks.node), len(capacitors.node)
    v, bank_mean_a, bank_lately_a, off_until, wanting = moving
    equations = _Equations(np.empty(n), np.empty(n), np.empty(n), np.empty(n), np.empty(n))
    held = _Held(np.empty(nb), np.empty(nb), np.empty(nc))
    siemens = network.siemens.copy()
    given = network.siemens
    for t in range(len(result.volts)):
        level = levels[((first + t) // per) % len(levels)]
        for i in range(1, n):
            siemens[i] = given[i] if network.charging[i] < 0 or network.closed[i] == 1 else 1.0 / OPEN_OHM
        now = (first + t) * dt
        _hold(banks, capacitors, dt, held)
        for _ in range(MOST_ROUNDS):
            _balance(
                level,
                now,
                dt,
                network,
                siemens,
                chargers,
                banks,
                capacitors,
                amplifiers,
                held,
                off_until,
                v,
                equations,
            )
            if _largest(equations.miss) < AMPS_ERROR:
                break
            _newton_step(network, equations, v)
        _move_banks(t, dt, banks, held, v, bank_mean_a, bank_lately_a, result)
        _move_capacitors(t, dt, capacitors, held, v, result)
        for j in range(len(chargers.node)):
            amps, _ = _charger_a(chargers, j, v[chargers.node[j]])
            result.charger_a[t, j] = amps
        _note_amplifiers(t, level, now, amplifiers, v, off_until, result)
        result.cable_w[t] = 0.0
        for i in range(n):
            result.volts[t, i] = v[i]
            if i > 0:
                drop_v = v[network.parent[i]] - v[i]
                amps, _ = laws.link_amps(drop_v, network.diode_v[i], siemens[i])
                result.cable_w[t] += amps * drop_v
        _move_relays(dt, network, v, wanting)
        _move_converters(chargers, v)


@lean
def _charger_a(chargers: Chargers, j: int, volts: float) -> tuple[float, float]:
    """(amps, their derivative) of one charger at its volts; none of a converter that has stopped."""
    if chargers.stopped[j] == 1:
        return 0.0, 0.0
    return laws.charger_current(chargers.set_v[j], chargers.ohm[j], chargers.limit_a[j], volts)


@lean
def _move_converters(chargers: Chargers, v: Floats) -> None:
    """Converters that the circuit feeds stop below their cut-out and start again."""
    for j in range(len(chargers.node)):
        k = chargers.input_node[j]
        if k < 0:
            continue
        if chargers.stopped[j] == 1:
            chargers.stopped[j] = 0 if v[k] >= chargers.restart_v[j] else 1
        else:
            chargers.stopped[j] = 1 if v[k] < chargers.cutout_v[j] else 0


@lean
def _move_relays(dt: float, network: Network, v: Floats, wanting: Floats) -> None:
    """Relays whose charging side has wanted it for five seconds join or open."""
    for i in range(1, len(v)):
        k = network.charging[i]
        if k < 0:
            continue
        wanted = v[k] >= (OPENS_V if network.closed[i] == 1 else JOINS_V)
        if wanted == (network.closed[i] == 1):
            wanting[i] = 0.0
        else:
            wanting[i] += dt
            if wanting[i] >= RELAY_S:
                network.closed[i] = 1 - network.closed[i]
                wanting[i] = 0.0


@lean
def _hold(banks: Banks, capacitors: Capacitors, dt: float, held: _Held) -> None:
    """What charge and capacity make of banks and capacitors for one step."""
    for j in range(len(banks.node)):
        ocv = open_circuit_v(banks.ocv[j], banks.charge[j])
        ohm = banks.r1_charge_ohm[j]
        if ohm <= 0.0:
            full, rise, most, memory = banks.acceptance[j]
            accepted = laws.accepted_a(
                banks.capacity_as[j] / 3600.0, full, rise, most, memory, banks.charge[j], banks.lately[j]
            )
            ohm = laws.charging_ohm(banks.r0_ohm[j], banks.absorption_v[j], ocv, accepted)
        held.ocv_v[j], held.charging_ohm[j] = ocv, ohm
    for j in range(len(capacitors.node)):
        held.capacitor_ohm[j] = capacitors.esr_ohm[j] + dt / capacitors.farad[j]


@lean
def _bank_a(banks: Banks, held: _Held, j: int, dt: float, volts: float) -> tuple[float, float]:
    """(amps, their derivative) of one bank at its volts over the step, positive on discharge; none once it is out."""
    if banks.dropped[j] == 1:
        return 0.0, 0.0
    fast, slow = laws.branches(banks.fast_f[j], banks.slow_f[j], held.charging_ohm[j], banks.r1_discharge_ohm[j])
    return laws.bank_over_step(held.ocv_v[j], banks.r0_ohm[j], fast, banks.fast_v[j], slow, banks.slow_v[j], dt, volts)


@lean
def _largest(values: Floats) -> float:
    """The largest magnitude, without an array in between."""
    most = 0.0
    for i in range(len(values)):
        most = max(most, abs(values[i]))
    return most


@lean
def open_circuit_v(table: Floats, charge: float) -> float:
    """Linear between the table's rows, the ends held; compiled, `np.interp` of one number takes two thirds of a run.

    table    (2, k): charge, rising, and volts
    charge   state of charge, 0 to 1
    """
    k = 1
    while k < table.shape[1] - 1 and table[0, k] < charge:
        k += 1
    low, high = table[0, k - 1], table[0, k]
    share = min(max((charge - low) / (high - low), 0.0), 1.0)
    return float(table[1, k - 1] + share * (table[1, k] - table[1, k - 1]))


@lean
def _amplifier(amplifiers: Amplifiers, j: int, level: float, volts: float) -> tuple[float, float]:
    """(watts in, true watts out) of one amplifier at its volts."""
    a = amplifiers
    if a.flat_w[j] > 0.0:
        return a.flat_w[j], 0.0
    taken = InputLaw(a.linear[j] == 1, a.idle_a[j], a.linear_v[j], a.quadratic_ohm[j])
    law = AmplifierLaw(
        a.reference_v[j], a.ohm[j], a.power_factor[j], a.channels[j], a.exponent[j], a.dropout_v[j], taken
    )
    output_v = min(a.commanded_v[j] * level, laws.output_limit_v(law, volts))
    return laws.amplifier_watts(law, output_v, output_v * output_v, volts)


@lean
def _balance(
    level: Floats,
    now: float,
    dt: float,
    network: Network,
    siemens: Floats,
    chargers: Chargers,
    banks: Banks,
    capacitors: Capacitors,
    amplifiers: Amplifiers,
    held: _Held,
    off_until: Floats,
    v: Floats,
    equations: _Equations,
) -> None:
    """Amps that do not balance at each node, and their slopes over its volts."""
    miss, slope = equations.miss, equations.slope
    for i in range(len(v)):  # number by number: an array in between would be made and thrown away in every round
        miss[i], slope[i] = -network.drawn_a[i], 0.0
    for j in range(len(chargers.node)):
        i = chargers.node[j]
        amps, bend = _charger_a(chargers, j, v[i])
        miss[i] += amps
        slope[i] += bend
        k = chargers.input_node[j]
        if k >= 0 and chargers.stopped[j] == 0:
            taken_w = amps * v[i] / chargers.efficiency[j] + chargers.idle_w[j]
            miss[k] -= taken_w / v[k]
            slope[k] += taken_w / v[k] ** 2
    for j in range(len(banks.node)):
        i = banks.node[j]
        amps, bend = _bank_a(banks, held, j, dt, v[i])
        miss[i] += amps
        slope[i] += bend
    for j in range(len(capacitors.node)):
        i = capacitors.node[j]
        miss[i] += (capacitors.volts[j] - v[i]) / held.capacitor_ohm[j]
        slope[i] -= 1.0 / held.capacitor_ohm[j]
    for j in range(len(amplifiers.node)):
        if now >= off_until[j]:
            i = amplifiers.node[j]
            here, _ = _amplifier(amplifiers, j, level[j], v[i])
            there, _ = _amplifier(amplifiers, j, level[j], v[i] + NUDGE_V)
            miss[i] -= here / v[i]
            slope[i] -= (there / (v[i] + NUDGE_V) - here / v[i]) / NUDGE_V
    for i in range(1, len(v)):
        drop_v = v[network.parent[i]] - v[i]
        amps, equations.link[i] = laws.link_amps(drop_v, network.diode_v[i], siemens[i])
        miss[i] += amps
        miss[network.parent[i]] -= amps


@lean
def _newton_step(network: Network, equations: _Equations, v: Floats) -> None:
    """One step of all node volts, eliminated from the leaves to the root and no longer than half a volt."""
    miss, slope, pivot, step, siemens = equations
    parent, n = network.parent, len(v)
    for i in range(n):
        pivot[i], step[i] = -slope[i], miss[i]
    for i in range(1, n):
        pivot[i] += siemens[i]
        pivot[parent[i]] += siemens[i]
    for i in range(n - 1, 0, -1):
        pivot[i] = max(pivot[i], LEAST_PIVOT_S)
        step[parent[i]] += siemens[i] / pivot[i] * step[i]
        pivot[parent[i]] -= siemens[i] * siemens[i] / pivot[i]
    step[0] /= max(pivot[0], LEAST_ROOT_PIVOT_S)
    for i in range(1, n):
        step[i] = (step[i] + siemens[i] * step[parent[i]]) / pivot[i]
    largest = _largest(step)
    shorter = LONGEST_STEP_V / largest if largest > LONGEST_STEP_V else 1.0
    for i in range(n):
        v[i] = max(v[i] + shorter * step[i], FLOOR_V)


@lean
def _move_banks(
    t: int, dt: float, banks: Banks, held: _Held, v: Floats, mean_a: Floats, lately_a: Floats, result: TransientResult
) -> None:
    """Polarisation, charge and what was drawn lately at the end of a step; whether the management takes it off."""
    fade, trip_fade = min(dt / MEAN_A_S, 1.0), min(dt / TRIP_S, 1.0)
    for j in range(len(banks.node)):
        amps, _ = _bank_a(banks, held, j, dt, v[banks.node[j]])
        fast, slow = laws.branches(banks.fast_f[j], banks.slow_f[j], held.charging_ohm[j], banks.r1_discharge_ohm[j])
        banks.fast_v[j] = laws.branch_after(fast, banks.fast_v[j], dt, amps)
        banks.slow_v[j] = laws.branch_after(slow, banks.slow_v[j], dt, amps)
        banks.lately[j] = laws.drawn_lately(banks.lately[j], amps, banks.capacity_as[j], dt)
        mean_a[j] += (amps - mean_a[j]) * fade
        faster = laws.peukert_factor(amps, mean_a[j], banks.twenty_hour_a[j], banks.peukert[j])
        banks.charge[j] = min(max(banks.charge[j] - amps * faster * dt / banks.capacity_as[j], 0.0), 1.0)
        result.bank_a[t, j], result.charge[t, j] = amps, banks.charge[j]
        lately_a[j] += (amps - lately_a[j]) * trip_fade
        charge_a, steady_a, peak_a = banks.limits_a[j]
        if amps > peak_a or lately_a[j] > steady_a or -lately_a[j] > charge_a:
            banks.dropped[j] = 1


@lean
def _move_capacitors(
    t: int, dt: float, capacitors: Capacitors, held: _Held, v: Floats, result: TransientResult
) -> None:
    """Capacitor volts at the end of a step."""
    for j in range(len(capacitors.node)):
        amps = (capacitors.volts[j] - v[capacitors.node[j]]) / held.capacitor_ohm[j]
        capacitors.volts[j] -= amps * dt / capacitors.farad[j]
        result.capacitor_a[t, j] = amps


@lean
def _note_amplifiers(
    t: int, level: Floats, now: float, amplifiers: Amplifiers, v: Floats, off_until: Floats, result: TransientResult
) -> None:
    """Watts of a step, and which amplifiers fall below their cut-out in it."""
    for j in range(len(amplifiers.node)):
        volts = v[amplifiers.node[j]]
        result.in_w[t, j], result.out_w[t, j] = 0.0, 0.0
        _, result.held_w[t, j] = _amplifier(amplifiers, j, level[j], amplifiers.set_at_v[j])
        if now >= off_until[j]:
            result.in_w[t, j], result.out_w[t, j] = _amplifier(amplifiers, j, level[j], volts)
        if volts < amplifiers.cutout_v[j]:
            if now >= off_until[j]:
                result.switched_off[j] += 1
            off_until[j] = now + BACK_ON_S
