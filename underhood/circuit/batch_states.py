"""The states of one car, compiled: its switches, what it settles to, loud and quiet, its loudest moment, warm cables.

Step by step as `solver` has it. Left out: the single state (see `batch_newton`), and what a car comes to (see `batch`).
"""

from __future__ import annotations

import math

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import laws
from underhood.circuit.batch_newton import (
    LOUD,
    PEAK,
    QUIET,
    WHOLE,
    Car,
    bank_current,
    capacitor_current,
    car_watts,
    law_of,
    put,
    silent_state,
    solved_state,
)
from underhood.circuit.compiled import jitable, lean
from underhood.circuit.laws import JOINS_V, OPEN_OHM, OPENS_V
from underhood.circuit.solver import AHEAD, CYCLES, MOST_WARMINGS, PEAK_STEP_SHARE, PEAK_STEPS, WARM_ENOUGH_OHM
from underhood.circuit.topology import LEAST_OHM
from underhood.circuit.transient import open_circuit_v

__all__ = ["ASK", "LAST", "NOTHING", "SOLVED", "held_watts", "point", "row_of", "switches"]

NOTHING, SOLVED, ASK = 0, 1, 2
"""How a car came out: no state at all, solved, or one that only `solver` answers."""
LAST = 2 * CYCLES + PEAK_STEPS
"""The row of the trail that the loudest moment is in; row 0 is the settled state, then loud and quiet of each cycle."""
MOST_POSITIONS = 64


# Its switches.


@lean
def _lay(car: Car) -> None:
    """Siemens of the cables as warm as what they carry makes them, open where a relay is."""
    for i in range(1, len(car.links)):
        each = car.links[i]
        each.siemens = 1.0 / max(each.cold_ohm + each.rise_ohm * each.square_a, LEAST_OHM)
        if each.charging >= 0 and each.closed == 0:
            each.siemens = 1.0 / OPEN_OHM


@lean
def _trip(car: Car, mean_a: Floats, peak_a: Floats) -> bool:
    """Takes off the first bank whose management does not let its amps through."""
    for j in range(len(car.banks)):
        bank = car.banks[j]
        over = mean_a[j] > bank.steady_limit_a or peak_a[j] > bank.peak_limit_a or -mean_a[j] > bank.charge_limit_a
        if bank.dropped == 0 and over:
            bank.dropped = 1
            return True
    return False


@lean
def _move_relay(car: Car, v: Floats) -> bool:
    for k in car.relays:
        each = car.links[k]
        closed = each.closed == 1
        if closed != (v[each.charging] >= (OPENS_V if closed else JOINS_V)):
            each.closed = 1 - each.closed
            return True
    return False


@lean
def switches(car: Car) -> bool:
    """Whether a car has a relay, or a bank whose management has limits."""
    for j in range(len(car.banks)):
        bank = car.banks[j]
        if min(bank.charge_limit_a, bank.steady_limit_a, bank.peak_limit_a) < np.inf:
            return True
    return len(car.relays) > 0


@lean
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


@lean
def _bank_amps(car: Car, dt: float, v: Floats, out: Floats) -> None:
    for j in range(len(car.banks)):
        out[j], _ = bank_current(car.banks[j], dt, v[car.banks[j].node])


@lean
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


@lean
def parts_of(car: Car, playing: int) -> int:
    return car.programmes.timing[car.played].parts if playing == WHOLE else 1


@lean
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
    if parts_of(car, playing) == 1:
        put(v, car.trail[LAST])
        put(car.bank_a[0], car.bank_a[1])
        put(car.bank_a[0], car.bank_a[2])
        return drive
    _after(car, np.inf, v)
    timing = car.programmes.timing[car.played]
    was_v = car.bank_scratch[1]
    for row in range(1, LAST + 1):
        part = LOUD if row % 2 == 1 else QUIET
        if row > 2 * CYCLES:
            part = PEAK
        if part == LOUD:
            for j in range(len(car.banks)):
                was_v[j] = car.banks[j].slow_v
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


@lean
def _go_ahead(car: Car, was_v: Floats) -> None:
    """Some cycles later: a slow branch that stays charged goes on as it went, never below nothing."""
    for j in range(len(car.banks)):
        bank = car.banks[j]
        if was_v[j] > 0.0 and bank.slow_v > 0.0:
            bank.slow_v = max(bank.slow_v + AHEAD * (bank.slow_v - was_v[j]), 0.0)


@lean
def _step(car: Car, playing: int, seconds: float, row: int, near: bool) -> float:
    """One step of time into a row of the trail, begun near the row before it where none is known; its drive."""
    v = car.trail[row]
    known = near and car.drives[row] == 1.0
    if not near:
        put(car.trail[row - 1], v)
        known = car.drives[row - 1] == 1.0
    drive = solved_state(car, playing, seconds, known, v)
    car.drives[row] = drive
    if drive >= 0.0:
        _bank_amps(car, seconds, v, car.bank_a[playing - 1])
        _after(car, seconds, v)
    return drive


@lean
def row_of(part: int) -> int:
    """The row of the trail that a part of the last cycle is in."""
    return 2 * CYCLES - 1 if part == LOUD else 2 * CYCLES


@lean
def _warmed(car: Car, playing: int, near: bool) -> float:
    """The states with cables as warm as they then are; the drive.

    near   whether the trail holds states close to them, and the cables are as warm as there
    """
    for i in range(0 if near else len(car.links)):
        car.links[i].square_a = 0.0
    _lay(car)
    drive = _states(car, playing, near)
    warm = car.scratch[3]
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


@lean
def _link_a(car: Car, i: int, row: int) -> float:
    amps: float = car.links[i].siemens * (car.trail[row, car.links[i].parent] - car.trail[row, i])
    return amps


@lean
def _square_a(car: Car, playing: int, out: Floats) -> None:
    """Mean of the squared amps of each cable; see `solver._Solver._edge_rms`."""
    n, m = len(car.links), len(car.amplifiers)
    if parts_of(car, playing) == 1:
        for i in range(1, n):
            out[i] = _link_a(car, i, 0) ** 2
        return
    timing, groups = car.programmes.timing[car.played], car.programmes.groups[car.played]
    peak_a, drawn = car.peak_a, car.drawn
    for j in range(m):
        node = car.amplifiers[j].node
        peak_a[j] = car_watts(car, j, PEAK, 1.0, car.trail[LAST, node])[0] / car.trail[LAST, node]
        for part in (QUIET, LOUD):
            row = row_of(part)
            for k in range(groups[part, j]):
                level = car.programmes.levels[car.played, part, j, 0, k] * math.sqrt(car.drives[row])
                drawn[part - 1, j, k] = held_watts(car, j, level, car.trail[row, node])[0] / car.trail[row, node]
    for i in range(1, n):
        quiet_a, loud_a = _link_a(car, i, row_of(QUIET)), _link_a(car, i, row_of(LOUD))
        fed_peak_a, mean, spread = _spread(car, drawn, peak_a, i)
        swing = (_link_a(car, i, LAST) - quiet_a) / max(fed_peak_a - mean, 1e-9)
        out[i] = timing.quiet_share * quiet_a**2 + timing.loud_share * loud_a**2 + swing * swing * spread


@lean
def held_watts(car: Car, j: int, level: float, volts: float) -> tuple[float, float]:
    """(watts in, true watts out) of an amplifier at one level held."""
    law = law_of(car.amplifiers[j])
    output_v = min(car.amplifiers[j].commanded_v * level, laws.output_limit_v(law, volts))
    return laws.amplifier_watts(law, output_v, output_v * output_v, volts)


@lean
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
        sums, weight = car.cells[0], car.cells[1]
        for k in range(count):
            sums[k] = 0.0
            if fed == 1:
                sums[k], weight[k] = drawn[part - 1, only, k], played.levels[p, part, only, 1, k]
                continue
            weight[k] = played.cells[p, part - 1, k]
            for j in range(m):
                for group in range(played.groups[p, part, j] if car.feeds[link, j] == 1 else 0):
                    sums[k] += played.in_cells[p, part - 1, j, k, group] * drawn[part - 1, j, group]
        mean = 0.0
        for k in range(count):
            mean += weight[k] * sums[k]
        share = played.timing[p].quiet_share if part == QUIET else played.timing[p].loud_share
        for k in range(count):
            spread += share * weight[k] * (sums[k] - mean) ** 2
        if part == QUIET:
            quiet_mean = mean
    return at_peak, quiet_mean, spread


@lean
def point(car: Car, playing: int, near: bool) -> tuple[int, float]:
    """(how it came out, drive) of a car; its volts are in the trail. See `solver._Solver.point`.

    near   whether the trail holds states close to its own; only for a car without switches
    """
    gives = False
    for j in range(len(car.chargers)):
        gives = gives or car.chargers[j].limit_a > 0.0
    if len(car.banks) == 0 and not gives:
        return NOTHING, 0.0
    for j in range(len(car.banks)):
        _rest(car, j)
    if switches(car):
        _settle_switches(car, playing, True)
    for _ in range(len(car.banks) + 1):
        if switches(car):
            _settle_switches(car, playing, False)
        drive = _warmed(car, playing, near)
        if drive < 0.0:
            for j in range(len(car.banks)):
                if car.banks[j].dropped == 1:
                    return ASK, 0.0
            return NOTHING, 0.0
        mean_a, timing = car.bank_scratch[0], car.programmes.timing[car.played]
        for j in range(len(car.banks)):
            mean_a[j] = car.bank_a[0, j]
            if parts_of(car, playing) == 2:
                mean_a[j] = timing.quiet_share * car.bank_a[0, j] + timing.loud_share * car.bank_a[1, j]
        if not _trip(car, mean_a, car.bank_a[2]):
            return SOLVED, drive
    return ASK, 0.0


@lean
def _rest(car: Car, j: int) -> None:
    """Open-circuit volts and charging ohms of a bank at its charge, nothing drawn of it lately; see `battery.model`."""
    bank = car.banks[j]
    bank.ocv_v = open_circuit_v(car.ocv[j], bank.charge)
    accepted = laws.accepted_a(
        bank.capacity_as / 3600.0, bank.full, bank.rise, bank.most, bank.memory, bank.charge, 0.0
    )
    ohm = laws.charging_ohm(bank.r0_ohm, bank.absorption_v, bank.ocv_v, accepted)
    bank.charging_ohm = bank.r1_charge_ohm if bank.r1_charge_ohm > 0.0 else ohm
