"""How the mean load wears the batteries of one car of a batch, compiled: `simulation.charge_after` for thousands."""

from __future__ import annotations

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import laws
from underhood.circuit.batch_arrays import Room
from underhood.circuit.batch_newton import SILENCE, Car, bank_current
from underhood.circuit.batch_states import SOLVED, point
from underhood.circuit.circuit_arrays import Amplifiers, Banks, Capacitors, Chargers, CircuitArrays, Network
from underhood.circuit.compiled import borrowed, jitable, lean
from underhood.circuit.constant_load import run_down
from underhood.circuit.laws import OPEN_OHM
from underhood.circuit.topology import LEAST_OHM
from underhood.circuit.transient import CLOCK_END_S, CLOCK_STEP_S, Moving, empty_result, run_steps

__all__ = ["worn"]

CLOCK_ROWS = 360
"""Steps of the clock that are kept at a time."""
LEAST_W = 1e-3


@jitable
def worn(car: Car, room: Room, minutes: float, low_v: float) -> tuple[bool, float]:
    """Runs the batteries down at the mean load; (whether it could be told, minutes until a battery is low).

    As `simulation.charge_after` does it: cables as warm as they were, from silence.
    """
    siemens = room.siemens
    for i in range(len(siemens)):
        siemens[i] = 1.0 / max(car.links[i].cold_ohm + car.links[i].rise_ohm * car.links[i].square_a, LEAST_OHM)
        car.links[i].closed = 0
    for j in range(len(car.banks)):
        room.dropped[j] = car.banks[j].dropped
        car.banks[j].dropped = 0
    status, _ = point(car, SILENCE, False)
    if status != SOLVED:
        return False, np.nan
    for j in range(len(car.banks)):
        bank = car.banks[j]
        bank.fast_v, bank.slow_v = 0.0, 0.0
        amps, _ = bank_current(bank, np.inf, car.trail[0, bank.node])
        fast, slow = laws.branches(bank.fast_f, bank.slow_f, bank.charging_ohm, bank.r1_discharge_ohm)
        bank.fast_v = laws.branch_after(fast, 0.0, np.inf, amps)
        bank.slow_v = laws.branch_after(slow, 0.0, np.inf, amps)
        if room.dropped[j] == 1:
            bank.r0_ohm = OPEN_OHM
    circuit = _over_time(car, siemens, room.in_w)
    if low_v > 0.0:
        minutes = _minutes_to(car, borrowed(circuit), low_v)
    else:
        run_down(minutes * 60, borrowed(circuit))
    for j in range(len(car.banks)):
        car.banks[j].charge = circuit.banks.charge[j]
    return True, minutes


@jitable
def _minutes_to(car: Car, circuit: CircuitArrays, low_v: float) -> float:
    """Minutes until the front posts or those of a bank with an isolator are below a voltage; the longest tried else."""
    nb, m = len(car.banks), len(car.amplifiers)
    moving = Moving(circuit.start_v, np.zeros(nb), np.zeros(nb), np.zeros(m), np.zeros(len(car.links)))
    steps, level = int(CLOCK_END_S / CLOCK_STEP_S), np.ones((1, m))
    for first in range(0, steps, CLOCK_ROWS):
        result = empty_result(min(CLOCK_ROWS, steps - first), circuit)
        run_steps(level, 1, first, CLOCK_STEP_S, circuit, moving, result)
        for t in range(len(result.cable_w)):
            if _is_low(car, result.volts[t], low_v):
                return (first + t) * CLOCK_STEP_S / 60
    return steps * CLOCK_STEP_S / 60


@lean
def _is_low(car: Car, volts: Floats, low_v: float) -> bool:
    """Whether the front posts, or those of a battery that an isolator keeps apart, are low."""
    for j in range(len(car.banks)):
        if car.banks[j].relay == 1 and volts[car.banks[j].node] < low_v:
            return True
    return bool(volts[0] < low_v)


@jitable
def _over_time(car: Car, siemens: Floats, in_w: Floats) -> CircuitArrays:
    """The same car as `transient` takes it, its amplifiers drawing their mean power, capacitors left out."""
    n, links, none = len(siemens), car.links, np.empty(0)
    drawn = np.zeros(n)
    drawn[0] = car.vehicle_a
    network = Network(links.parent.copy(), siemens, drawn, links.charging.copy(), links.closed.copy(), np.zeros(n))
    capacitors = Capacitors(np.empty(0, np.int64), none, none, none)
    start_v = car.trail[0].copy()
    return CircuitArrays(network, _chargers(car), _banks(car), capacitors, _amplifiers(car, in_w), start_v)


@jitable
def _chargers(car: Car) -> Chargers:
    c, n = car.chargers, len(car.chargers)
    nothing = np.zeros(n)
    return Chargers(
        c.node.copy(),
        c.set_v.copy(),
        c.ohm.copy(),
        c.limit_a.copy(),
        np.full(n, -1, np.int64),
        np.ones(n),
        nothing,
        nothing.copy(),
        nothing.copy(),
        np.zeros(n, np.int64),
    )


@jitable
def _banks(car: Car) -> Banks:
    b, n = car.banks, len(car.banks)
    acceptance, limits_a = np.empty((n, 4)), np.empty((n, 3))
    acceptance[:, 0], acceptance[:, 1], acceptance[:, 2], acceptance[:, 3] = b.full, b.rise, b.most, b.memory
    limits_a[:, 0], limits_a[:, 1], limits_a[:, 2] = b.charge_limit_a, b.steady_limit_a, b.peak_limit_a
    return Banks(
        b.node.copy(),
        b.r0_ohm.copy(),
        b.r1_discharge_ohm.copy(),
        b.r1_charge_ohm.copy(),
        b.fast_f.copy(),
        b.slow_f.copy(),
        b.capacity_as.copy(),
        b.twenty_hour_a.copy(),
        b.peukert.copy(),
        b.absorption_v.copy(),
        acceptance,
        car.ocv,
        b.charge.copy(),
        b.fast_v.copy(),
        b.slow_v.copy(),
        np.zeros(n),
        limits_a,
        b.dropped.copy(),
    )


@jitable
def _amplifiers(car: Car, in_w: Floats) -> Amplifiers:
    a = car.amplifiers
    return Amplifiers(
        a.node.copy(),
        a.commanded_v.copy(),
        a.set_at_v.copy(),
        a.reference_v.copy(),
        a.ohm.copy(),
        a.power_factor.copy(),
        a.channels.copy(),
        a.exponent.copy(),
        a.dropout_v.copy(),
        a.cutout_v.copy(),
        a.idle_a.copy(),
        a.linear_v.copy(),
        a.quadratic_ohm.copy(),
        a.linear.copy(),
        np.maximum(in_w, LEAST_W),
    )
