"""A circuit as arrays for compiled loops: its tree from the root, its sources and loads by number.

Left out: how they come out of a job (see `transient_parts`), and what is solved on them (see `transient` and `batch`).
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from underhood.arrays import Floats, Ints

__all__ = ["NO_CAPACITORS", "Amplifiers", "Banks", "Capacitors", "Chargers", "CircuitArrays", "Network"]


class Network(NamedTuple):
    """A tree with node 0 as its root, (n,) each: a node's parent, siemens of the link to it, constant amps drawn.

    Nodes are ordered so that a parent comes before its children.
    charging   node on the charging side of the relay in the link to the parent; -1 where there is none
    closed     1 where that relay is closed at the start
    diode_v    volts that a diode in the link to the parent takes: above 0 it passes from the parent, below 0 to it
    """

    parent: Ints
    siemens: Floats
    drawn_a: Floats
    charging: Ints
    closed: Ints
    diode_v: Floats


class Chargers(NamedTuple):
    """Regulated sources: node, volts, ohms behind them, and the most amps; (m,) each.

    input_node   the node that a converter takes its power from, over its efficiency; -1 for none
    idle_w       what it takes besides; it stops below `cutout_v` there and starts again at `restart_v`
    stopped      1 where it has, at the start
    """

    node: Ints
    set_v: Floats
    ohm: Floats
    limit_a: Floats
    input_node: Ints
    efficiency: Floats
    idle_w: Floats
    cutout_v: Floats
    restart_v: Floats
    stopped: Ints


class Banks(NamedTuple):
    """Battery banks, (m,) each but the tables; charge, polarisation and what was drawn lately are those of the start.

    twenty_hour_a         amps of the 20-hour rate, above which Peukert's exponent counts
    r1_charge_ohm         of both branches, fixed where above 0; else it follows from the acceptance
    fast_f, slow_f        farads of the branches, `fast_v` and `slow_v` their volts
    acceptance            (m, 4): what `laws.accepted_a` wants
    ocv                   (m, 2, k): open-circuit volts over charge
    lately                share of the capacity drawn lately
    limits_a              (m, 3): most amps of charge, of discharge for good, and for moments; beyond them it drops out
    dropped               1 where it has, at the start
    """

    node: Ints
    r0_ohm: Floats
    r1_discharge_ohm: Floats
    r1_charge_ohm: Floats
    fast_f: Floats
    slow_f: Floats
    capacity_as: Floats
    twenty_hour_a: Floats
    peukert: Floats
    absorption_v: Floats
    acceptance: Floats
    ocv: Floats
    charge: Floats
    fast_v: Floats
    slow_v: Floats
    lately: Floats
    limits_a: Floats
    dropped: Ints


class Capacitors(NamedTuple):
    """Capacitor banks: node, farads, ohms, volts at the start; (m,) each."""

    node: Ints
    farad: Floats
    esr_ohm: Floats
    volts: Floats


class Amplifiers(NamedTuple):
    """Amplifiers, (m,) each; ohms, power factor and volts are those of one channel.

    commanded_v     what is asked for at level 1; `reference_v` is what a 14.4 V supply allows
    set_at_v        the supply that its gain was set at
    linear          1 for class A, AB and B; `idle_a`, `linear_v`, `quadratic_ohm` as in `InputLaw`
    flat_w          above 0: a constant power taken in place of a programme
    """

    node: Ints
    commanded_v: Floats
    set_at_v: Floats
    reference_v: Floats
    ohm: Floats
    power_factor: Floats
    channels: Floats
    exponent: Floats
    dropout_v: Floats
    cutout_v: Floats
    idle_a: Floats
    linear_v: Floats
    quadratic_ohm: Floats
    linear: Ints
    flat_w: Floats


class CircuitArrays(NamedTuple):
    """All of a circuit, with the node volts (n,) that it starts from."""

    network: Network
    chargers: Chargers
    banks: Banks
    capacitors: Capacitors
    amplifiers: Amplifiers
    start_v: Floats


NO_CAPACITORS = Capacitors(np.empty(0, np.int64), np.empty(0), np.empty(0), np.empty(0))
