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
from underhood.circuit import batch_arrays, batch_newton, laws, transient
from underhood.circuit.batch_arrays import AMPLIFIER, BANK, CAPACITOR, CHARGER, Answers, Cars, Programmes, Rows
from underhood.circuit.batch_newton import (
    LOUD,
    PEAK,
    QUIET,
    SILENCE,
    WHOLE,
    Car,
    bank_current,
    capacitor_current,
    law_of,
    silent_state,
    solved_state,
    watts,
)
from underhood.circuit.circuit_arrays import Amplifiers, Banks, Capacitors, Chargers, CircuitArrays, Network
from underhood.circuit.compiled import LAWS_DIGEST, jitable
from underhood.circuit.laws import JOINS_V, OPEN_OHM, OPENS_V
from underhood.circuit.solver import AHEAD, CYCLES, MOST_WARMINGS, PEAK_STEP_SHARE, PEAK_STEPS, WARM_ENOUGH_OHM
from underhood.circuit.topology import LEAST_OHM
from underhood.circuit.transient import CLOCK_END_S, CLOCK_STEP_S, Moving, empty_result, open_circuit_v, run_steps

__all__ = ["ASK", "NOTHING", "SOLVED", "solve_all"]

NOTHING, SOLVED, ASK = 0, 1, 2
"""How a car came out: no state at all, solved, or one that only `solver` answers."""
LAST = 2 * CYCLES + PEAK_STEPS
"""The row of the trail that the loudest moment is in; row 0 is the settled state, then loud and quiet of each cycle."""
MOST_POSITIONS = 64
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
    homes = (batch_arrays.__file__, batch_newton.__file__, transient.__file__)
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
    status, drive = _point(car, WHOLE)
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
        status, drive = _point(car, WHOLE)
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


# Its switches.


@jitable
def _lay(car: Car) -> None:
    """Siemens of the cables as warm as what they carry makes them, open where a relay is."""
    for i in range(1, len(car.links)):
        each = car.links[i]
        each.siemens = 1.0 / max(each.cold_ohm + each.rise_ohm * each.square_a, LEAST_OHM)
        if each.charging >= 0 and each.closed == 0:
            each.siemens = 1.0 / OPEN_OHM


@jitable
def _trip(car: Car, mean_a: Floats, peak_a: Floats) -> bool:
    """Takes off the first bank whose management does not let its amps through."""
    for j in range(len(car.banks)):
        bank = car.banks[j]
        over = mean_a[j] > bank.steady_limit_a or peak_a[j] > bank.peak_limit_a or -mean_a[j] > bank.charge_limit_a
        if bank.dropped == 0 and over:
            bank.dropped = 1
            return True
    return False


@jitable
def _move_relay(car: Car, v: Floats) -> bool:
    for k in car.relays:
        each = car.links[k]
        closed = each.closed == 1
        if closed != (v[each.charging] >= (OPENS_V if closed else JOINS_V)):
            each.closed = 1 - each.closed
            return True
    return False


@jitable
def _switches(car: Car) -> bool:
    for j in range(len(car.banks)):
        bank = car.banks[j]
        if min(bank.charge_limit_a, bank.steady_limit_a, bank.peak_limit_a) < np.inf:
            return True
    return len(car.relays) > 0


@jitable
def _position(car: Car) -> int:
    """How all switches stand, as one number."""
    out = 0
    for k in car.relays:
        out = 2 * out + car.links[k].closed
    for j in range(len(car.banks)):
        out = 2 * out + car.banks[j].dropped
    return out


@jitable
def _settle_switches(car: Car, playing: int, silent: bool) -> None:
    """Puts each switch where it wants to be, one after the other, until they rest or come round; see `solver`."""
    if not _switches(car):
        return
    seen = np.full(MOST_POSITIONS, -1, np.int64)
    v = car.trail[0]
    for count in range(MOST_POSITIONS):
        here = _position(car)
        for k in range(count):
            if seen[k] == here:
                return
        seen[count] = here
        for i in range(len(v)):
            car.links[i].square_a = 0.0
        _lay(car)
        if silent:
            if not silent_state(car, playing, np.inf, v):
                return
        elif solved_state(car, playing, np.inf, False, v) < 0.0:
            return
        _bank_amps(car, np.inf, v, car.bank_a[0])
        if not _trip(car, car.bank_a[0], car.bank_a[0]) and not _move_relay(car, v):
            return


# Its states.


@jitable
def _bank_amps(car: Car, dt: float, v: Floats, out: Floats) -> None:
    for j in range(len(car.banks)):
        out[j], _ = bank_current(car.banks[j], dt, v[car.banks[j].node])


@jitable
def _after(car: Car, dt: float, v: Floats) -> None:
    """What banks and capacitors hold after a step at some volts; settled capacitors stand at their nodes'."""
    for j in range(len(car.banks)):
        bank = car.banks[j]
        amps, _ = bank_current(bank, dt, v[bank.node])
        fast, slow = laws.branches(bank.fast_f, bank.slow_f, bank.charging_ohm, bank.r1_discharge_ohm)
        bank.fast_v = laws.branch_after(fast, bank.fast_v, dt, amps)
        bank.slow_v = laws.branch_after(slow, bank.slow_v, dt, amps)
    for j in range(len(car.capacitors)):
        each = car.capacitors[j]
        if dt < np.inf:
            amps, _ = capacitor_current(each, dt, v[each.node])
            each.volts -= amps * dt / each.farad
        else:
            each.volts = v[each.node]


@jitable
def _parts(car: Car, playing: int) -> int:
    return car.programmes.timing[car.played].parts if playing == WHOLE else 1


@jitable
def _states(car: Car, playing: int, near: bool) -> float:
    """Every state of a circuit whose cables are laid; the least drive of them, below 0 where there is none."""
    for j in range(len(car.banks)):
        car.banks[j].fast_v = 0.0
        car.banks[j].slow_v = 0.0
    v = car.trail[0]
    drive = solved_state(car, playing, np.inf, near and car.drives[0] == 1.0, v)
    car.drives[0] = drive
    if drive < 0.0:
        return drive
    _bank_amps(car, np.inf, v, car.bank_a[0])
    if _parts(car, playing) == 1:
        car.trail[LAST, :] = v
        car.bank_a[1, :] = car.bank_a[0]
        car.bank_a[2, :] = car.bank_a[0]
        return drive
    _after(car, np.inf, v)
    timing = car.programmes.timing[car.played]
    was_v = np.empty(len(car.banks))
    for row in range(1, LAST + 1):
        part = LOUD if row % 2 == 1 else QUIET
        if row > 2 * CYCLES:
            part = PEAK
        if part == LOUD:
            was_v[:] = car.banks.slow_v
        seconds = timing.loud_s if part == LOUD else timing.quiet_s
        if part == PEAK:
            seconds = PEAK_STEP_SHARE * timing.peak_s
        given = _step(car, part, seconds, row, near)
        if given < 0.0:
            return given
        if part != PEAK or row == LAST:
            drive = min(drive, given)
        if part == QUIET:
            _go_ahead(car, was_v)
    return drive


@jitable
def _go_ahead(car: Car, was_v: Floats) -> None:
    """Some cycles later: a slow branch that stays charged goes on as it went, never below nothing."""
    for j in range(len(car.banks)):
        bank = car.banks[j]
        if was_v[j] > 0.0 and bank.slow_v > 0.0:
            bank.slow_v = max(bank.slow_v + AHEAD * (bank.slow_v - was_v[j]), 0.0)


@jitable
def _step(car: Car, playing: int, seconds: float, row: int, near: bool) -> float:
    """One step of time into a row of the trail, begun near the row before it where none is known; its drive."""
    v = car.trail[row]
    known = near and car.drives[row] == 1.0
    if not near:
        v[:] = car.trail[row - 1]
        known = car.drives[row - 1] == 1.0
    drive = solved_state(car, playing, seconds, known, v)
    car.drives[row] = drive
    if drive >= 0.0:
        _bank_amps(car, seconds, v, car.bank_a[playing - 1])
        _after(car, seconds, v)
    return drive


@jitable
def _row_of(part: int) -> int:
    """The row of the trail that a part of the last cycle is in."""
    return 2 * CYCLES - 1 if part == LOUD else 2 * CYCLES


@jitable
def _warmed(car: Car, playing: int) -> float:
    """The states with cables as warm as they then are; the drive."""
    for i in range(len(car.links)):
        car.links[i].square_a = 0.0
    _lay(car)
    drive = _states(car, playing, False)
    warm = np.empty(len(car.links))
    for _ in range(MOST_WARMINGS):
        if drive < 0.0:
            return drive
        _square_a(car, playing, warm)
        change = 0.0
        for i in range(1, len(warm)):
            change = max(change, abs(car.links[i].rise_ohm * (warm[i] - car.links[i].square_a)))
        if change <= WARM_ENOUGH_OHM:
            return drive
        for i in range(1, len(warm)):
            car.links[i].square_a = warm[i]
        _lay(car)
        drive = _states(car, playing, True)
    return drive


@jitable
def _link_a(car: Car, i: int, row: int) -> float:
    amps: float = car.links[i].siemens * (car.trail[row, car.links[i].parent] - car.trail[row, i])
    return amps


@jitable
def _square_a(car: Car, playing: int, out: Floats) -> None:
    """Mean of the squared amps of each cable; see `solver._Solver._edge_rms`."""
    n, m = len(car.links), len(car.amplifiers)
    if _parts(car, playing) == 1:
        for i in range(1, n):
            out[i] = _link_a(car, i, 0) ** 2
        return
    timing, groups = car.programmes.timing[car.played], car.programmes.groups[car.played]
    peak_a = np.empty(m)
    drawn = np.empty((2, m, car.programmes.levels.shape[4]))
    for j in range(m):
        node = car.amplifiers[j].node
        peak_a[j] = watts(car, j, PEAK, 1.0, car.trail[LAST, node])[0] / car.trail[LAST, node]
        for part in (QUIET, LOUD):
            row = _row_of(part)
            for k in range(groups[part, j]):
                level = car.programmes.levels[car.played, part, j, 0, k] * math.sqrt(car.drives[row])
                drawn[part - 1, j, k] = _held(car, j, level, car.trail[row, node])[0] / car.trail[row, node]
    for i in range(1, n):
        quiet_a, loud_a = _link_a(car, i, _row_of(QUIET)), _link_a(car, i, _row_of(LOUD))
        fed_peak_a, mean, spread = _spread(car, drawn, peak_a, i)
        swing = (_link_a(car, i, LAST) - quiet_a) / max(fed_peak_a - mean, 1e-9)
        out[i] = timing.quiet_share * quiet_a**2 + timing.loud_share * loud_a**2 + swing * swing * spread


@jitable
def _held(car: Car, j: int, level: float, volts: float) -> tuple[float, float]:
    """(watts in, true watts out) of an amplifier at one level held."""
    law = law_of(car.amplifiers[j])
    output_v = min(car.amplifiers[j].commanded_v * level, laws.output_limit_v(law, volts))
    return laws.amplifier_watts(law, output_v, output_v * output_v, volts)


@jitable
def _spread(car: Car, drawn: Floats, peak_a: Floats, link: int) -> tuple[float, float, float]:
    """(amps at the loudest moment, mean while it is quiet, mean of the squared swing) of what lies beyond a link."""
    p, m, played = car.played, len(peak_a), car.programmes
    fed, only, at_peak = 0, 0, 0.0
    for j in range(m):
        if car.feeds[link, j] == 1:
            fed, only, at_peak = fed + 1, j, at_peak + peak_a[j]
    quiet_mean, spread = 0.0, 0.0
    for part in (QUIET, LOUD):
        count = played.groups[p, part, only] if fed == 1 else played.cell_count[p, part - 1]
        sums, weight = np.zeros(count), np.empty(count)
        for k in range(count):
            if fed == 1:
                sums[k], weight[k] = drawn[part - 1, only, k], played.levels[p, part, only, 1, k]
                continue
            weight[k] = played.cells[p, part - 1, k]
            for j in range(m):
                for group in range(played.groups[p, part, j] if car.feeds[link, j] == 1 else 0):
                    sums[k] += played.in_cells[p, part - 1, j, k, group] * drawn[part - 1, j, group]
        mean = (weight * sums).sum()
        share = played.timing[p].quiet_share if part == QUIET else played.timing[p].loud_share
        spread += share * (weight * (sums - mean) ** 2).sum()
        if part == QUIET:
            quiet_mean = mean
    return at_peak, quiet_mean, spread


@jitable
def _point(car: Car, playing: int) -> tuple[int, float]:
    """(how it came out, drive) of a car; its volts are in the trail. See `solver._Solver.point`."""
    gives = False
    for j in range(len(car.chargers)):
        gives = gives or car.chargers[j].limit_a > 0.0
    if len(car.banks) == 0 and not gives:
        return NOTHING, 0.0
    for j in range(len(car.banks)):
        _rest(car, j)
    _settle_switches(car, playing, True)
    for _ in range(len(car.banks) + 1):
        _settle_switches(car, playing, False)
        drive = _warmed(car, playing)
        if drive < 0.0:
            return (ASK if car.banks.dropped.sum() > 0 else NOTHING), 0.0
        mean_a = car.bank_a[0].copy()
        if _parts(car, playing) == 2:
            timing = car.programmes.timing[car.played]
            mean_a = timing.quiet_share * car.bank_a[0] + timing.loud_share * car.bank_a[1]
        if not _trip(car, mean_a, car.bank_a[2]):
            return SOLVED, drive
    return ASK, 0.0


@jitable
def _rest(car: Car, j: int) -> None:
    """Open-circuit volts and charging ohms of a bank at its charge, nothing drawn of it lately; see `battery.model`."""
    bank = car.banks[j]
    bank.ocv_v = open_circuit_v(car.ocv[j], bank.charge)
    accepted = laws.accepted_a(
        bank.capacity_as / 3600.0, bank.full, bank.rise, bank.most, bank.memory, bank.charge, 0.0
    )
    ohm = laws.charging_ohm(bank.r0_ohm, bank.absorption_v, bank.ocv_v, accepted)
    bank.charging_ohm = bank.r1_charge_ohm if bank.r1_charge_ohm > 0.0 else ohm


# What a car comes to.


@jitable
def _operates(car: Car, drive: float) -> bool:
    if drive < 1.0:
        return False
    timing = car.programmes.timing[car.played]
    for j in range(len(car.amplifiers)):
        node = car.amplifiers[j].node
        mean_v = car.trail[0, node]
        if timing.parts == 2:
            quiet_v, loud_v = car.trail[_row_of(QUIET), node], car.trail[_row_of(LOUD), node]
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
            quiet, loud = _row_of(QUIET), _row_of(LOUD)
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
        _, given = _held(car, j, car.programmes.levels[car.played, WHOLE, j, 0, last], volts)
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
    status, _ = _point(car, SILENCE)
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
