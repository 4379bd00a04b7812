"""Two states of a car side by side: what differs in words, and what it does to the figures.

Left out: how one becomes the other (see `ladder`).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from underhood.document.differences import differences
from underhood.document.job import JobDocument
from underhood.forecast.build import result_of
from underhood.forecast.forecast import make_forecast
from underhood.forecast.results import ForecastResult

APART = ("runs", "claims", "sweep", "came_from", "likes", "dislikes", "programme_file", "title", "state", "plan")
"""What a person would not read as a difference of the car: readings, texts, recordings."""


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
    for each in differences(_bare(before), _bare(after)):
        yield f"{each.words}: {each.before} → {each.after}"


def _bare(value: Any) -> Any:
    """A document with the numbers of its quantities alone: where they come from is no difference of the car."""
    if isinstance(value, dict):
        if set(value) == {"value", "origin"}:
            return value["value"]
        return {key: _bare(each) for key, each in value.items() if key not in APART}
    return [_bare(each) for each in value] if isinstance(value, list) else value
