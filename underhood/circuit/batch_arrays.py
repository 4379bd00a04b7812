"""What many circuits of one layout are made of, as records that a compiled loop takes.

Left out: how they come out of jobs (see `batch_rows`), and what is solved on them (see `batch`).
"""

from __future__ import annotations

from typing import Any, NamedTuple, TypeAlias

import numpy as np

from underhood.arrays import Floats, Ints

__all__ = [
    "AMPLIFIER",
    "BANK",
    "CAPACITOR",
    "CHARGER",
    "LINK",
    "TABLE_STEPS",
    "TABLE_V",
    "TIMING",
    "Answers",
    "Cars",
    "Programmes",
    "Records",
    "Room",
    "Rows",
    "Seen",
]

Records: TypeAlias = Any
"""An array of records, or one of them; a type checker does not know its fields."""


def _record(integers: str, floats: str) -> np.dtype[np.void]:
    """A record of named numbers of eight bytes each."""
    return np.dtype([(name, np.int64) for name in integers.split()] + [(name, np.float64) for name in floats.split()])


LINK = _record("parent charging closed", "cold_ohm rise_ohm siemens square_a lowest_v miss slope pivot step")
"""A node with the cable that leads to it: ohms cold and per ampere squared, the relay in it (-1 for none), what it
carries squared, the cut-out of an amplifier there; then amps that do not balance, and Newton's equations."""
CHARGER = _record("node", "set_v ohm limit_a")
"""As in `circuit_arrays.Chargers`."""
BANK = _record(
    "node dropped relay",
    "r0_ohm r1_discharge_ohm r1_charge_ohm fast_f slow_f capacity_as twenty_hour_a peukert absorption_v full rise most "
    "memory charge charge_limit_a steady_limit_a peak_limit_a ocv_v charging_ohm fast_v slow_v",
)
"""As in `circuit_arrays.Banks`; `relay` 1 where its isolator is one. The last four change while it is solved."""
CAPACITOR = _record("node", "farad esr_ohm volts")
"""As in `circuit_arrays.Capacitors`."""
AMPLIFIER = _record(
    "node linear",
    "commanded_v set_at_v reference_v ohm power_factor channels exponent dropout_v cutout_v idle_a linear_v "
    "quadratic_ohm peak load_share heard",
)
"""As in `circuit_arrays.Amplifiers`; `peak` its level at the loudest moment of all, `load_share` of its watts out that
reach the load, `heard` what one of those is worth in the mean."""
TIMING = _record("parts", "quiet_share loud_share quiet_s loud_s peak_s")
"""Of a programme: 1 or 2 parts, shares of the time, how long they last, and the loudest stretch."""

TABLE_V, TABLE_STEPS = (7.0, 17.0), 1000
"""Between which volts the amps of amplifiers are tabulated, and in how many steps; linear between them, which is good
to a tenth of a millivolt (every level of a programme is a kink; smoother interpolation would be worse)."""


class Programmes(NamedTuple):
    """What amplifiers play together, a row a programme (p,); m amplifiers, k levels and c cells at most.

    timing     (p,) records
    levels     (p, 3, m, 5, k + 1) of all of it, quiet and loud: levels rising, their shares of the time, and the
               running sums (from nothing) of share, share × level, share × level²; `groups` (p, 3, m) how many
    cells      (p, 2, c): shares of a part's time, `in_cells` (p, 2, m, c, k), `cell_count` (p, 2)
    """

    timing: Records
    levels: Floats
    groups: Ints
    cells: Floats
    in_cells: Floats
    cell_count: Ints


class Rows(NamedTuple):
    """The rows that cars are made of; of all cars alike are tree and places.

    links             (n,) records, the root first, without what a cable is
    bank_node, capacitor_node   of each place that may hold one
    relay_link, relay_charging   of each place of a bank the node beyond its last cable towards the charger, and the
                      node on the other side; -1 where there is none
    wires             (w, 2): ohms cold, and per ampere squared
    chargers          (r,) records, without their node; `charger_node` of each place
    banks             (r,) records; `ocv` (r, 2, k)
    sounds            (s, m) records; `played` (s,) a row of the programmes
    amps              (t, m, 4, TABLE_STEPS + 1): what amplifiers take at volts of `TABLE_V`, for each part of what is
                      played (see `batch_newton`); `table` (s,) its row, -1 for a sound that has none
    feeds             (n, m): 1 where a link leads to an amplifier
    vehicle_a         drawn at the root; `silence` the level of a quiet car
    """

    links: Records
    bank_node: Ints
    capacitor_node: Ints
    charger_node: Ints
    relay_link: Ints
    relay_charging: Ints
    wires: Floats
    chargers: Records
    banks: Records
    ocv: Floats
    capacitors: Records
    sounds: Records
    played: Ints
    amps: Floats
    table: Ints
    feeds: Ints
    vehicle_a: float
    silence: float


class Cars(NamedTuple):
    """Which rows each car is made of, (c, …): -1 where a place of a bank or a capacitor is empty.

    vehicle   (c,) share of `Rows.vehicle_a` that it takes
    """

    wire: Ints
    charger: Ints
    bank: Ints
    capacitor: Ints
    sound: Ints
    vehicle: Floats


class Room(NamedTuple):
    """Room that one car after the other is solved in, so that nothing is made and thrown away for each.

    links … cells   as in `batch_newton.Car`, of the most banks and capacitors
    in_w      (m,) mean watts into each amplifier; `charge` and `dropped` of each bank after the load
    near      states to begin from: volts as `trail`, `near_drives`, and the cables' `near_square_a`
    siemens   (n,) of the cables as warm as the music makes them
    """

    links: Records
    chargers: Records
    banks: Records
    ocv: Floats
    capacitors: Records
    amplifiers: Records
    relays: Ints
    trail: Floats
    drives: Floats
    bank_a: Floats
    scratch: Floats
    bank_scratch: Floats
    peak_a: Floats
    drawn: Floats
    cells: Floats
    in_w: Floats
    charge: Floats
    dropped: Ints
    near: Floats
    near_drives: Floats
    near_square_a: Floats
    siemens: Floats


class Answers(NamedTuple):
    """Of each car, (c,): how it came out; what it does at the start; then, of the car as the load has left it.

    status       `batch_states.SOLVED`, or one that only `solver` answers
    mean_w       delivered over the programme, each watt by what it is worth; nan where the car does not hold it
    terminal_v   lowest of all amplifiers at the loudest moment, `front_v` at the front posts, `loudest_w` delivered
    minutes      until a battery is at the low line
    """

    status: Ints
    mean_w: Floats
    terminal_v: Floats
    front_v: Floats
    loudest_w: Floats
    minutes: Floats


class Seen(NamedTuple):
    """What a meter would find in each car: the mean over what is played, and the loudest moment, (c, 2, …).

    volts       of each ordered node to its own ground, `link_a` outward through the cable that leads to it
    link_ohm    (c, n) of those cables, as warm as they are
    charger_a   of each charger, `bank_a` of each bank (positive on discharge)
    drawn_a     of each amplifier; at the loudest moment at its own loudest
    output_v    (c, m) of one channel at its loudest

    Of no length where nobody looks.
    """

    volts: Floats
    link_a: Floats
    link_ohm: Floats
    charger_a: Floats
    bank_a: Floats
    drawn_a: Floats
    output_v: Floats
