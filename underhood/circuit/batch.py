"""What many cars of one layout come to: a loop over rows, each car's own put together from those that it is made of.

A car is solved (see `states`); where minutes are asked for the mean load then wears its batteries, and the loudest
moment is solved from what is left; or a clock runs until a battery is low. Left out: which rows a car is made of (see
`rows`).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TypeAlias

from underhood.arrays import Floats, Ints
from underhood.circuit import table as t
from underhood.circuit.kernel import Newton, amplifier_watts, held_watts, output_limit_v, put
from underhood.circuit.over_time import begin, minutes_to_low, run_down
from underhood.circuit.states import MOST_POSITIONS, Point
from underhood.circuit.switching import has_switches

Worn: TypeAlias = Callable[..., bool]
"""`worn`, handed on likewise (see `kernel.Newton`)."""

LEAST_W = 1e-3
WARMTH, FORMER = MOST_POSITIONS + 1, MOST_POSITIONS + 2
"""Rows of what is kept while the load runs: warmth of cables, and what dropped out before."""


def laid_out(
    rows: Floats, link_rows: Floats, pick: Ints, link_pick: Ints, full_scale_v: Floats, el: Floats, st: Floats,
    links: Floats, nodes: Floats, held: Floats,
) -> None:  # fmt: skip
    """Puts one car's rows in place, its state at the start.

    pick, link_pick   which rows its elements and its cables are, -1 for none
    full_scale_v      what full scale asks of a channel of each amplifier
    """
    for i in range(len(nodes)):
        nodes[i, t.LOWEST_V] = 0.0
    for k in range(len(el)):
        for c in range(st.shape[1]):
            st[k, c] = 0.0
        if pick[k] < 0:
            el[k, t.KIND] = t.ABSENT
            continue
        put(rows[pick[k]], el[k])
        if el[k, t.KIND] == t.BANK:
            st[k, t.CHARGE] = el[k, t.START_CHARGE]
        elif el[k, t.KIND] == t.AMPLIFIER:
            i, j = int(el[k, t.NODE]), int(el[k, t.ORDINAL])
            nodes[i, t.LOWEST_V] = max(nodes[i, t.LOWEST_V], el[k, t.OFF_BELOW_V])
            st[k, t.COMMANDED_V] = el[k, t.FULL_SHARE] * full_scale_v[j]
            held[0, j], held[1, j], held[2, j] = 1.0, el[k, t.PEAK_LEVEL], 0.0
    for k in range(len(links)):
        if link_pick[k] < 0:
            links[k, t.START] = -1.0
        else:
            put(link_rows[link_pick[k]], links[k])


def given_over(
    el: Floats,
    st: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    timing: Floats,
    drive: float,
    trail: Floats,
    given: Floats,
) -> None:
    """Fills in what each amplifier takes and gives over the programme, and at its own loudest (see `table.IN_W`)."""
    for k in range(len(el)):
        if el[k, t.KIND] != t.AMPLIFIER:
            continue
        j, i = int(el[k, t.ORDINAL]), int(el[k, t.NODE])
        if timing[t.PARTS] == 1.0 or play != t.WHOLE:
            volts = trail[0, t.VOLTS, i]
            in_w, out_w = amplifier_watts(el, st, levels, held, k, play, math.sqrt(drive), volts)
            drawn_a = in_w / volts
        else:
            in_w, out_w, drawn_a = 0.0, 0.0, 0.0
            for part, row in ((t.QUIET, t.LAST_QUIET), (t.LOUD, t.LAST_LOUD)):
                volts, share = trail[row, t.VOLTS, i], math.sqrt(trail[row, t.SHARE_HELD, 0])
                weight = timing[t.QUIET_SHARE] if part == t.QUIET else timing[t.LOUD_SHARE]
                taken, out = amplifier_watts(el, st, levels, held, k, part, share, volts)
                in_w, out_w, drawn_a = in_w + weight * taken, out_w + weight * out, drawn_a + weight * taken / volts
        at_peak, top = trail[t.LAST, t.VOLTS, i], levels[t.WHOLE, j, t.LEVEL, levels.shape[3] - 1] * math.sqrt(drive)
        given[j, t.IN_W], given[j, t.OUT_W], given[j, t.DRAWN_A] = in_w, out_w, drawn_a
        loudest_in_w, loudest_out_w = held_watts(el, st, k, top, at_peak)
        given[j, t.LOUDEST_A], given[j, t.REACHES_W] = loudest_in_w / at_peak, loudest_out_w * el[k, t.LOAD_SHARE]
        given[j, t.LOW_V] = at_peak
        given[j, t.LOUDEST_V] = min(top * st[k, t.COMMANDED_V], output_limit_v(el, k, at_peak))


def _operates(el: Floats, timing: Floats, drive: float, trail: Floats) -> bool:
    """Whether the car holds the programme, no amplifier below its cut-out."""
    if drive < 1.0:
        return False
    for k in range(len(el)):
        if el[k, t.KIND] == t.AMPLIFIER:
            i = int(el[k, t.NODE])
            mean_v = trail[0, t.VOLTS, i]
            if timing[t.PARTS] == 2.0:
                quiet_v, loud_v = trail[t.LAST_QUIET, t.VOLTS, i], trail[t.LAST_LOUD, t.VOLTS, i]
                mean_v = timing[t.QUIET_SHARE] * quiet_v + timing[t.LOUD_SHARE] * loud_v
            if min(mean_v, trail[t.LAST, t.VOLTS, i]) < el[k, t.OFF_BELOW_V]:
                return False
    return True


def _loudest(trail: Floats, given: Floats, answers: Floats) -> None:
    """Fills in the lowest volts of all amplifiers and the watts that reach all loads, each at its own loudest."""
    lowest, out_w = math.inf, 0.0
    for j in range(len(given)):
        lowest = min(lowest, given[j, t.LOW_V])
        out_w += given[j, t.REACHES_W]
    answers[t.TERMINAL_V], answers[t.FRONT_V], answers[t.LOUDEST_W] = lowest, trail[t.LAST, t.VOLTS, 0], out_w


def every_car(
    newton: Newton,
    point: Point,
    worn: Worn,
    rows: Floats,
    link_rows: Floats,
    pick: Ints,
    link_pick: Ints,
    full_scale_v: Floats,
    all_levels: Floats,
    all_timing: Floats,
    all_inside: Floats,
    sound: Ints,
    groups: Floats,
    minutes: float,
    low_v: float,
    play: int,
    first: int,
    last: int,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    held: Floats,
    trail: Floats,
    drawn: Floats,
    memory: Floats,
    work: Floats,
    answers: Floats,
    given: Floats,
    trails: Floats,
    states: Floats,
    warm: Floats,
) -> None:
    """Fills in what cars come to, from the `first` up to before the `last`.

    point, worn       `states.point` and `worn`
    pick, link_pick   (cars, …) rows of each; `sound` the row of what it plays
    full_scale_v      (cars, amplifiers) of a channel
    minutes           of the mean load before the loudest moment
    low_v             where above 0, the clock runs until a battery's posts are below it, for each 12 V of their part
    play              `table.WHOLE`, or `table.STILL` for silence
    answers, given    (cars, …); see `table.STATUS` and `table.IN_W`
    trails, states, warm   trail, states of the elements and cables of each, or of no length where nobody looks
    """
    for car in range(first, last):
        levels, timing, inside = all_levels[sound[car]], all_timing[sound[car]], all_inside[sound[car]]
        laid_out(rows, link_rows, pick[car], link_pick[car], full_scale_v[car], el, st, links, nodes, held)
        wears, near = minutes > 0.0 or low_v > 0.0, False
        for stage in range(3):
            playing = t.STILL if stage == 1 else play
            drive = point(
                newton, el, st, links, nodes, levels, held, playing, timing, inside, groups, near, trail, drawn, memory,
                work,
            )  # fmt: skip
            if stage == 1:
                near = worn(
                    newton, el, st, links, nodes, levels, held, drive, minutes, low_v, trail, memory, work, given[car],
                    answers[car],
                )  # fmt: skip
                if low_v > 0.0:
                    break
                continue
            _tell(el, st, levels, held, play, timing, drive, stage == 0, trail, given[car], answers[car])
            if drive < 0.0 or not wears or stage == 2:
                break
            _keep(el, st, links, trail, memory)
        if len(trails) > 0:
            for row in range(t.LAST + 1):
                for kind in range(trail.shape[1]):
                    put(trail[row, kind], trails[car, row, kind])
            for k in range(len(el)):
                put(st[k], states[car, k])
            for k in range(len(links)):
                put(links[k], warm[car, k])


def _tell(
    el: Floats,
    st: Floats,
    levels: Floats,
    held: Floats,
    play: int,
    timing: Floats,
    drive: float,
    at_start: bool,
    trail: Floats,
    given: Floats,
    answers: Floats,
) -> None:
    """Fills in what a car comes to; its mean watts are those that it has at the start."""
    answers[t.STATUS], answers[t.DRIVE] = t.SOLVED if drive >= 0.0 else t.NOTHING, max(drive, 0.0)
    operates = False
    if drive >= 0.0:
        given_over(el, st, levels, held, play, timing, drive, trail, given)
        operates = play == t.WHOLE and _operates(el, timing, drive, trail)
    if operates and at_start:
        answers[t.MEAN_W] = 0.0
        for k in range(len(el)):
            if el[k, t.KIND] == t.AMPLIFIER:
                answers[t.MEAN_W] += given[int(el[k, t.ORDINAL]), t.OUT_W] * el[k, t.LOAD_SHARE] * el[k, t.HEARD]
    answers[t.TERMINAL_V], answers[t.FRONT_V], answers[t.LOUDEST_W] = math.nan, math.nan, math.nan
    if operates:
        _loudest(trail, given, answers)


def _keep(el: Floats, st: Floats, links: Floats, trail: Floats, memory: Floats) -> None:
    """Keeps the states as they are, what dropped out, and how warm the cables are; banks are put back."""
    for row in range(t.LAST + 1):
        for kind in range(trail.shape[1]):
            put(trail[row, kind], trail[t.LAST + 1 + row, kind])
    for k in range(len(links)):
        memory[WARMTH, k] = links[k, t.SQUARE_A]
    for k in range(len(el)):
        memory[FORMER, k] = 0.0
        if el[k, t.KIND] == t.BANK:
            memory[FORMER, k], st[k, t.OUT] = st[k, t.OUT], 0.0


def worn(
    newton: Newton,
    el: Floats,
    st: Floats,
    links: Floats,
    nodes: Floats,
    levels: Floats,
    held: Floats,
    drive: float,
    minutes: float,
    low_v: float,
    trail: Floats,
    memory: Floats,
    work: Floats,
    given: Floats,
    answers: Floats,
) -> bool:
    """Runs the batteries down at the mean load from the silence that was solved, cables as warm as the music made them.

    Then the car is put back to its start, but for its charge; whether its states and warmth stand as they were kept, to
    begin near: not where it switches.

    drive   how silence came out, see `states.point`
    """
    kept = t.LAST + 1
    v, amps = trail[0, t.VOLTS], trail[0, t.AMPS]
    for k in range(len(links)):
        links[k, t.SQUARE_A] = memory[WARMTH, k]
    if drive < 0.0:
        put(trail[kept + t.LAST, t.VOLTS], v)
    for k in range(len(el)):
        if el[k, t.KIND] == t.BANK:
            st[k, t.OUT] = max(st[k, t.OUT], memory[FORMER, k])
        elif el[k, t.KIND] == t.AMPLIFIER:
            st[k, t.FLAT_W] = max(given[int(el[k, t.ORDINAL]), t.IN_W], LEAST_W)
    begin(newton, el, st, links, nodes, levels, held, v, work)
    if low_v > 0.0:
        answers[t.MINUTES] = minutes_to_low(newton, el, st, links, nodes, levels, held, low_v, v, amps, memory, work)
    else:
        run_down(newton, el, st, links, nodes, levels, held, 60.0 * minutes, v, amps, work)
    for k in range(len(el)):
        charge, commanded = st[k, t.CHARGE], st[k, t.COMMANDED_V]
        bank, amplifier = el[k, t.KIND] == t.BANK, el[k, t.KIND] == t.AMPLIFIER
        for c in range(st.shape[1]):
            st[k, c] = 0.0
        if bank:
            st[k, t.CHARGE] = charge
        elif amplifier:
            st[k, t.COMMANDED_V] = commanded
    for row in range(kept):
        for kind in range(trail.shape[1]):
            put(trail[kept + row, kind], trail[row, kind])
    return not has_switches(el)
