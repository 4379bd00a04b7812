"""The same vehicle over years: readings that were taken again, and what follows from two of one visit.

A repeat that leaves the band of what was read before is said: a battery whose resistance grows, a charger that gives
less. Left out: why (see `correction`), and readings without a date.
"""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import groupby

from underhood.constants import BOTH_ENDS
from underhood.proof.noise import noise
from underhood.proof.reading import KINDS, Reading
from underhood.proof.test_card import state_words

LEAST_RISE_A = 5.0
"""Amps, below which two readings tell no resistance [P]."""
TRENDING = ("Internal resistance", "Charger output")


@dataclass(frozen=True)
class Visit:
    """A job of the vehicle, and its readings that count."""

    title: str
    readings: Sequence[Reading]


@dataclass(frozen=True, slots=True)
class HistoryPoint:
    """A value of a day, with one standard deviation."""

    taken_at: dt.datetime
    title: str
    value: float
    sigma: float


@dataclass(frozen=True)
class HistorySeries:
    """One quantity over time, the oldest first.

    low, high   what the newest should lie within, by those before it; None where there is nothing before it
    warning     in words, where it does not; "" where it does
    """

    name: str
    state: str
    unit: str
    points: list[HistoryPoint]
    low: float | None
    high: float | None
    warning: str


def history(visits: Iterable[Visit]) -> list[HistorySeries]:
    """Every quantity that was read on two days or more; what trends first."""
    known: dict[tuple[str, str, str], list[HistoryPoint]] = {}
    for visit in visits:
        for name, state, unit, point in _of_visit(visit):
            known.setdefault((name, state, unit), []).append(point)
    series = [_series(*key, sorted(points, key=lambda p: p.taken_at)) for key, points in known.items()]
    several = [each for each in series if len({p.taken_at.date() for p in each.points}) > 1]
    return sorted(several, key=lambda each: (not each.warning, not each.name.startswith(TRENDING), each.name))


def _of_visit(visit: Visit) -> Iterable[tuple[str, str, str, HistoryPoint]]:
    dated = [each for each in visit.readings if each.taken_at is not None and not each.excluded]
    for each in dated:
        assert each.taken_at is not None
        sigma = math.hypot(noise(each, each.value), each.accuracy_share / 2 * abs(each.value))
        yield _name(each), state_words(each), each.unit, HistoryPoint(each.taken_at, visit.title, each.value, sigma)
    dated.sort(key=lambda each: each.taken_at or dt.datetime.min.replace(tzinfo=dt.UTC))
    for _, of_day in groupby(dated, key=lambda each: each.taken_at.date() if each.taken_at else None):
        yield from _resistances(visit.title, list(of_day))


def _name(of: Reading) -> str:
    kind = KINDS[of.what]
    if (
        of.what == "amps"
        and of.programme == "tone"
        and of.engine == "idle"
        and of.from_.lower().startswith("alternator")
    ):
        return f"Charger output, {of.from_}"
    where = of.amplifier or (f"{of.from_} to {of.to}" if of.to else of.from_)
    held = {"mean": "", "min": ", least", "max": ", most"}[of.hold]
    side = f", {of.side}" if of.side else ""
    return f"{kind.words[0].upper()}{kind.words[1:]} {where}{side}{held}"


def _resistances(title: str, of_day: Sequence[Reading]) -> Iterable[tuple[str, str, str, HistoryPoint]]:
    """R = (V_rest − V_loaded)/I of a battery, engine off: its own and what has settled of its polarisation."""
    off = [each for each in of_day if each.engine == "off"]
    rest = next((each for each in off if each.what == "resting_v"), None)
    loaded = next(
        (each for each in off if each.what == "volts" and each.from_ == "front" and each.programme == "tone"), None
    )
    amps = next((each for each in off if rest and each.what == "amps" and each.from_ == rest.from_), None)
    if rest is None or loaded is None or amps is None or amps.value < LEAST_RISE_A or loaded.taken_at is None:
        return
    ohm = (rest.value - loaded.value) / amps.value
    if ohm <= 0:
        return
    volts = math.hypot(noise(rest, rest.value), noise(loaded, loaded.value))
    sigma = ohm * math.hypot(volts / (rest.value - loaded.value), noise(amps, amps.value) / amps.value)
    point = HistoryPoint(loaded.taken_at, title, ohm, sigma)
    yield f"Internal resistance, {rest.from_}", "Engine off, from rest to a full tone", "Ω", point


def _series(name: str, state: str, unit: str, points: list[HistoryPoint]) -> HistorySeries:
    *before, last = points
    if not before:
        return HistorySeries(name, state, unit, points, None, None, "")
    weight = [1 / each.sigma**2 for each in before]
    mean = sum(w * each.value for w, each in zip(weight, before, strict=True)) / sum(weight)
    sigma = math.hypot(last.sigma, 1 / math.sqrt(sum(weight)))
    low, high = mean - BOTH_ENDS * sigma, mean + BOTH_ENDS * sigma
    warning = ""
    if not low <= last.value <= high:
        more = "more" if last.value > mean else "less"
        shown = [f"{1000 * v:.3g} m{unit}" if unit == "Ω" and v < 1 else f"{v:.4g} {unit}" for v in (last.value, mean)]
        warning = f"{shown[0]}, {more} than the {shown[1]} read before: it has changed."
    return HistorySeries(name, state, unit, points, low, high, warning)
