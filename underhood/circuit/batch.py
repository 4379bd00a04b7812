"""The steady solve of many circuits at once, compiled: what `solver` finds, for thousands of cars that differ in parts.

The same steps in the same order with the same laws: switches settle, the circuit is followed from silence to the full
programme, its cables warm, banks drop out; then the mean load wears the batteries, as `simulation.charge_after` has it,
and the loudest moment is solved again. A test holds every answer against theirs. Left out: diodes, and converters that
the circuit itself feeds; a car with one of them is solved by `solver` alone (see `batch_rows`).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cache

import numba
import numpy as np

from underhood.arrays import Floats, Ints
from underhood.circuit import batch_arrays, batch_newton, batch_states, batch_wear, constant_load, laws, transient
from underhood.circuit.batch_arrays import (
    AMPLIFIER,
    BANK,
    CAPACITOR,
    CHARGER,
    LINK,
    TABLE_STEPS,
    Answers,
    Cars,
    Programmes,
    Room,
    Rows,
    Seen,
)
from underhood.circuit.batch_newton import (
    LOUD,
    QUIET,
    SILENCE,
    WHOLE,
    Car,
    car_watts,
    law_of,
    put,
    tabulate,
)
from underhood.circuit.batch_states import ASK, LAST, SOLVED, held_watts, point, row_of, switches
from underhood.circuit.batch_wear import worn
from underhood.circuit.compiled import borrowed, digest_of, jitable, lean
from underhood.circuit.transient import open_circuit_v

__all__ = ["solve_all", "tabulated"]


def solve_all(
    rows: Rows,
    programmes: Programmes,
    cars: Cars,
    minutes: float,
    low_v: float,
    out: Answers,
    seen: Seen,
    first: int,
    last: int,
) -> None:
    """Fills in what cars of one layout come to, from the `first` up to before the `last`.

    minutes   of the mean load before the loudest moment
    low_v     where above 0, the clock runs until the front posts or those of a bank with an isolator are below it
    out       with room for each; `seen` too, or of no length
    """
    room = _room(rows, programmes)
    # A whole number of minutes is another type, for which all of it would be compiled once more.
    _compiled()(rows, programmes, cars, float(minutes), float(low_v), room, out, seen, first, last)


def tabulated(rows: Rows, programmes: Programmes, sounds: Ints) -> Floats:
    """What the amplifiers of some sounds take, (sounds, m, 4, TABLE_STEPS + 1), as `Rows.amps` has it."""
    out = np.empty((len(sounds), rows.sounds.shape[1], SILENCE, TABLE_STEPS + 1))
    _compiled_tables()(rows, programmes, sounds, out)
    return out


HOMES = (batch_arrays, batch_newton, batch_states, batch_wear, constant_load, transient)
"""What the loops are made of, besides the laws."""


@cache
def _compiled() -> Callable[..., str]:
    """The loop over cars, compiled; kept on disk until a file that it is made of changes."""
    digest = digest_of(*HOMES)

    def every(rows, programmes, cars, minutes, low_v, room, out, seen, first, last):  # type: ignore[no-untyped-def]
        table, played, all_cars, bench = borrowed(rows), borrowed(programmes), borrowed(cars), borrowed(room)
        for i in range(first, last):
            _one(table, played, all_cars, i, minutes, low_v, bench, out, seen)
        return digest

    compiled: Callable[..., str] = numba.njit(cache=True, nogil=True, error_model="numpy")(every)
    return compiled


@cache
def _compiled_tables() -> Callable[..., str]:
    """The loop over sounds, as `_compiled`."""
    digest = digest_of(*HOMES)

    def every(rows, programmes, sounds, out):  # type: ignore[no-untyped-def]
        for i in range(len(sounds)):
            tabulate(rows, programmes, sounds[i], out[i])
        return digest

    compiled: Callable[..., str] = numba.njit(cache=True, nogil=True, error_model="numpy")(every)
    return compiled


def _room(rows: Rows, programmes: Programmes) -> Room:
    """Room for any one of the cars."""
    n, m, banks, capacitors = len(rows.links), rows.sounds.shape[1], len(rows.bank_node), len(rows.capacitor_node)
    k = programmes.levels.shape[4]
    return Room(
        np.zeros(n, LINK),
        np.zeros(len(rows.charger_node), CHARGER),
        np.zeros(banks, BANK),
        np.zeros((banks, *rows.ocv.shape[1:])),
        np.zeros(capacitors, CAPACITOR),
        np.zeros(m, AMPLIFIER),
        np.zeros(banks, np.int64),
        np.zeros((LAST + 1, n)),
        np.zeros(LAST + 1),
        np.zeros((3, banks)),
        np.zeros((4, n)),
        np.zeros((2, banks)),
        np.zeros(m),
        np.zeros((2, m, k)),
        np.zeros((2, max(k, programmes.cells.shape[2]))),
        np.zeros(m),
        np.zeros(banks),
        np.zeros(banks, np.int64),
        np.zeros((LAST + 1, n)),
        np.zeros(LAST + 1),
        np.zeros(n),
        np.zeros(n),
    )


@jitable
def _one(
    rows: Rows,
    programmes: Programmes,
    cars: Cars,
    i: int,
    minutes: float,
    low_v: float,
    room: Room,
    out: Answers,
    seen: Seen,
) -> None:
    car = _car(rows, programmes, cars, i, room)
    status, drive = point(car, WHOLE, False)
    out.status[i] = status
    if status != SOLVED:
        return
    if len(seen.volts) > 0:
        _look(car, drive, i, seen)
    mean_w = _mean(car, drive, room.in_w)
    if _operates(car, drive):
        out.mean_w[i] = mean_w
    if (minutes > 0.0 or low_v > 0.0) and len(car.banks) > 0:
        _keep(car, room)
        told, out.minutes[i] = worn(car, room, minutes, low_v)
        if not told:
            out.status[i] = ASK
        if not told or low_v > 0.0:
            return
        for j in range(len(car.banks)):
            room.charge[j] = car.banks[j].charge
        car = _car(rows, programmes, cars, i, room)
        status, drive = point(car, WHOLE, _back_near(car, room))
        if status == ASK:
            out.status[i] = ASK
        if status != SOLVED:
            return
    if _operates(car, drive):
        out.front_v[i] = car.trail[LAST, 0]
        out.terminal_v[i], out.loudest_w[i] = _loudest(car)


@lean
def _look(car: Car, drive: float, i: int, seen: Seen) -> None:
    """Fills in what a meter finds in a car whose states are solved."""
    timing, last = car.programmes.timing[car.played], LAST
    parts = timing.parts
    quiet, loud = (row_of(QUIET), row_of(LOUD)) if parts == 2 else (0, 0)
    quiet_share = timing.quiet_share if parts == 2 else 0.0
    loud_share = 1.0 - quiet_share
    for k in range(len(car.links)):
        seen.volts[i, 0, k] = quiet_share * car.trail[quiet, k] + loud_share * car.trail[loud, k]
        seen.volts[i, 1, k] = car.trail[last, k]
        if k > 0:
            siemens, parent = car.links[k].siemens, car.links[k].parent
            seen.link_ohm[i, k] = 1.0 / siemens
            for at in range(2):
                seen.link_a[i, at, k] = siemens * (seen.volts[i, at, parent] - seen.volts[i, at, k])
    for j in range(len(car.chargers)):
        each = car.chargers[j]
        quiet_a, _ = laws.charger_current(each.set_v, each.ohm, each.limit_a, car.trail[quiet, each.node])
        loud_a, _ = laws.charger_current(each.set_v, each.ohm, each.limit_a, car.trail[loud, each.node])
        seen.charger_a[i, 0, j] = quiet_share * quiet_a + loud_share * loud_a
        seen.charger_a[i, 1, j], _ = laws.charger_current(
            each.set_v, each.ohm, each.limit_a, car.trail[last, each.node]
        )
    for j in range(len(car.banks)):
        seen.bank_a[i, 0, j] = quiet_share * car.bank_a[0, j] + loud_share * car.bank_a[parts - 1, j]
        seen.bank_a[i, 1, j] = car.bank_a[2, j]
    for j in range(len(car.amplifiers)):
        node = car.amplifiers[j].node
        for row, share in ((quiet, quiet_share), (loud, loud_share)):
            if share > 0.0:
                part = WHOLE if parts == 1 else QUIET if row == quiet else LOUD
                in_w, _ = car_watts(car, j, part, math.sqrt(car.drives[row]), car.trail[row, node])
                seen.drawn_a[i, 0, j] += share * in_w / car.trail[row, node]
        top = car.programmes.levels[car.played, WHOLE, j, 0, car.programmes.groups[car.played, WHOLE, j] - 1]
        in_w, _ = held_watts(car, j, top * math.sqrt(drive), car.trail[last, node])
        seen.drawn_a[i, 1, j] = in_w / car.trail[last, node]
        limit_v = laws.output_limit_v(law_of(car.amplifiers[j]), car.trail[last, node])
        seen.output_v[i, j] = min(top * math.sqrt(drive) * car.amplifiers[j].commanded_v, limit_v)


@lean
def _keep(car: Car, room: Room) -> None:
    """Keeps the states as they are, and how warm the cables."""
    for row in range(len(car.drives)):
        put(car.trail[row], room.near[row])
    put(car.drives, room.near_drives)
    for k in range(len(car.links)):
        room.near_square_a[k] = car.links[k].square_a


@lean
def _back_near(car: Car, room: Room) -> bool:
    """Gives a car the charge that the load has left; whether it stands near the states kept: not where it switches."""
    for j in range(len(car.banks)):
        car.banks[j].charge = room.charge[j]
    if switches(car):
        return False
    for row in range(len(car.drives)):
        put(room.near[row], car.trail[row])
    put(room.near_drives, car.drives)
    for k in range(len(car.links)):
        car.links[k].square_a = room.near_square_a[k]
    return True


@jitable
def _car(rows: Rows, programmes: Programmes, cars: Cars, i: int, room: Room) -> Car:
    """The records of one car, laid out in a room."""
    links, n = room.links, len(rows.links)
    for k in range(n):
        links[k] = rows.links[k]
        links[k].cold_ohm, links[k].rise_ohm = rows.wires[cars.wire[i, k], 0], rows.wires[cars.wire[i, k], 1]
    start_v = 0.0
    for j in range(len(rows.charger_node)):
        room.chargers[j] = rows.chargers[cars.charger[i, j]]
        room.chargers[j].node = rows.charger_node[j]
        start_v = max(start_v, room.chargers[j].set_v)
    banks, relays = 0, 0
    for place in range(len(rows.bank_node)):
        row = cars.bank[i, place]
        if row < 0:
            continue
        bank = room.banks[banks]
        room.banks[banks] = rows.banks[row]
        bank.node = rows.bank_node[place]
        room.ocv[banks] = rows.ocv[row]
        start_v = max(start_v, open_circuit_v(rows.ocv[row], bank.charge))
        banks += 1
        if bank.relay == 1 and rows.relay_link[place] >= 0:
            room.relays[relays] = rows.relay_link[place]
            links[room.relays[relays]].charging = rows.relay_charging[place]
            relays += 1
    capacitors = 0
    for place in range(len(rows.capacitor_node)):
        if cars.capacitor[i, place] >= 0:
            room.capacitors[capacitors] = rows.capacitors[cars.capacitor[i, place]]
            room.capacitors[capacitors].node = rows.capacitor_node[place]
            capacitors += 1
    for j in range(rows.sounds.shape[1]):
        room.amplifiers[j] = rows.sounds[cars.sound[i], j]
        node = room.amplifiers[j].node
        links[node].lowest_v = max(links[node].lowest_v, room.amplifiers[j].cutout_v)
    return Car(
        links,
        room.chargers,
        room.banks[:banks],
        room.ocv,
        room.capacitors[:capacitors],
        room.amplifiers,
        room.relays[:relays],
        programmes,
        rows.played[cars.sound[i]],
        _table(rows, cars.sound[i]),
        rows.feeds,
        rows.vehicle_a * cars.vehicle[i],
        rows.silence,
        start_v - 0.001,
        room.trail,
        room.drives,
        room.bank_a,
        room.scratch,
        room.bank_scratch,
        room.peak_a,
        room.drawn,
        room.cells,
    )


@jitable
def _table(rows: Rows, sound: int) -> Floats:
    at = rows.table[sound]
    return rows.amps[max(at, 0)] if at >= 0 else rows.amps[:0, 0]


@lean
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


@lean
def _mean(car: Car, drive: float, in_w: Floats) -> float:
    """Mean watts that reach all loads, each by what it is worth; fills in the mean watts in of each amplifier."""
    timing, out_w = car.programmes.timing[car.played], 0.0
    for j in range(len(car.amplifiers)):
        node = car.amplifiers[j].node
        if timing.parts == 1:
            in_w[j], given = car_watts(car, j, WHOLE, math.sqrt(drive), car.trail[0, node])
        else:
            quiet, loud = row_of(QUIET), row_of(LOUD)
            quiet_in, quiet_out = car_watts(car, j, QUIET, math.sqrt(car.drives[quiet]), car.trail[quiet, node])
            loud_in, loud_out = car_watts(car, j, LOUD, math.sqrt(car.drives[loud]), car.trail[loud, node])
            in_w[j] = timing.quiet_share * quiet_in + timing.loud_share * loud_in
            given = timing.quiet_share * quiet_out + timing.loud_share * loud_out
        out_w += given * car.amplifiers[j].load_share * car.amplifiers[j].heard
    return out_w


@lean
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
