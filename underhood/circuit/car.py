"""One circuit as the engine solved it: its arrays in the state that it came to, to go on from.

Left out: what they mean (see `operating_point`), and many cars at once (see `engine`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property
from itertools import product

import numpy as np

from underhood.arrays import Floats, Ints
from underhood.circuit import compiled, gain, states, switching
from underhood.circuit import table as t
from underhood.circuit.build import Circuit
from underhood.circuit.engine import Answers, Room, solve
from underhood.circuit.kernel import MOST_STEPS, STABLE, solved
from underhood.circuit.rows import Layout, Picks, Rows
from underhood.document.job import Engine

SAME_V = 0.01
"""Nearer than this two states are one."""
MOST_SWITCHES = 6
"""Of which every position is tried."""


@dataclass(frozen=True)
class Car:
    """A circuit in one engine state, solved.

    minutes   of the mean load that has worn its batteries
    play      the programme, or `table.STILL` for silence
    like      the same circuit in another state, whose rows it shares
    """

    circuit: Circuit
    engine: Engine
    minutes: float = 0.0
    play: int = t.WHOLE
    like: Car | None = field(default=None, repr=False, compare=False)

    @cached_property
    def layout(self) -> Layout:
        """Its places."""
        return self.like.layout if self.like else Layout.of(self.circuit)

    @cached_property
    def rows(self) -> Rows:
        """Its rows, which `picks` names."""
        if self.like:
            return Rows(self.layout, self.engine, self.like.rows.sounds, kept=self.like.rows)
        return Rows(self.layout, self.engine)

    @cached_property
    def _picks(self) -> Picks:
        silent = np.zeros(len(self.circuit.loaded))
        picks = self.rows.picks(self.circuit, silent, like=self.like._picks if self.like else None)
        volts = gain.full_scale(self.circuit, self.rows, picks).volts
        return picks._replace(full_scale_v=volts[np.newaxis])

    @cached_property
    def _answers(self) -> Answers:
        return solve(self.rows, self._picks, minutes=self.minutes, looked_at=True, play=self.play)

    @property
    def found(self) -> bool:
        """Whether it has a state at all."""
        return bool(self._answers.found[0])

    @property
    def drive(self) -> float:
        """The share of the programme's power that it holds."""
        return float(self._answers.values[0, t.DRIVE])

    @property
    def trail(self) -> Floats:
        """Its states, a row each (see `table.LAST`)."""
        return np.asarray(self._answers.trails[0])

    @property
    def states(self) -> Floats:
        """The state of its elements, a row each."""
        return np.asarray(self._answers.states[0])

    @property
    def links(self) -> Floats:
        """Its cables, as warm as they are."""
        return np.asarray(self._answers.warm[0])

    @property
    def given(self) -> Floats:
        """What each amplifier takes and gives (see `table.IN_W`)."""
        return np.asarray(self._answers.given[0])

    @property
    def commanded_v(self) -> Floats:
        """RMS volts that level 1 of what it plays commands of a channel of each amplifier, (amplifiers,)."""
        amplifiers = slice(self.layout.first_amplifier, self.layout.first_relay)
        return np.asarray(self.states[amplifiers, t.COMMANDED_V])

    def at_start(self) -> Room:
        """Room with the car laid out in it, not solved."""
        picks = self._picks
        levels, _, inside = self.rows.sounds.all()
        return Room(self.layout, levels, inside).with_rows(self.rows, picks)

    def room(self) -> Room:
        """Room with the car laid out in it as it is: rows, states, warmth; node volts are those of its trail."""
        room = self.at_start()
        room.st[:], room.links[:] = self.states, self.links
        switching.lay(room.st, room.links)
        switching.enliven(room.el, room.st, room.links, room.nodes)
        return room

    def second_state(self) -> Floats | None:
        """Node volts of another stable state of the same car, looked for from the highest cut-out upwards; None for
        none."""
        room, levels = self.room(), self.rows.sounds.all()[0][0]
        states.begin_settled(room.el, room.st)
        n = len(room.nodes)
        cutout = float(room.nodes[:, t.LOWEST_V].max(initial=0.0))
        here = self.trail[0, t.VOLTS, :n]
        if float(here.max()) <= cutout:
            return None
        v = np.zeros(room.work.shape[1])
        v[:n] = np.where(room.nodes[:, t.SOURCE_V] > 0.0, max(cutout, 1.0), 0.0)
        ended = compiled.newton()(
            room.el, room.st, room.links, room.nodes, levels, room.held, t.WHOLE, math.sqrt(self.drive), math.inf, v,
            room.work, MOST_STEPS,
        )  # fmt: skip
        found = v[:n]
        if ended != STABLE or np.abs(found - here).max() < SAME_V or found.min() < cutout:
            return None
        return found

    def stands_otherwise(self) -> frozenset[int]:
        """Elements (relays, converters that the circuit feeds) that stand the other way in another position in which
        all rest as well: each stays so if it was so before. Empty where it finds no rest, or has too many to try."""
        el = self.at_start().el
        fed = (el[:, t.KIND] == t.CHARGER) & (el[:, t.INPUT] >= 0.0)
        switches = np.flatnonzero(fed | (el[:, t.KIND] == t.RELAY))
        column = np.where(fed[switches], t.STOPPED, t.CLOSED)
        here = self.states[switches, column]
        if len(switches) > MOST_SWITCHES or self.states[switches, t.RESTLESS].any():
            return frozenset()
        found: set[int] = set()
        for position in product((0.0, 1.0), repeat=len(switches)):
            if here.tolist() != list(position) and self._rests(switches, column, position):
                found |= {int(k) for k, was, now in zip(switches, here, position, strict=True) if was != now}
        return frozenset(found)

    def _rests(self, switches: Ints, column: Ints, position: tuple[float, ...]) -> bool:
        """Whether none of its switches wants to move where they are put in a position, playing all of it."""
        room, levels = self.room(), self.rows.sounds.all()[0][0]
        room.st[switches, column] = position
        states.begin_settled(room.el, room.st)
        switching.lay(room.st, room.links)
        alive = switching.enliven(room.el, room.st, room.links, room.nodes)
        if not alive or room.st[switches, column].tolist() != list(position):
            return False
        v = np.zeros(room.work.shape[1])
        drive = solved(
            compiled.newton(), room.el, room.st, room.links, room.nodes, levels, room.held, self.play, math.inf, False,
            v, room.work,
        )  # fmt: skip
        return drive >= 0.0 and not any(switching.wants_to_move(room.el, room.st, k, v) for k in switches.tolist())
