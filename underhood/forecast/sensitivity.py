"""What to measure next: which assumption moves the answer most.

Each assumed number is set to the ends of a plausible range, one at a time, and the forecast made again. Left out:
assumptions acting together.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from underhood.document import paths
from underhood.document.job import JobDocument
from underhood.document.quantity import Quantity, StrictModel
from underhood.errors import BadInput
from underhood.forecast.forecast import Forecast, make_forecast

__all__ = ["Sensitivity", "measure_next"]

SPREAD: dict[str, tuple[str, float, float]] = {
    "source_ohm": ("Charger's internal resistance", 0.5, 2.0),
    "setpoint_v": ("Regulated volts", 0.98, 1.02),
    "idle_a": ("Charger output at idle", 0.8, 1.2),
    "hot_derating": ("Hot derating", 0.85, 1.0),
    "resistance_ohm": ("Ground return through the chassis", 0.5, 3.0),
    "joints_ohm": ("Joints and fuse holder", 0.5, 4.0),
    "charge": ("State of charge", 0.7, 1.0),
    "capacity_ah": ("Battery capacity", 0.8, 1.2),
    "rise": ("Impedance rise in the box", 1.0, 2.5),
    "power_factor": ("Power factor", 0.7, 1.0),
    "length_m": ("Cable length", 0.8, 1.3),
    "minimum_load_ohm": ("Lowest safe load", 1.0, 1.0),
}
"""Plausible ranges as multiples of the assumed value, by field [P]; other fields are not tried."""


@dataclass(frozen=True, slots=True)
class Sensitivity:
    """An assumption and what it may move: volts at the first amplifier and watts delivered, end to end."""

    field: str
    name: str
    part: str
    volts: float
    watts: float


def measure_next(job: JobDocument, most: int = 3) -> list[Sensitivity]:
    """The assumptions that move terminal volts or delivered watts most, the largest first."""
    found = [worth for field, part, given in assumptions(job) if (worth := _worth(job, field, part, given))]
    ranked = sorted(found, key=lambda each: -_weight(each, found))
    return [each for each in ranked if each.volts >= 0.01 or each.watts >= 1.0][:most]


def _weight(each: Sensitivity, of: list[Sensitivity]) -> float:
    """Volts and watts on one scale: each against the largest of its kind."""
    volts = max((other.volts for other in of), default=0.0) or 1.0
    watts = max((other.watts for other in of), default=0.0) or 1.0
    return max(each.volts / volts, each.watts / watts)


def assumptions(job: JobDocument) -> Iterator[tuple[str, str, Quantity]]:
    """(path of the field, name of the part it belongs to, value) of every assumption that can be tried."""
    yield from _walk(job, "", job.title)


def _walk(part: StrictModel, path: str, name: str) -> Iterator[tuple[str, str, Quantity]]:
    name = getattr(part, "name", None) or name
    for field in type(part).model_fields:
        value: Any = getattr(part, field)
        here = f"{path}{type(part).model_fields[field].alias or field}"
        if isinstance(value, Quantity) and value.origin == "assumed" and field in SPREAD:
            yield here, name, value
        elif isinstance(value, StrictModel):
            yield from _walk(value, f"{here}.", name)
        elif isinstance(value, list):
            for i, each in enumerate(value):
                if isinstance(each, StrictModel):
                    yield from _walk(each, f"{here}.{i}.", name)


def _worth(job: JobDocument, field: str, part: str, given: Quantity) -> Sensitivity | None:
    title, least, most = SPREAD[field.rsplit(".", 1)[-1]]
    answers = [_answer(job, field, given.value * factor) for factor in (least, most)]
    known = [answer for answer in answers if answer is not None]
    if len(known) < 2:
        return None
    (low_v, low_w), (high_v, high_w) = known
    return Sensitivity(field, title, part, abs(high_v - low_v), abs(high_w - low_w))


def _answer(job: JobDocument, field: str, value: float) -> tuple[float, float] | None:
    """(volts, watts) with one field changed; None where that leaves the allowed range or nothing works."""
    try:
        forecast: Forecast = make_forecast(paths.replaced(job, field, {"value": value, "origin": "assumed"}))
    except (ValueError, BadInput):
        return None
    if not forecast.amplifiers:
        return None
    return forecast.amplifiers[0].terminal_low_v, forecast.amplifiers[0].delivered_w
