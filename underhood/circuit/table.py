"""What a circuit is to the engine: rows of numbers, with a name for each column.

An element (charger, bank, capacitor, load, amplifier, an isolator's relay) is a row of `ELEMENT_COLUMNS` numbers that
hold still and a row of `STATE_COLUMNS` that move; a cable is a row of `LINK_COLUMNS`. Left out: how they come out of a
job (see `rows`), and what is solved on them (see `kernel`).

Volts, amps, ohms, farads, watts, seconds; amps are positive where they are given to a node.
"""

from __future__ import annotations

KIND, NODE = 0, 1
"""Of every element: what it is, and the node it sits at."""
ABSENT, CHARGER, BANK, CAPACITOR, LOAD, AMPLIFIER, RELAY = -1, 0, 1, 2, 3, 4, 5

SET_V, SOURCE_OHM, LIMIT_A, INPUT, EFFICIENCY, IDLE_W, INPUT_LIMIT_A, CUTOUT_V, RESTART_V = range(2, 11)
"""Of a charger: regulated volts behind ohms, the most amps; of a converter the circuit feeds also its input's node (-1
for none), watts out over watts in, what it takes besides, the most amps it takes, where it stops and starts again."""

R0_OHM, R1_DISCHARGE_OHM, R1_CHARGE_OHM, FAST_F, SLOW_F, CAPACITY_AS, TWENTY_HOUR_A, PEUKERT, ABSORPTION_V = range(
    2, 11
)
FULL, RISE, MOST, MEMORY, CHARGE_LIMIT_A, STEADY_LIMIT_A, PEAK_LIMIT_A, START_CHARGE, APART = range(11, 20)
OCV_CHARGE, OCV_VOLTS, OCV_POINTS = 20, 28, 8
"""Of a bank: as `battery.model` has it; acceptance as `laws.accepted_a` wants it; most amps of charge, of discharge for
good and for moments; the charge it starts with, whether an isolator sets it apart; then its table of
open-circuit volts over charge, filled up with its last point. `R1_CHARGE_OHM` 0 where the acceptance rules."""

FARAD, ESR_OHM = 2, 3
"""Of a capacitor bank."""

LOAD_A = 2
"""Of what the vehicle takes: amps now."""

(
    ORDINAL,
    REFERENCE_V,
    LOAD_OHM,
    POWER_FACTOR,
    CHANNELS,
    EXPONENT,
    DROPOUT_V,
    OFF_BELOW_V,
    IDLE_A,
    LINEAR_V,
    QUADRATIC_OHM,
    LINEAR,
    PEAK_LEVEL,
    LOAD_SHARE,
    HEARD,
    FULL_SHARE,
    SUPPLY_SCALE,
) = range(2, 19)
"""Of an amplifier: its place among them; its law (see `laws.AmplifierLaw`); volts below which it switches off; its
level at the loudest moment of all, the share of its watts that reaches the load, what one of these is worth where
watts are compared; the share of its full-scale volts that level 1 commands, its system volts over 12."""

SENSE, JOINS_V, OPENS_V = 2, 3, 4
"""Of an isolator's relay: the node on its charging side, and the volts there at which it joins and opens."""
ELEMENT_COLUMNS = 36

OCV_V, CHARGING_OHM, FAST_V, SLOW_V, CHARGE, LATELY, OUT, OUT_A, MINUTE_A, RECENT_A = range(10)
"""State of a bank: open-circuit volts and charging ohms at its charge, volts of its branches, charge, share drawn
lately; the limit that took it off (0 for none) and the amps that did; mean amps of a minute and of a few seconds."""
HELD_V = 0
"""Of a capacitor bank."""
STOPPED = 0
"""Of a converter: 1 below its cut-out, until it restarts."""
COMMANDED_V, FLAT_W, OFF, OFF_UNTIL_S, TIMES_OFF = range(5)
"""Of an amplifier: volts of a channel at level 1; above 0 a constant power in place of a programme; 1 while it has
switched itself off, until when, how often it did."""
CLOSED, WANTING_S = 0, 1
"""Of a relay: 1 joined; for how long it has wanted to move."""
RESTLESS = 10
"""Of a relay or converter: 1 where it finds no rest."""
STATE_COLUMNS = 11

START, END, COLD_OHM, RISE_OHM, DIODE_V, SWITCH, SWITCH_2, GROUP, SIEMENS, SQUARE_A = range(10)
"""Of a cable: its nodes (`START` -1 where it is not there), ohms cold and per ampere squared, volts of a diode in it
(above 0 it passes from start to end, below 0 the other way), the relays in it (-1 for none), which group of amplifiers
its amps follow; then siemens as warm as it is, and the mean of its squared amps."""
LINK_COLUMNS = 10

LOWEST_V, SOURCE_V, PER_12 = range(3)
"""Of a node: volts below which an amplifier there has switched off; the highest volts of a source that feeds it (0: it
is dead); nominal volts of its part over 12."""
NODE_COLUMNS = 3

PARTS, QUIET_SHARE, LOUD_SHARE, QUIET_S, LOUD_S, PEAK_S = range(6)
"""Timing of a programme: one part or two, shares of the time, how long they last, the loudest stretch."""
LEVEL, SHARE, BELOW = 0, 1, 2
"""Of a part of a programme: levels rising, their shares of the time, and from here running sums (from nothing) of
share, share × level, share × level²."""
WHOLE, QUIET, LOUD, HELD, PEAK, STILL = 0, 1, 2, 3, 4, 5
"""What amplifiers play: all of it, its two parts; held by each: some level, that of the loudest moment of all, none."""
HELD_ROWS = 3

CYCLES, PEAK_STEPS = 2, 2
"""Cycles of loud and quiet that are solved, and steps to the loudest moment [P]."""
LAST_LOUD, LAST_QUIET, LAST = 2 * CYCLES - 1, 2 * CYCLES, 2 * CYCLES + PEAK_STEPS
"""Rows of a trail of states: the settled one, loud and quiet of each cycle, then the loudest moment in its last row."""

VOLTS, AMPS, FLOWS, SHARE_HELD = 0, 1, 2, 3
"""Of a state in a trail: of each node, each element, each cable; and of the programme's power, in its first place."""
TRAIL_KINDS = 4

STATUS, DRIVE, MEAN_W, TERMINAL_V, FRONT_V, LOUDEST_W, MINUTES = range(7)
ANSWER_COLUMNS = 7
NOTHING, SOLVED = 0, 1
"""What a car comes to: no state at all, or one that was found; the share of the programme's power that it holds; mean
watts delivered, each by what it is worth; then, as the load has left it, the lowest volts of all amplifiers, those of
the front posts and the watts delivered at the loudest moment; minutes until a battery is low."""
IN_W, OUT_W, LOUDEST_A, LOUDEST_V, DRAWN_A, LOW_V, REACHES_W = range(7)
GIVEN_COLUMNS = 7
"""Of each amplifier of a car: mean watts in and out, amps and volts of a channel at its own loudest, mean amps, volts
and watts that reach its load at the loudest moment."""
