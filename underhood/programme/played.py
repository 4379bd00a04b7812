"""What several amplifiers play at the same time, grouped so that a steady answer needs few levels.

Time is split at the mean of all their power into quiet and loud. Within each part, every amplifier's steps are put
into groups of like level, and all steps into cells of like total, which tell how the amplifiers' levels go together.
Left out: the order of the steps (see `transient`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats
from underhood.programme.envelopes import Envelope

GROUPS = 15
"""Of like level, in each part; the loudest level is one more."""
SAME_LEVEL = 1e-6
PEAK_SHARE = 0.9
"""Of the loudest level: what counts as its stretch."""


@dataclass(frozen=True, eq=False)
class Part:
    """Some of a programme's time: quiet, loud, or all of it.

    share     of the time
    steps     which steps of the programme, (t,) booleans
    levels    of each amplifier, rising: (k,) levels, RMS of their groups, and (k,) shares of the part's time
    group_of  of each amplifier: the group of each of the part's steps
    cells     (c,) shares of the part's time, and for each amplifier (c, k): how a cell's time falls on its groups
    """

    share: float
    steps: NDArray[np.bool_]
    levels: tuple[tuple[Floats, Floats], ...]
    group_of: tuple[NDArray[np.uint8], ...]
    cells: Floats
    in_cells: tuple[Floats, ...]

    def together(self, of_group: Sequence[Floats], which: Sequence[int]) -> tuple[Floats, Floats]:
        """(sums, shares of the part's time) of something that some amplifiers have at each of their levels.

        of_group   (k,) of each of them; `which` says which amplifiers they are
        """
        if len(which) == 1:
            return of_group[0], self.levels[which[0]][1]
        each = [self.in_cells[i] @ values for i, values in zip(which, of_group, strict=True)]
        return np.sum(each, axis=0), self.cells

    def over_time(self, of_group: Floats, i: int) -> Floats:
        """Something that an amplifier has at each of its levels, in each of the part's steps."""
        return np.asarray(of_group[self.group_of[i]], float)


@dataclass(frozen=True, eq=False)
class Played:
    """What amplifiers play together.

    envelopes   one each, of one length
    parts       quiet, then loud; one where all of it is equally loud
    stretch_s   how long the loud lasts on average before the quiet comes back, s; 0 where there is one part
    peak_s      the longest stretch at nine tenths of the loudest level or more, s
    peak        (n,) level of each at the loudest moment of them all
    """

    envelopes: tuple[Envelope, ...]
    parts: tuple[Part, ...]
    stretch_s: float
    peak_s: float
    peak: Floats

    @property
    def step_s(self) -> float:
        """Length of a step, s."""
        return self.envelopes[0].step_s

    @property
    def quiet_s(self) -> float:
        """How long the quiet lasts on average, s."""
        return self.stretch_s * self.parts[0].share / self.parts[1].share

    @cached_property
    def whole(self) -> tuple[tuple[Floats, Floats], ...]:
        """Levels of each amplifier over all parts, and their shares of the time."""
        return tuple(
            (
                np.concatenate([part.levels[i][0] for part in self.parts]),
                np.concatenate([part.share * part.levels[i][1] for part in self.parts]),
            )
            for i in range(len(self.envelopes))
        )

    def over_time(self, of_group: Sequence[Floats], i: int) -> Floats:
        """Something that an amplifier has at each level of each part, in each step of the programme, (t,)."""
        out = np.empty(len(self.envelopes[i].level))
        for part, values in zip(self.parts, of_group, strict=True):
            out[part.steps] = part.over_time(values, i)
        return out


def played(envelopes: Sequence[Envelope], watts: Sequence[float]) -> Played:
    """What amplifiers play together; worked out once where they play alike.

    envelopes   one each, of one length and step
    watts       of each at level 1
    """
    if all(each is envelopes[0] for each in envelopes):
        alone = _alike(envelopes[0])
        return alone if len(envelopes) == 1 else _for_all(alone, len(envelopes))
    return _together(tuple(envelopes), tuple(watts))


@lru_cache(maxsize=64)
def _alike(envelope: Envelope) -> Played:
    return _grouped((envelope,), envelope.level)


@lru_cache(maxsize=16)
def _for_all(alone: Played, count: int) -> Played:
    """As one plays, so do all."""
    parts = tuple(
        Part(part.share, part.steps, part.levels * count, part.group_of * count, part.cells, part.in_cells * count)
        for part in alone.parts
    )
    return Played(alone.envelopes * count, parts, alone.stretch_s, alone.peak_s, np.repeat(alone.peak, count))


@lru_cache(maxsize=16)
def _together(envelopes: tuple[Envelope, ...], watts: tuple[float, ...]) -> Played:
    power = sum(w * np.minimum(each.level, 1.0) ** 2 for w, each in zip(watts, envelopes, strict=True))
    return _grouped(envelopes, np.sqrt(power))


def _grouped(envelopes: tuple[Envelope, ...], total: Floats) -> Played:
    """Grouped by a total level of all, (t,)."""
    power, step_s = total**2, envelopes[0].step_s
    loud = np.asarray(power > power.mean() * (1 + SAME_LEVEL))
    at_peak = total >= (1 - SAME_LEVEL) * total.max()
    masks = (~loud, loud) if loud.any() else (np.ones(len(total), bool),)
    near_peak = _stretches(total >= PEAK_SHARE * total.max())
    return Played(
        envelopes,
        tuple(_part(envelopes, total, mask) for mask in masks),
        float(np.mean(_stretches(loud))) * step_s if loud.any() else 0.0,
        max(near_peak) * step_s,
        np.array([np.sqrt(np.mean(each.level[at_peak] ** 2)) for each in envelopes]),
    )


def _part(envelopes: tuple[Envelope, ...], total: Floats, mask: NDArray[np.bool_]) -> Part:
    grouped = [_groups(each.level[mask]) for each in envelopes]
    cell_of = grouped[0][0] if len(envelopes) == 1 else _groups(total[mask], 2 * GROUPS)[0]
    cells = np.bincount(cell_of).astype(float)
    inside = []
    for group_of, levels, _ in grouped:
        falls = np.bincount(cell_of.astype(int) * len(levels) + group_of, minlength=len(cells) * len(levels))
        inside.append(falls.reshape(len(cells), len(levels)) / cells[:, None])
    return Part(
        float(mask.mean()),
        mask,
        tuple((levels, weight) for _, levels, weight in grouped),
        tuple(group_of for group_of, _, _ in grouped),
        cells / cells.sum(),
        tuple(inside),
    )


def _groups(values: Floats, most: int = GROUPS) -> tuple[NDArray[np.uint8], Floats, Floats]:
    """(group of each value, levels, weights): few groups of like value, rising, each keeping its mean square.

    The largest value is a group of its own.
    """
    found, group_of, counts = np.unique(values, return_inverse=True, return_counts=True)
    if len(found) > most:
        order = np.argsort(values, kind="stable")
        below = int(np.searchsorted(values[order], values.max() * (1 - SAME_LEVEL)))
        split = [len(each) for each in np.array_split(np.arange(below), most)]
        counts = np.array([*(each for each in split if each), len(values) - below])
        group_of = np.empty(len(values), np.uint8)
        group_of[order] = np.repeat(np.arange(len(counts)), counts)
        found = np.sqrt(np.bincount(group_of, weights=values**2) / counts)
    return group_of.astype(np.uint8), found, counts / len(values)


def _stretches(mask: NDArray[np.bool_]) -> list[int]:
    """Lengths of the runs of True in a mask that repeats for ever."""
    if mask.all():
        return [len(mask)]
    turned = np.roll(mask, -int(np.argmin(mask)))  # begins with a False: no run reaches over the end
    edges = np.flatnonzero(np.diff(np.concatenate(([0], turned.astype(int), [0]))))
    return [int(each) for each in edges[1::2] - edges[::2]]
