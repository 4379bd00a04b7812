"""The numbers that a job's answers rest on and that nobody knows exactly: each with how far it may be off.

What is left at its default and what was typed counts too. Left out: what moves with them (see `sensitivity`), and what
readings in the car make of them (see `underhood.proof`).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Literal, NamedTuple

from underhood.cable import sizing
from underhood.cable.sizing import Cold
from underhood.circuit import battery, charger
from underhood.circuit.varied import USUAL_LIMIT_A
from underhood.constants import BOTH_ENDS
from underhood.document.job import Amplifier, JobDocument, Lead
from underhood.document.quantity import Quantity
from underhood.figure import Provenance
from underhood.loudspeaker.load_at_tone import has_a_curve

Where = Literal["in the cabin", "under the hood", "with a helper"]
LEAST_SHARE = 0.05


class Width(NamedTuple):
    """One standard deviation of an input that was assumed, typed and measured [P]: of its logarithm, or in its unit."""

    name: str
    where: Where
    assumed: float
    typed: float
    measured: float
    additive: bool = False

    def of(self, given: Quantity) -> float:
        """The width for where a value comes from: what readings said of it, else what is usual."""
        if given.spread is not None:
            return given.spread
        return {"assumed": self.assumed, "typed": self.typed, "measured": self.measured}[given.origin]


WIDTHS: dict[str, Width] = {
    "bank.resistance_ohm": Width("Battery's internal resistance", "under the hood", 0.40, 0.30, 0.08),
    "bank.charge": Width("State of charge", "under the hood", 0.12, 0.0, 0.0, additive=True),
    "charger.source_ohm": Width("Charger's internal resistance", "under the hood", 0.5, 0.3, 0.1),
    "charger.setpoint_v": Width("Regulated volts", "under the hood", 0.20, 0.10, 0.03, additive=True),
    "charger.idle_a": Width("Charger output at idle", "with a helper", 0.18, 0.18, 0.05),
    "charger.limit_a": Width("What the converter can give", "under the hood", 0.5, 0.3, 0.05),
    "vehicle.loads": Width("What the vehicle takes", "under the hood", 0.30, 0.20, 0.05),
    "amplifier.output_scale": Width("The amplifier's watts", "with a helper", 0.12, 0.12, 0.06),
    "amplifier.loss_scale": Width("The amplifier's losses", "with a helper", 0.35, 0.35, 0.20),
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

    @property
    def sigma(self) -> float:
        """One standard deviation of it."""
        return self.width.of(self.given)

    def ends(self) -> tuple[float, float]:
        """Both ends of its 95 % band."""
        off = BOTH_ENDS * self.sigma
        if self.width.additive:
            return max(self.given.value - off, LEAST_SHARE), min(self.given.value + off, self.most)
        return self.given.value * math.exp(-off), min(self.given.value * math.exp(off), self.most)


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


def everything(job: JobDocument) -> Iterator[Input]:
    """Every input, and what is no single field of a job: a limit nobody knows, all the vehicle takes, its amplifiers.

    job   as it stands
    """
    yield from inputs(job)
    for i, each in enumerate(job.chargers):
        if each.kind != "alternator" and each.limit_a is None:
            limit = Quantity(USUAL_LIMIT_A, "assumed")
            yield Input(f"chargers.{i}.limit_a", each.name, limit, WIDTHS["charger.limit_a"])
    yield Input("vehicle.loads", "the vehicle", _share_of_loads(job), WIDTHS["vehicle.loads"])
    for i, amplifier in enumerate(job.amplifiers):
        at, name = f"amplifiers.{i}", amplifier.name
        read: Provenance = "measured" if amplifier.runs else "assumed"
        amps: Provenance = "measured" if any(run.supply_a for run in amplifier.runs) else "assumed"
        output, losses = _scale(amplifier, "output_scale", read), _scale(amplifier, "loss_scale", amps)
        yield Input(f"{at}.output_scale", name, output, WIDTHS["amplifier.output_scale"])
        yield Input(f"{at}.loss_scale", name, losses, WIDTHS["amplifier.loss_scale"])


def _scale(amplifier: Amplifier, name: str, of_sheet: Provenance) -> Quantity:
    """A scale against the sheet: as the car told it, else as sure as the sheet is."""
    given: Quantity = getattr(amplifier, name)
    return given if given.origin != "assumed" else Quantity(given.value, of_sheet)


def _share_of_loads(job: JobDocument) -> Quantity:
    """One share of all that the vehicle takes, as sure as the least sure of it."""
    amps = [load.idle_a for load in job.vehicle.loads]
    origins: list[Provenance] = [each.origin for each in amps]
    known: Provenance = "assumed" if not origins or "assumed" in origins else origins[0]
    spreads = [each.spread for each in amps]
    told = [each for each in spreads if each is not None]
    return Quantity(1.0, known, max(told) if told and len(told) == len(spreads) else None)


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
