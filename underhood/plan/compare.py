"""Two states of a car side by side: what differs in words, and what it does to the figures.

Left out: how one becomes the other (see `ladder`).
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from underhood.document.job import JobDocument
from underhood.forecast.build import result_of
from underhood.forecast.forecast import make_forecast
from underhood.forecast.results import ForecastResult

__all__ = ["Comparison", "FigureChange", "compare"]

KINDS = {
    "chargers": "Charger",
    "banks": "Battery",
    "capacitors": "Capacitors",
    "cables": "Cable",
    "amplifiers": "Amplifier",
    "nodes": "Distribution",
}
APART = ("runs", "claims", "sweep", "came_from", "likes", "dislikes", "programme_file")
"""What a person would not read as a difference of the car: readings, texts, recordings."""
UNITS = {
    "v": "V",
    "a": "A",
    "w": "W",
    "ohm": "Ω",
    "m": "m",
    "mm": "mm",
    "l": "l",
    "hz": "Hz",
    "ah": "Ah",
    "c": "°C",
    "db": "dB",
    "kg": "kg",
    "farad": "F",
    "k": "K",
    "s": "s",
    "cm2": "cm²",
    "mh": "mH",
}


@dataclass(frozen=True, slots=True)
class FigureChange:
    """A figure before and after, in its unit; null where nothing holds."""

    name: str
    unit: str
    before: float | None
    after: float | None


@dataclass(frozen=True)
class Comparison:
    """What differs between two cars.

    changes   in words, part by part
    figures   those that moved first, the rest after them
    """

    changes: list[str]
    figures: list[FigureChange]


def compare(before: JobDocument, after: JobDocument) -> Comparison:
    """What differs between two states of a car, each told at its own basis.

    before, after   of one job, or of two
    """
    figures = [
        FigureChange(name, unit, was, now)
        for (name, unit, was), (_, _, now) in zip(_figures(before), _figures(after), strict=True)
    ]
    figures.sort(key=lambda each: not _moved(each))
    return Comparison(list(_changes(before.document(), after.document())), figures)


def _moved(each: FigureChange) -> bool:
    if each.before is None or each.after is None:
        return each.before is not each.after
    return abs(each.after - each.before) > 1e-6 * max(abs(each.before), 1.0)


def _figures(job: JobDocument) -> list[tuple[str, str, float | None]]:
    told: ForecastResult = result_of(make_forecast(job))
    holds = told.operating_point
    amplifiers = told.amplifiers if holds else []
    lowest = min((each.terminal_low_v for each in amplifiers), default=None)
    return [
        ("Lowest volts at an amplifier", "V", lowest),
        ("Volts at the front posts", "V", told.front_v if holds else None),
        ("Delivered at the loudest moment", "W", sum(each.delivered_w for each in amplifiers) if amplifiers else None),
        ("Delivered over the programme", "W", sum(a.delivered_mean_w for a in amplifiers) if amplifiers else None),
        ("Draw, mean", "A", told.draw_a.mean if holds else None),
        ("Draw at the loudest moment", "A", told.draw_a.peak if holds else None),
        ("Reserve of the chargers", "A", told.reserve_a),
        ("To act on", "", float(sum(flag.severity == "act" for flag in told.flags))),
    ]


def _changes(before: dict[str, Any], after: dict[str, Any]) -> Iterator[str]:
    for kind, words in KINDS.items():
        yield from _parts(words, before[kind], after[kind], "id" if kind == "amplifiers" else "name")
    for field in ("vehicle", "basis", "targets"):
        yield from (f"{field.capitalize()}, {each}" for each in _leaves(before[field], after[field], ""))
    if before["goals"] != after["goals"]:
        yield "The goals"


def _parts(words: str, before: Sequence[dict[str, Any]], after: Sequence[dict[str, Any]], key: str) -> Iterator[str]:
    """Of one kind: those of the same name by their fields; of the rest, what took the place of what."""
    was, now = ({each[key]: each for each in parts} for parts in (before, after))
    gone, new = [was[name] for name in was if name not in now], [now[name] for name in now if name not in was]
    for part in list(gone):
        place = next((each for each in new if each.get("at") == part.get("at")), None)
        if place is not None:
            gone.remove(part)
            new.remove(place)
            yield f"{words}: {part['name']} → {place['name']}"
    yield from (f"{words} taken out: {part['name']}" for part in gone)
    yield from (f"{words} added: {part['name']}" for part in new)
    for name, part in was.items():
        if name in now:
            if now[name]["name"] != part["name"]:
                yield f"{words}: {part['name']} → {now[name]['name']}"
                continue
            yield from (f"{part['name']}, {each}" for each in _leaves(part, now[name], ""))


def _leaves(before: Any, after: Any, at: str) -> Iterator[str]:
    """Every number or word that differs, as "field: before → after"."""
    before, after = _plain(before), _plain(after)
    if before == after:
        return
    if isinstance(before, dict) and isinstance(after, dict):
        for key in dict.fromkeys((*before, *after)):
            if key not in APART:
                yield from _leaves(before.get(key), after.get(key), f"{at}.{key}" if at else key)
        return
    if isinstance(before, list) and isinstance(after, list) and len(before) == len(after):
        for i, (was, now) in enumerate(zip(before, after, strict=True)):
            name = now.get("name", i + 1) if isinstance(now, dict) else i + 1
            yield from _leaves(was, now, f"{at} {name}")
        return
    if isinstance(before, dict | list) or isinstance(after, dict | list):
        yield f"{_field(at)[0]} changed"
        return
    field, unit = _field(at)
    yield f"{field}: {_value(before, unit)} → {_value(after, unit)}"


def _plain(value: Any) -> Any:
    """A quantity's number; where it comes from is no difference of the car."""
    return value["value"] if isinstance(value, dict) and set(value) == {"value", "origin"} else value


def _field(at: str) -> tuple[str, str]:
    """(the field in words, its unit), from names such as `load.box.volume_l`."""
    words = re.split(r"[._ ]", at)
    unit = UNITS.get(words[-1], "") if len(words) > 1 or words[-1] == "farad" else ""
    return " ".join(words[:-1] if unit and words[-1] != "farad" else words), unit


def _value(value: Any, unit: str) -> str:
    if value is None:
        return "not stated"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        if unit == "Ω" and 0 < abs(value) < 0.1:
            return f"{value * 1000:.3g} mΩ"
        return f"{value:.4g} {unit}".strip()
    return str(value).replace("_", " ")
