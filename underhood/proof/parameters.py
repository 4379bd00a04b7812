"""What readings may correct: the unsure numbers of a car as standard normal variables, and back into the job.

u = 0 is what the job says. Most are logarithms; volts add; a charge and a power factor stay within what they can be.
Joints, returns and sources have a heavier tail for faults: without it a loose ground makes the true reading the
suspect. All widths [P]. Left out: the fit itself (see `correction`).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from scipy.special import ndtr, ndtri

from underhood.arrays import Floats
from underhood.circuit import battery, charger
from underhood.circuit.build import Circuit, Edge
from underhood.document import paths
from underhood.document.job import JobDocument
from underhood.document.quantity import Quantity
from underhood.forecast.inputs import WIDTHS, Input, Where, everything
from underhood.loudspeaker.load_at_tone import has_a_curve

Form = Literal["log", "add", "charge", "power_factor"]
FAULT_SHARE = 0.07
"""Of cars, in which such a part is at fault."""
LOOSE, WORN, SOUND = 3.5, 2.0, 1.0
"""Standard deviations of a part at fault, in those of a sound one; `SOUND` where there is no such tail."""
ACCEPTANCE_WIDTH, OF_A_MODEL = 0.6, 0.5
CHARGE_LEAST, CHARGE_STEP = 0.4, 0.9
FACTOR_LEAST, FACTOR_STEP = 0.35, 0.6
CLIPPED = 2.0
FACTOR_MEASURED = 0.1
TAILS = {
    "resistance_ohm": (WORN, 1.0),
    "source_ohm": (LOOSE, 1.0),
    "setpoint_v": (WORN, 0.0),
    "idle_a": (WORN, -1.0),
    "loads": (WORN, 1.0),
    "length_m": (WORN, 1.0),
    "joints_ohm": (LOOSE, 1.0),
    "return.resistance_ohm": (LOOSE, 1.0),
}
"""How wide the tail is, and to which side a fault goes: a joint works loose, it does not work tight. 0 is either."""


@dataclass(frozen=True)
class Parameter:
    """One unsure number: the field of the job it is written to, what counts now, and how u becomes its share.

    sigma   one standard deviation: of the logarithm, or in its unit; a factor of the step for charge and power factor
    tail    of a fault, in standard deviations of a sound part, and to which side it goes (`worse`; 0 for either)
    most    that it can be
    """

    field: str
    name: str
    part: str
    where: Where
    given: Quantity
    form: Form
    sigma: float
    tail: float = SOUND
    worse: float = 0.0
    most: float = math.inf

    def share(self, u: Floats) -> Floats:
        """Of the value that counts now, at u of any shape."""
        value = self.given.value
        if not value:
            return np.ones_like(u)
        match self.form:
            case "log":
                return np.exp(self.sigma * u)
            case "add":
                return np.clip(value + self.sigma * u, 0.05, self.most) / value
            case "charge":
                return _within(u, value, CHARGE_LEAST, CHARGE_STEP * self.sigma)
            case "power_factor":
                return _within(u, value, FACTOR_LEAST, FACTOR_STEP * self.sigma)

    def value(self, u: float) -> float:
        """What it comes to."""
        return min(self.given.value * float(self.share(np.array(u))), self.most)

    def spread(self, u: float, sd: float) -> float:
        """One standard deviation as the job file has it: of the logarithm, or in the unit."""
        if self.form == "log":
            return self.sigma * sd
        return abs(self.value(u + sd) - self.value(u - sd)) / 2


def _within(u: Floats, value: float, least: float, step: float) -> Floats:
    """Share of a value between `least` and 1 along the normal distribution's sum, 1 at u = 0."""
    centre = float(np.clip(ndtri((value - least) / (1 - least)), -CLIPPED, CLIPPED)) if least < value < 1 else CLIPPED
    at_zero = least + (1 - least) * ndtr(centre)
    return np.asarray((least + (1 - least) * ndtr(centre + step * u)) / at_zero, float)


def parameters(circuit: Circuit) -> list[Parameter]:
    """All that readings may correct in a car, in the order of the current.

    circuit   of the job in any state
    """
    return [each for each in _all(circuit) if each.given.value and each.sigma > 0]


def _all(circuit: Circuit) -> Iterator[Parameter]:
    job = circuit.job
    for one in everything(job):
        kind = one.field.split(".", 2)[-1] if one.field != "vehicle.loads" else "loads"
        if ".lead." in one.field or kind in ("limit_a", "load.rise", "load.power_factor") or one.field[:6] == "cables":
            continue
        yield _of_input(_warm(job, one), kind)
    for i, bank in enumerate(job.banks):
        accepted = Quantity(battery.acceptance_a(bank), bank.acceptance_a.origin if bank.acceptance_a else "assumed")
        told = bank.acceptance_a.spread if bank.acceptance_a else None
        yield Parameter(
            f"banks.{i}.acceptance_a", "Charge acceptance", bank.name, "under the hood", accepted, "log",
            told or ACCEPTANCE_WIDTH,
        )  # fmt: skip
    for edge in circuit.edges:
        yield from _of_wire(edge)
    for loaded in circuit.loaded:
        yield from _of_load(circuit, loaded.index)


def _of_input(one: Input, kind: str) -> Parameter:
    if kind == "charge":
        told = one.given.spread
        form: Form = "charge" if told is None else "add"
        return _made(one, kind, form, 1.0 if told is None else told)
    return _made(one, kind, "add" if one.width.additive else "log", one.sigma)


def _made(one: Input, kind: str, form: Form, sigma: float) -> Parameter:
    tail, worse = TAILS.get(kind, (SOUND, 0.0))
    width = one.width
    return Parameter(one.field, width.name, one.part, width.where, one.given, form, sigma, tail, worse, one.most)


def _warm(job: JobDocument, one: Input) -> Input:
    """An alternator's output at idle as it is in the car: what heat takes is in it."""
    parts = one.field.split(".")
    if parts[-1] != "idle_a" or parts[0] != "chargers":
        return one
    each = job.chargers[int(parts[1])]
    if charger.idle_is_known(each):
        return one
    return one._replace(given=replace(one.given, value=one.given.value * each.hot_derating.value))


def _of_wire(edge: Edge) -> Iterator[Parameter]:
    """Conductor, joints and ground return of a cable or lead."""
    wire, width = edge.wire, WIDTHS["cable.length_m"]
    known = wire.measured_ohm_per_m
    metre = known or Quantity(edge.conductor.ohm_20c * wire.runs.value / wire.length_m.value, wire.length_m.origin)
    yield Parameter(
        f"{edge.field}.length_m", "Conductor", edge.name, width.where, metre, "log", width.of(metre), *TAILS["length_m"]
    )
    joints = WIDTHS["cable.joints_ohm"]
    yield Parameter(
        f"{edge.field}.joints_ohm", joints.name, edge.name, joints.where, wire.joints_ohm, "log",
        joints.of(wire.joints_ohm), *TAILS["joints_ohm"],
    )  # fmt: skip
    if edge.strap:
        return
    back = WIDTHS["cable.return"]
    stated = edge.ground_return.resistance_ohm if edge.ground_return else None
    cable = edge.ground_return is None or edge.ground_return.kind == "cable"
    given = stated or Quantity(edge.return_ohm(0.0), wire.length_m.origin if cable else "assumed")
    sigma = width.of(given) if cable and stated is None else back.of(given)
    yield Parameter(
        f"{edge.field}.return.resistance_ohm", back.name, edge.name, back.where, given, "log", sigma,
        *TAILS["return.resistance_ohm"],
    )  # fmt: skip


def _of_load(circuit: Circuit, i: int) -> Iterator[Parameter]:
    """Rise and power factor at the tone: of a typed rise, or of the curve that driver and box, or a sweep, give."""
    amplifier = circuit.job.amplifiers[i]
    load = amplifier.load
    if load is None:
        return
    at, loaded = f"amplifiers.{i}.load", next(each for each in circuit.loaded if each.index == i)
    modelled = has_a_curve(load) and loaded.load.how in ("model", "sweep")
    measured = loaded.load.how in ("sweep", "reading") or load.rise.origin == "measured"
    width = WIDTHS["load.rise"]
    rise = (
        replace(load.rise, value=loaded.load.rise)
        if loaded.load.how == "rise"
        else Quantity(loaded.load.rise, "assumed")
    )
    sigma = width.measured if measured else width.assumed * (OF_A_MODEL if modelled else 1)
    yield Parameter(f"{at}.rise", width.name, amplifier.name, width.where, rise, "log", load.rise.spread or sigma)
    factor = WIDTHS["load.power_factor"]
    known = load.power_factor.spread if load.power_factor.origin == "measured" else None
    given = replace(load.power_factor, value=loaded.load.power_factor)
    if known is not None:
        yield Parameter(f"{at}.power_factor", factor.name, amplifier.name, factor.where, given, "add", known, most=1.0)
        return
    step = FACTOR_MEASURED if measured and loaded.load.phase_known else OF_A_MODEL if modelled else 1.0
    yield Parameter(
        f"{at}.power_factor", factor.name, amplifier.name, factor.where, given, "power_factor", step, most=1.0
    )


def shares_of(of: Sequence[Parameter], u: Floats) -> dict[str, Floats]:
    """The shares of some parameters, by field, for u (draws, parameters)."""
    return {each.field: each.share(u[:, i]) for i, each in enumerate(of)}


def readings_behind(job: JobDocument) -> set[str]:
    """Ids of the readings that values of a job rest on."""

    def within(part: Any) -> Iterator[str]:
        if isinstance(part, dict):
            if "origin" in part:
                yield from part.get("readings", ())
            for inner in part.values():
                yield from within(inner)
        elif isinstance(part, list):
            for inner in part:
                yield from within(inner)

    return set(within(job.document()))


def written_field(of: Parameter) -> str:
    """Where a parameter is written in the job: what a conductor has is the ohms of a metre."""
    return of.field.removesuffix("length_m") + "measured_ohm_per_m" if of.field.endswith("length_m") else of.field


def written(job: JobDocument, of: Parameter, value: Quantity, tone_hz: float) -> JobDocument:
    """The job with a parameter's value in its field.

    of        which
    value     in the unit of its `given`
    tone_hz   that a rise was read at, Hz

    Raises pydantic's ValidationError for a value that is not allowed there.
    """
    if of.field == "vehicle.loads":
        return _loads_scaled(job, value)
    document = job.document()
    field, raw = of.field, _as_written(value)
    if field.endswith(".length_m"):
        wire = paths.get(document, field.removesuffix(".length_m"))
        wire["measured_ohm_per_m"] = raw
        if "return" in wire and wire["return"] is None:
            wire["return"] = {"kind": "cable"}  # a return like the one out stays as its label says
    elif field.endswith(".return.resistance_ohm"):
        wire = paths.get(document, field.removesuffix(".return.resistance_ohm"))
        no_return = ".lead." in field and wire.get("return") is None
        wire["return"] = (wire.get("return") or {"kind": "cable" if no_return else "chassis"}) | {"resistance_ohm": raw}
    else:
        paths.put(document, field, raw)
        if field.endswith(".load.rise"):
            paths.put(document, f"{field}_tone_hz", tone_hz)
    return JobDocument.model_validate(document)


def _as_written(value: Quantity) -> dict[str, Any]:
    spread = {} if value.spread is None else {"spread": value.spread}
    return {"value": value.value, "origin": value.origin, "readings": list(value.readings), **spread}


def _loads_scaled(job: JobDocument, share: Quantity) -> JobDocument:
    """All that the vehicle takes, by one share."""
    document = job.document()
    for load in document["vehicle"]["loads"]:
        for name in ("off_a", "acc_a", "idle_a", "cruise_a", "all_on_a"):
            raw = load.get(name)
            if raw is not None:
                amps = raw["value"] if isinstance(raw, dict) else raw
                load[name] = _as_written(replace(share, value=amps * share.value))
    return JobDocument.model_validate(document)
