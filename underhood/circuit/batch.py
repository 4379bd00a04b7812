"""The steady solve of many circuits at once, compiled: what `solver` finds, for thousands of cars that differ in parts.

The same steps in the same order with the same laws: switches settle, the circuit is followed from silence to the full
programme, its cables warm, banks drop out; then the mean load wears the batteries, as `simulation.charge_after` has it,
and the loudest moment is solved again. A test holds every answer against theirs. Left out: diodes, and converters that
the circuit itself feeds; a car with one of them is solved by `solver` alone (see `batch_rows`).
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable
from functools import cache
from pathlib import Path

import numba
import numpy as np

from underhood.arrays import Floats
from underhood.circuit import batch_arrays, batch_newton, batch_states, laws, transient
from underhood.circuit.batch_arrays import AMPLIFIER, BANK, CAPACITOR, CHARGER, Answers, Cars, Programmes, Rows
from underhood.circuit.batch_newton import LOUD, QUIET, SILENCE, WHOLE, Car, bank_current, watts
from underhood.circuit.batch_states import ASK, LAST, SOLVED, held_watts, point, row_of
from underhood.circuit.circuit_arrays import Amplifiers, Banks, Capacitors, Chargers, CircuitArrays, Network
from underhood.circuit.compiled import LAWS_DIGEST, jitable
from underhood.circuit.laws import OPEN_OHM
from underhood.circuit.topology import LEAST_OHM
from underhood.circuit.transient import CLOCK_END_S, CLOCK_STEP_S, Moving, empty_result, open_circuit_v, run_steps

__all__ = ["solve_all"]

CLOCK_ROWS = 360
"""Steps of the clock that are kept at a time."""
LEAST_W = 1e-3


def solve_all(
    rows: Rows, programmes: Programmes, cars: Cars, minutes: float, low_v: float, out: Answers, first: int, last: int
) -> None:
    """Fills in what cars of one layout come to, from the `first` up to before the `last`.

    minutes   of the mean load before the loudest moment
    low_v     where above 0, the clock runs until the front posts or those of a bank with an isolator are below it
    out       with room for each
    """
    _compiled()(rows, programmes, cars, minutes, low_v, out, first, last)


@cache
def _compiled() -> Callable[..., str]:
    """The loop, compiled; kept on disk until a file that it is made of changes."""
    homes = (batch_arrays.__file__, batch_newton.__file__, batch_states.__file__, transient.__file__)
    digest = LAWS_DIGEST + hashlib.sha256(b"".join(Path(home).read_bytes() for home in homes)).hexdigest()

    def every(rows, programmes, cars, minutes, low_v, out, first, last):  # type: ignore[no-untyped-def]
        for i in range(first, last):
            _one(rows, programmes, cars, i, minutes, low_v, out)
        return digest

    compiled: Callable[..., str] = numba.njit(cache=True, nogil=True, error_model="numpy")(every)
    return compiled


@jitable
def _one(rows: Rows, programmes: Programmes, cars: Cars, i: int, minutes: float, low_v: float, out: Answers) -> None:
    car = _car(rows, programmes, cars, i)
    status, drive = point(car, WHOLE)
    out.status[i] = status
    if status != SOLVED:
        return
    mean_w, in_w = _mean(car, drive)
    if _operates(car, drive):
        out.mean_w[i] = mean_w
    if (minutes > 0.0 or low_v > 0.0) and len(car.banks) > 0:
        told, out.minutes[i] = _worn(car, in_w, minutes, low_v)
        if not told:
            out.status[i] = ASK
        if not told or low_v > 0.0:
            return
        charges = car.banks.charge.copy()
        car = _car(rows, programmes, cars, i)
        for j in range(len(charges)):
            car.banks[j].charge = charges[j]
        status, drive = point(car, WHOLE)
        if status == ASK:
            out.status[i] = ASK
        if status != SOLVED:
            return
    if _operates(car, drive):
        out.front_v[i] = car.trail[LAST, 0]
        out.terminal_v[i], out.loudest_w[i] = _loudest(car)


@jitable
def _car(rows: Rows, programmes: Programmes, cars: Cars, i: int) -> Car:
    """The records of one car."""
    n, m = len(rows.links), rows.sounds.shape[1]
    links = rows.links.copy()
    for k in range(n):
        links[k].cold_ohm, links[k].rise_ohm = rows.wires[cars.wire[i, k]]
    chargers = np.empty(len(rows.charger_node), CHARGER)
    for j in range(len(chargers)):
        chargers[j] = rows.chargers[cars.charger[i, j]]
        chargers[j].node = rows.charger_node[j]
    there = np.flatnonzero(cars.bank[i] >= 0)
    banks, relays = np.empty(len(there), BANK), np.empty(len(there), np.int64)
    count = 0
    for j in range(len(there)):
        place = there[j]
        banks[j] = rows.banks[cars.bank[i, place]]
        banks[j].node = rows.bank_node[place]
        if banks[j].relay == 1 and rows.relay_link[place] >= 0:
            relays[count] = rows.relay_link[place]
            links[relays[count]].charging = rows.relay_charging[place]
            count += 1
    placed = np.flatnonzero(cars.capacitor[i] >= 0)
    capacitors = np.empty(len(placed), CAPACITOR)
    for j in range(len(placed)):
        capacitors[j] = rows.capacitors[cars.capacitor[i, placed[j]]]
        capacitors[j].node = rows.capacitor_node[placed[j]]
    amplifiers = np.empty(m, AMPLIFIER)
    for j in range(m):
        amplifiers[j] = rows.sounds[cars.sound[i], j]
        node = amplifiers[j].node
        links[node].lowest_v = max(links[node].lowest_v, amplifiers[j].cutout_v)
    ocv = rows.ocv[cars.bank[i][there]]
    start_v = 0.0
    for j in range(len(banks)):
        start_v = max(start_v, open_circuit_v(ocv[j], banks[j].charge))
    for j in range(len(chargers)):
        start_v = max(start_v, chargers[j].set_v)
    return Car(
        links,
        chargers,
        banks,
        ocv,
        capacitors,
        amplifiers,
        relays[:count],
        programmes,
        rows.played[cars.sound[i]],
        rows.feeds,
        rows.vehicle_a * cars.vehicle[i],
        rows.silence,
        start_v - 0.001,
        np.empty((LAST + 1, n)),
        np.empty(LAST + 1),
        np.empty((3, len(banks))),
        np.empty((3, n)),
    )


@jitable
def _operates(car: Car, drive: float) -> bool:
    if drive < 1.0:
        return False
    timing = car.programmes.timing[car.played]
    for j in range(len(car.amplifiers)):
        node = car.amplifiers[j].node
        mean_v = car.trail[0, node]
        if timing.parts == 2:
            quiet_v, loud_v = car.trail[row_of(QUIET), node], car.trail[row_of(LOUD), node]
            mean_v = timing.quiet_share * quiet_v + timing.loud_share * loud_v
        if min(mean_v, car.trail[LAST, node]) < car.amplifiers[j].cutout_v:
            return False
    return True


@jitable
def _mean(car: Car, drive: float) -> tuple[float, Floats]:
    """(mean watts that reach all loads, each by what it is worth; mean watts in of each amplifier)."""
    timing = car.programmes.timing[car.played]
    in_w, out_w = np.zeros(len(car.amplifiers)), 0.0
    for j in range(len(car.amplifiers)):
        node = car.amplifiers[j].node
        if timing.parts == 1:
            in_w[j], given = watts(car, j, WHOLE, math.sqrt(drive), car.trail[0, node])
        else:
            quiet, loud = row_of(QUIET), row_of(LOUD)
            quiet_in, quiet_out = watts(car, j, QUIET, math.sqrt(car.drives[quiet]), car.trail[quiet, node])
            loud_in, loud_out = watts(car, j, LOUD, math.sqrt(car.drives[loud]), car.trail[loud, node])
            in_w[j] = timing.quiet_share * quiet_in + timing.loud_share * loud_in
            given = timing.quiet_share * quiet_out + timing.loud_share * loud_out
        out_w += given * car.amplifiers[j].load_share * car.amplifiers[j].heard
    return out_w, in_w


@jitable
def _loudest(car: Car) -> tuple[float, float]:
    """(lowest volts of all amplifiers, watts that reach all loads, each at its own loudest) at the loudest moment."""
    lowest, out_w = np.inf, 0.0
    for j in range(len(car.amplifiers)):
        volts = car.trail[LAST, car.amplifiers[j].node]
        lowest = min(lowest, volts)
        last = car.programmes.groups[car.played, WHOLE, j] - 1
        _, given = held_watts(car, j, car.programmes.levels[car.played, WHOLE, j, 0, last], volts)
        out_w += given * car.amplifiers[j].load_share
    return lowest, out_w


@jitable
def _worn(car: Car, in_w: Floats, minutes: float, low_v: float) -> tuple[bool, float]:
    """Runs the batteries down at the mean load; (whether it could be told, minutes until a battery is low).

    As `simulation.charge_after` does it: cables as warm as they were, from silence, in steps of ten seconds.
    """
    siemens = np.empty(len(car.links))
    for i in range(len(siemens)):
        siemens[i] = 1.0 / max(car.links[i].cold_ohm + car.links[i].rise_ohm * car.links[i].square_a, LEAST_OHM)
        car.links[i].closed = 0
    out = car.banks.dropped.copy()
    for j in range(len(car.banks)):
        car.banks[j].dropped = 0
    status, _ = point(car, SILENCE)
    if status != SOLVED:
        return False, np.nan
    for j in range(len(car.banks)):
        bank = car.banks[j]
        bank.fast_v, bank.slow_v = 0.0, 0.0
        amps, _ = bank_current(bank, np.inf, car.trail[0, bank.node])
        fast, slow = laws.branches(bank.fast_f, bank.slow_f, bank.charging_ohm, bank.r1_discharge_ohm)
        bank.fast_v = laws.branch_after(fast, 0.0, np.inf, amps)
        bank.slow_v = laws.branch_after(slow, 0.0, np.inf, amps)
        if out[j] == 1:
            bank.r0_ohm = OPEN_OHM
    circuit = _over_time(car, siemens, in_w)
    nb, n = len(car.banks), len(siemens)
    moving = Moving(circuit.start_v, np.zeros(nb), np.zeros(nb), np.zeros(len(in_w)), np.zeros(n))
    steps = max(round(minutes * 60 / CLOCK_STEP_S), 1) if low_v <= 0.0 else int(CLOCK_END_S / CLOCK_STEP_S)
    level = np.ones((1, len(in_w)))
    for first in range(0, steps, CLOCK_ROWS):
        result = empty_result(min(CLOCK_ROWS, steps - first), circuit)
        run_steps(level, 1, first, CLOCK_STEP_S, circuit, moving, result)
        for t in range(len(result.cable_w) if low_v > 0.0 else 0):
            if _is_low(car, result.volts[t], low_v):
                return True, (first + t) * CLOCK_STEP_S / 60
    for j in range(nb):
        car.banks[j].charge = circuit.banks.charge[j]
    return True, steps * CLOCK_STEP_S / 60


@jitable
def _is_low(car: Car, volts: Floats, low_v: float) -> bool:
    """Whether the front posts, or those of a battery that an isolator keeps apart, are low."""
    for j in range(len(car.banks)):
        if car.banks[j].relay == 1 and volts[car.banks[j].node] < low_v:
            return True
    return bool(volts[0] < low_v)


@jitable
def _over_time(car: Car, siemens: Floats, in_w: Floats) -> CircuitArrays:
    """The same car as `transient` takes it, its amplifiers drawing their mean power, capacitors left out."""
    n, nb, none = len(siemens), len(car.banks), np.empty(0)
    b, a, links = car.banks, car.amplifiers, car.links
    drawn = np.zeros(n)
    drawn[0] = car.vehicle_a
    network = Network(links.parent.copy(), siemens, drawn, links.charging.copy(), links.closed.copy(), np.zeros(n))
    c = car.chargers
    chargers = Chargers(
        c.node.copy(),
        c.set_v.copy(),
        c.ohm.copy(),
        c.limit_a.copy(),
        np.full(len(c), -1, np.int64),
        np.ones(len(c)),
        np.zeros(len(c)),
        np.zeros(len(c)),
        np.zeros(len(c)),
        np.zeros(len(c), np.int64),
    )
    acceptance, limits_a = np.empty((nb, 4)), np.empty((nb, 3))
    for j in range(nb):
        acceptance[j, 0], acceptance[j, 1], acceptance[j, 2], acceptance[j, 3] = (
            b[j].full,
            b[j].rise,
            b[j].most,
            b[j].memory,
        )
        limits_a[j, 0], limits_a[j, 1], limits_a[j, 2] = b[j].charge_limit_a, b[j].steady_limit_a, b[j].peak_limit_a
    banks = Banks(
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
        np.zeros(nb),
        limits_a,
        b.dropped.copy(),
    )
    amplifiers = Amplifiers(
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
    capacitors = Capacitors(np.empty(0, np.int64), none, none, none)
    return CircuitArrays(network, chargers, banks, capacitors, amplifiers, car.trail[0].copy())
