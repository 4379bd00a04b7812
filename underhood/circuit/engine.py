"""The engine as the rest of the core calls it: cars in, answers out, whether or not it is compiled.

Left out: rows (see `rows`), and what an answer means (see `operating_point`).
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats
from underhood.circuit import batch, compiled
from underhood.circuit import table as t
from underhood.circuit.kernel import MATRIX
from underhood.circuit.rows import Layout, Picks, Rows
from underhood.circuit.states import MOST_POSITIONS

CORES = 2
"""Cars are solved on as many at once."""
WORTH_A_THREAD = 200
"""Cars from which on both cores are quicker than one."""
CAR_S, MINUTE_S, CLOCK_S = 0.01, 0.001, 1.5
"""What a car, a minute of load and a clock take as Python, about, in seconds [P]."""
SPARE_ROWS = 4


@dataclass(frozen=True)
class Answers:
    """What cars came to, (cars, …): columns of `table.STATUS` and, for each amplifier, of `table.IN_W`.

    trails, states, warm   of each the trail, the states of its elements and its cables; of no length where nobody looks
    """

    values: Floats
    given: Floats
    trails: Floats
    states: Floats
    warm: Floats

    def __len__(self) -> int:
        return len(self.values)

    def of(self, column: int) -> Floats:
        """One column, (cars,); nan where a car has none."""
        return np.asarray(self.values[:, column])

    @property
    def found(self) -> NDArray[np.bool_]:
        """Which of the cars have a state at all."""
        return np.asarray(self.values[:, t.STATUS] == t.SOLVED)


class Room:
    """Room that one car after the other is solved in."""

    def __init__(self, layout: Layout, levels: Floats, inside: Floats) -> None:
        n, e, cables = len(layout.nodes), layout.elements, layout.links
        width = max(n, e, cables, 1)
        self.el, self.st = np.zeros((e, t.ELEMENT_COLUMNS)), np.zeros((e, t.STATE_COLUMNS))
        self.links, self.nodes = np.zeros((cables, t.LINK_COLUMNS)), layout.nodes.copy()
        self.held = np.zeros((t.HELD_ROWS, layout.amplifiers))
        self.trail = np.zeros((2 * (t.LAST + 1), t.TRAIL_KINDS, width))
        self.drawn = np.zeros((3, layout.amplifiers, max(levels.shape[-1], inside.shape[-1])))
        self.memory, self.work = np.zeros((MOST_POSITIONS + SPARE_ROWS, width)), np.zeros((MATRIX + n, width))

    def with_rows(self, rows: Rows, picks: Picks) -> Room:
        """The same with a car's rows laid out in it, at its start."""
        batch.laid_out(
            rows.elements.all(), rows.links.all(), picks.elements[0], picks.links[0],
            picks.full_scale_v[0], self.el, self.st, self.links, self.nodes, self.held,
        )  # fmt: skip
        return self

    def arrays(self) -> tuple[Floats, ...]:
        """In the order in which the loop over cars takes them."""
        return (self.el, self.st, self.links, self.nodes, self.held, self.trail, self.drawn, self.memory, self.work)


def solve(
    rows: Rows, picks: Picks, *, minutes: float = 0.0, low_v: float = 0.0, looked_at: bool = False, play: int = t.WHOLE
) -> Answers:
    """What cars come to.

    minutes     of the mean load before the loudest moment
    low_v       where above 0, a clock runs until a battery's posts are below it, for each 12 V of their part
    looked_at   whether all that is found is kept, or the answers alone
    play        what: the programme, or `table.STILL`
    """
    layout, count = rows.layout, len(picks.sound)
    levels, timing, inside = rows.sounds.all()
    kept = count if looked_at else 0
    width = max(len(layout.nodes), layout.elements, layout.links, 1)
    found = Answers(
        np.full((count, t.ANSWER_COLUMNS), np.nan),
        np.zeros((count, layout.amplifiers, t.GIVEN_COLUMNS)),
        np.zeros((kept, t.LAST + 1, t.TRAIL_KINDS, width)),
        np.zeros((kept, layout.elements, t.STATE_COLUMNS)),
        np.zeros((kept, layout.links, t.LINK_COLUMNS)),
    )
    table, link_table = rows.elements.all(), rows.links.all()
    compiled.prepare_for(count * (CAR_S + MINUTE_S * minutes + (CLOCK_S if low_v > 0.0 else 0.0)))

    def some(first: int, last: int) -> None:
        compiled.every_car(
            table, link_table, picks.elements, picks.links, picks.full_scale_v, levels, timing, inside, picks.sound,
            layout.groups, float(minutes), float(low_v), play, first, last, *Room(layout, levels, inside).arrays(),
            found.values, found.given, found.trails, found.states, found.warm,
        )  # fmt: skip

    if count < WORTH_A_THREAD:
        some(0, count)
        return found
    cuts = np.linspace(0, count, CORES + 1).astype(int).tolist()
    with ThreadPoolExecutor(CORES) as pool:
        list(pool.map(some, cuts[:-1], cuts[1:]))
    return found
