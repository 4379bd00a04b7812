"""What to measure next: which input, by how much it may be off, moves the answer most.

Every input with a band counts, also what is left at its default and what was typed; each is set to the ends of its 95 %
band, one at a time, and the forecast made again. Left out: inputs that are off together.
"""

from __future__ import annotations

from dataclasses import dataclass

from underhood.circuit.build import Circuit, build_circuit
from underhood.document import paths
from underhood.document.job import JobDocument
from underhood.document.quantity import Quantity
from underhood.errors import BadInput
from underhood.figure import Provenance
from underhood.forecast.forecast import Forecast, make_forecast
from underhood.forecast.inputs import Input, Where, inputs

__all__ = ["Sensitivity", "measure_next"]

LEAST_V, LEAST_W = 0.01, 1.0
"""What a reading has to move to be worth naming."""


@dataclass(frozen=True, slots=True)
class Sensitivity:
    """An input and what it may move: volts at the first amplifier and watts delivered, end to end.

    where   the reading is taken there
    origin  where the value that counts now comes from
    """

    field: str
    name: str
    part: str
    origin: Provenance
    where: Where
    volts: float
    watts: float


def measure_next(job: JobDocument, most: int = 3) -> list[Sensitivity]:
    """The inputs that may move terminal volts or delivered watts most, the largest first.

    job    as it stands
    most   how many are named
    """
    as_is = build_circuit(job)
    found = [worth for each in inputs(job) if (worth := _worth(as_is, each))]
    ranked = sorted(found, key=lambda each: -_weight(each, found))
    return [each for each in ranked if each.volts >= LEAST_V or each.watts >= LEAST_W][:most]


def _weight(each: Sensitivity, of: list[Sensitivity]) -> float:
    """Volts and watts on one scale: each against the largest of its kind."""
    volts = max((other.volts for other in of), default=0.0) or 1.0
    watts = max((other.watts for other in of), default=0.0) or 1.0
    return max(each.volts / volts, each.watts / watts)


def _worth(as_is: Circuit, of: Input) -> Sensitivity | None:
    if of.sigma == 0:
        return None
    answers = [_answer(as_is, of.field, value, of.given.origin) for value in of.ends()]
    if answers[0] is None or answers[1] is None:
        return None
    (low_v, low_w), (high_v, high_w) = answers[0], answers[1]
    width = of.width
    volts, watts = abs(high_v - low_v), abs(high_w - low_w)
    return Sensitivity(of.field, width.name, of.part, of.given.origin, width.where, volts, watts)


def _answer(as_is: Circuit, field: str, value: float, origin: Provenance) -> tuple[float, float] | None:
    """(volts, watts) with one field changed; None where nothing works any more."""
    try:
        forecast: Forecast = make_forecast(paths.varied(as_is.job, field, Quantity(value, origin)), as_is)
    except (ValueError, BadInput):
        return None
    first = forecast.first_amplifier
    return None if first is None else (first.terminal_low_v, first.delivered_w)
