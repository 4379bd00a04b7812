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
from underhood.circuit.batch_arrays import Programmes, Records
from underhood.circuit.compiled import jitable
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
    "law_of",
    "silent_state",
    "solved_state",
    "watts",
]

NUDGE = 1e-6
"""Relative step of an amplifier's numerical slope, as in `elements`."""
WHOLE, QUIET, LOUD, PEAK, SILENCE = 0, 1, 2, 3, 4
"""What amplifiers play: all of it, its two parts, the loudest moment of all held, next to nothing held."""


class Car(NamedTuple):
    """One circuit as records, which change in place; absent banks and capacitors are left out.

    ocv         (banks, 2, k)
    relays      (r,) nodes beyond cables with a relay, in the order of their banks
    programmes  of all cars, of which this one plays the row `played`
    feeds       (n, m); `vehicle_a` and `silence` as in `batch_arrays.Rows`
    start_v     from which silence is looked for
    trail, drives   the states found, a row each; `bank_a` (3, banks) amps in quiet, loud, and at the loudest moment
    scratch     (3, n) volts
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
    feeds: Ints
    vehicle_a: float
    silence: float
    start_v: float
    trail: Floats
    drives: Floats
    bank_a: Floats
    scratch: Floats


@jitable
def law_of(amplifier: Records) -> AmplifierLaw:
    """An amplifier's law.

    amplifier   a record
    """
    a = amplifier
    taken = InputLaw(a.linear == 1, a.idle_a, a.linear_v, a.quadratic_ohm)
    return AmplifierLaw(a.reference_v, a.ohm, a.power_factor, a.channels, a.exponent, a.dropout_v, taken)


@jitable
def watts(car: Car, j: int, playing: int, share: float, volts: float) -> tuple[float, float]:
    """(watts in, true watts out) of one amplifier; see `elements.Commanded.clipped`.

    j         which; `playing` what
    share     of the commanded volts
    volts     at its terminals
    """
    a = car.amplifiers[j]
    law = law_of(a)
    ceiling = laws.output_limit_v(law, volts)
    full = a.commanded_v * share
    if playing >= PEAK or full <= 0.0:
        level = a.peak if playing == PEAK else car.silence
        output_v = min(level * full, ceiling)
        return laws.amplifier_watts(law, output_v, output_v * output_v, volts)
    rows, count = car.programmes.levels[car.played, playing, j], car.programmes.groups[car.played, playing, j]
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


@jitable
def bank_current(bank: Records, dt: float, volts: float) -> tuple[float, float]:
    """(amps, their derivative) of a bank over a step, positive on discharge; none once it is out.

    bank    a record; `dt` infinite for what it settles to
    volts   at its node
    """
    if bank.dropped == 1:
        return 0.0, 0.0
    fast, slow = laws.branches(bank.fast_f, bank.slow_f, bank.charging_ohm, bank.r1_discharge_ohm)
    return laws.bank_over_step(bank.ocv_v, bank.r0_ohm, fast, bank.fast_v, slow, bank.slow_v, dt, volts)


@jitable
def capacitor_current(capacitor: Records, dt: float, volts: float) -> tuple[float, float]:
    """(amps, their derivative) of a capacitor over a step.

    capacitor   a record
    volts       at its node
    """
    ohm = capacitor.esr_ohm + dt / capacitor.farad
    return (capacitor.volts - volts) / ohm, -1.0 / ohm


@jitable
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
        nudged = v[node] * (1 + NUDGE)
        here = watts(car, j, playing, share, v[node])[0] / v[node]
        there = watts(car, j, playing, share, nudged)[0] / nudged
        links[node].miss -= here
        links[node].slope -= (there - here) / (nudged - v[node])
        largest = max(largest, abs(here))
    for i in range(1, len(v)):
        amps = links[i].siemens * (v[links[i].parent] - v[i])
        links[i].miss += amps
        links[links[i].parent].miss -= amps
    return largest + 1.0


@jitable
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


@jitable
def _along(links: Records) -> float:
    """How far the step leads downhill."""
    out = 0.0
    for i in range(len(links)):
        out += links[i].miss * links[i].step
    return out


@jitable
def _trial(links: Records, v: Floats, share: float, out: Floats) -> None:
    for i in range(len(v)):
        out[i] = max(v[i] + share * links[i].step, FLOOR_V / 2)


@jitable
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
        v[:] = trial
        if v.min() < FLOOR_V:
            return False, False
    return False, False


@jitable
def silent_state(car: Car, playing: int, dt: float, v: Floats) -> bool:
    """Moves `v` to the state with the programme at nothing; whether there is one.

    playing   what is at nothing; `dt` the step, infinite for what settles
    """
    v[:] = car.start_v
    found, _ = _newton(car, playing, 0.0, dt, v)
    return found


@jitable
def _holds(car: Car, v: Floats) -> bool:
    """Whether no amplifier has switched off."""
    held = True
    for i in range(len(v)):
        held = held and v[i] >= car.links[i].lowest_v
    return held


@jitable
def solved_state(car: Car, playing: int, dt: float, near: bool, v: Floats) -> float:
    """Moves `v` to the state of the full programme, or of the most that holds; its drive, below 0 where none does.

    playing   what; `dt` the step, infinite for what settles
    near      whether `v` holds volts close to it; else it is followed from silence
    """
    tried, before = car.scratch[1], car.scratch[2]
    if near:
        before[:] = v
        found, stable = _newton(car, playing, 1.0, dt, v)
        if found and stable and _holds(car, v) and np.abs(v - before).max() <= NEAR_V:
            return 1.0
    if not silent_state(car, playing, dt, v):
        return -1.0
    drive, rise = 0.0, 1.0
    while drive < 1.0:
        more = min(1.0, drive + rise)
        tried[:] = v
        found, stable = _newton(car, playing, math.sqrt(more), dt, tried)
        if found and stable and _holds(car, tried):
            drive = more
            v[:] = tried
        elif rise <= SMALLEST_RISE:
            return drive
        else:
            rise /= 2
    return drive
