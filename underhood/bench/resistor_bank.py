"""Test loads from a stock of resistors: what can be made, how the watts are shared, how long they may last.

A load is one group, or several groups of different stock in parallel or in series; a group is equal strings in
parallel, each of equal resistors in series. Left out: resistance rising with heat, inductance of wound resistors.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Annotated, Literal

from scipy.optimize import brentq

from underhood.document.quantity import Number, StrictModel
from underhood.errors import BadInput
from underhood.number_format import percent

LOADS_OHM = (0.5, 8.0)
"""The loads that are looked for."""
SAME_LOAD = 0.01
"""Two loads closer than this are one; the arrangement that takes the most watts stands for it."""
MOST_ARRANGEMENTS = 200_000
"""More than this would keep somebody waiting; fewer kinds or pieces are then asked for."""
MOST_OVERLOAD = 10.0
"""Times its rating beyond which a resistor is not to be pulsed at all [P]; makers' pulse curves differ."""
TIME_CONSTANT_S = 60.0
"""Thermal time constant of an aluminium-housed resistor of 50 to 300 W on a plate [P]; measure yours."""


class Resistors(StrictModel):
    """Equal resistors in stock."""

    ohm: Annotated[float, Number("ohm", 0.05, 1000)]
    watts: Annotated[float, Number("W", 0.25, 5000)]
    count: Annotated[float, Number("", 1, 32, whole=True)]


class Duty(StrictModel):
    """How the bank is to be used: the share of the time it is loaded, its leads, its thermal time constant."""

    share: Annotated[float, Number("", 0.001, 1)] = 0.1
    lead_ohm: Annotated[float, Number("ohm", 0, 1)] = 0.0
    time_constant_s: Annotated[float, Number("s", 1, 3600)] = TIME_CONSTANT_S


@dataclass(frozen=True, slots=True)
class Group:
    """`strings` in parallel, each of `in_series` equal resistors; `kind` counts the stock's rows from 0."""

    kind: int
    ohm_each: float
    watts_each: float
    strings: int
    in_series: int

    @property
    def ohm(self) -> float:
        """The group's resistance."""
        return self.ohm_each * self.in_series / self.strings

    @property
    def pieces(self) -> int:
        """Resistors used."""
        return self.strings * self.in_series

    @property
    def rated_w(self) -> float:
        """Watts that the group takes for good."""
        return self.pieces * self.watts_each


@dataclass(frozen=True, slots=True)
class Arrangement:
    """Groups joined in parallel or in series."""

    groups: tuple[Group, ...]
    joined: Literal["alone", "parallel", "series"]

    @property
    def load_ohm(self) -> float:
        """Resistance of the whole, leads left out."""
        if self.joined == "parallel":
            return 1 / sum(1 / group.ohm for group in self.groups)
        return sum(group.ohm for group in self.groups)

    @property
    def pieces(self) -> int:
        """Resistors used."""
        return sum(group.pieces for group in self.groups)

    def shares(self) -> tuple[float, ...]:
        """Each group's share of the watts: by conductance in parallel, by resistance in series."""
        if self.joined == "parallel":
            return tuple(self.load_ohm / group.ohm for group in self.groups)
        return tuple(group.ohm / self.load_ohm for group in self.groups)

    @property
    def rated_w(self) -> float:
        """Watts into the whole at which the first resistor reaches its rating."""
        return min(group.rated_w / share for group, share in zip(self.groups, self.shares(), strict=True))

    @property
    def words(self) -> str:
        """The arrangement as one would say it at the bench."""
        parts = [_group_words(group) for group in self.groups]
        if len(parts) > 1:
            parts = [f"({part})" if " × " in part else part for part in parts]
        return {"alone": "", "parallel": " in parallel with ", "series": " in series with "}[self.joined].join(parts)


def _group_words(group: Group) -> str:
    each = f"{group.ohm_each:g} Ω"
    if group.pieces == 1:
        return f"one {each}"
    if group.strings == 1:
        return f"{group.in_series} × {each} series"
    if group.in_series == 1:
        return f"{group.strings} × {each} parallel"
    return f"{group.strings} strings of {group.in_series} × {each}"


def arrangements(
    stock: Sequence[Resistors], rating_w: Callable[[float], float] = lambda load_ohm: 0.0
) -> list[Arrangement]:
    """The simplest arrangement for every load from 8 to 0.5 ohm, the highest load first.

    `rating_w` says what watts the whole must bear for good at a load. Of the arrangements that make the same load and
    bear that, the one with the fewest groups stands, then the one with the fewest pieces; where none bears it, the
    strongest. Raises BadInput when there would be too many to try.
    """
    options = [list(_groups(kind, each)) for kind, each in enumerate(stock)]
    count = 2 * math.prod(len(each) + 1 for each in options)
    if count > MOST_ARRANGEMENTS:
        text = f"{count} arrangements are too many to try; give fewer kinds or pieces (at most {MOST_ARRANGEMENTS})"
        raise BadInput(text, "resistors")
    low, high = LOADS_OHM
    found = [each for each in _all(options) if low * (1 - SAME_LOAD) <= each.load_ohm <= high * (1 + SAME_LOAD)]
    return [
        min(alike, key=lambda each: _preference(each, rating_w(each.load_ohm)))
        for alike in _alike(sorted(found, key=lambda each: -each.load_ohm))
    ]


def _alike(falling: Sequence[Arrangement]) -> Iterator[list[Arrangement]]:
    """Arrangements of the same load together."""
    together: list[Arrangement] = []
    for each in falling:
        if together and together[0].load_ohm / each.load_ohm >= 1 + SAME_LOAD:
            yield together
            together = []
        together.append(each)
    if together:
        yield together


def _preference(each: Arrangement, needed_w: float) -> tuple[float, ...]:
    if each.rated_w < needed_w:
        return (1, -each.rated_w)
    return (0, len(each.groups), each.pieces, -each.rated_w)


def _groups(kind: int, stock: Resistors) -> Iterator[Group]:
    for in_series in range(1, int(stock.count) + 1):
        for strings in range(1, int(stock.count) // in_series + 1):
            yield Group(kind, stock.ohm, stock.watts, strings, in_series)


def _all(options: Sequence[Sequence[Group]]) -> Iterator[Arrangement]:
    for chosen in product(*([None, *each] for each in options)):
        groups = tuple(group for group in chosen if group is not None)
        if len(groups) == 1:
            yield Arrangement(groups, "alone")
        elif groups:
            yield Arrangement(groups, "parallel")
            yield Arrangement(groups, "series")


@dataclass(frozen=True, slots=True)
class GroupAtWork:
    """What each resistor of a group bears, and how many times its rating that is."""

    kind: int
    ohm_each: float
    watts_each: float
    strings: int
    in_series: int
    ohm: float
    watts_of_each: float
    overload: float


@dataclass(frozen=True, slots=True)
class AtWork:
    """An arrangement under expected watts.

    on_s, off_s   seconds that the duty allows, starting cold; `on_s` None for good, 0 for not at all
    """

    words: str
    joined: Literal["alone", "parallel", "series"]
    load_ohm: float
    with_leads_ohm: float
    lead_share: float
    pieces: int
    rated_w: float
    expected_w: float
    groups: list[GroupAtWork]
    overload: float
    on_s: float | None
    off_s: float | None
    advice: str


def at_work(arrangement: Arrangement, expected_w: float, duty: Duty) -> AtWork:
    """How the watts are shared and how long each resistor bears it. The leads' own share is taken off first.

    arrangement   of a stock's resistors
    expected_w    that the amplifier is thought to give, W
    duty          share of the time, leads, thermal time constant
    """
    whole = arrangement.load_ohm + duty.lead_ohm
    lead_share = duty.lead_ohm / whole
    groups = []
    for group, share in zip(arrangement.groups, arrangement.shares(), strict=True):
        each_w = expected_w * (1 - lead_share) * share / group.pieces
        groups.append(
            GroupAtWork(
                group.kind,
                group.ohm_each,
                group.watts_each,
                group.strings,
                group.in_series,
                group.ohm,
                each_w,
                each_w / group.watts_each,
            )
        )
    worst = max(group.overload for group in groups)
    on_s = seconds_on(worst, duty.share, duty.time_constant_s)
    off_s = None if on_s is None else on_s * (1 - duty.share) / duty.share
    return AtWork(
        words=arrangement.words,
        joined=arrangement.joined,
        load_ohm=arrangement.load_ohm,
        with_leads_ohm=whole,
        lead_share=lead_share,
        pieces=arrangement.pieces,
        rated_w=arrangement.rated_w,
        expected_w=expected_w,
        groups=groups,
        overload=worst,
        on_s=on_s,
        off_s=off_s,
        advice=_advice(worst, duty.share, on_s),
    )


def plan(stock: Sequence[Resistors], duty: Duty, expected_w: Callable[[float], float]) -> list[AtWork]:
    """Every load that a stock makes at work, the highest first.

    expected_w   watts to expect at a load, ohm, while it is on
    """
    found = arrangements(stock, lambda ohm: expected_w(ohm) * duty.share)
    return [at_work(each, expected_w(each.load_ohm), duty) for each in found]


def seconds_on(overload: float, share: float, time_constant_s: float) -> float | None:
    """Longest time on, repeated for ever at a share of the time, that never takes a resistor past its rated heat.

    One thermal time constant: after many rounds the peak is x·(1 − e^(−t/τ)) / (1 − e^(−t/(s·τ))) of the rated rise,
    x times the rating, on for t in every t/s. None: for good. 0: not at this duty, or past `MOST_OVERLOAD`.
    """
    if overload <= 1.0:
        return None
    if overload > MOST_OVERLOAD or overload * share >= 1.0:
        return 0.0

    def over(t: float) -> float:
        return overload * math.expm1(-t / time_constant_s) / math.expm1(-t / (share * time_constant_s)) - 1

    alone_s = -time_constant_s * math.log1p(-1 / overload)  # one round from cold; every further round shortens it
    return float(brentq(over, 1e-9 * time_constant_s, alone_s * 1.001))


def _advice(overload: float, share: float, on_s: float | None) -> str:
    if on_s is None:
        return "for good"
    if overload > MOST_OVERLOAD:
        return f"not at all: {overload:.0f} times its rating"
    if on_s == 0.0:
        return f"not at {percent(share)} of the time; at most {percent(1 / overload)}"
    return "in pulses"
