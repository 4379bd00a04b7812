"""One state of a circuit of records, compiled: what each element does at its node, and Newton's method over the nodes.

As `elements` and `newton` have it, step by step, but that the equations are eliminated from the leaves to the root.
Left out: which states a car has (see `batch`).
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from underhood.arrays import Floats, Ints
from underhood.circuit import laws
from underhood.circuit.batch_arrays import TABLE_STEPS, TABLE_V, Programmes, Records, Rows
from underhood.circuit.compiled import jitable, lean
from underhood.circuit.laws import AmplifierLaw, InputLaw
from underhood.circuit.newton import (
    CURRENT_ERROR_A,
    FLAT_ENOUGH,
    FLOOR_V,
    LEAST_BEND_S,
    LONGEST_STEP_V,
    MOST_SHORTENINGS,
    MOST_STEPS,
    NEAR_V,
    SMALLEST_RISE,
)

__all__ = [
    "LOUD",
    "PEAK",
    "QUIET",
    "SILENCE",
    "WHOLE",
    "Car",
    "bank_current",
    "capacitor_current",
    "car_watts",
    "law_of",
    "put",
    "silent_state",
    "solved_state",
    "tabulate",
]

NUDGE = 1e-6
"""Relative step of an amplifier's numerical slope, as in `elements`."""
TABLE_STEP_V = (TABLE_V[1] - TABLE_V[0]) / TABLE_STEPS
WHOLE, QUIET, LOUD, PEAK, SILENCE = 0, 1, 2, 3, 4
"""What amplifiers play: all of it, its two parts, the loudest moment of all held, next to nothing held."""


class Car(NamedTuple):
    """One circuit as records, which change in place; absent banks and capacitors are left out.

    ocv         (banks, 2, k)
    relays      (r,) nodes beyond cables with a relay, in the order of their banks
    programmes  of all cars, of which this one plays the row `played`
    amps        (m, 4, TABLE_STEPS + 1) as in `Rows`, of no length where they are not tabulated
    feeds       (n, m); `vehicle_a` and `silence` as in `batch_arrays.Rows`
    start_v     from which silence is looked for
    trail, drives   the states found, a row each; `bank_a` (3, banks) amps in quiet, loud, and at the loudest moment
    scratch     (4, n) volts; `bank_scratch` (2, banks) amps in the mean, and volts
    peak_a, drawn   (m,) and (2, m, k): amps at the loudest moment, and at each level; `cells` (2, c) sums and weights
    """

    links: Records
    chargers: Records
    banks: Records
    ocv: Floats
    capacitors: Records
    amplifiers: Records
    relays: Ints
    programmes: Programmes
    played: int
    amps: Floats
    feeds: Ints
    vehicle_a: float
    silence: float
    start_v: float
    trail: Floats
    drives: Floats
    bank_a: Floats
    scratch: Floats
    bank_scratch: Floats
    peak_a: Floats
    drawn: Floats
    cells: Floats


@lean
def law_of(amplifier: Records) -> AmplifierLaw:
    """An amplifier's law.

    amplifier   a record
    """
    a = amplifier
    taken = InputLaw(a.linear == 1, a.idle_a, a.linear_v, a.quadratic_ohm)
    return AmplifierLaw(a.reference_v, a.ohm, a.power_factor, a.channels, a.exponent, a.dropout_v, taken)


@lean
def watts(
    amplifier: Records,
    j: int,
    programmes: Programmes,
    played: int,
    playing: int,
    share: float,
    silence: float,
    volts: float,
) -> tuple[float, float]:
    """(watts in, true watts out) of one amplifier; see `elements.Commanded.clipped`.

    amplifier   a record, the j-th of those that play the row `played` of the programmes
    playing     which part of it
    share       of the commanded volts
    silence     the level of a quiet car
    volts       at its terminals
    """
    law = law_of(amplifier)
    ceiling = laws.output_limit_v(law, volts)
    full = amplifier.commanded_v * share
    if playing >= PEAK or full <= 0.0:
        level = amplifier.peak if playing == PEAK else silence
        output_v = min(level * full, ceiling)
        return laws.amplifier_watts(law, output_v, output_v * output_v, volts)
    rows, count = programmes.levels[played, playing, j], programmes.groups[played, playing, j]
    low, high = 0, count
    while low < high:
        middle = (low + high) // 2
        if ceiling < rows[0, middle] * full:
            high = middle
        else:
            low = middle + 1
    above = rows[2, count] - rows[2, low]
    mean = full * rows[3, low] + ceiling * above
    square = full * full * rows[4, low] + ceiling * ceiling * above
    return laws.amplifier_watts(law, mean, square, volts)


@lean
def car_watts(car: Car, j: int, playing: int, share: float, volts: float) -> tuple[float, float]:
    """The same of one car's j-th amplifier."""
    return watts(car.amplifiers[j], j, car.programmes, car.played, playing, share, car.silence, volts)


@jitable
def tabulate(rows: Rows, programmes: Programmes, sound: int, amps: Floats) -> None:
    """Fills in what the amplifiers of a sound take at the volts of the table.

    amps   (m, 4, TABLE_STEPS + 1)
    """
    played = rows.played[sound]
    for j in range(amps.shape[0]):
        for playing in range(SILENCE):
            for k in range(amps.shape[2]):
                volts = TABLE_V[0] + k * TABLE_STEP_V
                into, _ = watts(rows.sounds[sound, j], j, programmes, played, playing, 1.0, rows.silence, volts)
                amps[j, playing, k] = into / volts


@lean
def _drawn(car: Car, j: int, playing: int, share: float, volts: float) -> tuple[float, float]:
    """(amps that an amplifier takes, their derivative over volts), by its table where it has one."""
    if share == 1.0 and playing < SILENCE and len(car.amps) > 0 and TABLE_V[0] < volts < TABLE_V[1]:
        at = (volts - TABLE_V[0]) / TABLE_STEP_V
        k = int(at)
        here, there = car.amps[j, playing, k], car.amps[j, playing, k + 1]
        return here + (at - k) * (there - here), (there - here) / TABLE_STEP_V
    nudged = volts * (1 + NUDGE)
    here = car_watts(car, j, playing, share, volts)[0] / volts
    there = car_watts(car, j, playing, share, nudged)[0] / nudged
    return here, (there - here) / (nudged - volts)


@lean
def bank_current(bank: Records, dt: float, volts: float) -> tuple[float, float]:
    """(amps, their derivative) of a bank over a step, positive on discharge; none once it is out.

    bank    a record; `dt` infinite for what it settles to
    volts   at its node
    """
    if bank.dropped == 1:
        return 0.0, 0.0
    fast, slow = laws.branches(bank.fast_f, bank.slow_f, bank.charging_ohm, bank.r1_discharge_ohm)
    return laws.bank_over_step(bank.ocv_v, bank.r0_ohm, fast, bank.fast_v, slow, bank.slow_v, dt, volts)


@lean
def capacitor_current(capacitor: Records, dt: float, volts: float) -> tuple[float, float]:
    """(amps, their derivative) of a capacitor over a step.

    capacitor   a record
    volts       at its node
    """
    ohm = capacitor.esr_ohm + dt / capacitor.farad
    return (capacitor.volts - volts) / ohm, -1.0 / ohm


@lean
def _balance(car: Car, playing: int, share: float, dt: float, v: Floats) -> float:
    """Fills in the amps that do not balance and the elements' slopes; the largest current plus 1 A."""
    links, largest = car.links, car.vehicle_a
    for i in range(len(v)):
        links[i].miss = 0.0
        links[i].slope = 0.0
    links[0].miss = -car.vehicle_a
    for j in range(len(car.chargers)):
        each = car.chargers[j]
        amps, bend = laws.charger_current(each.set_v, each.ohm, each.limit_a, v[each.node])
        links[each.node].miss += amps
        links[each.node].slope += bend
        largest = max(largest, abs(amps))
    for j in range(len(car.banks)):
        node = car.banks[j].node
        amps, bend = bank_current(car.banks[j], dt, v[node])
        links[node].miss += amps
        links[node].slope += bend
        largest = max(largest, abs(amps))
    for j in range(len(car.capacitors) if dt < np.inf else 0):
        node = car.capacitors[j].node
        amps, bend = capacitor_current(car.capacitors[j], dt, v[node])
        links[node].miss += amps
        links[node].slope += bend
        largest = max(largest, abs(amps))
    for j in range(len(car.amplifiers)):
        node = car.amplifiers[j].node
        amps, bend = _drawn(car, j, playing, share, v[node])
        links[node].miss -= amps
        links[node].slope -= bend
        largest = max(largest, abs(amps))
    for i in range(1, len(v)):
        amps = links[i].siemens * (v[links[i].parent] - v[i])
        links[i].miss += amps
        links[links[i].parent].miss -= amps
    return largest + 1.0


@lean
def _downhill_step(car: Car) -> bool:
    """Fills in Newton's step, or the way downhill where it is not one (see `newton`); whether the state is stable."""
    links, stable, bent = car.links, True, True
    n = len(links)
    for i in range(n):
        links[i].pivot, links[i].step = -links[i].slope, links[i].miss
    for i in range(1, n):
        links[i].pivot += links[i].siemens
        links[links[i].parent].pivot += links[i].siemens
    for i in range(n):
        bent = bent and links[i].pivot > 0.0
    for i in range(n - 1, 0, -1):
        each, parent = links[i], links[links[i].parent]
        stable = stable and each.pivot > 0.0
        parent.step += each.siemens / each.pivot * each.step
        parent.pivot -= each.siemens * each.siemens / each.pivot
    stable = stable and links[0].pivot > 0.0
    links[0].step /= links[0].pivot
    for i in range(1, n):
        links[i].step = (links[i].step + links[i].siemens * links[links[i].parent].step) / links[i].pivot
    if not bent or not _along(links) > 0.0:
        _turned_step(links)
    return stable


@jitable
def _turned_step(links: Records) -> None:
    """The step where the potential bends the wrong way along some direction: turned round along it."""
    n = len(links)
    bend = np.zeros((n, n))
    for i in range(n):
        bend[i, i] -= links[i].slope
        if i > 0:
            k = links[i].parent
            bend[i, i] += links[i].siemens
            bend[k, k] += links[i].siemens
            bend[i, k] -= links[i].siemens
            bend[k, i] -= links[i].siemens
    bends, directions = np.linalg.eigh(bend)
    for i in range(n):
        links[i].step = 0.0
    for k in range(n):
        along = 0.0
        for i in range(n):
            along += directions[i, k] * links[i].miss
        along /= max(abs(bends[k]), LEAST_BEND_S)
        for i in range(n):
            links[i].step += directions[i, k] * along


@lean
def _along(links: Records) -> float:
    """How far the step leads downhill."""
    out = 0.0
    for i in range(len(links)):
        out += links[i].miss * links[i].step
    return out


@lean
def put(v: Floats, out: Floats) -> None:
    """Copies values, number by number."""
    for i in range(len(v)):
        out[i] = v[i]


@lean
def _trial(links: Records, v: Floats, share: float, out: Floats) -> None:
    for i in range(len(v)):
        out[i] = max(v[i] + share * links[i].step, FLOOR_V / 2)


@lean
def _newton(car: Car, playing: int, share: float, dt: float, v: Floats) -> tuple[bool, bool]:
    """Moves `v` to where the currents balance; (whether it got there, whether that is stable)."""
    links, trial, n = car.links, car.scratch[0], len(v)
    scale = _balance(car, playing, share, dt, v)
    for _ in range(MOST_STEPS):
        worst, longest = 0.0, 0.0
        for i in range(n):
            worst = max(worst, abs(links[i].miss))
        stable = _downhill_step(car)
        if worst <= CURRENT_ERROR_A * scale:
            return True, stable
        for i in range(n):
            longest = max(longest, abs(links[i].step))
        for i in range(n):
            links[i].step *= min(1.0, LONGEST_STEP_V / longest)
        downhill = _along(links)
        low, high, at_low, part = 0.0, 1.0, downhill, 1.0
        _trial(links, v, part, trial)
        scale = _balance(car, playing, share, dt, trial)
        here = _along(links)
        at_high = here
        for _ in range(MOST_SHORTENINGS):
            if here >= -FLAT_ENOUGH * downhill and (part == 1.0 or here <= FLAT_ENOUGH * downhill):
                break
            part = low + (high - low) * at_low / (at_low - at_high)
            _trial(links, v, part, trial)
            scale = _balance(car, playing, share, dt, trial)
            here = _along(links)
            if here > 0:
                low, at_low, at_high = part, here, at_high / 2
            else:
                high, at_high, at_low = part, here, at_low / 2
        lowest = np.inf
        for i in range(n):
            v[i] = trial[i]
            lowest = min(lowest, v[i])
        if lowest < FLOOR_V:
            return False, False
    return False, False


@lean
def silent_state(car: Car, playing: int, dt: float, v: Floats) -> bool:
    """Moves `v` to the state with the programme at nothing; whether there is one.

    playing   what is at nothing; `dt` the step, infinite for what settles
    """
    for i in range(len(v)):
        v[i] = car.start_v
    found, _ = _newton(car, playing, 0.0, dt, v)
    return found


@lean
def _holds(car: Car, v: Floats) -> bool:
    """Whether no amplifier has switched off."""
    held = True
    for i in range(len(v)):
        held = held and v[i] >= car.links[i].lowest_v
    return held


@lean
def solved_state(car: Car, playing: int, dt: float, near: bool, v: Floats) -> float:
    """Moves `v` to the state of the full programme, or of the most that holds; its drive, below 0 where none does.

    playing   what; `dt` the step, infinite for what settles
    near      whether `v` holds volts close to it; else it is followed from silence
    """
    tried, before = car.scratch[1], car.scratch[2]
    if near:
        put(v, before)
        found, stable = _newton(car, playing, 1.0, dt, v)
        moved = 0.0
        for i in range(len(v)):
            moved = max(moved, abs(v[i] - before[i]))
        if found and stable and _holds(car, v) and moved <= NEAR_V:
            return 1.0
    if not silent_state(car, playing, dt, v):
        return -1.0
    drive, rise = 0.0, 1.0
    while drive < 1.0:
        more = min(1.0, drive + rise)
        put(v, tried)
        found, stable = _newton(car, playing, math.sqrt(more), dt, tried)
        if found and stable and _holds(car, tried):
            drive = more
            put(tried, v)
        elif rise <= SMALLEST_RISE:
            return drive
        else:
            rise /= 2
    return drive
