"""What to measure next: which input, by how much it may be off, moves the answer most.

Every input with a band counts, also what is left at its default and what was typed; each is set to the ends of its 95 %
band, one at a time, and the forecast made again. Left out: inputs that are off together.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal, NamedTuple

from underhood.cable import sizing
from underhood.cable.sizing import Cold
from underhood.circuit import battery, charger
from underhood.circuit.build import Circuit, build_circuit
from underhood.document import paths
from underhood.document.job import JobDocument, Lead
from underhood.document.quantity import Quantity
from underhood.errors import BadInput
from underhood.figure import Provenance
from underhood.forecast.forecast import Forecast, make_forecast
from underhood.loudspeaker.load_at_tone import has_a_curve

__all__ = ["WIDTHS", "Input", "Sensitivity", "Where", "Width", "inputs", "measure_next"]

Where = Literal["in the cabin", "under the hood", "with a helper"]
ENDS = 1.96
"""Standard deviations to either end of a 95 % band."""
LEAST_SHARE = 0.05
LEAST_V, LEAST_W = 0.01, 1.0
"""What a reading has to move to be worth naming."""


class Width(NamedTuple):
    """One standard deviation of an input that was assumed, typed and measured [P]: of its logarithm, or in its unit."""

    name: str
    where: Where
    assumed: float
    typed: float
    measured: float
    additive: bool = False

    def of(self, origin: Provenance) -> float:
        """The width for where the value comes from."""
        return {"assumed": self.assumed, "typed": self.typed, "measured": self.measured}[origin]


WIDTHS: dict[str, Width] = {
    "bank.resistance_ohm": Width("Battery's internal resistance", "under the hood", 0.40, 0.30, 0.08),
    "bank.charge": Width("State of charge", "under the hood", 0.12, 0.0, 0.0, additive=True),
    "charger.source_ohm": Width("Charger's internal resistance", "under the hood", 0.5, 0.3, 0.1),
    "charger.setpoint_v": Width("Regulated volts", "under the hood", 0.20, 0.10, 0.03, additive=True),
    "charger.idle_a": Width("Charger output at idle", "with a helper", 0.18, 0.18, 0.05),
    "charger.limit_a": Width("What the converter can give", "under the hood", 0.5, 0.3, 0.05),
    "vehicle.loads": Width("What the vehicle takes", "under the hood", 0.30, 0.20, 0.05),
    "amplifier.output": Width("The amplifier's watts", "with a helper", 0.12, 0.12, 0.06),
    "amplifier.losses": Width("The amplifier's losses", "with a helper", 0.35, 0.35, 0.20),
    "cable.length_m": Width("Cable length", "in the cabin", 0.15, 0.15, 0.04),
    "cable.joints_ohm": Width("Joints and fuse holder", "with a helper", 0.8, 0.5, 0.1),
    "cable.return": Width("Ground return", "with a helper", 0.7, 0.5, 0.1),
    "load.rise": Width("Impedance rise in the box", "in the cabin", 0.30, 0.30, 0.03),
    "load.power_factor": Width("Power factor", "in the cabin", 0.15, 0.15, 0.03, additive=True),
}
"""The widths that a correction by readings uses too (engineering notes, proof)."""


class Input(NamedTuple):
    """A number that the answer rests on: its path, the part it belongs to, what it counts as now, and its width."""

    field: str
    part: str
    given: Quantity
    width: Width
    most: float = math.inf

    def ends(self) -> tuple[float, float]:
        """Both ends of its 95 % band."""
        off = ENDS * self.width.of(self.given.origin)
        if self.width.additive:
            return max(self.given.value - off, LEAST_SHARE), min(self.given.value + off, self.most)
        return self.given.value * math.exp(-off), min(self.given.value * math.exp(off), self.most)


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


def inputs(job: JobDocument) -> Iterator[Input]:
    """Every input of a job that has a band, with the value that counts where none is entered.

    job   as it stands
    """
    for i, bank in enumerate(job.banks):
        ohm = bank.resistance_ohm or Quantity(battery.series_ohm(bank)[0], "assumed")
        yield Input(f"banks.{i}.resistance_ohm", bank.name, ohm, WIDTHS["bank.resistance_ohm"])
        yield Input(f"banks.{i}.charge", bank.name, bank.charge, WIDTHS["bank.charge"], most=1.0)
    for i, each in enumerate(job.chargers):
        for name in ("source_ohm", "setpoint_v"):
            yield Input(f"chargers.{i}.{name}", each.name, getattr(each, name), WIDTHS[f"charger.{name}"])
        if each.kind == "alternator" and (each.idle_a or each.rated_a):
            idle_a = each.idle_a or Quantity(charger.idle_and_rated(each)[0], "assumed")
            yield Input(f"chargers.{i}.idle_a", each.name, idle_a, WIDTHS["charger.idle_a"])
    for i, cable in enumerate(job.cables):
        yield from _of_wire(f"cables.{i}", cable.name, cable)
    for i, amplifier in enumerate(job.amplifiers[:1]):  # the answer is the first one's: the others' leads are not in it
        if amplifier.lead:
            yield from _of_wire(f"amplifiers.{i}.lead", f"lead to {amplifier.name}", amplifier.lead)
        if amplifier.load and (amplifier.load.rise.origin == "measured" or not has_a_curve(amplifier.load)):
            load, at = amplifier.load, f"amplifiers.{i}.load"
            yield Input(f"{at}.rise", amplifier.name, load.rise, WIDTHS["load.rise"])
            yield Input(f"{at}.power_factor", amplifier.name, load.power_factor, WIDTHS["load.power_factor"], most=1.0)


def _of_wire(field: str, part: str, wire: Lead) -> Iterator[Input]:
    yield Input(f"{field}.length_m", part, wire.length_m, WIDTHS["cable.length_m"])
    yield Input(f"{field}.joints_ohm", part, wire.joints_ohm, WIDTHS["cable.joints_ohm"])
    way = wire.return_
    if way is None or way.kind == "none":
        return  # a cable like the one out, whose own length counts, or a strap
    if way.resistance_ohm is not None:
        yield Input(f"{field}.return.resistance_ohm", part, way.resistance_ohm, WIDTHS["cable.return"])
    elif way.kind == "chassis":
        back, _ = sizing.ground_return(way, wire)
        assert not isinstance(back, Cold)
        yield Input(f"{field}.return.resistance_ohm", part, Quantity(back, "assumed"), WIDTHS["cable.return"])


def _worth(as_is: Circuit, of: Input) -> Sensitivity | None:
    if of.width.of(of.given.origin) == 0:
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
