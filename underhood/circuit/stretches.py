"""A car over time as the rest of the core asks for it: a programme in stretches, or a clock at a constant load.

Both begin in silence, cables as warm as the music made them, switches as silence leaves them. Left out: what a step
does (see `over_time`), and what comes of it for a person.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import compiled, over_time
from underhood.circuit import table as t
from underhood.circuit.batch import LEAST_W
from underhood.circuit.car import Car
from underhood.circuit.engine import Room
from underhood.circuit.over_time import CLOCK_STEP_S
from underhood.document.job import Engine

STEP_S = 0.0005
"""What a step takes as Python, about, in seconds [P]."""


class Stretch(NamedTuple):
    """What came of some steps, a row each: volts of the nodes, amps given by chargers, banks and capacitors, charge of
    the banks; watts in and out of the amplifiers, and out had the supply held what their gain was set at; heat of all
    cables; how often each amplifier fell below its cut-out."""

    volts: Floats
    charger_a: Floats
    bank_a: Floats
    capacitor_a: Floats
    charge: Floats
    in_w: Floats
    out_w: Floats
    held_w: Floats
    cable_w: Floats
    switched_off: Floats


class Start:
    """Where a car begins: in silence.

    car     as its programme was solved
    volts   of the nodes with nothing playing; the mean state's where silence cannot be solved
    """

    def __init__(self, car: Car) -> None:
        self.car = car
        self.silent = Car(car.circuit, car.engine, play=t.STILL, like=car)
        n = len(car.circuit.nodes)
        at = self.silent if self.silent.found else car
        self.volts: Floats = at.trail[0, t.VOLTS, :n].copy()
        self._states = at.states

    def room(self, engine: Engine, charge: float | None, flat_w: Sequence[float] | None) -> tuple[Room, Floats, Floats]:
        """(the car laid out in an engine state at its start, node volts, what it plays).

        charge   that all banks begin with; their own where none is given
        flat_w   constant watts that amplifiers take in place of a programme
        """
        car = self.car if engine == self.car.engine else Car(self.car.circuit, engine, like=self.car)
        room, layout = car.at_start(), car.layout
        st, links = room.st, room.links
        links[:] = self.car.links
        st[:] = 0.0
        for k in range(layout.elements):
            kind = room.el[k, t.KIND]
            if kind == t.BANK:
                st[k, t.CHARGE] = room.el[k, t.START_CHARGE] if charge is None else charge
                st[k, t.OUT] = max(self._states[k, t.OUT], self.car.states[k, t.OUT])
            elif kind in (t.CHARGER, t.RELAY):
                st[k, :2] = self._states[k, :2]
            elif kind == t.AMPLIFIER:
                st[k, t.COMMANDED_V] = self.car.states[k, t.COMMANDED_V]
                if flat_w is not None:
                    st[k, t.FLAT_W] = max(flat_w[int(room.el[k, t.ORDINAL])], LEAST_W)
        v = np.zeros(room.work.shape[1])
        v[: len(self.volts)] = self.volts
        levels = self.car.rows.sounds.all()[0][0]
        over_time.begin(
            compiled.newton(), room.el, st, links, room.nodes, levels, room.held, v, room.work
        )  # fmt: skip
        return room, v, levels


def stretches(start: Start, programme: Floats, per: int, steps: int, rows: int, dt_s: float) -> Iterator[Stretch]:
    """What becomes of a car while a programme plays, in stretches, so that an hour needs no more memory than a minute.

    programme   (t, amplifiers) levels that repeat, each of its rows held for `per` steps
    steps       how many there are in all; at most `rows` of them in one stretch
    dt_s        length of a step, s
    """
    yield from _run(start, start.room(start.car.engine, None, None), programme, per, steps, rows, dt_s)


def clock(
    start: Start, engine: Engine, seconds: float, flat_w: Sequence[float] | None = None, charge: float | None = None
) -> Stretch:
    """A long time at a constant load in steps of ten seconds.

    flat_w   mean watts of each amplifier; silence where none are given
    charge   that all banks begin with; their own where none is given
    """
    m, steps = len(start.car.circuit.loaded), round(seconds / CLOCK_STEP_S)
    room = start.room(engine, charge, [0.0] * m if flat_w is None else flat_w)
    (whole,) = _run(start, room, np.ones((1, m)), 1, steps, steps, CLOCK_STEP_S)
    return whole


def _run(
    start: Start, at: tuple[Room, Floats, Floats], programme: Floats, per: int, steps: int, rows: int, dt_s: float
) -> Iterator[Stretch]:
    (room, v, levels), layout, circuit = at, start.car.layout, start.car.circuit
    compiled.prepare_for(steps * STEP_S)
    set_at_v = np.array([each.set_at_v for each in circuit.loaded], float)
    played = np.ascontiguousarray(programme, float)
    n, m = len(circuit.nodes), layout.amplifiers
    amplifiers = slice(layout.first_amplifier, layout.first_relay)
    for first in range(0, steps, rows):
        count = min(rows, steps - first)
        width = room.work.shape[1]
        volts, amps = np.zeros((count, width)), np.zeros((count, width))
        charge, watts, cable_w = np.zeros((count, layout.elements)), np.zeros((count, m, 3)), np.zeros(count)
        before = room.st[amplifiers, t.TIMES_OFF].copy()
        compiled.run(
            room.el, room.st, room.links, room.nodes, levels, room.held, played, per, first, float(dt_s), set_at_v, v,
            volts, amps, charge, watts, cable_w, room.work,
        )  # fmt: skip
        yield Stretch(
            volts[:, :n],
            amps[:, : layout.chargers],
            amps[:, layout.first_bank : layout.first_capacitor],
            amps[:, layout.first_capacitor : layout.load],
            charge[:, layout.first_bank : layout.first_capacitor],
            watts[:, :, 0],
            watts[:, :, 1],
            watts[:, :, 2],
            cable_w,
            room.st[amplifiers, t.TIMES_OFF] - before,
        )
